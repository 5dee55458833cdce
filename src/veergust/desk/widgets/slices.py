"""Long work on the window's own thread, in slices between which it answers."""

from __future__ import annotations

import time
from collections.abc import Iterator

from PySide6.QtCore import QObject, QTimer

SLICE = 0.008
"""Seconds that a slice takes, and the step more that it ends with."""


class Slices(QObject):
    """Works through an iterator of steps whenever there is nothing else to do.

    The first ``at_once`` steps are done where it is begun, so that what is short is there when the work was asked for.
    """

    def __init__(self, parent: QObject, at_once: int) -> None:
        super().__init__(parent)
        self.at_once = at_once
        self._steps: Iterator[object] | None = None
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._slice)

    @property
    def busy(self) -> bool:
        """Whether there is work left."""
        return self._steps is not None

    def begin(self, steps: Iterator[object]) -> None:
        """Work through these steps from now on; what was begun before is given up."""
        self._steps = steps
        for _ in range(self.at_once):
            if not self._step():
                return
        self._timer.start()

    def finish(self) -> None:
        """Work through all that is left, now."""
        while self._step():
            pass

    def _step(self) -> bool:
        if self._steps is not None and next(self._steps, self) is self:
            self._steps = None
            self._timer.stop()
        return self._steps is not None

    def _slice(self) -> None:
        until = time.monotonic() + SLICE
        while self._step() and time.monotonic() < until:
            pass
