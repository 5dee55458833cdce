"""The pages of the Clips bench, each made when it is first asked for."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from veergust.desk.clips.cards.clean import CleanCard
from veergust.desk.clips.cards.feet import FeetCard
from veergust.desk.clips.cards.hurtboxes import HurtboxesCard
from veergust.desk.clips.cards.join import JoinCard
from veergust.desk.clips.cards.pose import PoseCard
from veergust.desk.clips.cards.prepare import PrepareCard
from veergust.desk.clips.cards.props import PropsCard
from veergust.desk.clips.cards.root import RootCard
from veergust.desk.clips.cards.take import TakeCard
from veergust.desk.clips.film import Film
from veergust.desk.clips.playhead import Playhead
from veergust.desk.document.document import Document
from veergust.desk.frame.pages import PageStack
from veergust.desk.look.theme import Theme


class EveryCard:
    """What a bench with these pages has."""

    pages: PageStack

    @property
    def prepare(self) -> PrepareCard:
        """How a clip is made ready."""
        return self.pages.of(PrepareCard)

    @property
    def take(self) -> TakeCard:
        """The moves in a long take."""
        return self.pages.of(TakeCard)

    @property
    def clean(self) -> CleanCard:
        """What was shaken, and feet that slide."""
        return self.pages.of(CleanCard)

    @property
    def root(self) -> RootCard:
        """What becomes of the body's way."""
        return self.pages.of(RootCard)

    @property
    def join(self) -> JoinCard:
        """How a clip goes on from another."""
        return self.pages.of(JoinCard)

    @property
    def feet(self) -> FeetCard:
        """When feet stand."""
        return self.pages.of(FeetCard)

    @property
    def props(self) -> PropsCard:
        """What is held, and where."""
        return self.pages.of(PropsCard)

    @property
    def pose(self) -> PoseCard:
        """Keys over a clip."""
        return self.pages.of(PoseCard)

    @property
    def body(self) -> HurtboxesCard:
        """What can be struck."""
        return self.pages.of(HurtboxesCard)


def every_card(document: Document, playhead: Playhead, theme: Theme, film: Film, parent: QWidget) -> PageStack:
    """The pages about the open clip, in their order."""
    return PageStack(
        {
            PrepareCard: lambda at: PrepareCard(document, playhead, at),
            TakeCard: lambda at: TakeCard(document, playhead, at),
            CleanCard: lambda at: CleanCard(document, playhead, at),
            RootCard: lambda at: RootCard(document, playhead, at),
            JoinCard: lambda at: JoinCard(document, playhead, theme, at),
            FeetCard: lambda at: FeetCard(document, playhead, film, at),
            PropsCard: lambda at: PropsCard(document, playhead, at),
            PoseCard: lambda at: PoseCard(document, playhead, at),
            HurtboxesCard: lambda at: HurtboxesCard(document, playhead, at),
        },
        parent,
    )
