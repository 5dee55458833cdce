"""A measure or a parameter as a line with a knob: it shows a value, and can be taken in hand and let go again."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from veergust.desk.keys.pressing import BACK, pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme, elided
from veergust.desk.widgets.accessible import ToldRow

LEFT, RIGHT, HIGH = 110.0, 92.0, 24


class Slider(QWidget):
    """``taken`` is called with the value it is held at, and with None when it is let go."""

    def __init__(
        self, theme: Theme, label: str, unit: str, low: float, high: float, taken: Callable[[float | None], None]
    ) -> None:
        super().__init__()
        self.theme, self.label, self.unit = theme, label, unit
        self.low, self.high, self.taken = low, high, taken
        self.value, self.held = 0.0, False
        self.setFixedHeight(HIGH)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(label)
        self.setToolTip(f"{label}: drag to hold it, double-click or Delete to let it go")

    def show_value(self, value: float, held: bool) -> None:
        """Show a value, and whether it is held by hand."""
        if (value, held) != (self.value, self.held):
            self.value, self.held = value, held
            self.update()

    def _line(self) -> tuple[float, float]:
        return LEFT, max(self.width() - RIGHT, LEFT + 20)

    def told(self) -> list[ToldRow]:
        """Its value, for who hears it."""
        held = ", held" if self.held else ""
        return [ToldRow(self.label, f"{self.value:.2f} {self.unit}{held}", QRectF(self.rect()))]

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        start, end = self._line()
        middle = self.height() / 2
        share = min(max((self.value - self.low) / max(self.high - self.low, 1e-9), 0.0), 1.0)
        at = start + share * (end - start)
        font = self.theme.font(13)
        p.setFont(font)
        p.setPen(self.theme.pen("accent" if self.hasFocus() else "ink"))
        p.drawText(QRectF(0, 0, LEFT - 8, HIGH), Qt.AlignmentFlag.AlignVCenter, elided(self.label, font, LEFT - 10))
        p.setPen(self.theme.pen("hair_strong", 2.0))
        p.drawLine(QPointF(at, middle), QPointF(end, middle))
        p.setPen(self.theme.pen("accent" if self.held else "ink", 2.6))
        p.drawLine(QPointF(start, middle), QPointF(at, middle))
        p.setBrush(self.theme.colour("accent" if self.held else "paper_bright"))
        p.setPen(self.theme.pen("accent" if self.held else "ink", 2.0))
        p.drawEllipse(QPointF(at, middle), 5.0, 5.0)
        p.setFont(self.theme.bold(13))
        p.setPen(self.theme.pen("accent" if self.held else "ink"))
        words = f"{self.value:.2f} {self.unit}" if self.high - self.low < 50 else f"{round(self.value)} {self.unit}"
        p.drawText(
            QRectF(end + 6, 0, RIGHT - 8, HIGH), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, words
        )

    def _take(self, x: float) -> None:
        start, end = self._line()
        share = min(max((x - start) / (end - start), 0.0), 1.0)
        self.taken(self.low + share * (self.high - self.low))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        self._take(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._take(event.position().x())

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.taken(None)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = (self.high - self.low) / 50
        keys = pressed(event)
        does = on_key("slider", keys)
        if does == "slide":
            way = -1.0 if keys in BACK else 1.0
            self.taken(min(max(self.value + way * step, self.low), self.high))
        elif does == "slide_free":
            self.taken(None)
        else:
            super().keyPressEvent(event)
