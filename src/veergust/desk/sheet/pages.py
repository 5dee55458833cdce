"""The pages of fields beside the Now card, each made when it is first asked for."""

from __future__ import annotations

from collections.abc import Callable
from importlib import import_module
from typing import TYPE_CHECKING, cast

from PySide6.QtWidgets import QStackedWidget, QWidget

from veergust.desk.document.document import Document
from veergust.desk.look.theme import Theme
from veergust.desk.sheet.cards.page import Page

if TYPE_CHECKING:
    from veergust.desk.sheet.cards.action import ActionPage
    from veergust.desk.sheet.cards.pools import PoolsPage
    from veergust.desk.sheet.cards.reactions import ReactionsPage
    from veergust.desk.sheet.cards.section import SectionPage
    from veergust.desk.sheet.cards.span import SpanPage
    from veergust.desk.sheet.cards.touches import TouchesPage
    from veergust.desk.sheet.cards.versions import VersionsPage

TITLES = ("Now", "Span", "Section", "Action", "Versions", "Pools", "Touches", "Reactions")
"""What the pages are called, in their order; ``NamePage`` of the module ``cards.name`` is each but the first."""


class SheetPages(QStackedWidget):
    """The Now card and the pages of fields; ``made`` is told of each as it is made."""

    def __init__(self, document: Document, theme: Theme, now: QWidget, made: Callable[[Page], None]) -> None:
        super().__init__()
        self.document = document
        self.theme = theme
        self._made: dict[int, Page] = {}
        self._told = made
        self.addWidget(now)
        for _ in TITLES[1:]:
            self.addWidget(QWidget())

    def page(self, index: int) -> Page:
        """The page at a place, made now if it was not before."""
        if index not in self._made:
            title = TITLES[index]
            module = import_module(f"veergust.desk.sheet.cards.{title.lower()}")
            kind = getattr(module, f"{title}Page")
            page = cast(Page, kind(self.document, *([self.theme] if kind.draws else []), self))
            self._made[index] = page
            here, empty = self.currentIndex(), self.widget(index)
            self.insertWidget(index, page)
            if empty is not None:
                self.removeWidget(empty)
            self.setCurrentIndex(here)
            self._told(page)
        return self._made[index]

    def show_page(self, index: int) -> None:
        """Show the Now card or a page."""
        if index > 0:
            self.page(index)
        self.setCurrentIndex(index)

    def there(self, index: int) -> bool:
        """Whether a page has been made."""
        return index in self._made

    def choose_box(self, at: int) -> None:
        """Show the fields of another hitbox, where those of a strike are shown."""
        form = self.span.widgets.get("boxes")
        if form is not None:
            form.choose(at)

    @property
    def span(self) -> SpanPage:
        """The fields of the selected span."""
        return cast("SpanPage", self.page(1))

    @property
    def section(self) -> SectionPage:
        """The section and the cut under the playhead."""
        return cast("SectionPage", self.page(2))

    @property
    def action(self) -> ActionPage:
        """The whole action."""
        return cast("ActionPage", self.page(3))

    @property
    def versions(self) -> VersionsPage:
        """Kept versions."""
        return cast("VersionsPage", self.page(4))

    @property
    def pools(self) -> PoolsPage:
        """Pools."""
        return cast("PoolsPage", self.page(5))

    @property
    def touches(self) -> TouchesPage:
        """Where it touches."""
        return cast("TouchesPage", self.page(6))

    @property
    def reactions(self) -> ReactionsPage:
        """Who answers a hit."""
        return cast("ReactionsPage", self.page(7))
