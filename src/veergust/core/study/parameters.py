"""Who sets a parameter, and who asks for it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from veergust.core.kinds import SPANS
from veergust.core.model import Action, Condition, Project, Strike

ENDINGS = {"on_start": "start", "on_completed": "completed", "on_cancelled": "cancelled", "on_broken": "broken"}


@dataclass(frozen=True)
class Uses:
    """In words, what sets a parameter and what asks for it."""

    sets: tuple[str, ...]
    asks: tuple[str, ...]


def uses_of(project: Project, name: str) -> Uses:
    """The uses of a parameter."""
    return Uses(
        tuple(dict.fromkeys(words for n, words in set_by(project) if n == name)),
        tuple(dict.fromkeys(words for n, words in asked_by(project) if n == name)),
    )


def set_by(project: Project) -> Iterator[tuple[str, str]]:
    """Every parameter that is set, and what sets it."""
    for a in project.actions:
        yield from _set_by_action(a)
    for thing in project.thrown:
        yield from _run(thing.strike, f"thrown {thing.name}")
    for d in project.drills:
        for step in d.steps:
            if step.parameter:
                yield step.parameter, f"drill {d.name}"


def _set_by_action(a: Action) -> Iterator[tuple[str, str]]:
    for field, words in ENDINGS.items():
        for setting in getattr(a, field).parameters:
            yield setting.setting, f"{a.name} ({words})"
    for s in a.sections:
        for kind in SPANS.values():
            for span in kind.of(s) if kind.moment else ():
                found = kind.sets(span)
                if found is not None:
                    yield found[0], f"{a.name} › {s.name} ({kind.one} on frame {span.tick})"
        for strike in s.strikes:
            yield from _run(strike, f"{a.name} › {s.name} › {strike.name}")


def _run(strike: Strike, words: str) -> Iterator[tuple[str, str]]:
    for outcome in strike.runs:
        if outcome.kind == "parameter" and outcome.name:
            yield outcome.name, f"{words} ({outcome.when})"


def asked_by(project: Project) -> Iterator[tuple[str, str]]:
    """Every parameter that is asked for, and what asks."""
    there = project.locomotion
    for t in there.transitions:
        yield from _asked(t.conditions, f"{t.start} → {t.to}")
    for g in there.groups:
        if g.enters == "parameter" and g.parameter:
            yield g.parameter, f"group {g.name}"
    for s in there.states:
        if s.blend:
            for name in s.over:
                yield name, f"blend of {s.name}"
    for layer in project.layers:
        if layer.by:
            yield layer.by, f"layer {layer.name}"
    for i, row in enumerate(project.reactions):
        yield from _asked(row.conditions, f"reactions (row {i + 1})")
    for a in project.actions:
        yield from _of_action(a)


def _of_action(a: Action) -> Iterator[tuple[str, str]]:
    yield from _asked(a.start.conditions, f"{a.name} (start)")
    for exit_ in a.exits:
        yield from _asked(exit_.conditions, f"{a.name} (exit)")
    for s in a.sections:
        for kind in reversed(SPANS.values()):
            for span in kind.of(s):
                yield from _asked(getattr(span, "conditions", ()), f"{a.name} › {s.name}")


def _asked(conditions: tuple[Condition, ...], words: str) -> Iterator[tuple[str, str]]:
    for c in conditions:
        if c.test == "parameter":
            yield c.name, words
