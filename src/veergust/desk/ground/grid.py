"""The from × to grid: every state against every other. An empty cell is a transition to be made, a filled one is one to
be changed; what has no way back is marked."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QWheelEvent
from PySide6.QtWidgets import QAbstractItemView, QFrame, QLabel, QTableView

from veergust.desk.document.document import Document
from veergust.desk.ground.grid_ink import HEAD, NAMES, GridInk, GridNames
from veergust.desk.ground.grid_model import GridModel, Index
from veergust.desk.ground.selection import GroundSelection
from veergust.desk.keys.pressing import pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme
from veergust.desk.widgets.scrolled import scrolled_as_it_was


class GridView(QTableView):
    """The grid. ``wanted`` asks for a transition from one to another."""

    wanted = Signal(str, str)

    def __init__(self, document: Document, theme: Theme, selection: GroundSelection) -> None:
        super().__init__()
        self.document, self.theme, self.selection = document, theme, selection
        self.table = GridModel(document)
        self.setObjectName("grid")
        self.setModel(self.table)
        self.setItemDelegate(GridInk(self, self.table, theme, selection))
        across, beside = Qt.Orientation.Horizontal, Qt.Orientation.Vertical
        self.setHorizontalHeader(GridNames(across, self.table, theme, selection))
        self.setVerticalHeader(GridNames(beside, self.table, theme, selection))
        self.verticalHeader().sectionPressed.connect(self._choose_state)
        corner = QLabel("from \\ to", self)
        corner.setObjectName("grid_corner")
        corner.setGeometry(0, 0, NAMES, HEAD)
        self.setCornerButtonEnabled(False)
        self.setShowGrid(False)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setTabKeyNavigation(False)
        self.setAccessibleName("From and to")
        self.setMinimumHeight(120)
        selection.changed.connect(self._follow)
        theme.changed.connect(self.viewport().update)

    def sizeHint(self) -> QSize:
        return QSize(600, 280)

    def renew(self) -> None:
        """Show what there is now."""
        at = self.currentIndex()
        row, column = max(at.row(), 0), max(at.column(), 0)
        if self.table.is_otherwise:
            with scrolled_as_it_was(self):
                self.table.renew()
                last = self.table.rowCount() - 1, self.table.columnCount() - 1
                self.setCurrentIndex(self.table.index(min(row, last[0]), min(column, last[1])))
        else:
            self.table.refill()

    def cell(self, start: str, to: str) -> QModelIndex:
        """The cell from one to another."""
        return self.table.index(self.table.starts.index(start), self.table.targets.index(to))

    def _open(self, at: Index, again: bool = False) -> None:
        """Choose what stands in a cell, the next of several where one is chosen already; ask for one where none is."""
        places, chosen = self.table.places(at), self.selection.place
        if not places:
            self.wanted.emit(*self.table.ends(at))
            return
        on = places.index(chosen) + 1 if chosen is not None and chosen in places and again else 0
        self.selection.choose_transition(places[on % len(places)])

    def _choose_state(self, row: int) -> None:
        self.setFocus()
        if row > 0:
            self.selection.choose(self.table.starts[row])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        at = self.indexAt(event.position().toPoint())
        if at.isValid():
            self.setCurrentIndex(at)
            self._open(at, again=True)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Nothing: a press has chosen a cell, and nothing is dragged."""

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.selection.place is not None:
            self.selection.opened.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            bar = self.horizontalScrollBar()
            bar.setValue(bar.value() - (event.angleDelta().x() or event.angleDelta().y()) // 2)
        else:
            super().wheelEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        does, at = on_key("ground", pressed(event)), self.currentIndex()
        if does == "other_tag" and at.isValid():
            super().keyPressEvent(event)
            places = self.table.places(self.currentIndex())
            self.selection.choose_transition(places[0] if places else None)
        elif does == "ground_fields" and self.selection.place is not None:
            self.selection.opened.emit()
        elif does in ("ground_fields", "new_state") and at.isValid():
            self._open(at)
        else:
            event.ignore()

    def _follow(self) -> None:
        transition = self.selection.transition
        if transition is not None and transition.start in self.table.starts and transition.to in self.table.targets:
            self.setCurrentIndex(self.cell(transition.start, transition.to))
            self.scrollTo(self.currentIndex())
        self.viewport().update()
        self.verticalHeader().viewport().update()
