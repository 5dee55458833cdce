"""What each end of a rehearsal saw, side by side on one time line: its touches, and where it differs."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from veergust.core.play import Record
from veergust.core.rehearse import Differs
from veergust.desk.frame.session import Session
from veergust.desk.look.theme import Theme
from veergust.desk.widgets.accessible import ToldRow

HIGH, LEFT = 20.0, 84.0
"""A lane's height, and where its ticks begin (points)."""


class Lanes(QWidget):
    """A lane for each end; dragging looks at a tick."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.rows: list[tuple[str, list[Record], list[Differs]]] = []
        self.setFixedHeight(int(3 * HIGH) + 2)
        self.setAccessibleName("What each saw")
        self.setToolTip("Touches, and where somebody saw something else than counted; drag to look at a frame")
        session.moved.connect(self.update)
        theme.changed.connect(self.update)

    def show_rows(self, rows: list[tuple[str, list[Record], list[Differs]]]) -> None:
        """Show what each saw, with what differs from what counted."""
        self.rows = rows
        self.update()

    def x_of(self, tick: float) -> float:
        """Where a tick stands."""
        length = max((len(records) for _, records, _ in self.rows), default=1)
        return LEFT + (self.width() - LEFT) * tick / max(length, 1)

    def told(self) -> list[ToldRow]:
        """Each lane: how often somebody is touched, and how often it differs."""
        return [
            ToldRow(name, f"{sum(bool(r.contacts) for r in records)} frames touch, {len(other)} differ",
                    QRectF(0, n * HIGH, self.width(), HIGH))
            for n, (name, records, other) in enumerate(self.rows)
        ]  # fmt: skip

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        theme = self.theme
        for n, (name, records, other) in enumerate(self.rows):
            y = n * HIGH
            p.setPen(theme.pen("ink", 1.0))
            p.drawText(QRectF(0, y, LEFT - 6, HIGH), Qt.AlignmentFlag.AlignVCenter, name)
            p.fillRect(QRectF(LEFT, y + 4, self.width() - LEFT, HIGH - 8), theme.colour("hair"))
            for row in other:
                start, end = self.x_of(row.start), self.x_of(row.end)
                p.fillRect(QRectF(start, y + 4, max(end - start, 2.0), HIGH - 8), theme.colour("ink_faint"))
            for tick, record in enumerate(records):
                if record.contacts:
                    p.fillRect(QRectF(self.x_of(tick), y + 1, 3.0, HIGH - 2), theme.colour("strike"))
        if self.rows:
            x = self.x_of(self.session.at + 0.5)
            p.setPen(theme.pen("ink", 2.0))
            p.drawLine(QPointF(x, 0), QPointF(x, len(self.rows) * HIGH))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.rows and event.buttons() & Qt.MouseButton.LeftButton:
            one = self.x_of(1) - self.x_of(0)
            self.session.look_at(int((event.position().x() - LEFT) / one))
