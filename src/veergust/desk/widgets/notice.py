"""A strip under the top bar that says what went wrong or was done, and stays out of the way."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from veergust.desk.look.theme import Theme
from veergust.desk.widgets.label import PlainLabel


class Notice(QWidget):
    """Shows one sentence, with up to two things to do about it."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.label = PlainLabel()
        self.label.setWordWrap(True)
        self.label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.label.setAccessibleName("Message")
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(16, 6, 12, 6)
        self.row.addWidget(self.label, 1)
        self.buttons: list[QPushButton] = []
        self._stop_button: QPushButton | None = None
        self.close_button = QPushButton("close")
        self.close_button.setToolTip("Close this message")
        self.close_button.clicked.connect(self.hide)
        self.row.addWidget(self.close_button)
        self.timer = QTimer(self)
        self.timer.setSingleShot(True)
        self.timer.timeout.connect(self.hide)
        self.hide()

    def _chosen(self, act: Callable[[], object]) -> None:
        self.hide()
        act()

    def progress(self, sentence: str, share: float, stop: Callable[[], object]) -> None:
        """Show how far a long work is, with a way to give it up."""
        if not (self._stop_button and self._stop_button in self.buttons):
            self.say(sentence, False, ("cancel", stop))
            self._stop_button = self.buttons[0]
        self.label.setText(f"{sentence}  {share * 100:.0f} %")

    def say(self, sentence: str, error: bool = False, *choices: tuple[str, Callable[[], object]]) -> None:
        """Show a sentence; one that is no error and asks nothing goes away by itself."""
        for button in self.buttons:
            self.row.removeWidget(button)
            button.deleteLater()
        self.buttons = []
        look = self.theme.look
        edge = look.warn if error else look.accent
        self.setStyleSheet(f"Notice {{ background: {look.paper_bright}; border-left: 6px solid {edge}; "
                           f"border-bottom: 1px solid {look.hair_strong}; }}")  # fmt: skip
        self.label.setText(sentence)
        for words, act in choices:
            button = QPushButton(words)
            button.setObjectName("strong")
            button.clicked.connect(partial(self._chosen, act))
            self.row.insertWidget(self.row.count() - 1, button)
            self.buttons.append(button)
        self.show()
        self.timer.stop()
        if not error and not choices:
            self.timer.start(6000)
