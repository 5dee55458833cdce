"""Breaks of an action where the floor ends."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec.structs import replace

from veergust.core.edit.spans import Edit
from veergust.core.model import Action, Condition, Exit, Pin, Project
from veergust.core.play import CompiledAction


def break_without_floor(project: Project, compiled: CompiledAction, sections: Sequence[int]) -> Edit:
    """Sections of an action with a break to locomotion, all the while they last, on no floor under the feet."""
    gone, framed = (Condition(test="on_floor", op="==", value=0.0),), Pin(to="frame")
    made = list(compiled.action.sections)
    for i in sections:
        ends = Exit(start=0, end=compiled.sections[i].ticks, kind="break", to_kind="ground", conditions=gone,
                    start_pin=framed, end_pin=framed)  # fmt: skip
        made[i] = replace(made[i], exits=(*made[i].exits, ends))
    action: Action = replace(compiled.action, sections=tuple(made))
    actions = tuple(action if a.name == action.name else a for a in project.actions)
    names = ", ".join(made[i].name for i in sections)
    return Edit(replace(project, actions=actions), f"{action.name}: a break without a floor in {names}")
