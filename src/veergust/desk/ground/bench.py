"""The Ground bench put together: chart and grid, the stage that is driven, and the pages."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import (
    QWidget,
)

from veergust.core.edit import Edit, add_group, add_state, add_transition, free_state_name, remove
from veergust.core.kinds import Ref
from veergust.core.model import State
from veergust.core.trouble import Trouble
from veergust.desk.document.document import Document
from veergust.desk.frame.empty import NO_CLIPS, Nothing
from veergust.desk.frame.framed import Framed
from veergust.desk.frame.pages import Makes
from veergust.desk.ground.cards.body import BodyPage
from veergust.desk.ground.cards.group import GroupPage
from veergust.desk.ground.cards.live import LivePage
from veergust.desk.ground.cards.parameters import ParametersPage
from veergust.desk.ground.cards.state import StatePage
from veergust.desk.ground.cards.transition import TransitionPage
from veergust.desk.ground.cards.usual import UsualPage
from veergust.desk.ground.chart_view import ChartView
from veergust.desk.ground.grid import GridView
from veergust.desk.ground.live import LiveStage
from veergust.desk.ground.selection import GroundSelection
from veergust.desk.look.theme import Theme


class GroundBench(Framed):
    """Where locomotion is made and changed."""

    where, name, heading = "ground", "Ground", "Locomotion"
    across_sizes, paper_sizes, beside_sizes = (770, 510), (450, 290), (400, 340)

    def __init__(self, document: Document, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document, self.theme = document, theme
        self.selection = GroundSelection(document, self)
        self.chart = ChartView(document, theme, self.selection)
        self.grid = GridView(document, theme, self.selection)
        self.live = LiveStage(document, theme)
        makes: Makes = {
            LivePage: lambda at: LivePage(document, self.selection, self.live, theme, at),
            StatePage: lambda at: StatePage(document, self.selection, theme, at),
            GroupPage: lambda at: GroupPage(document, self.selection, at),
            TransitionPage: lambda at: TransitionPage(document, self.selection, at),
            ParametersPage: lambda at: ParametersPage(document, self.selection, at),
            BodyPage: lambda at: BodyPage(document, self.selection, at),
            UsualPage: lambda at: UsualPage(document, self.selection, at),
        }
        self.lay_out(self.chart, self.grid, self.live, makes, (
            ("+ state", "A new state (N)", self.new_state),
            ("+ group", "A group around what is chosen (Shift+N)", self.new_group),
            ("usual set…", "States and transitions of the clips there are", self.show_usual),
        ))  # fmt: skip
        self.chart.joined.connect(self.join)
        self.grid.wanted.connect(self.join)
        self.selection.changed.connect(self._follow)
        self.selection.opened.connect(self.to_fields)
        self.live.shown.connect(lambda: self.chart.show_present(self.live.fighter))
        document.changed.connect(self.renew)
        self.renew()

    @property
    def state_page(self) -> StatePage:
        """The fields of the chosen state."""
        return self.pages.stack.of(StatePage)

    @property
    def group_page(self) -> GroupPage:
        """The fields of the chosen group."""
        return self.pages.stack.of(GroupPage)

    @property
    def transition_page(self) -> TransitionPage:
        """The fields of the chosen transition."""
        return self.pages.stack.of(TransitionPage)

    @property
    def parameters_page(self) -> ParametersPage:
        """The parameters."""
        return self.pages.stack.of(ParametersPage)

    @property
    def body_page(self) -> BodyPage:
        """What the body can."""
        return self.pages.stack.of(BodyPage)

    @property
    def live_page(self) -> LivePage:
        """What is driven."""
        return self.pages.stack.of(LivePage)

    @property
    def usual_page(self) -> UsualPage:
        """States and transitions of the clips there are."""
        return self.pages.stack.of(UsualPage)

    def enter(self) -> None:
        self.chart.setFocus()
        self.live.show_tick()
        if not self.document.project.locomotion.transitions and not self.usual_page.clips:
            self.usual_page.propose()

    def things(self) -> tuple[list[str], Callable[[str], object]]:
        ground = self.document.project.locomotion
        return [s.name for s in ground.states] + [g.name for g in ground.groups], self.selection.choose

    def leave(self) -> None:
        self.live.hold()

    def renew(self) -> None:
        """Show locomotion as it is now."""
        self.selection.settle()
        self.chart.renew()
        self.grid.renew()
        there = self.document.project.locomotion
        names = ", ".join(p.name for p in there.parameters[:3])
        some = f" · {names}{'…' if len(there.parameters) > 3 else ''}" if names else ""
        self.counts.setText(f"{_count(there.states, 'state')} · {_count(there.transitions, 'transition')}{some}")
        self.page.renew()

    def _follow(self) -> None:
        """Open the page of what has been chosen."""
        if isinstance(self.page, LivePage) and self.live.running:
            return
        if self.selection.transition is not None:
            self.open_page(TransitionPage)
        elif self.selection.group is not None:
            self.open_page(GroupPage)
        elif self.selection.state is not None:
            self.open_page(StatePage)
        tag = self.chart.layout_.tags.get(self.selection.name)
        if tag is not None:
            x, y = tag.middle
            self.paper_scroll.ensureVisible(int(x), int(y), 80, 60)

    def to_fields(self) -> None:
        """Put the keys into the fields of what is chosen."""
        self._follow()
        page = self.page
        field = page.ticks if isinstance(page, TransitionPage) else getattr(page, "name", None)
        if field is not None:
            QTimer.singleShot(0, field.setFocus)

    def show_usual(self) -> None:
        """Open the page of the usual set, with clips proposed."""
        self.open_page(UsualPage)
        self.usual_page.propose()

    def go_to(self, at: Ref) -> None:
        """Show a place in locomotion: a transition, a state or group, the parameters or the body."""
        if at.kind == "transitions" and at.index is not None:
            self.selection.choose_transition(at.index)
        elif at.kind == "parameters":
            self.open_page(ParametersPage)
        elif self.document.build.chart.known(at.name):
            self.selection.choose(at.name)
        else:
            self.open_page(BodyPage)

    # Deeds

    def _do(self, make: Callable[[], Edit]) -> bool:
        try:
            return self.document.apply(make())
        except Trouble as trouble:
            self.document.said.emit(str(trouble), True)
            return False

    def new_state(self) -> None:
        """A state beside the one chosen, with the clip that is open on Clips."""
        there = self.document.project.locomotion
        near = self.selection.state
        clip = self.document.clip
        name = free_state_name(there, "state")
        made = State(name=name, clip=clip, group=near.group if near else "", band=near.band if near else "floor")
        if self._do(lambda: add_state(self.document.base, made)):
            self.selection.choose(name)

    def new_group(self) -> None:
        """A group around the state or group that is chosen."""
        name = free_state_name(self.document.project.locomotion, "group")
        members = (self.selection.name,) if self.selection.name else ()
        if self._do(lambda: add_group(self.document.base, name, members)):
            self.selection.choose(name)

    def join(self, start: str, to: str) -> None:
        """A transition from one to another."""
        if self._do(lambda: add_transition(self.document.base, start, to)):
            self.selection.choose_transition(len(self.document.project.locomotion.transitions) - 1)

    def remove_chosen(self) -> None:
        """Take away what is chosen."""
        if self.selection.place is not None:
            self.transition_page.remove()
        elif self.selection.name:
            name = self.selection.name
            self._do(lambda: remove(self.document.base, name))

    def fold(self) -> None:
        """Fold the group that is chosen, or the one around the state that is."""
        chart = self.document.build.chart
        group = (
            self.selection.name if self.selection.group else next(iter(chart.around.get(self.selection.name, ())), "")
        )
        if group:
            self.chart.fold(group)

    def acts(self) -> dict[str, Callable[[], object]]:
        """What each command of the bench does."""
        return {
            "new_state": self.new_state,
            "new_group": self.new_group,
            "remove_ground": self.remove_chosen,
            "ground_fields": self.to_fields,
            "ask_sooner": lambda: self.transition_page.ask(1),
            "ask_later": lambda: self.transition_page.ask(-1),
            "fold_group": self.fold,
            "drive": self.live.toggle,
        }

    def nothing(self) -> Nothing | None:
        project = self.document.project
        return NO_CLIPS if not project.clips and not project.locomotion.states else None


def _count(rows: Sequence[object], word: str) -> str:
    return f"{len(rows)} {word}{'' if len(rows) == 1 else 's'}"
