"""Steps of a wheel: a mouse turns by whole notches, a touchpad by forty small parts of one."""

from __future__ import annotations

from PySide6.QtGui import QWheelEvent

NOTCH = 120
"""Eighths of a degree that a wheel turns by a notch."""


class Notches:
    """Adds up what a wheel turned until it is a whole step."""

    def __init__(self) -> None:
        self._turned = 0

    def turned(self, event: QWheelEvent) -> int:
        """Whole steps that came together with this event, away from the person above 0."""
        if self._turned * event.angleDelta().y() < 0:
            self._turned = 0  # the other way round
        self._turned += event.angleDelta().y()
        steps = int(self._turned / NOTCH)
        self._turned -= steps * NOTCH
        return steps
