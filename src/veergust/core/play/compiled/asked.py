"""What is asked of all actions of a project together: how long presses count, what a command starts, who has a tag."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Protocol

from veergust.core.model import Command, Project, StartRule


class AllActions(Protocol):
    """A project as it plays."""

    @property
    def project(self) -> Project:
        """The project."""

    @property
    def commands(self) -> Mapping[str, Command]:
        """By name."""

    @property
    def longest_buffer(self) -> int:
        """For how many ticks any press may count."""

    def buffer_of(self, command: str) -> int:
        """For how many ticks a press of a command counts."""


def longest_buffer(build: AllActions) -> int:
    """For how many ticks any press of a project may count."""
    asked = [build.project.settings.buffer, *(build.buffer_of(name) for name in build.commands)]
    for action in build.project.actions:
        for exit_ in (*action.exits, *(e for s in action.sections for e in s.exits)):
            asked += [exit_.buffer] if exit_.buffer is not None else []
    return max(asked)


def furthest_press(build: AllActions) -> int:
    """For how many ticks a press may count as the first of any sequence of a project, its others as late as may be."""
    every = (e for a in build.project.actions for e in (*a.exits, *(e for s in a.sections for e in s.exits)))
    longest = max((len(e.sequence) for e in every), default=0)
    return max(build.longest_buffer, 1) + max(longest - 1, 0) * (build.project.settings.buffer + 1)


def gestures(build: AllActions) -> tuple[Command, ...]:
    """The commands that are no plain presses, in the project's order."""
    return tuple(c for c in build.commands.values() if c.gesture is not None)


def started_by(build: AllActions, command: str) -> tuple[tuple[str, StartRule], ...]:
    """Name and start rule of every action that a command may start, in the project's order."""
    return tuple((a.name, a.start) for a in build.project.actions if command in a.start.commands)


def pools_started_by(build: AllActions, command: str) -> tuple[str, ...]:
    """The pools of which a command may start an action, in the project's order."""
    return tuple(pool.name for pool in build.project.pools if command in pool.commands)


def with_tag(build: AllActions, tag: str) -> tuple[str, ...]:
    """The actions that have a tag, in the project's order."""
    return tuple(a.name for a in build.project.actions if tag in a.tags)


def action_names(build: AllActions) -> tuple[str, ...]:
    """The names of all actions, in the project's order."""
    return tuple(a.name for a in build.project.actions)
