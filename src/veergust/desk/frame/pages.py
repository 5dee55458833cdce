"""Pages under the words that open them."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from veergust.desk.frame.page import FieldPage
from veergust.desk.widgets.buttons import word_button


def page_words(cards: Sequence[FieldPage], row: QHBoxLayout, show: Callable[[int], object]) -> list[QPushButton]:
    """A word for every page, put into a row from its left; ``show`` is told which one is pressed."""
    words = []
    for i, card in enumerate(cards):
        button = word_button(card.title, f"The page {card.title}", checkable=True)
        button.setObjectName("page")
        button.clicked.connect(lambda _=False, n=i: show(n))
        row.addWidget(button)
        words.append(button)
    row.addStretch(1)
    return words


class Pages(QWidget):
    """A bench's pages, one of them open."""

    def __init__(self, cards: Sequence[FieldPage], parent: QWidget) -> None:
        super().__init__(parent)
        self.cards = tuple(cards)
        self.setObjectName("foot")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.stack = QStackedWidget(self)
        row = QHBoxLayout()
        row.setContentsMargins(8, 4, 8, 0)
        row.setSpacing(0)
        self.words = page_words(self.cards, row, self.show_page)
        for card in self.cards:
            self.stack.addWidget(card)
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
