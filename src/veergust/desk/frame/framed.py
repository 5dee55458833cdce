"""The frame that benches on paper share: paper across, a stage beside it, pages under that, and keys by the table."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QSplitter, QVBoxLayout, QWidget

from veergust.desk.frame.bench import Bench
from veergust.desk.frame.page import FieldPage, Scroll
from veergust.desk.frame.pages import Makes, Pages
from veergust.desk.keys.pressing import pressed
from veergust.desk.keys.table import Where, on_key
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.label import PlainLabel

Deed = tuple[str, str, Callable[[], object]]
"""A word of the head, its tip, and what it does."""


class Framed(Bench):
    """A bench with a frame. ``where`` is where its keys hold, under which its sizes are kept, too; ``name`` is what it
    is called for who hears it, ``heading`` what stands over its paper."""

    where: Where
    name: str
    heading: str
    across_sizes = (786, 494)
    paper_sizes = (470, 280)
    beside_sizes = (470, 280)

    def lay_out(self, upper: QWidget, lower: QWidget, stage: QWidget, makes: Makes, deeds: Iterable[Deed]) -> None:
        """``upper`` and ``lower`` on the paper, with ``deeds`` in its head; the stage beside, the pages under it."""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(self.name)
        self.across = QSplitter(Qt.Orientation.Horizontal, self)
        self.paper = QSplitter(Qt.Orientation.Vertical, self.across)
        self.beside = QSplitter(Qt.Orientation.Vertical, self.across)
        self.beside.setObjectName("right")
        over = QWidget(self.paper)
        title = PlainLabel(self.heading)
        title.setObjectName("big")
        self.counts = PlainLabel()
        self.counts.setObjectName("note")
        head = QHBoxLayout()
        head.setContentsMargins(14, 6, 12, 4)
        head.setSpacing(10)
        head.addWidget(title)
        head.addWidget(self.counts, 1)
        for words, tip, act in deeds:
            button = word_button(words, tip, strong=True)
            button.clicked.connect(act)
            head.addWidget(button)
        self.paper_scroll = Scroll()
        self.paper_scroll.setWidget(upper)
        self.paper_scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        box = QVBoxLayout(over)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addLayout(head)
        box.addWidget(self.paper_scroll, 1)
        self.paper.addWidget(lower)
        self.paper.setSizes(list(self.paper_sizes))
        self.beside.addWidget(stage)
        self.pages = Pages(makes, self.beside)
        self.beside.setSizes(list(self.beside_sizes))
        self.across.setSizes(list(self.across_sizes))
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(self.across)
        self.show_page(0)

    def splitters(self) -> dict[str, QSplitter]:
        return {
            f"{self.where}_across": self.across,
            f"{self.where}_paper": self.paper,
            f"{self.where}_beside": self.beside,
        }

    def show_page(self, index: int) -> None:
        """Open a page by its place."""
        self.pages.show_page(index)

    def open_page(self, kind: type[FieldPage]) -> None:
        """Open a page."""
        self.pages.open(kind)

    @property
    def page(self) -> FieldPage:
        """The page that is open."""
        return self.pages.stack.page

    def acts(self) -> dict[str, Callable[[], object]]:
        """What each command of the bench does."""
        raise NotImplementedError

    def key(self, event: QKeyEvent) -> bool:
        act = self.acts().get(on_key(self.where, pressed(event)))
        if act is None:
            return False
        act()
        return True
