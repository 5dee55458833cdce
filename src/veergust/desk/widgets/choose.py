"""Choosing one name out of many: type to narrow, arrows to move, Enter to take."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDialog, QLineEdit, QListWidget, QVBoxLayout, QWidget


class Chooser(QDialog):
    """A list of names with a line to narrow it."""

    def __init__(self, parent: QWidget, title: str, names: list[str], hint: str) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.names = names
        self.line = QLineEdit()
        self.line.setPlaceholderText(hint)
        self.line.setAccessibleName(title)
        self.list = QListWidget()
        self.list.setAccessibleName("Names")
        box = QVBoxLayout(self)
        box.addWidget(self.line)
        box.addWidget(self.list)
        self.line.textChanged.connect(self._narrow)
        self.list.itemActivated.connect(lambda _: self.accept())
        self.list.itemClicked.connect(lambda _: self.accept())
        self.resize(320, 360)
        self._narrow("")

    def _narrow(self, text: str) -> None:
        self.list.clear()
        self.list.addItems([n for n in self.names if text.lower() in n.lower()])
        self.list.setCurrentRow(0)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            step = 1 if event.key() == Qt.Key.Key_Down else -1
            self.list.setCurrentRow(min(max(self.list.currentRow() + step, 0), self.list.count() - 1))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.accept()
        else:
            super().keyPressEvent(event)

    def chosen(self) -> str:
        """The name taken; empty when none."""
        item = self.list.currentItem()
        return item.text() if item is not None else ""


def choose_clip(parent: QWidget, names: list[str]) -> str:
    """Ask for a clip."""
    dialog = Chooser(parent, "New action from a clip", names, "Type a part of the clip's name")
    return dialog.chosen() if dialog.exec() == QDialog.DialogCode.Accepted else ""
