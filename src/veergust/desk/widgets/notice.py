"""Words under the top bar that say what went wrong or was done, and stay out of the way."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from veergust.desk.look.theme import Theme
from veergust.desk.widgets.label import PlainLabel

WIDEST = 720
"""Words that pass are no wider (px)."""


class Notice(QWidget):
    """Shows one sentence, with up to two things to do about it.

    What stays until it is answered has a strip of its own, ``room``, above all else. What passes by itself lies over
    the middle for as long, so that nothing that somebody looks at moves for it.
    """

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
        self.passes = False
        self.room = QWidget()
        self.room.setFixedHeight(0)
        self.hide()

    def lie_in(self, whole: QWidget) -> None:
        """Lie over a widget, in whose layout ``room`` is."""
        self.setParent(whole)
        whole.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Resize and self.isVisible():
            self._place()
        return False

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._place()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.room.setFixedHeight(0)

    def _place(self) -> None:
        """Lie where it belongs, as wide as it has to be."""
        whole = self.parentWidget()
        if whole is None:
            return
        width = whole.width()
        if self.passes:
            edges = self.row.contentsMargins()
            words = self.label.fontMetrics().horizontalAdvance(self.label.text()) + 4
            beside = edges.left() + edges.right() + self.row.spacing() + self.close_button.sizeHint().width()
            width = min(words + beside, WIDEST, whole.width() - 32)
        height = self.row.totalHeightForWidth(width)
        self.room.setFixedHeight(0 if self.passes else height)
        self.setGeometry((whole.width() - width) // 2, self.room.y(), width, height)
        self.raise_()

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
        self.passes = not error and not choices
        hair = f"1px solid {look.hair_strong}"
        around = f"border: {hair};" if self.passes else f"border-bottom: {hair};"
        self.setStyleSheet(f"Notice {{ background: {look.paper_bright}; {around} border-left: 6px solid {edge}; }}")
        self.label.setText(sentence)
        for words, act in choices:
            button = QPushButton(words)
            button.setObjectName("strong")
            button.clicked.connect(partial(self._chosen, act))
            self.row.insertWidget(self.row.count() - 1, button)
            self.buttons.append(button)
        self.show()
        self._place()
        self.timer.stop()
        if self.passes:
            self.timer.start(6000)
