"""The pages that stand on Spar in place of the other's reel, each made when it is first asked for."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QHBoxLayout, QWidget

from veergust.desk.document.document import Document
from veergust.desk.frame.driving import Driver
from veergust.desk.frame.page import FieldPage
from veergust.desk.frame.pages import MadeLate, Makes
from veergust.desk.frame.session import Session
from veergust.desk.look.theme import Theme
from veergust.desk.spar.commanding import CommandsPage
from veergust.desk.spar.drilling import DrillsPage
from veergust.desk.spar.living import GamePage
from veergust.desk.spar.rehearsing import RehearsalPage
from veergust.desk.spar.replaying import ReplayPage
from veergust.desk.spar.standing import StandingPage


class PagesBeside(MadeLate):
    """Pages at the end of a row, at most one of them seen; the row is ``owner``'s."""

    def __init__(self, makes: Makes, row: QHBoxLayout, owner: QWidget) -> None:
        super().__init__(makes)
        self._row, self._owner = row, owner
        self.seen: FieldPage | None = None

    def put(self, kind: type[FieldPage], make: Callable[[QWidget], FieldPage]) -> FieldPage:
        page = make(self._owner)
        page.hide()
        self._row.addWidget(page)
        return page


class EveryPage:
    """What a bench with these pages has."""

    beside: PagesBeside

    @property
    def standing(self) -> StandingPage:
        """Who stands where."""
        return self.beside.of(StandingPage)

    @property
    def commands(self) -> CommandsPage:
        """The commands, and the keys and buttons that give them."""
        return self.beside.of(CommandsPage)

    @property
    def drills(self) -> DrillsPage:
        """The drills."""
        return self.beside.of(DrillsPage)

    @property
    def replay(self) -> ReplayPage:
        """The take with what was changed."""
        return self.beside.of(ReplayPage)

    @property
    def live(self) -> GamePage:
        """A game that runs beside."""
        return self.beside.of(GamePage)

    @property
    def rehearsal(self) -> RehearsalPage:
        """A drill over a line that is late."""
        return self.beside.of(RehearsalPage)


def every_page(
    document: Document, session: Session, driver: Driver, theme: Theme, shown: Callable[[], object]
) -> Makes:
    """How each is made; ``shown`` is called when somebody else's screen is to be seen."""

    def rehearsal(at: QWidget) -> RehearsalPage:
        page = RehearsalPage(document, session, theme, at)
        page.beside_turned.connect(shown)
        return page

    return {
        StandingPage: lambda at: StandingPage(document, theme, at),
        CommandsPage: lambda at: CommandsPage(document, driver, theme, at),
        DrillsPage: lambda at: DrillsPage(document, session, theme, at),
        ReplayPage: lambda at: ReplayPage(document, session, at),
        GamePage: lambda at: GamePage(document, session, at),
        RehearsalPage: rehearsal,
    }
