"""How the from × to grid is drawn: its cells, and the names over and beside them."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QRect, QRectF, QSize, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QHeaderView, QStyledItemDelegate, QStyleOptionViewItem, QTableView

from veergust.desk.ground.grid_model import GridModel, Index
from veergust.desk.ground.selection import GroundSelection
from veergust.desk.look.theme import Theme, elided, put_words, wide
from veergust.desk.widgets.stamps import Stamps

NAMES, CELL, ROW, HEAD = 104, 90, 24, 26


class GridNames(QHeaderView):
    """The names over the columns or beside the rows; the row of the state that is chosen is bold."""

    def __init__(self, way: Qt.Orientation, table: GridModel, theme: Theme, selection: GroundSelection) -> None:
        super().__init__(way)
        self.table, self.theme, self.selection = table, theme, selection
        across = way == Qt.Orientation.Horizontal
        self.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.setMinimumSectionSize(1)
        self.setDefaultSectionSize(CELL if across else ROW)
        self.setHighlightSections(False)
        self.setSectionsClickable(not across)

    def sizeHint(self) -> QSize:
        return QSize(NAMES, HEAD)

    def paintSection(self, painter: QPainter, rect: QRect, section: int) -> None:
        theme, across = self.theme, self.orientation() == Qt.Orientation.Horizontal
        painter.fillRect(rect, theme.colour("paper"))
        strong = across or self.table.starts[section] == self.selection.name
        font = theme.bold(12) if strong else theme.font(12)
        indent = 4 if across else 14
        name = str(self.table.headerData(section, self.orientation()))
        said = elided(name, font, rect.width() - (8 if across else 18))
        painter.setPen(theme.pen("ink"))
        put_words(painter, QRectF(rect).adjusted(indent, 0, 0, 0), said, font)
        if across:
            painter.setPen(theme.pen("hair"))
            painter.drawLine(rect.bottomLeft(), rect.bottomRight())


class GridInk(QStyledItemDelegate):
    """Draws the cells: what leads there and over how many ticks, what has no way back, what may be made."""

    def __init__(self, view: QTableView, model: GridModel, theme: Theme, selection: GroundSelection) -> None:
        super().__init__(view)
        self.view, self.model, self.theme, self.selection = view, model, theme, selection
        self.stamps = Stamps()

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        theme = self.theme
        shown: Any = option
        rect = QRectF(shown.rect)
        (start, to), places = self.model.ends(index), self.model.places(index)
        look = theme.look.name
        if places:
            chosen, said = self.selection.place in places, self.model.said(index)
            self.stamps.put(painter, rect, (said, chosen, look), lambda p: self._transition(p, rect, said, chosen))
        else:
            which = "none" if start == to else "lost" if (start, to) in self.model.lost else "free"
            self.stamps.put(painter, rect, (which, look), lambda p: self._empty(p, rect, which))
        if self.view.hasFocus() and index == self.view.currentIndex():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(theme.pen("accent", 1.6))
            painter.drawRect(rect.adjusted(1, 1, -1, -1))

    def _line(self, p: QPainter, rect: QRectF) -> QRectF:
        p.setPen(self.theme.pen("hair"))
        p.drawLine(rect.bottomLeft(), rect.bottomRight())
        p.setBrush(Qt.BrushStyle.NoBrush)
        return rect.adjusted(2, 2, -2, -2)

    def _empty(self, p: QPainter, rect: QRectF, which: str) -> None:
        theme, inner = self.theme, self._line(p, rect)
        if which == "none":
            p.fillRect(inner, theme.colour("hair", 0.7))
        elif which == "lost":
            p.setPen(theme.pen("warn", 1.2, Qt.PenStyle.DashLine))
            p.drawRect(inner)
            put_words(p, inner.adjusted(4, 0, -2, 0), "no way back", theme.font(12))
        else:
            p.setPen(theme.pen("ink_faint"))
            put_words(p, rect, "·", theme.font(12), share=0.5)

    def _transition(self, p: QPainter, rect: QRectF, said: tuple[str, str], chosen: bool) -> None:
        theme, inner, (words, last) = self.theme, self._line(p, rect), said
        p.fillRect(inner, theme.colour("selected" if chosen else "paper_side"))
        font = theme.bold(12) if chosen else theme.font(12)
        p.setPen(theme.pen("accent" if chosen else "ink"))
        put_words(p, inner.adjusted(4, 0, 0, 0), f"{elided(words, font, CELL - 14 - wide(last, font))} {last}", font)
        if chosen:
            p.setPen(theme.pen("accent", 1.4))
            p.drawRect(inner)
