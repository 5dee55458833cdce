"""The layers as sheets of paper over locomotion, the top one first, and beside each what it does in every state."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QMenu, QToolTip, QWidget

from veergust.core.edit import RULES, Edit, move_layer, set_rule
from veergust.core.model import Rule
from veergust.core.motion import Array, Skeleton
from veergust.core.trouble import Trouble
from veergust.desk.document.document import Document
from veergust.desk.keys.pressing import BACK, pressed
from veergust.desk.keys.table import on_key
from veergust.desk.layers.columns import StateColumn, columns, rule_in, states_of
from veergust.desk.layers.figure_ink import standing
from veergust.desk.layers.selection import LayerSelection
from veergust.desk.layers.stack_ink import CELL_HIGH, GRID, HEAD, NARROW, SHEET, WIDE, StackInk, body_of
from veergust.desk.look.theme import Theme
from veergust.desk.widgets.accessible import ToldCell, ToldRow

DRAGS = 8
SAYS = {
    "may": "may speak",
    "fades": "starts nothing, and fades out what plays",
    "finishes": "starts nothing, and lets what plays finish",
    "keeps out": "keeps out: nothing starts, not even by name",
}
AROUND = "as in what is around it"


class StackView(QWidget):
    """Sheets that are chosen, dragged to another place, and named; cells that are gone through by clicks and keys.

    ``opened`` asks for the fields of the layer that is chosen.
    """

    opened = Signal()

    def __init__(self, document: Document, theme: Theme, selection: LayerSelection) -> None:
        super().__init__()
        self.document, self.theme, self.selection = document, theme, selection
        self.unfolded: set[str] = set()
        self.shift = 0.0
        self.column = -1
        """The column of the cell that has the keys; −1: the sheet itself has."""
        self.plays: dict[str, str] = {}
        self.present = ""
        self._figure: tuple[Skeleton, Array] | None = None
        self._held: tuple[int, float] | None = None
        self._drop: int | None = None
        self.ink = StackInk(self)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Layers over locomotion")
        theme.changed.connect(self.update)
        selection.changed.connect(self._into_view)

    # What there is

    @property
    def names(self) -> list[str]:
        """The layers from the top down."""
        return [y.name for y in reversed(self.document.project.layers)]

    @property
    def columns(self) -> list[StateColumn]:
        """The columns of the grid."""
        return columns(self.document.build.chart, self.unfolded)

    def renew(self) -> None:
        """Show what there is now."""
        self.column = min(self.column, len(self.columns) - 1)
        self.setMinimumHeight(int(HEAD + SHEET * (len(self.names) + 1)) + 8)
        self._bound()
        self.update()

    def show_playing(self, plays: dict[str, str], present: str) -> None:
        """What plays on each layer, in words, and the state under them."""
        if (plays, present) != (self.plays, self.present):
            self.plays, self.present = plays, present
            self.update()

    def sizeHint(self) -> QSize:
        return QSize(780, int(HEAD + SHEET * 5))

    def _bound(self) -> None:
        wide = self.wide * len(self.columns) + 8 - (self.width() - GRID)
        self.shift = min(max(self.shift, 0.0), max(wide, 0.0))

    # Where it is

    @property
    def wide(self) -> float:
        """How wide a column is."""
        room = (self.width() - GRID - 16) / max(len(self.columns), 1)
        return min(max(room, NARROW), WIDE)

    @property
    def places(self) -> Array:
        """Where the figure's joints are drawn."""
        bones = self.document.build.assets.skeleton
        if self._figure is None or self._figure[0] is not bones:
            self._figure = bones, standing(bones)
        return self._figure[1]

    def sheet(self, row: int) -> QRectF:
        """Where a sheet lies, locomotion's after the last layer."""
        return QRectF(14, HEAD + row * SHEET, GRID - 28, SHEET - 10)

    def cell(self, row: int, column: int) -> QRectF:
        """Where a cell stands."""
        middle = self.sheet(row).center().y()
        return QRectF(GRID + 8 + column * self.wide - self.shift, middle - CELL_HIGH / 2, self.wide - 6, CELL_HIGH)

    def head(self, column: int) -> QRectF:
        """Where the name of a column stands."""
        return QRectF(GRID + 8 + column * self.wide - self.shift, 4, self.wide - 6, HEAD - 8)

    def told(self) -> list[ToldRow]:
        """Each layer with what it does in each state, for who hears it."""
        out, columns, layers = [], self.columns, self.document.build.layers
        for row, name in enumerate(self.names):
            chosen = name == self.selection.name
            cells = tuple(
                ToldCell(column.name, rule_in(self.document.build.chart, layers[name], column) or "different",
                     self.cell(row, n), chosen and n == self.column)
                for n, column in enumerate(columns)
            )  # fmt: skip
            says = f"{body_of(layers[name])} {self.plays.get(name, '')}".strip()
            out.append(ToldRow(name, says, self.sheet(row), chosen, cells=cells))
        return [*out, ToldRow("locomotion", self.present, self.sheet(len(out)))]

    def _row_at(self, at: QPointF) -> int | None:
        row = int((at.y() - HEAD) // SHEET)
        return row if 0 <= row < len(self.names) and at.y() >= HEAD else None

    def _column_at(self, at: QPointF) -> int | None:
        column = int((at.x() - GRID - 8 + self.shift) // self.wide)
        return column if at.x() >= GRID + 4 and 0 <= column < len(self.columns) else None

    # Deeds

    def _do(self, edit: Edit) -> None:
        self.document.apply(edit)

    def set_rule(self, row: int, column: int, rule: Rule | None) -> None:
        """Say what a layer does in a column."""
        name, where = self.names[row], self.columns[column].name
        try:
            self._do(set_rule(self.document.base, name, where, rule))
        except Trouble as trouble:
            self.document.said.emit(str(trouble), True)

    def turn(self, row: int, column: int, by: int = 1) -> None:
        """The next rule of a cell."""
        layer = self.document.build.layers[self.names[row]]
        now = rule_in(self.document.build.chart, layer, self.columns[column])
        at = RULES.index(now) if now is not None else -1
        self.set_rule(row, column, RULES[(at + by) % len(RULES)])

    def shove(self, up: int) -> None:
        """Put the layer that is chosen over or under its neighbour."""
        names = [y.name for y in self.document.project.layers]
        if self.selection.name in names:
            at = names.index(self.selection.name)
            if 0 <= at + up < len(names):
                self._do(move_layer(self.document.base, self.selection.name, at + up))

    def unfold(self, name: str) -> None:
        """Open a group to its states, or fold it."""
        self.unfolded ^= {name}
        self.renew()

    # Mouse

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        at, row = event.position(), self._row_at(event.position())
        column = self._column_at(at)
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if at.y() < HEAD and column is not None and self.columns[column].group:
            self.unfold(self.columns[column].name)
        elif row is not None:
            self.selection.choose(self.names[row])
            if column is not None and self.cell(row, column).contains(at):
                self.column = column
                self.turn(row, column)
            elif at.x() < GRID:
                self.column = -1
                self._held = (row, at.y())
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._held is not None and event.buttons() & Qt.MouseButton.LeftButton:
            _, start = self._held
            if self._drop is not None or abs(at.y() - start) > DRAGS:
                self._drop = min(max(round((at.y() - HEAD) / SHEET), 0), len(self.names))
                self.update()
            return
        self._tell(event.globalPosition().toPoint(), at)

    def _tell(self, where: QPoint, at: QPointF) -> None:
        row, column = self._row_at(at), self._column_at(at)
        if row is None or column is None or not self.cell(row, column).contains(at):
            QToolTip.hideText()
            return
        layer, chart = self.document.build.layers[self.names[row]], self.document.build.chart
        there = self.columns[column]
        rule = rule_in(chart, layer, there)
        said = f"{SAYS[rule]} in {there.name}" if rule is not None else _mixed(
            {s: layer.rule(s) for s in states_of(chart, there)}
        )  # fmt: skip
        QToolTip.showText(where, f"{layer.layer.name} {said}\nclick for the next rule, right-click for all", self)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        held, drop = self._held, self._drop
        self._held = self._drop = None
        if held is not None and drop is not None:
            row = held[0]
            # Counted from the bottom, without the sheet itself.
            to = len(self.names) - drop - (1 if drop <= row else 0)
            if drop not in (row, row + 1):
                self._do(move_layer(self.document.base, self.names[row], to))
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self._row_at(event.position()) is not None and event.position().x() < GRID:
            self.opened.emit()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        at = QPointF(event.pos())
        row, column = self._row_at(at), self._column_at(at)
        if row is None or column is None:
            return
        menu = self.rules_menu(row, column)
        menu.exec(event.globalPos())

    def rules_menu(self, row: int, column: int) -> QMenu:
        """The rules of a cell to choose from."""
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for rule in RULES:
            menu.addAction(rule, lambda r=rule: self.set_rule(row, column, r))
        menu.addSeparator()
        menu.addAction(AROUND, lambda: self.set_rule(row, column, None))
        return menu

    def wheelEvent(self, event: QWheelEvent) -> None:
        dx, dy = event.angleDelta().x(), event.angleDelta().y()
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            dx, dy = dx or dy, 0
        if not dx:
            event.ignore()
            return
        self.shift -= dx / 2
        self._bound()
        self.update()

    # Keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = pressed(event)
        names = self.names
        row = names.index(self.selection.name) if self.selection.name in names else -1
        does, way = on_key("layers", keys), -1 if keys in BACK else 1
        cell = self.column >= 0 and row >= 0
        if does == "other_layer" and names:
            self.selection.choose(names[min(max(row + way, 0), len(names) - 1)])
        elif does == "other_cell":
            self.column = min(max(self.column + way, -1), len(self.columns) - 1)
            self._into_view()
        elif does == "next_rule" and cell:
            self.turn(row, self.column, -1 if keys.startswith("Shift") else 1)
        elif does == "next_rule" and row >= 0 and not keys.startswith("Shift"):
            self.opened.emit()
        elif does == "remove_layer" and cell:
            self.set_rule(row, self.column, None)
        elif does == "unfold_states" and self.column >= 0 and self.columns[self.column].group:
            self.unfold(self.columns[self.column].name)
        else:
            super().keyPressEvent(event)
            return
        self.update()

    def _into_view(self) -> None:
        if self.column >= 0:
            rect = self.cell(0, self.column)
            self.shift += min(rect.left() - GRID - 8, 0.0) + max(rect.right() + 8 - self.width(), 0.0)
            self._bound()
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        self.ink.paint(p, self._drop)
        p.end()


def _mixed(rules: dict[str, Rule]) -> str:
    return "; ".join(f"{rule} in {state}" for state, rule in rules.items())
