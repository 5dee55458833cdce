"""The pages that stand on Spar in place of the other's reel, each made when it is first asked for."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import TypeVar, cast

from PySide6.QtWidgets import QHBoxLayout, QWidget

from veergust.desk.document.document import Document
from veergust.desk.frame.driving import Driver
from veergust.desk.frame.page import FieldPage
from veergust.desk.frame.pages import Makes
from veergust.desk.frame.session import Session
from veergust.desk.look.theme import Theme
from veergust.desk.spar.commanding import CommandsPage
from veergust.desk.spar.drilling import DrillsPage
from veergust.desk.spar.living import GamePage
from veergust.desk.spar.rehearsing import RehearsalPage
from veergust.desk.spar.replaying import ReplayPage
from veergust.desk.spar.standing import StandingPage

P = TypeVar("P", bound=FieldPage)


class PagesBeside:
    """Pages at the end of a row, at most one of them seen; the row is ``owner``'s."""

    def __init__(self, makes: Makes, row: QHBoxLayout, owner: QWidget) -> None:
        self._makes, self._row, self._owner = dict(makes), row, owner
        self._there: dict[type[FieldPage], FieldPage] = {}
        self.seen: FieldPage | None = None

    def of(self, kind: type[P]) -> P:
        """The page of a kind, made now if it was not before."""
        if kind not in self._there:
            page = self._there[kind] = self._makes[kind](self._owner)
            page.hide()
            self._row.addWidget(page)
        return cast(P, self._there[kind])

    def there(self, kind: type[P]) -> P | None:
        """The page of a kind, if it has been made."""
        return cast("P | None", self._there.get(kind))

    def every(self) -> Iterable[FieldPage]:
        """The pages that have been made."""
        return tuple(self._there.values())


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
