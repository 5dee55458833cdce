"""Who speaks over time: a lane for each layer, its ink as high as it shows, over locomotion's; and a playhead."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from veergust.core.play import FighterState
from veergust.desk.look.theme import Theme, elided
from veergust.desk.widgets.accessible import ToldRow

NAMES = 92.0
LANE = 15.0
MOST = 6
"""So many lanes are shown; of more layers those that play."""


class SpeakStrip(QWidget):
    """The lanes over the ticks of a round or a take. ``looked`` asks for a tick."""

    looked = Signal(int)

    def __init__(self, theme: Theme, role_of: Callable[[str], str]) -> None:
        super().__init__()
        self.theme, self.role_of = theme, role_of
        self.ticks: list[FighterState] = []
        self.first = 0
        self.length = 1
        self.at = 0
        self.lanes: list[str] = []
        self.setAccessibleName("Who speaks over time")
        self.setToolTip("Drag to look at a frame")
        theme.changed.connect(self.update)

    def show_ticks(self, ticks: list[FighterState], length: int, at: int, layers: list[str]) -> None:
        """Show ticks of which there may be ``length``; ``layers`` are the lanes from the top down."""
        plays = {v.layer for f in ticks for v in f.voices}
        lanes = [name for name in layers if name in plays] if len(layers) > MOST else layers
        if lanes != self.lanes:
            self.lanes = lanes[:MOST]
            self.setFixedHeight(int(LANE * (len(self.lanes) + 1)) + 10)
        self.ticks, self.length, self.at = ticks, max(length, 1), at
        self.update()

    def x_of(self, tick: float) -> float:
        """Where a tick stands."""
        return NAMES + (self.width() - NAMES - 14) * tick / self.length

    def told(self) -> list[ToldRow]:
        """Who speaks on the frame that is looked at, for who hears it."""
        fighter = self.ticks[min(self.at, len(self.ticks) - 1)] if self.ticks else None
        shown = {v.layer: w for v, w in zip(fighter.voices, fighter.shown)} if fighter is not None else {}
        return [ToldRow(name, f"{shown.get(name, 0.0):.2f}", QRectF(0, 4 + n * LANE, self.width(), LANE))
                for n, name in enumerate(self.lanes)]  # fmt: skip

    def paintEvent(self, event: QPaintEvent) -> None:
        p, theme = QPainter(self), self.theme
        p.fillRect(self.rect(), theme.colour("paper"))
        for n, name in enumerate([*self.lanes, ""]):
            top = 4 + n * LANE
            p.setFont(theme.font(12))
            p.setPen(theme.colour("ink_soft"))
            words = elided(name or "locomotion", theme.font(12), NAMES - 22)
            p.drawText(QRectF(14, top, NAMES, LANE), Qt.AlignmentFlag.AlignVCenter, words)
            p.setPen(theme.pen("hair"))
            p.drawLine(QPointF(NAMES, top + LANE - 1), QPointF(self.width() - 14, top + LANE - 1))
        wide = max(self.x_of(1) - self.x_of(0), 1.0)
        for i, fighter in enumerate(self.ticks):
            x = self.x_of(i)
            for voice, weight in zip(fighter.voices, fighter.shown):
                if voice.layer in self.lanes:
                    base = 4 + (self.lanes.index(voice.layer) + 1) * LANE - 1
                    high = (LANE - 3) * weight
                    ink = theme.colour(self.role_of(voice.layer), 0.35 if voice.waits else 1.0)
                    p.fillRect(QRectF(x, base - high, wide + 0.4, high), ink)
        self._states(p, wide)
        x = self.x_of(self.at + 0.5)
        p.setPen(theme.pen("ink", 2.0))
        p.drawLine(QPointF(x, 1), QPointF(x, self.height() - 2))
        p.end()

    def _states(self, p: QPainter, wide: float) -> None:
        """The states of locomotion, by turns in two tones, with their names where there is room."""
        base, theme = 4 + len(self.lanes) * LANE, self.theme
        runs: list[tuple[int, str]] = []
        for i, fighter in enumerate(self.ticks):
            state = fighter.locomotion[-1].state
            if not runs or runs[-1][1] != state:
                runs.append((i, state))
        for n, (start, state) in enumerate(runs):
            end = runs[n + 1][0] if n + 1 < len(runs) else len(self.ticks)
            rect = QRectF(self.x_of(start), base + 1, self.x_of(end) - self.x_of(start), LANE - 3)
            p.fillRect(rect, theme.colour("hair" if n % 2 else "floor_line"))
            p.setFont(theme.font(12))
            p.setPen(theme.colour("ink"))
            if rect.width() > 26:
                p.drawText(rect.adjusted(4, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter,
                           elided(state, theme.font(12), rect.width() - 6))  # fmt: skip

    def _look(self, x: float) -> None:
        tick = int((x - NAMES) / max(self.width() - NAMES - 14, 1.0) * self.length)
        self.looked.emit(min(max(tick, 0), max(self.length - 1, 0)))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._look(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._look(event.position().x())
