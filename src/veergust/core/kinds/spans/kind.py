"""What a kind of span says of itself."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from msgspec.structs import replace

from veergust.core.kinds.compiled import Build, Compiled
from veergust.core.kinds.fields import Field
from veergust.core.kinds.finding import Finding, Ref, in_action
from veergust.core.kinds.now import NowItem, ShownFrame
from veergust.core.model import Action, Event, Hitbox, Project, Section


@dataclass(frozen=True)
class Column:
    """A column of the sheet: its heading, least width (px), share of what room is left, and width while empty."""

    heading: str
    least: float
    share: float
    bare: float


@dataclass(frozen=True)
class NewSpan:
    """Where a new span is laid: on ``[start, end)`` of a section of an action, behind ``there`` others of its kind.

    ``mount`` is wished for; ``ticks`` is how long the section is, and over the span the body ``travels`` or not.
    """

    project: Project
    action: str
    section: int
    start: int
    end: int
    there: int = 0
    mount: str = ""
    ticks: int = 0
    travels: bool = False

    @property
    def its_action(self) -> Action:
        """The action."""
        return next(a for a in self.project.actions if a.name == self.action)

    @property
    def its_section(self) -> Section:
        """The section."""
        return self.its_action.sections[self.section]


@dataclass(frozen=True)
class Checked:
    """A span that is checked: ``index`` among its kind in ``section`` (None: it stands for the whole action)."""

    build: Build
    compiled: Compiled
    section: int | None
    kind: str
    index: int
    span: Any

    def at(self, *words: str, frame: int | None = None) -> Ref:
        """Its place, with the words for it behind the section's."""
        name = self.compiled.action.name
        own = (self.compiled.sections[self.section].section.name,) if self.section is not None else ()
        return in_action(name, *own, *words, section=self.section, kind=self.kind, index=self.index, frame=frame)


