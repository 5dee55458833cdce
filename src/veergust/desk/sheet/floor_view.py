"""The floor map as it is looked at and pointed into, by mouse and by keys."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from veergust.core.study import NEVER, FloorMap
from veergust.desk.keys.pressing import pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme
from veergust.desk.sheet.floor_ink import FloorInk, sentences
from veergust.desk.widgets.accessible import ToldRow

GAP = 8.0
WAYS = {"Left": (-1, 0), "Right": (1, 0), "Up": (0, 1), "Down": (0, -1)}


class FloorView(QWidget):
    """Shows one map, or two beside each other; ``pointed`` says at which (row, column) of the first, or None."""

    pointed = Signal(object)

    def __init__(self, theme: Theme, frame: Callable[[], int]) -> None:
        super().__init__()
        self.theme = theme
        self.frame = frame
        self.maps: list[FloorMap] = []
        self.chosen: tuple[int, int] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Where it touches")
        self.setToolTip("Point at a place: the target stands there, on the frame of its first touch")
        self.setCursor(Qt.CursorShape.CrossCursor)
        theme.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(270, 200)

    def minimumSizeHint(self) -> QSize:
        return QSize(200, 150)

    def show_maps(self, maps: list[FloorMap]) -> None:
        """Show other maps; a place that is chosen stays where it is on the floor."""
        if self.chosen is not None and self.maps:
            self.chosen = _same_place(self.maps[0], maps[0], self.chosen) if maps else None
        self.maps = maps
        self.setAccessibleDescription(", ".join(" ".join(s).strip() for m in maps for s in sentences(m)))
        self.update()

    def inks(self) -> list[FloorInk]:
        """The maps as they lie in the widget."""
        many = max(len(self.maps), 1)
        wide = (self.width() - GAP * (many - 1)) / many
        return [FloorInk(m, QRectF(n * (wide + GAP), 0, wide, self.height())) for n, m in enumerate(self.maps)]

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), self.theme.colour("paper"))
        for n, ink in enumerate(self.inks()):
            ink.draw(p, self.theme, self.frame(), self.chosen if n == 0 else None)

    def choose(self, cell: tuple[int, int] | None) -> None:
        """Point at a cell."""
        if cell != self.chosen:
            self.chosen = cell
            self.pointed.emit(cell)
            self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self.maps:
            self.choose(self.inks()[0].cell(QPointF(event.position())))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton and self.maps:
            cell = self.inks()[0].cell(QPointF(event.position()))
            if cell is not None:
                self.choose(cell)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = pressed(event)
        act = on_key("floor", keys)
        if not self.maps or not act:
            super().keyPressEvent(event)
        elif act == "leave_floor":
            self.choose(None)
        else:
            found = self.maps[0]
            row, column = self.chosen or _start_of(found)
            ahead, left = WAYS[keys]
            rows, columns = found.first.shape
            self.choose((min(max(row + ahead, 0), rows - 1), min(max(column + left, 0), columns - 1)))

    def told(self) -> list[ToldRow]:
        """What the maps say, for who hears them."""
        return [ToldRow(words, number) for m in self.maps for number, words in sentences(m)]


def _start_of(found: FloorMap) -> tuple[int, int]:
    """Where keys begin to point: the first touched cell ahead, else the middle."""
    rows, columns = found.first.shape
    column = min(max(round(-found.origin[0] / found.step), 0), columns - 1)
    row = next((r for r in range(rows) if found.first[r, column] != NEVER), rows // 2)
    return row, column


def _same_place(old: FloorMap, new: FloorMap, cell: tuple[int, int]) -> tuple[int, int] | None:
    z, x = (old.origin[1 - i] + cell[i] * old.step for i in (0, 1))
    row, column = round((z - new.origin[1]) / new.step), round((x - new.origin[0]) / new.step)
    rows, columns = new.first.shape
    return (row, column) if 0 <= row < rows and 0 <= column < columns else None
