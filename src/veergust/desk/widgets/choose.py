"""Choosing one line out of many: type to narrow, arrows to move, Enter to take."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QSortFilterProxyModel, QStringListModel, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QAbstractItemView, QDialog, QLineEdit, QListView, QVBoxLayout, QWidget


class Chooser(QDialog):
    """A list of lines with one to narrow it."""

    def __init__(self, parent: QWidget, title: str, names: Sequence[str], hint: str) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.names = list(names)
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
        self.list.clicked.connect(lambda _: self.accept())
        self.resize(320, 360)
        self._narrow("")

    def _narrow(self, text: str) -> None:
        self.shown.setFilterFixedString(text)
        self._go(0)

    def _go(self, row: int) -> None:
        at = self.shown.index(min(max(row, 0), self.shown.rowCount() - 1), 0)
        self.list.setCurrentIndex(at)
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

    def chosen_at(self) -> int:
        """The place among all of the line taken; -1 when none."""
        return self.shown.mapToSource(self.list.currentIndex()).row()


def choose_clip(parent: QWidget, names: Sequence[str], first: str = "") -> str:
    """Ask for a clip, the ``first`` one chosen before anything is typed."""
    dialog = Chooser(parent, "New action from a clip", names, "Type a part of the clip's name")
    dialog.go_to(first)
    return dialog.chosen() if dialog.exec() == QDialog.DialogCode.Accepted else ""
