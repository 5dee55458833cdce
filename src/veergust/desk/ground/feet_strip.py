"""Two small strips about a blend's feet: when each stands, and how far a standing foot slides over the range."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from veergust.core.study import Slide
from veergust.desk.look.theme import Theme
from veergust.desk.widgets.accessible import ToldRow

ROW, LEFT, TALL = 16, 48, 34
MOST = 0.06
"""The strip's top (m)."""
FINE = 0.03


class FeetStrip(QWidget):
    """The strips of one blend."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.slides: tuple[Slide, ...] = ()
        self.setFixedHeight(2 * ROW + TALL + 26)
        self.setAccessibleName("Feet over the range of the blend")

    def sizeHint(self) -> QSize:
        return QSize(300, 2 * ROW + TALL + 26)

    def show_slides(self, slides: tuple[Slide, ...]) -> None:
        """Show a blend's feet."""
        self.slides = slides
        self.update()

    def told(self) -> list[ToldRow]:
        """How far feet slide over the range, for who hears it."""
        return [ToldRow(f"{slide.value:g}", f"slides {slide.slides * 100:.1f} cm") for slide in self.slides]

    def paintEvent(self, event: QPaintEvent) -> None:
        if not self.slides:
            return
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setFont(self.theme.font(12))
        wide = self.width() - LEFT - 8
        # Standing over two laps, at the middle of the range.
        stands = self.slides[len(self.slides) // 2].stands
        for row, (words, on) in enumerate(zip(("left", "right"), stands)):
            y = row * ROW + 2
            p.setPen(self.theme.pen("ink_soft"))
            p.drawText(QRectF(0, y, LEFT, ROW - 4), Qt.AlignmentFlag.AlignVCenter, words)
            n = len(on)
            start = None
            for i in range(2 * n + 1):
                down = i < 2 * n and bool(on[i % n])
                if down and start is None:
                    start = i
                elif not down and start is not None:
                    rect = QRectF(LEFT + wide * start / (2 * n), y, wide * (i - start) / (2 * n), ROW - 5)
                    self.theme.draw_span(p, rect, "drive")
                    start = None
        top = 2 * ROW + 6
        p.setPen(self.theme.pen("ink_soft"))
        p.drawText(QRectF(0, top, LEFT, TALL), Qt.AlignmentFlag.AlignVCenter, "slide")
        p.setPen(self.theme.pen("hair_strong", 1.0))
        p.drawLine(QPointF(LEFT, top + TALL), QPointF(LEFT + wide, top + TALL))
        fine = top + TALL * (1 - FINE / MOST)
        p.setPen(self.theme.pen("hair_strong", 1.0, Qt.PenStyle.DotLine))
        p.drawLine(QPointF(LEFT, fine), QPointF(LEFT + wide, fine))
        step = wide / len(self.slides)
        for i, slide in enumerate(self.slides):
            tall = TALL * min(slide.slides / MOST, 1.0)
            role = "drive" if slide.slides <= FINE else "strike"
            self.theme.draw_span(p, QRectF(LEFT + i * step + 1, top + TALL - tall, step - 2, max(tall, 1.0)), role)
        p.setPen(self.theme.pen("ink_faint"))
        low, high = self.slides[0].value, self.slides[-1].value
        below = QRectF(LEFT, top + TALL + 1, wide, 16)
        p.drawText(below, Qt.AlignmentFlag.AlignLeft, f"{low:.1f}")
        p.drawText(below, Qt.AlignmentFlag.AlignRight, f"{high:.1f}")
        p.drawText(below, Qt.AlignmentFlag.AlignHCenter, "dotted: 3 cm")
