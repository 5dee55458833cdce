"""The reaction table as a dial: sides all round, strengths from the middle out, each cell with what answers there."""

from __future__ import annotations

from collections.abc import Sequence
from math import atan2, cos, degrees, hypot, pi, radians, sin

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from veergust.core.model import Reaction
from veergust.core.play import EIGHTHS
from veergust.core.study import Answering, HitKind, answer_to
from veergust.desk.keys.pressing import pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme, elided
from veergust.desk.widgets.accessible import ToldRow

HOLE = 0.2
"""The middle, in which the figure stands, as a part of the dial."""
HALF = 22.5
WAYS = {"Left": 1, "Right": -1, "Up": 1, "Down": -1}
FEWEST = 6
"""Names of which fewer signs can be read are left out: a dot stands for a row of its own, an arrow for another."""


class DialView(QWidget):
    """Shows one situation; ``chose`` says which (side, strength) is looked at."""

    chose = Signal(str, str)
    cleared = Signal()
    opened = Signal()

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.rows: Sequence[Reaction] = ()
        self.strengths: list[str] = []
        self.situation = "standing"
        self.side, self.strength = "front", ""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Who answers")
        theme.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(230, 230)

    def minimumSizeHint(self) -> QSize:
        return QSize(180, 180)

    def show_table(self, rows: Sequence[Reaction], strengths: list[str], situation: str) -> None:
        """Show other rows, strengths or another situation."""
        self.rows, self.strengths, self.situation = rows, strengths, situation
        if self.strength not in strengths:
            self.strength = strengths[0] if strengths else ""
        self.update()

    def hit(self, side: str = "", strength: str = "") -> HitKind:
        """The hit of a cell; of the chosen one where nothing is given."""
        return HitKind(side or self.side, strength or self.strength, self.situation)

    def answer(self, side: str = "", strength: str = "") -> Answering | None:
        """What answers it."""
        return answer_to(self.rows, self.hit(side, strength))

    # Geometry

    @property
    def _size(self) -> float:
        return min(self.width(), self.height()) / 2 - 4

    def _ring(self, n: int) -> tuple[float, float]:
        """The inner and outer radius of the n-th strength, as parts of the dial."""
        each = (1.0 - HOLE) / max(len(self.strengths), 1)
        return HOLE + n * each, HOLE + (n + 1) * each

    def middle_of(self, side: str, strength: str) -> QPointF:
        """The middle of a cell."""
        low, high = self._ring(self.strengths.index(strength))
        turn = radians(self.hit(side).degrees)
        far = (low + high) / 2 * self._size
        return QPointF(self.rect().center()) + QPointF(-sin(turn) * far, -cos(turn) * far)

    def cell_at(self, point: QPointF) -> tuple[str, str] | None:
        """(side, strength) of the cell under a point."""
        away = point - QPointF(self.rect().center())
        far = hypot(away.x(), away.y()) / self._size
        if not HOLE <= far < 1.0 or not self.strengths:
            return None
        ring = min(int((far - HOLE) / (1.0 - HOLE) * len(self.strengths)), len(self.strengths) - 1)
        side = round(degrees(atan2(-away.x(), -away.y())) / 45.0) % 8
        return EIGHTHS[side], self.strengths[ring]

    def _path(self, side: str, ring: int) -> QPainterPath:
        middle, size = QPointF(self.rect().center()), self._size
        low, high = (r * size for r in self._ring(ring))
        start = 90.0 + self.hit(side).degrees - HALF
        path = QPainterPath()
        outer = QRectF(middle.x() - high, middle.y() - high, 2 * high, 2 * high)
        inner = QRectF(middle.x() - low, middle.y() - low, 2 * low, 2 * low)
        path.arcMoveTo(outer, start)
        path.arcTo(outer, start, 2 * HALF)
        path.arcTo(inner, start + 2 * HALF, -2 * HALF)
        path.closeSubpath()
        return path

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        p, theme = QPainter(self), self.theme
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(self.rect(), theme.colour("paper"))
        for ring, strength in enumerate(self.strengths):
            for side in EIGHTHS:
                self._cell(p, side, strength, ring)
        if self.strengths:
            p.setPen(theme.pen("accent", 2.4))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPath(self._path(self.side, self.strengths.index(self.strength)))
        middle, size = QPointF(self.rect().center()), self._size * HOLE
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colour("ink_soft"))
        p.drawEllipse(middle, size * 0.36, size * 0.36)
        nose = [QPointF(-0.22, -0.44), QPointF(0.0, -0.8), QPointF(0.22, -0.44)]
        p.drawPolygon(QPolygonF([middle + q * size for q in nose]))

    def _cell(self, p: QPainter, side: str, strength: str, ring: int) -> None:
        theme, found = self.theme, self.answer(side, strength)
        own = found is not None and found.own
        p.setPen(theme.pen("hair_strong", 1.0))
        p.setBrush(theme.colour("selected" if own else "paper_bright" if found is None else "paper"))
        p.drawPath(self._path(side, ring))
        low, high = (r * self._size for r in self._ring(ring))
        at = self.middle_of(side, strength)
        # As wide as the cell is there, across the words.
        arc, deep = (low + high) / 2 * pi / 4 * 0.92, high - low - 4
        room = deep if side in ("left", "right") else arc if side in ("front", "back") else min(arc, deep) + 6
        font = theme.bold(11) if own else theme.font(11)
        words = found.row.action if found is not None else "–"
        shown = elided(words, font, room)
        if len(shown) < min(len(words), FEWEST):
            shown = "●" if own else "→"
        p.setFont(font)
        p.setPen(theme.colour("ink" if own else "ink_soft"))
        p.drawText(QRectF(at.x() - room / 2, at.y() - 9, room, 18), Qt.AlignmentFlag.AlignCenter, shown)

    # Hands

    def choose(self, side: str, strength: str) -> None:
        """Look at a cell."""
        self.side, self.strength = side, strength
        self.chose.emit(side, strength)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        cell = self.cell_at(QPointF(event.position()))
        if cell is not None and event.button() == Qt.MouseButton.LeftButton:
            self.choose(*cell)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        cell = self.cell_at(QPointF(event.position()))
        if cell is not None:
            self.choose(*cell)
            self.opened.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = pressed(event)
        act = on_key("dial", keys)
        if not act or not self.strengths:
            super().keyPressEvent(event)
        elif act == "around_dial":
            self.choose(EIGHTHS[(EIGHTHS.index(self.side) + WAYS[keys]) % 8], self.strength)
        elif act == "across_dial":
            ring = self.strengths.index(self.strength) + WAYS[keys]
            self.choose(self.side, self.strengths[min(max(ring, 0), len(self.strengths) - 1)])
        elif act == "clear_reaction":
            self.cleared.emit()
        else:
            self.opened.emit()

    def told(self) -> list[ToldRow]:
        """Every cell and what answers there, for who hears them."""
        out = []
        for strength in self.strengths:
            for side in EIGHTHS:
                found = self.answer(side, strength)
                says = "nothing" if found is None else found.row.action + ("" if found.own else ", of another row")
                at = self.middle_of(side, strength)
                chosen = (side, strength) == (self.side, self.strength)
                out.append(ToldRow(f"{side}, {strength}", says, QRectF(at.x() - 10, at.y() - 10, 20, 20), chosen))
        return out
