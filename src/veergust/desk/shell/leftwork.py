"""The page with the steps of work that a crash left, each with its words, and whether it still fits."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from veergust.desk.widgets.label import PlainLabel

if TYPE_CHECKING:
    from veergust.core.files import Left, LeftStep


class LeftWork(QDialog):
    """Shows the steps; ``answer`` is ``bring``, ``throw``, or nothing for later."""

    def __init__(self, parent: QWidget, left: Left, steps: Sequence[LeftStep]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Work that was never saved")
        self.answer = ""
        fitting = sum(not step.why_not or step.partly for step in steps)
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 16, 18, 14)
        box.setSpacing(12)
        box.addWidget(_words(self._head(left, fitting, len(steps))))
        self.list = QListWidget()
        self.list.setAccessibleName("Steps")
        for step in steps:
            how = "fits but for" if step.partly else "does not fit"
            item = QListWidgetItem(step.step.says + (f"  ({how}: {step.why_not})" if step.why_not else ""))
            if step.why_not and not step.partly:
                item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(item)
        box.addWidget(self.list, 1)
        buttons = QDialogButtonBox()
        many = f"Bring back {fitting} step{'s' if fitting != 1 else ''}"
        self.bring_button = buttons.addButton(many, QDialogButtonBox.ButtonRole.AcceptRole)
        self.bring_button.setObjectName("strong")
        self.bring_button.setEnabled(fitting > 0)
        self.throw_button = buttons.addButton("Throw away", QDialogButtonBox.ButtonRole.DestructiveRole)
        later = buttons.addButton("Later", QDialogButtonBox.ButtonRole.RejectRole)
        self.bring_button.clicked.connect(lambda: self._end("bring"))
        self.throw_button.clicked.connect(lambda: self._end("throw"))
        later.clicked.connect(self.reject)
        box.addWidget(buttons)
        self.resize(560, 420)

    def _head(self, left: Left, fitting: int, many: int) -> str:
        words = f"A run that began {left.since} ended before its work was saved."
        if fitting < many:
            words += " The project went on since; greyed steps do not fit it any more."
        if left.damaged:
            words += f" {left.damaged} step{'s are' if left.damaged != 1 else ' is'} damaged and cannot be read."
        return words

    def _end(self, answer: str) -> None:
        self.answer = answer
        self.accept()


def _words(text: str) -> PlainLabel:
    label = PlainLabel(text)
    label.setWordWrap(True)
    return label
