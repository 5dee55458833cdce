"""Which part of a source is seen along the film and the curves, and where a frame of it lies."""

from __future__ import annotations

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtWidgets import QScrollBar

LEFT, RIGHT = 78, 16
"""Room (px) beside the frames: for the names of the lanes, and at the end."""
FEWEST = 8
"""No fewer frames are seen at once."""
MARGIN = 0.08
"""Room left on either side of what is shown, as a part of it."""


class Timeline(QObject):
    """Frames ``low`` to ``high`` of ``count`` are seen; ``changed`` when they are others."""

    changed = Signal()

    def __init__(self, owner: QObject | None = None) -> None:
        super().__init__(owner)
        self.count = 1
        self.low, self.high = 0.0, 1.0

    @property
    def last(self) -> int:
        """The last frame there is."""
        return max(self.count - 1, 1)

    @property
    def whole(self) -> bool:
        """Whether all of it is seen."""
        return self.low <= 0.0 and self.high >= self.last

    def reset(self, count: int) -> None:
        """Another source of ``count`` frames, seen whole."""
        self.count = count
        self._show(0.0, float(self.last))

    def show(self, first: float, last: float) -> None:
        """See frames ``first`` to ``last`` with a little room around."""
        room = max((last - first) * MARGIN, 1.0)
        self._show(first - room, last + room)

    def show_whole(self) -> None:
        """See all of it."""
        self._show(0.0, float(self.last))

    def zoom(self, factor: float, about: float) -> None:
        """See ``factor`` times as many frames, the frame ``about`` staying where it is."""
        wide = min(max((self.high - self.low) * factor, FEWEST), float(self.last))
        share = (about - self.low) / max(self.high - self.low, 1e-9)
        low = about - share * wide
        self._show(low, low + wide)

    def pan(self, frames: float) -> None:
        """See what lies so many frames farther on."""
        self._show(self.low + frames, self.high + frames)

    def follow(self, frame: int) -> None:
        """Bring a frame into sight."""
        if not self.low <= frame <= self.high:
            wide = self.high - self.low
            self._show(frame - wide / 2, frame + wide / 2)

    def _show(self, low: float, high: float) -> None:
        wide = min(max(high - low, min(FEWEST, self.last)), float(self.last))
        low = min(max(low, 0.0), self.last - wide)
        if (low, low + wide) != (self.low, self.high):
            self.low, self.high = low, low + wide
            self.changed.emit()

    def x_of(self, frame: float, width: int) -> float:
        """The middle of a frame on a widget so wide."""
        return LEFT + (frame - self.low) / max(self.high - self.low, 1e-9) * max(width - LEFT - RIGHT, 1)

    def frame_at(self, x: float, width: int) -> int:
        """The frame under a place, of those that are seen."""
        share = min(max((x - LEFT) / max(width - LEFT - RIGHT, 1), 0.0), 1.0)
        return min(max(round(self.low + share * (self.high - self.low)), 0), self.last)


class TimelineBar(QScrollBar):
    """Goes along what is not all seen at once; there only then."""

    def __init__(self, line: Timeline) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self.line = line
        self.setAccessibleName("Along the film")
        self.setFixedHeight(12)
        line.changed.connect(self._renew)
        self.valueChanged.connect(self._go)
        self._renew()

    def _renew(self) -> None:
        line = self.line
        page = max(round(line.high - line.low), 1)
        self.blockSignals(True)
        self.setPageStep(page)
        self.setRange(0, max(line.last - page, 0))
        self.setValue(round(line.low))
        self.blockSignals(False)
        self.setVisible(not line.whole)

    def _go(self, low: int) -> None:
        self.line.pan(low - self.line.low)
