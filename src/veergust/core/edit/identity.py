"""Identities kept apart: what is made like another, or under a name that another once had, gets one of its own."""

from __future__ import annotations

from typing import TypeVar

from msgspec.structs import replace

from veergust.core.edit.names import free
from veergust.core.kinds import Lasting, identity
from veergust.core.model import Action, Project

Kind = TypeVar("Kind", bound=Lasting)


def settled(project: Project, before: Project | None = None) -> Project:
    """The project with no two actions, clips, or sections of an action of one identity. What was there ``before`` keeps
    its own, whatever it is called now."""
    was = before if before is not None else Project()
    old = {identity(a): a for a in was.actions}
    actions = _apart(project.actions, was.actions)
    made = tuple(_sections(a, old.get(identity(a))) for a in actions)
    clips = _apart(project.clips, was.clips)
    if all(a is b for a, b in zip(made, project.actions)) and clips is project.clips:
        return project
    return replace(project, actions=made, clips=clips)


def _sections(action: Action, before: Action | None) -> Action:
    if before is action:
        return action
    sections = _apart(action.sections, before.sections if before is not None else ())
    return action if sections is action.sections else replace(action, sections=sections)


def _apart(rows: tuple[Kind, ...], before: tuple[Kind, ...]) -> tuple[Kind, ...]:
    """The rows with identities of their own; those that were there before choose first."""
    if rows is before or len({identity(row) for row in rows}) == len(rows):
        return rows
    names, there = {row.name for row in before}, {identity(row) for row in before}

    def turn(at: int) -> tuple[bool, bool]:
        row = rows[at]
        # One that was called otherwise bears its identity in writing; what is new may only have come by its name.
        return not (row.identity and row.identity in there), row.name not in names

    out: dict[int, Kind] = {}
    taken: set[str] = set()
    for at in sorted(range(len(rows)), key=turn):
        row = rows[at]
        if identity(row) in taken:
            row = replace(row, identity=free(row.name, taken | {identity(r) for r in rows}))
        taken.add(identity(row))
        out[at] = row
    return tuple(out[at] for at in range(len(rows)))
