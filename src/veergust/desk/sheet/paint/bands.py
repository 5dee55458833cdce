"""Bands of the sheet that are kept as pictures."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterable, Sequence

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QPainter, QPixmap

from veergust.desk.sheet.paint.marks import TALL, InkMark

MOST = 12
STEP = 4
"""What is drawn anew begins and ends on whole steps, which are whole pixels at every usual scale of the screen."""


class Bands:
    """Pictures of ``TALL`` pixels of the sheet each; where other marks stand, that place is drawn again."""

    def __init__(self, draw: Callable[[QPainter, Sequence[InkMark]], None]) -> None:
        self.draw = draw
        self._style: tuple[object, ...] = ()
        self._kept: OrderedDict[int, tuple[list[InkMark], QPixmap]] = OrderedDict()

    def around(self, view: QRectF) -> QRectF:
        """The whole bands that ``view`` touches: with the marks of all of it, scrolling draws no band twice."""
        top = max(view.top() // TALL, 0.0) * TALL
        return QRectF(view.left(), top, view.width(), (view.bottom() // TALL + 1) * TALL - top)

    def paint(
        self, p: QPainter, marks: Sequence[InkMark], view: QRectF, paper: QColor, style: tuple[object, ...]
    ) -> None:
        """Paint what shows in ``view``; ``style`` is whatever else makes a picture look as it does."""
        ratio, width = p.device().devicePixelRatioF(), view.width()
        if self._style != (ratio, width, *style):
            self._style = (ratio, width, *style)
            self._kept.clear()
        for index in range(max(int(view.top() // TALL), 0), int(view.bottom() // TALL) + 1):
            top, bottom = index * TALL, (index + 1) * TALL
            here = [m for m in marks if m.down[0] <= bottom and m.down[1] >= top]
            band = QRectF(0.0, top, width, TALL)
            kept = self._kept.pop(index, None)
            if kept is None:
                picture = QPixmap(round(width * ratio), round(TALL * ratio))
                picture.setDevicePixelRatio(ratio)
                self._draw(picture, here, band, band, paper)
            else:
                old, picture = kept
                if old != here:
                    # The same marks in another order cover each other otherwise: all of it is drawn.
                    changed = _around(set(old) ^ set(here), band) or band
                    self._draw(picture, here, changed, band, paper)
            self._kept[index] = here, picture
            p.drawPixmap(QPointF(0.0, band.top()), picture)
        while len(self._kept) > MOST:
            self._kept.popitem(last=False)

    def _draw(self, picture: QPixmap, marks: Sequence[InkMark], place: QRectF, band: QRectF, paper: QColor) -> None:
        p = QPainter(picture)
        p.translate(0.0, -band.top())
        p.setClipRect(place)
        p.fillRect(place, paper)
        left, top, right, bottom = place.left(), place.top(), place.right(), place.bottom()
        near = [m for m in marks if m.across[0] <= right and m.across[1] >= left]
        self.draw(p, [m for m in near if m.down[0] <= bottom and m.down[1] >= top])
        p.end()


def _around(marks: Iterable[InkMark], band: QRectF) -> QRectF | None:
    """The place in a band that marks take up, on whole steps; None without marks."""
    boxes = [(*mark.across, *mark.down) for mark in marks]
    if not boxes:
        return None
    left, top = (min(box[i] for box in boxes) // STEP * STEP for i in (0, 2))
    right, bottom = (-(-max(box[i] for box in boxes) // STEP) * STEP for i in (1, 3))
    return QRectF(left, top, right - left, bottom - top).intersected(band)
