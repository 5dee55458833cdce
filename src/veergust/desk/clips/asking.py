"""Pages that stand over the work on Clips until the person has answered: how joints answer, how a sheet is cut."""

from __future__ import annotations

from PySide6.QtWidgets import QStackedWidget, QWidget

from veergust.core.files import Arrival, Draft
from veergust.core.motion import Skeleton
from veergust.desk.clips.cells import CellsPage
from veergust.desk.clips.mapping import MappingPage
from veergust.desk.look.theme import Theme


class AskingPages(QStackedWidget):
    """The ``work``, and over it one of the pages when something is asked."""

    def __init__(self, theme: Theme, parent: QWidget) -> None:
        super().__init__(parent)
        self.work = QWidget(self)
        self.mapping = MappingPage(theme, self)
        self.cells = CellsPage(theme, self)
        for page in (self.work, self.mapping, self.cells):
            self.addWidget(page)

    @property
    def asking(self) -> bool:
        """Whether a page stands over the work."""
        return self.currentIndex() > 0

    def ask_mapping(self, arrival: Arrival, figure: Skeleton) -> None:
        """Ask how the joints of an arrival answer to the figure's."""
        self.mapping.ask(arrival, figure)
        self.setCurrentWidget(self.mapping)

    def ask_cells(self, draft: Draft) -> None:
        """Ask how a sheet of drawings is cut."""
        self.cells.ask(draft)
        self.setCurrentWidget(self.cells)

    def leave(self) -> None:
        """Back to the work."""
        self.setCurrentIndex(0)

    def answer_button(self) -> QWidget | None:
        """What answers the page that is asked; None while none is."""
        return {1: self.mapping.take, 2: self.cells.take}.get(self.currentIndex())
