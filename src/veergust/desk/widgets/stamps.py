"""Small pictures of what is drawn again and again and only stands elsewhere, each drawn once."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from math import ceil, floor

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPixmap

from veergust.core.results import Results

MOST = 160
EDGE = 8
"""So far beyond its box (px) something is drawn at most."""
FINE = 4
"""Where a pixel of the sheet is no whole number of the screen's, so many are at every usual scale."""
TALLEST = 480.0
"""What is taller (px) is drawn each time: it takes more to keep than to draw."""


class Stamps:
    """Puts what is drawn in a box where the box stands; what looks the same is put there from its picture."""

    def __init__(self) -> None:
        self._drawn = Results[Hashable, QPixmap](MOST)

    def put(self, p: QPainter, box: QRectF, looks: Hashable, draw: Callable[[QPainter], object]) -> None:
        """Put what ``draw`` draws around ``box``; ``looks`` is all by which it looks as it does, but for the place."""
        if box.height() > TALLEST:
            draw(p)
            return
        ratio = p.device().devicePixelRatioF()
        grid = 1 if ratio == int(ratio) else FINE
        left, top = floor(box.left() / grid) * grid - EDGE, floor(box.top() / grid) * grid - EDGE
        key = looks, ratio, box.left() - left, box.top() - top, box.width(), box.height()
        picture = self._drawn.of(key, lambda: self._draw(box, left, top, ratio, draw))
        p.drawPixmap(QPointF(left, top), picture)

    def _draw(self, box: QRectF, left: float, top: float, ratio: float, draw: Callable[[QPainter], object]) -> QPixmap:
        wide, tall = ceil(box.right() - left) + EDGE, ceil(box.bottom() - top) + EDGE
        picture = QPixmap(ceil(wide * ratio), ceil(tall * ratio))
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        p = QPainter(picture)
        p.translate(-left, -top)
        draw(p)
        p.end()
        return picture
