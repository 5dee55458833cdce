"""Buttons in rows, and words that are on or off."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from veergust.desk.widgets.buttons import word_button


def buttons(*made: QWidget) -> QWidget:
    """Buttons, and what goes with them, side by side."""
    out = QWidget()
    out.setObjectName("row")
    row = QHBoxLayout(out)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(10)
    for button in made:
        row.addWidget(button)
    row.addStretch(1)
    return out


def switch(words: str, tip: str, act: Callable[[bool], object]) -> QPushButton:
    """A word that is on or off."""
    button = word_button(words, tip, checkable=True)
    button.setObjectName("switch")
    button.clicked.connect(lambda: act(button.isChecked()))
    return button