class SpanKind:
    """A kind of span. ``key`` is the field of ``Section`` that holds them, ``one`` what a single one is called, and
    ``column`` the column it has on the sheet; one without stands in the column of the kind ``beside`` it.

    ``rank`` is its place on the Now card and in takes. A ``moment`` has one edge, its tick; one that ``covers`` is
    written with how much of the weapon it does; where one is ``staved``, those printed as breaks have a narrow stave of
    their own in the column. Play may leave a section where one ``leads_away``; one with ``leads_to`` names a section of
    its own action in that field. A take tells when one that is ``told`` opens and closes. Hitboxes of one that
    ``opens_boxes`` are made on its page. One that ``acts`` does nothing, and is not told, where its layer is hidden.
    Some of one that is ``for_all`` may stand for the whole action, in the field of ``Action`` of the same name.
    """

    key: str
    one: str
    struct: type[Any]
    column: Column | None = None
    beside: str = ""
    rank = 9
    moment = False
    covers = False
    staved = False
    leads_away = False
    leads_to = ""
    told = False
    opens_boxes = False
    acts = False
    for_all = False
    fields: tuple[Field, ...] = ()
    outside: tuple[str, Any] = ("span-outside", "warning")
    """Code and level of the finding that one lies outside its section."""

    def title(self, span: Any) -> str:
        """What a span is called in words."""
        raise NotImplementedError

    def role(self, span: Any) -> str:
        """The role it is printed in."""
        return self.one

    def lines(self, span: Any, covers: float | None) -> tuple[str, str]:
        """The two lines written in it; ``covers`` is how much of the weapon it covers as it opens."""
        return "", ""

    def new(self, laid: NewSpan) -> Any:
        """A new one."""
        raise NotImplementedError

    def guessed(self, laid: NewSpan, span: Any) -> str:
        """What of a new one was guessed, in words; nothing when nothing was."""
        return ""

    def now(self, at: ShownFrame) -> Iterable[NowItem]:
        """Its lines on the Now card."""
        return ()

    def check(self, at: Checked) -> Iterable[Finding]:
        """What is wrong with one, wherever it stands."""
        return ()

    def lies(self, at: Checked, ticks: int) -> Iterator[Finding]:
        """Whether it lies outside a section of ``ticks``."""
        span = at.span
        if span.start < 0 or span.end > ticks or span.end <= span.start:
            code, level = self.outside
            label = getattr(span, "name", "") or f"{self.one} {at.index + 1}"
            says = f"lies on {span.start} to {span.end}, and the section has frames 0 to {ticks}"
            yield Finding(code, level, at.at(label), says, "drag its edges back into the section")

    def is_to(self, span: Any, section: str) -> bool:
        """Whether it leads to a section of its own action."""
        return bool(self.leads_to) and getattr(span, self.leads_to) == section

    def led(self, span: Any, old: str, new: str) -> Any:
        """It, where a section that it may lead to is called otherwise."""
        return replace(span, **{self.leads_to: new}) if self.is_to(span, old) else span

    def boxes(self, span: Any) -> tuple[Hitbox, ...]:
        """The hitboxes that it opens."""
        return ()

    def runs(self, span: Any) -> bool:
        """Whether it runs something of its own as it opens, closes or touches."""
        return False

    def mounts(self, span: Any) -> tuple[str, ...]:
        """The mounts it stands on."""
        return tuple(box.mount for box in self.boxes(span))

    def holds(self, span: Any) -> tuple[str, float] | None:
        """The setting of the character that it holds, and at what."""
        return None

    def fires(self, span: Any) -> Event | None:
        """What goes off when play reaches it."""
        return None

    def sets(self, span: Any) -> tuple[str, float] | None:
        """The parameter that it sets when play reaches it, and to what."""
        return None

    def example(self) -> Any:
        """One on the first frames of a section, as a test may use it."""
        return self.struct(**({"tick": 1} if self.moment else {"start": 1, "end": 4}))

    def of_all(self, action: Action) -> tuple[Any, ...]:
        """Those that stand for a whole action."""
        return tuple(getattr(action, self.key)) if self.for_all else ()

    def with_all(self, action: Action, spans: tuple[Any, ...]) -> Action:
        """An action with others that stand for all of it."""
        return replace(action, **{self.key: spans})

    def of(self, section: Section) -> tuple[Any, ...]:
        """The spans of this kind in a section."""
        return tuple(getattr(section, self.key))


def opened(at: ShownFrame, key: str) -> Iterator[tuple[int, Any]]:
    """(place, span) of those that hold the frame."""
    for i, span in enumerate(getattr(at.compiled.sections[at.section].section, key)):
        if span.start <= at.tick < span.end:
            yield i, span


def mount_known(at: Checked, mount: str, words: str) -> Iterator[Finding]:
    """Whether a mount or joint is the figure's."""
    yield from joint_known(at.build, mount, at.at(words), "mount")


def joint_known(build: Build, name: str, where: Ref, what: str) -> Iterator[Finding]:
    """Whether a joint, or a mount, of that name is there; one that differs by capitals is named."""
    index = build.assets.skeleton.index
    if name and name not in index and name not in build.mounts and len(build.assets.skeleton):
        near = next((n for n in [*build.mounts, *index] if n.lower() == name.lower()), None)
        do = f"write it {near!r}, as the figure has it" if near else "choose a joint or mount of the figure"
        yield Finding("joint-unknown", "error", where, f"{what} {name!r} is not in the rig", do)


def conditions_known(build: Build, conditions: Iterable[Any], where: Ref) -> Iterator[Finding]:
    """Whether what conditions ask for is there."""
    from veergust.core.kinds.conditions import CONDITIONS

    for c in conditions:
        if CONDITIONS[c.test].of == "command" and c.name not in build.commands:
            says = f"asks for the command {c.name!r}, which the project does not have"
            yield Finding("command-unknown", "error", where, says, "choose a command")
        if CONDITIONS[c.test].of == "action" and build.action(c.name) is None:
            says = f"asks for the action {c.name!r}, which the project does not have"
            yield Finding("action-unknown", "error", where, says, "choose an action")
