"""Choosing one line out of many: type to narrow, arrows to move, Enter to take."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import (
    QItemSelectionModel,
    QModelIndex,
    QSortFilterProxyModel,
    QStringListModel,
    Qt,
)
from PySide6.QtGui import QGuiApplication, QKeyEvent
from PySide6.QtWidgets import QAbstractItemView, QDialog, QLineEdit, QListView, QVBoxLayout, QWidget

from veergust.desk.widgets.asking import accepted


class Chooser(QDialog):
    """A list of lines with one to narrow it; with ``many`` several are taken, with Ctrl or Shift."""

    def __init__(self, parent: QWidget, title: str, names: Sequence[str], hint: str, *, many: bool = False) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.names = list(names)
        self._proposed: int | None = None
        self.line = QLineEdit()
        self.line.setPlaceholderText(hint)
        self.line.setAccessibleName(title)
        self.shown = QSortFilterProxyModel(self)
        self.shown.setSourceModel(QStringListModel(self.names, self))
        self.shown.setFilterCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.list = QListView()
        self.list.setObjectName("lines")
        self.list.setModel(self.shown)
        self.list.setUniformItemSizes(True)
        self.list.setResizeMode(QListView.ResizeMode.Adjust)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.list.setAccessibleName("Names")
        box = QVBoxLayout(self)
        box.addWidget(self.line)
        box.addWidget(self.list)
        self.line.textChanged.connect(self._narrow)
        self.list.activated.connect(lambda _: self.accept())
        if many:
            self.list.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.list.clicked.connect(self._clicked)
        self.resize(320, 360)
        self._narrow("")

    def _clicked(self, index: QModelIndex) -> None:
        if QGuiApplication.keyboardModifiers() == Qt.KeyboardModifier.NoModifier:
            self.accept()
        elif self._proposed is not None:
            # The first that is clicked comes in place of the one that was only proposed.
            proposed, self._proposed = self.shown.index(self._proposed, 0), None
            flag = QItemSelectionModel.SelectionFlag
            self.list.selectionModel().select(proposed, flag.Deselect)
            self.list.selectionModel().select(index, flag.Select)

    def _narrow(self, text: str) -> None:
        self.shown.setFilterFixedString(text)
        self._go(0)

    def _go(self, row: int) -> None:
        at = self.shown.index(min(max(row, 0), self.shown.rowCount() - 1), 0)
        self.list.setCurrentIndex(at)
        self._proposed = at.row()
        self.list.scrollTo(at)

    def go_to(self, name: str) -> None:
        """Have a line chosen, if it is there."""
        if name in self.names:
            self._go(self.shown.mapFromSource(self.shown.sourceModel().index(self.names.index(name), 0)).row())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        here = self.list.currentIndex().row()
        page = max(self.list.viewport().height() // max(self.list.sizeHintForRow(0), 1), 1)
        steps = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: page, Qt.Key.Key_PageUp: -page}
        step = steps.get(Qt.Key(event.key()))
        if step is not None:
            self._go(here + step)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.accept()
        else:
            super().keyPressEvent(event)

    def chosen(self) -> str:
        """The line taken; empty when none."""
        return str(self.list.currentIndex().data() or "")

    def all_chosen(self) -> list[str]:
        """Every line taken, in the order they stand in."""
        rows = sorted(self.list.selectionModel().selectedRows(), key=lambda index: index.row())
        return [str(index.data()) for index in rows]

    def chosen_at(self) -> int:
        """The place among all of the line taken; -1 when none."""
        return self.shown.mapToSource(self.list.currentIndex()).row()


def choose_clips(parent: QWidget, names: Sequence[str], first: str = "") -> list[str]:
    """Ask for clips, the ``first`` one chosen before anything is typed."""
    hint = "Type a part of the clip's name; Ctrl+click for several"
    dialog = Chooser(parent, "New action from a clip", names, hint, many=True)
    dialog.go_to(first)
    return dialog.all_chosen() if accepted(dialog) else []
