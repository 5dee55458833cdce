"""The commands of a project, in the order in which they are listed everywhere, and which of them do anything."""

from __future__ import annotations

from collections.abc import Iterable

from veergust.core.kinds.compiled import Build
from veergust.core.kinds.conditions import CONDITIONS
from veergust.core.model import Condition, Project


def listed_commands(project: Project) -> list[str]:
    """The names of the commands: those that start actions in the order of these, then those that anything else asks
    for, then those that do nothing yet. Which one wins when two are pressed at once goes by the project's own order."""
    starts: dict[str, int] = {}
    for at, action in enumerate(project.actions):
        for command in action.start.commands:
            starts.setdefault(command, at)
    for pool in project.pools:
        for command in pool.commands:
            starts.setdefault(command, len(project.actions))
    asked = asked_for(project)

    def rank(name: str) -> tuple[bool, int, bool]:
        return name not in starts, starts.get(name, 0), name not in asked

    # What wins over others, a dodge, is seldom what one looks for first.
    return sorted([c.name for c in reversed(project.commands)], key=rank)


def asked_for(project: Project) -> frozenset[str]:
    """The commands that an action, a pool or locomotion asks for, and those that their gestures are made of."""
    there = {command for pool in project.pools for command in pool.commands}
    there |= {project.locomotion.jump.command} | _in(c for t in project.locomotion.transitions for c in t.conditions)
    for action in project.actions:
        there.update(action.start.commands)
        there |= _in(action.start.conditions)
        for exits, gates in ((action.exits, ()), *((s.exits, s.gates) for s in action.sections)):
            for exit_ in exits:
                there.update(exit_.sequence or (exit_.command,))
                there |= _in(exit_.conditions)
            for gate in gates:
                there |= _in(gate.conditions)
    for command in project.commands:
        if command.gesture is not None and command.name in there:
            there |= set(command.gesture.of)
    return frozenset(there - {""})


def _in(conditions: Iterable[Condition]) -> set[str]:
    return {c.name for c in conditions if CONDITIONS[c.test].of == "command"}


def all_listed(build: Build) -> list[str]:
    """The commands of a build's project, as they are listed."""
    return listed_commands(build.project)


def all_asked_for(build: Build) -> frozenset[str]:
    """The same of a build's project."""
    return asked_for(build.project)
