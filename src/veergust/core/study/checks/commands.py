"""Commands that are made by a gesture: what it is made of, and whether anybody can make it."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds import Finding, Ref
from veergust.core.model import Gesture
from veergust.core.play import CompiledProject


def check(build: CompiledProject) -> Iterator[Finding]:
    """Gestures of commands that are not there or are gestures themselves, and those that never come to be."""
    parameters = {p.name for p in build.project.locomotion.parameters}
    for command in build.commands.values():
        gesture, where = command.gesture, Ref("command", command.name, ("command", command.name))
        if gesture is None:
            continue
        for name in gesture.of:
            other = build.commands.get(name)
            if other is None:
                says = f"is made of the command {name!r}, which the project does not have"
                yield Finding("command-unknown", "error", where, says, "choose a command")
            elif other.gesture is not None:
                says = f"is made of {name}, which is a gesture itself"
                yield Finding("gesture-never", "error", where, says, "choose a command that is pressed")
        if _never(gesture):
            yield Finding("gesture-never", "error", where, "can never be made", "choose what it is made of")
        if gesture.sets and gesture.sets not in parameters:
            says = f"tells how long it was held to {gesture.sets!r}, which is no parameter"
            yield Finding("parameter-unknown", "warning", where, says, "make the parameter, or choose another")


def _never(gesture: Gesture) -> bool:
    if gesture.kind == "motion":
        twice = any(a == b for a, b in zip(gesture.ways, gesture.ways[1:]))
        return not gesture.ways or twice
    return not gesture.of or (gesture.kind == "together" and len(set(gesture.of)) < 2)
