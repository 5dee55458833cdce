"""Events: something fired on a frame at a mount."""

from __future__ import annotations

from collections.abc import Iterator
from math import isfinite
from typing import Any

from veergust.core.kinds.compiled import Build
from veergust.core.kinds.fields import Field, choice
from veergust.core.kinds.finding import Finding
from veergust.core.kinds.spans.kind import Checked, Column, NewSpan, SpanKind, mount_known
from veergust.core.model import Event


class Events(SpanKind):
    """Events."""

    key, one, struct = "events", "event", Event
    column = Column("events", 88.0, 2.4, 60.0)
    moment = acts = True
    fields = (
        choice("kind", "Kind", given=("effect", "sound", "spawn", "message", "parameter")),
        Field("name", "Name", "choice", of="events", tip="From the project's list; type a new one below", more=True),
        choice("mount", "Mount", "mounts"),
        Field("offset", "Offset", "vector", "m", -20, 20, 0.05),
        choice("facing", "Faces", given=("body", "mount", "world")),
        choice(
            "whom",
            "For",
            given=("everyone", "owner", "decider"),
            tip="Where several machines play: all of them, the one of who plays this, or the one whose take counts",
        ),
        Field("payload", "Payload", "pairs", tip="Handed to the game as it is"),
    )

    def title(self, span: Event) -> str:
        return span.name or "Event"

    def mounts(self, span: Event) -> tuple[str, ...]:
        return (span.mount,)

    def fires(self, span: Event) -> Event:
        return span

    def sets(self, span: Event) -> tuple[str, float] | None:
        return (span.name, number_of(span.payload)) if span.kind == "parameter" and span.name else None

    def lines(self, span: Event, covers: float | None) -> tuple[str, str]:
        return span.name or "—", span.mount

    def new(self, laid: NewSpan) -> Event:
        """Of the project's first known name, of the kind and at the mount it has elsewhere."""
        project, tick = laid.project, laid.start
        name = project.known_events[0] if project.known_events else ""
        every = (e for a in project.actions for s in a.sections for e in s.events)
        like = next((e for e in every if e.name == name), Event(tick=tick, name=name))
        return Event(tick=tick, kind=like.kind, name=name, mount=like.mount)

    def lies(self, at: Checked, ticks: int) -> Iterator[Finding]:
        event: Any = at.span
        if not 0 <= event.tick < ticks:
            says = f"is on frame {event.tick}, past the section"
            yield Finding("event-outside", "warning", at.at(event.name or "event"), says, "move it into the section")

    def check(self, at: Checked) -> Iterator[Finding]:
        event: Any = at.span
        if not event.name and event.kind != "message":
            where = at.at(f"frame {event.tick}", frame=event.tick)
            yield Finding(
                "event-empty", "warning", where, f"fires {event.kind} with nothing assigned", "choose what it fires"
            )
        if event.mount:
            yield from mount_known(at, event.mount, event.name or "event")
        if event.kind == "parameter":
            there = {p.name for p in at.build.project.locomotion.parameters}
            if event.name and event.name not in there:
                says = f"sets the parameter {event.name!r}, which the project does not have"
                yield Finding("parameter-unknown", "warning", at.at(event.name), says, "make it on the Ground bench")
        elif event.name and event.kind != "message" and event.name not in at.build.project.known_events:
            says = "fires a name that is not on the project's list of events"
            do = "choose one of the list, or type it on the span's page to add it"
            yield Finding("event-unknown", "note", at.at(event.name), says, do)
        yield from _whom(at, event)


def _whom(at: Checked, event: Event) -> Iterator[Finding]:
    """What would go on on one machine alone though all play by it, or be seen by one alone though others see what it
    goes with, or be done by each though one is to do it."""
    where = at.at(event.name or event.kind)
    if event.kind in ("parameter", "spawn") and event.whom != "everyone":
        what = f"sets {event.name!r}" if event.kind == "parameter" else f"lets {event.name!r} fly"
        says = f"{what} on one machine, and play goes by it on all"
        yield Finding("whom-apart", "warning", where, says, "let it be for everyone")
    elif event.kind in ("effect", "sound") and event.whom == "decider":
        says = f"is {'seen' if event.kind == 'effect' else 'heard'} by nobody: the one that decides shows nothing"
        yield Finding("whom-unseen", "warning", where, says, "let it be for everyone, or for its owner")
    elif event.kind == "effect" and event.whom == "owner":
        says = "is seen by nobody but who plays it"
        yield Finding("whom-unseen", "note", where, says, "let it be for everyone, unless that is meant")
    elif event.kind == "message" and event.whom == "everyone":
        if event.name and event.name in at.build.ask(decided):
            says = "is done on every machine here, and by the one that decides elsewhere"
            yield Finding("whom-each", "warning", where, says, "let it be for the decider here too")


def decided(build: Build) -> frozenset[str]:
    """The messages that are for the one that decides, somewhere in the project."""
    every = (e for a in build.project.actions for s in a.sections for e in s.events)
    return frozenset(e.name for e in every if e.kind == "message" and e.whom == "decider")


def number_of(payload: str) -> float:
    """The number that is set: 1 where the payload is no number."""
    try:
        value = float(payload)
    except ValueError:
        return 1.0
    return value if isfinite(value) else 1.0


KIND = Events()
