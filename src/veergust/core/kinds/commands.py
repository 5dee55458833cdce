"""The commands of a project, in the order in which they are listed everywhere, and which of them do anything."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import msgspec

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
    """The commands that an action, a pool or locomotion asks for."""
    return frozenset(_asked((project.actions, project.pools, project.locomotion)))


def all_asked_for(build: Build) -> frozenset[str]:
    """The same of a build's project."""
    return asked_for(build.project)


def _asked(value: Any) -> Iterator[str]:
    if isinstance(value, tuple):
        for item in value:
            yield from _asked(item)
    elif isinstance(value, Condition):
        if CONDITIONS[value.test].of == "command":
            yield value.name
    elif isinstance(value, msgspec.Struct):
        for field in value.__struct_fields__:
            inner = getattr(value, field)
            if field in ("command", "commands", "sequence"):
                yield from (inner,) if isinstance(inner, str) else inner
            elif isinstance(inner, (tuple, msgspec.Struct)):
                yield from _asked(inner)
