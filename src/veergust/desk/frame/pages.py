"""Pages under the words that open them."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from veergust.desk.frame.page import FieldPage
from veergust.desk.widgets.buttons import word_button


class Pages(QWidget):
    """A bench's pages, one of them open."""

    def __init__(self, cards: Sequence[FieldPage], parent: QWidget) -> None:
        super().__init__(parent)
        self.cards = tuple(cards)
        self.setObjectName("foot")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.stack = QStackedWidget(self)
        self.words: list[QPushButton] = []
        row = QHBoxLayout()
        row.setContentsMargins(8, 4, 8, 0)
        row.setSpacing(0)
        for i, card in enumerate(self.cards):
            button = word_button(card.title, f"The page {card.title}", checkable=True)
            button.setObjectName("page")
            button.clicked.connect(lambda _=False, n=i: self.show_page(n))
            row.addWidget(button)
            self.words.append(button)
            self.stack.addWidget(card)
        row.addStretch(1)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addLayout(row)
        box.addWidget(self.stack, 1)

    def show_page(self, index: int) -> None:
        """Open a page by its place."""
        self.stack.setCurrentIndex(index)
        for i, button in enumerate(self.words):
            button.setChecked(i == index)
        self.cards[index].renew()

    def show_card(self, card: FieldPage) -> None:
        """Open a page."""
        self.show_page(self.cards.index(card))

    @property
    def card(self) -> FieldPage:
        """The page that is open."""
        return self.cards[self.stack.currentIndex()]
