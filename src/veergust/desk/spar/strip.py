"""The take along the bottom: touches, openings and presses, and a playhead to scrub with."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from veergust.core.play import PRESSED, TOUCHED
from veergust.desk.frame.session import Session
from veergust.desk.keys.pressing import BACK, pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme
from veergust.desk.widgets.accessible import ToldRow

LEAST = 600


class TakeStrip(QWidget):
    """The whole take as a band; dragging looks at a tick."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session = session
        self.theme = theme
        self.setFixedHeight(30)
        self.setAccessibleName("Take")
        self.setToolTip(
            "Drag to look at a tick of the take; with Shift a part is chosen, which is played round and round"
        )
        self.begun = 0
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        session.moved.connect(self.update)
        theme.changed.connect(self.update)

    def _length(self) -> int:
        return max(len(self.session.records), LEAST)

    def x_of(self, tick: int) -> float:
        """Where a tick stands."""
        return 16 + (self.width() - 32) * tick / self._length()

    def told(self) -> list[ToldRow]:
        """The tick that is looked at, for who hears it."""
        part = f", round and round {self.session.loop[0]} to {self.session.loop[1]}" if self.session.loop else ""
        return [ToldRow(f"tick {self.session.at}", f"of {len(self.session.records)}{part}", QRectF(self.rect()))]

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        theme = self.theme
        p.fillRect(self.rect(), theme.colour("paper"))
        p.fillRect(QRectF(16, 7, self.width() - 32, 16), theme.colour("paper_side"))
        p.fillRect(QRectF(16, 7, self.x_of(len(self.session.records)) - 16, 16), theme.colour("hair"))
        wide = max(self.x_of(1) - self.x_of(0), 1.0)
        for tick, mark in enumerate(self.session.records.marks):
            if not mark:
                continue
            x = self.x_of(tick)
            if mark & TOUCHED:
                p.fillRect(QRectF(x, 5, max(wide, 4), 20), theme.colour("strike"))
            elif mark & PRESSED:
                p.fillRect(QRectF(x, 7, max(wide, 2), 16), theme.colour("accent"))
            else:
                p.fillRect(QRectF(x, 9, max(wide, 2), 12), theme.colour("ink_faint"))
        if self.session.loop is not None:
            first, last = (self.x_of(tick) for tick in self.session.loop)
            p.setPen(theme.pen("accent", 2.0))
            p.drawRect(QRectF(first, 3, last - first, 24))
        x = self.x_of(self.session.at)
        p.setPen(theme.pen("ink", 2.4))
        p.drawLine(QPointF(x, 2), QPointF(x, 28))

    def _tick_at(self, x: float) -> int:
        tick = round((x - 16) / (self.width() - 32) * self._length())
        return min(max(tick, 0), len(self.session.records) - 1)

    def _scrub(self, x: float) -> None:
        self.session.look_at(self._tick_at(x))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = pressed(event)
        session, way = self.session, -1 if keys in BACK else 1
        second = session.document.project.settings.rate
        name = on_key("take", keys)
        if name == "take_ends":
            session.look_at(0 if way < 0 else len(session.records) - 1)
        elif name:
            session.look_at(session.at + way * (second if name == "scrub_far" else 1))
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self.begun = self._tick_at(event.position().x())
        self._scrub(event.position().x())
        if self.session.loop is not None and not event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.session.loop = None
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not event.buttons() & Qt.MouseButton.LeftButton:
            return
        tick = self._tick_at(event.position().x())
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier and tick != self.begun:
            self.session.loop = min(tick, self.begun), max(tick, self.begun)
            self.update()
        self._scrub(event.position().x())
