"""Where a change lies in the project as it is, and the project with one change taken back."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import msgspec
from msgspec.structs import replace

from veergust.core.changes.telling import ToldChange
from veergust.core.changes.walking import FieldChange, WayStep
from veergust.core.kinds import SPANS, Ref, in_action
from veergust.core.model import Action, Clip, Command, Layer, Mask, Project, State, Transition


def place_of_change(project: Project, told: ToldChange) -> Ref | None:
    """Where a change is looked at; None where there is no place for it in the window."""
    if told.difference is None:  # a rename: of an action, a clip, a command or a state
        kinds = (("action", project.actions), ("clip", project.clips), ("command", project.commands))
        for part, rows in kinds:
            if any(row.name == told.of for row in rows):
                return Ref(part, told.of, (told.of,))  # type: ignore[arg-type]
        return Ref("locomotion", told.of, (told.of,)) if _is_state(project, told.of) else None
    for step in told.difference.way:
        found = _place(step, told)
        if found is not None:
            return found
    return None


def _is_state(project: Project, name: str) -> bool:
    there = project.locomotion
    return name in [row.name for row in there.states] + [row.name for row in there.groups]


def _place(step: WayStep, told: ToldChange) -> Ref | None:
    one = step.new
    if isinstance(one, Action):
        return _in_action(one, told)
    parts: dict[type, Any] = {Clip: "clip", Layer: "layer", Mask: "mask", Command: "command", State: "locomotion"}
    if type(one) in parts:
        return Ref(parts[type(one)], one.name, (one.name,))
    return Ref("locomotion", one.start, (one.start,)) if isinstance(one, Transition) else None


def _in_action(action: Action, told: ToldChange) -> Ref:
    assert told.difference is not None
    section = index = None
    kind = ""
    holder: Any = action
    for step in told.difference.way[1:]:
        rows = getattr(holder, step.field, ())
        at = next((n for n, row in enumerate(rows) if row is step.new), None) if isinstance(rows, tuple) else None
        if step.field == "sections":
            section = at
        elif step.field in SPANS and section is not None:
            kind, index = step.field, at
        if step.new is None or at is None:
            break
        holder = step.new
    return in_action(action.name, *told.where[1:], section=section, kind=kind if index is not None else "", index=index)


def can_be_taken_back(told: ToldChange) -> bool:
    """Whether a change can be taken back by itself: not what only follows of others, nor a rename or another order."""
    return told.difference is not None and told.difference.kind in ("changed", "added", "removed")


def taken_back(project: Project, told: ToldChange) -> Project:
    """The project with one change taken back, and all else as it is. For one that can be."""
    change = told.difference
    assert change is not None
    steps = list(change.way)
    if change.kind in ("added", "removed"):
        last = steps.pop()
        return _at(project, steps, lambda holder: _listed(holder, last, change))  # type: ignore[no-any-return]
    if steps and isinstance(steps[-1].one, str):  # one of pairs of a name and what goes with it
        name = steps.pop().one
        return _at(project, steps, lambda holder: _weighed(holder, name, change))  # type: ignore[no-any-return]
    return _at(project, steps, lambda holder: _field(holder, change))  # type: ignore[no-any-return]


def _at(value: Any, steps: list[WayStep], act: Callable[[Any], Any]) -> Any:
    """A value with what lies at the end of some steps made anew."""
    if not steps:
        return act(value)
    step, rest = steps[0], steps[1:]
    there = getattr(value, step.field)
    if isinstance(there, tuple):
        made: Any = tuple(_at(one, rest, act) if one is step.new else one for one in there)
    else:
        made = _at(there, rest, act)
    return replace(value, **{step.field: made})


def _field(holder: Any, change: FieldChange) -> Any:
    now = getattr(holder, change.field)
    old = change.old
    if isinstance(now, msgspec.Struct) and not isinstance(old, msgspec.Struct):  # what a pin is to
        old = replace(now, to=old)
    return replace(holder, **{change.field: old})


def _listed(holder: Any, step: WayStep, change: FieldChange) -> Any:
    rows = getattr(holder, step.field)
    if change.kind == "added":
        return replace(holder, **{step.field: tuple(row for row in rows if row is not step.new)})
    at = min(change.at, len(rows))
    return replace(holder, **{step.field: (*rows[:at], step.old, *rows[at:])})


def _weighed(holder: Any, name: str, change: FieldChange) -> Any:
    rows = [(key, value) for key, value in getattr(holder, change.field) if key != name]
    if change.old is not None:
        rows.append((name, change.old))
    return replace(holder, **{change.field: tuple(rows)})
