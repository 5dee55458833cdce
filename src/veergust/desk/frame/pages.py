"""Pages under the words that open them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any, TypeVar, cast

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from veergust.desk.frame.page import FieldPage
from veergust.desk.widgets.buttons import word_button

Makes = Mapping[type[FieldPage], Callable[[QWidget], FieldPage]]
"""How each page is made, given what it stands in."""
P = TypeVar("P", bound=FieldPage)


def page_words(kinds: Iterable[type[FieldPage]], row: QHBoxLayout, show: Callable[[int], object]) -> list[QPushButton]:
    """A word for every page, put into a row from its left; ``show`` is told which one is pressed."""
    words = []
    for i, kind in enumerate(kinds):
        button = word_button(kind.title, f"The page {kind.title}", checkable=True)
        button.setObjectName("page")
        button.clicked.connect(lambda _=False, n=i: show(n))
        row.addWidget(button)
        words.append(button)
    row.addStretch(1)
    return words


class MadeLate:
    """Pages of which each is made when it is first asked for. Most are not opened from one day to the next, and a page
    takes as long to make as all that stands beside it."""

    def __init__(self, makes: Makes, **rest: Any) -> None:
        super().__init__(**rest)
        self.kinds = tuple(makes)
        self._makes = dict(makes)
        self._there: dict[type[FieldPage], FieldPage] = {}

    def of(self, kind: type[P]) -> P:
        """The page of a kind, made now if it was not before; one that is made shows what there is."""
        made = kind not in self._there
        page = self.place(kind)
        if made:
            page.renew()
        return page

    def place(self, kind: type[P]) -> P:
        """The page of a kind, made if it was not, for who has it show what there is once it is seen."""
        if kind not in self._there:
            self._there[kind] = self.put(kind, self._makes[kind])
        return cast(P, self._there[kind])

    def put(self, kind: type[FieldPage], make: Callable[[QWidget], FieldPage]) -> FieldPage:
        """Make a page in its place."""
        raise NotImplementedError

    def there(self, kind: type[P]) -> P | None:
        """The page of a kind, if it has been made."""
        return cast("P | None", self._there.get(kind))

    def every(self) -> tuple[FieldPage, ...]:
        """The pages that have been made."""
        return tuple(self._there.values())


class PageStack(MadeLate, QStackedWidget):
    """Pages over one another; ``made`` tells of each as it is made."""

    made = Signal(object)

    def __init__(self, makes: Makes, parent: QWidget) -> None:
        super().__init__(makes, parent=parent)
        self._empty = {kind: QWidget(self) for kind in self.kinds}
        for empty in self._empty.values():
            self.addWidget(empty)

    def put(self, kind: type[FieldPage], make: Callable[[QWidget], FieldPage]) -> FieldPage:
        page, empty, here = make(self), self._empty.pop(kind), self.currentIndex()
        self.insertWidget(self.kinds.index(kind), page)
        self.removeWidget(empty)
        empty.deleteLater()
        self.setCurrentIndex(here)
        self.made.emit(page)
        return page

    @property
    def page(self) -> FieldPage:
        """The page that is open."""
        return self.of(self.kinds[self.currentIndex()])


class Pages(QWidget):
    """A bench's pages under their words, one of them open."""

    def __init__(self, makes: Makes, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("foot")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.stack = PageStack(makes, self)
        row = QHBoxLayout()
        row.setContentsMargins(8, 4, 8, 0)
        row.setSpacing(0)
        self.words = page_words(self.stack.kinds, row, self.show_page)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addLayout(row)
        box.addWidget(self.stack, 1)

    def show_page(self, index: int) -> None:
        """Open a page by its place."""
        page = self.stack.place(self.stack.kinds[index])
        self.stack.setCurrentIndex(index)
        for i, button in enumerate(self.words):
            button.setChecked(i == index)
        page.renew()

    def open(self, kind: type[FieldPage]) -> None:
        """Open a page."""
        self.show_page(self.stack.kinds.index(kind))
