"""Preparing a clip anew under the actions that play it: every edge that is pinned to a pose stays on its pose."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from veergust.core.edit.alternates import throughout
from veergust.core.edit.clips import set_clip
from veergust.core.edit.cuts import lay, repinned, said_to_give
from veergust.core.edit.spans import Edit
from veergust.core.kinds import SPANS
from veergust.core.model import Action, Event, Project, Section
from veergust.core.motion import Assets

RETIMES = {"start", "end", "rate", "reverse"}
"""What of a clip moves poses along the cuts that play it."""


def prepare_clip(project: Project, assets: Assets, name: str, words: str = "", **changes: Any) -> Edit:
    """As ``set_clip``; where that moves poses along the sections that play the clip, their spans follow by their pins.

    The words say how many edges of how many actions moved, the notes which had to give way.
    """
    edit = set_clip(project, name, words, **changes)
    if not RETIMES & changes.keys():
        return edit
    counted: dict[str, int] = {}
    gave: list[str] = []

    def section(action: Action, s: Section) -> Section:
        old, new = (lay(p, assets, s.cuts, action.speed) for p in (project, edit.project))
        if old == new:
            return s
        made, lost = repinned(s, old, new, tuple(range(len(s.cuts))))
        gave.extend(f"{action.name}, {s.name}: {words}" for words in lost)
        counted[action.name] = counted.get(action.name, 0) + _moved(s, made)
        return made

    def action(a: Action) -> Action:
        if not any(c.clip == name for s in a.sections for c in s.cuts):
            return a
        return replace(a, sections=tuple(section(a, s) for s in a.sections))

    actions = tuple(throughout(a, action) for a in edit.project.actions)
    edges = sum(counted.values())
    if not edges and not gave:
        return Edit(replace(edit.project, actions=actions), edit.words)
    many = sum(1 for n in counted.values() if n)
    moved = f"{edges} edge{'s' * (edges != 1)} of {many} action{'s' * (many != 1)} went with their poses"
    return Edit(replace(edit.project, actions=actions), f"{edit.words}; {moved}", said_to_give(gave))


def _moved(before: Section, after: Section) -> int:
    """How many edges stand on another tick."""
    return sum(
        a != b
        for kind in SPANS
        for x, y in zip(getattr(before, kind), getattr(after, kind))
        for a, b in zip(_edges(x), _edges(y))
    )


def _edges(span: Any) -> tuple[int, ...]:
    return (span.tick,) if isinstance(span, Event) else (span.start, span.end)
