"""Buttons that are a word, and the row of speeds."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QHBoxLayout, QPushButton

SPEEDS = {"¼": 0.25, "½": 0.5, "1×": 1.0}


def word_button(words: str, tip: str, *, checkable: bool = False, strong: bool = False) -> QPushButton:
    """A button that is a word."""
    button = QPushButton(words)
    button.setToolTip(tip)
    button.setAccessibleName(words)
    button.setCheckable(checkable)
    button.setAutoDefault(False)  # Return in a dialog is for the button that ends it
    button.setCursor(Qt.CursorShape.PointingHandCursor)
    if strong:
        button.setObjectName("strong")
    return button


def speed_buttons(row: QHBoxLayout, choose: Callable[[float], None]) -> dict[float, QPushButton]:
    """A quarter, half and whole speed, one of them on."""
    out: dict[float, QPushButton] = {}

    def pick(speed: float) -> None:
        for value, button in out.items():
            button.setChecked(value == speed)
        choose(speed)

    for words, speed in SPEEDS.items():
        button = word_button(words, f"Play at {words} speed", checkable=True)
        button.setChecked(speed == 1.0)
        button.clicked.connect(lambda _=False, s=speed: pick(s))
        row.addWidget(button)
        out[speed] = button
    return out


def dialog_end(dialog: QDialog, words: str) -> tuple[QDialogButtonBox, QPushButton]:
    """The row that ends a dialog, and the button in it that does what it is for, which is also there for Return."""
    row = QDialogButtonBox(dialog)
    does = row.addButton(words, QDialogButtonBox.ButtonRole.AcceptRole)
    does.setObjectName("strong")
    row.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole).clicked.connect(dialog.reject)
    does.clicked.connect(dialog.accept)
    does.setDefault(True)
    return row, does
