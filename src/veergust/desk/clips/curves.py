"""Speed and height of the root over the clip, on the film's own frames."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QWidget

from veergust.core.motion.quat import Array
from veergust.desk.clips.playhead import Playhead
from veergust.desk.clips.timeline import LEFT, RIGHT
from veergust.desk.look.theme import Theme
from veergust.desk.shell.document import Document

PLOTS = (("speed", "m/s", "drive"), ("hips", "m", "hold"))
STEPS = (0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0)
GAP = 4


class Curves(QWidget):
    """Two curves one over the other: speed over the floor (m/s) and height of the hips (m). A click goes there."""

    def __init__(self, document: Document, theme: Theme, playhead: Playhead) -> None:
        super().__init__()
        self.theme = theme
        self.playhead = playhead
        self.document = document
        self.before = False
        """Whether the source is shown under what it was cleaned to."""
        self.setAccessibleName("Speed and height")
        self.setToolTip("Click to go to a frame")
        for signal in (
            document.changed,
            document.clip_chosen,
            playhead.moved,
            playhead.timeline.changed,
            theme.changed,
        ):
            signal.connect(self.update)

    def _across(self) -> tuple[float, float]:
        return float(LEFT), max(self.width() - LEFT - RIGHT, 1)

    def x_of(self, frame: float) -> float:
        """The place of a frame."""
        return self.playhead.timeline.x_of(frame, self.width())

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), self.theme.colour("paper"))
        reading = self.playhead.reading
        tall = (self.height() - 3 * GAP) / 2
        raw = self.document.derived.uncleaned(self.document.clip) if self.before else None
        curves = [reading.speed, reading.height] if reading is not None else []
        under = [raw.speed, raw.height] if raw is not None else [None, None]
        for row, ((name, unit, role), values, old) in enumerate(zip(PLOTS, curves, under)):
            self._plot(p, QRectF(0, GAP + row * (tall + GAP), self.width(), tall), name, unit, role, values, old)

    def _plot(
        self, p: QPainter, place: QRectF, name: str, unit: str, role: str, values: Array, under: Array | None
    ) -> None:
        theme, count = self.theme, len(values)
        left, wide = self._across()
        # A leap of a frame, as out of a rest pose, does not set the scale.
        most = np.partition(values, -3)[-3] if count > 8 else values.max()
        low, high = float(min(values.min(), 0.0)), float(max(most, 0.5)) * 1.12

        def y_of(value: float) -> float:
            return place.bottom() - (value - low) / (high - low) * place.height()

        first, last = self.playhead.used()
        used = QRectF(self.x_of(first), place.top(), self.x_of(last) - self.x_of(first), place.height())
        p.fillRect(used & QRectF(left, place.top(), wide + RIGHT, place.height()), theme.colour("selected"))
        p.setFont(theme.font(11))
        step = next((s for s in STEPS if (high - low) / s * 16 <= place.height()), STEPS[-1])
        for n in range(int(np.ceil(low / step)), int(high / step) + 1):
            y = y_of(n * step)
            p.setPen(theme.colour("ink_soft"))
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            p.drawText(
                QRectF(0, min(max(y - 7, place.top()), place.bottom() - 13), left - 8, 14), right, f"{n * step:g}"
            )
            p.setPen(theme.pen("hair", 1.0))
            p.drawLine(QPointF(left, y), QPointF(left + wide, y))
        p.setPen(theme.pen("hair_strong", 1.0))
        p.drawLine(QPointF(left, place.top()), QPointF(left, place.bottom()))
        p.setPen(theme.colour("ink_soft"))
        p.setFont(theme.font(13))
        p.drawText(QRectF(12, place.top(), left - 40, 18), Qt.AlignmentFlag.AlignVCenter, name)
        p.drawText(QRectF(12, place.top() + 16, left - 40, 18), Qt.AlignmentFlag.AlignVCenter, unit)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        line = self.playhead.timeline
        start, end = max(int(line.low) - 1, 0), min(int(line.high) + 2, count)
        rows = range(start, end, max(1, (end - start) // 2000))
        p.setClipRect(QRectF(left, place.top(), wide + RIGHT, place.height()))
        for drawn, pen in ((under, theme.pen("ink_faint", 1.0)), (values, theme.pen(role, 1.8))):
            if drawn is not None:
                p.setPen(pen)
                p.drawPolyline(
                    QPolygonF([QPointF(self.x_of(f), y_of(float(drawn[f]))) for f in rows if f < len(drawn)])
                )
        p.setPen(theme.pen("accent", 2.0))
        x = self.x_of(self.playhead.frame)
        p.drawLine(QPointF(x, place.top()), QPointF(x, place.bottom()))
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        p.setClipping(False)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        reading = self.playhead.reading
        if reading is not None:
            self.playhead.step(0)
            self.playhead.move_to(self.playhead.timeline.frame_at(event.position().x(), self.width()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.mousePressEvent(event)
