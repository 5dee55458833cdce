"""Words on the window."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel


class PlainLabel(QLabel):
    """A label that shows its text as it is: names come from files, and none is to be read as markup."""

    def __init__(self, text: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)
