"""What is called otherwise in another state of a project, and the edits that follow it: what names a thing follows,
and is no change of its own."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from veergust.core.changes.matching import pairs
from veergust.core.edit import (
    Edit,
    rename_action,
    rename_clip,
    rename_command,
    rename_layer,
    rename_mask,
    rename_parameter,
    rename_section,
    rename_take,
    set_drill,
    set_fighter,
    set_post,
)
from veergust.core.edit import rename as rename_state
from veergust.core.model import Project
from veergust.core.trouble import Trouble

Follow = Callable[[Project, str, str], Edit]


@dataclass(frozen=True)
class Rename:
    """One of a ``kind`` that was ``old`` and is ``new``; a section is one of ``action``, as that is called now."""

    kind: str
    old: str
    new: str
    action: str = ""

    def follow(self, project: Project) -> Project:
        """A project in which it is called so; as it is where it has no such thing, or another of the new name."""
        try:
            return self.to(project, self.new).project
        except Trouble:
            return project

    def to(self, project: Project, name: str) -> Edit:
        """What was ``old`` called otherwise. Raises ``Trouble`` where that cannot be."""
        if self.kind == "sections":
            return _section(project, self.action, self.old, name)
        return FOLLOWS[self.kind](project, self.old, name)


def _drill(project: Project, old: str, new: str) -> Edit:
    return set_drill(project, old, "renamed", name=new)


def _fighter(project: Project, old: str, new: str) -> Edit:
    return set_fighter(project, old, name=new)


def _post(project: Project, old: str, new: str) -> Edit:
    return set_post(project, old, name=new)


def _section(project: Project, action: str, old: str, new: str) -> Edit:
    found = next((a for a in project.actions if a.name == action), None)
    names = [s.name for s in found.sections] if found is not None else []
    if old not in names:
        raise Trouble(f"there is no section {old!r}")
    return rename_section(project, action, names.index(old), new)


FOLLOWS: dict[str, Follow] = {
    "actions": rename_action,
    "clips": rename_clip,
    "commands": rename_command,
    "layers": rename_layer,
    "masks": rename_mask,
    "drills": _drill,
    "takes": rename_take,
    "parameters": rename_parameter,
    "states": rename_state,
    "groups": rename_state,
    "fighters": _fighter,
    "posts": _post,
}
"""The edits that rename, by the list they rename in."""
_IN_LOCOMOTION, _ON_STAGE = ("parameters", "states", "groups"), ("fighters", "posts")


def renames(old: Project, new: Project) -> Iterator[Rename]:
    """What is called otherwise in ``new``: actions before their sections."""
    for kind in FOLLOWS:
        for was, now in _pairs(_rows(old, kind), _rows(new, kind)):
            if was.name != now.name:
                yield Rename(kind, was.name, now.name)
    for was, now in _pairs(old.actions, new.actions):
        for a, b in _pairs(was.sections, now.sections) if was.sections is not now.sections else ():
            if a.name != b.name:
                yield Rename("sections", a.name, b.name, now.name)


def _rows(project: Project, kind: str) -> tuple[Any, ...]:
    holder: Any = project.locomotion if kind in _IN_LOCOMOTION else project.stage if kind in _ON_STAGE else project
    rows: tuple[Any, ...] = getattr(holder, kind)
    return rows


def _pairs(old: tuple[Any, ...], new: tuple[Any, ...]) -> list[tuple[Any, Any]]:
    if old is new:
        return []
    return [(old[a], new[b]) for a, b in pairs(old, new) if a is not None and b is not None]


def alike(base: Project, ours: Project, theirs: Project) -> tuple[Project, Project, Project]:
    """The three with every thing called the same in all: as the one who renamed it has it, ours where both did."""
    mine, other = list(renames(base, ours)), list(renames(base, theirs))
    first = {(r.kind, r.old, r.action): r.new for r in mine}
    for rename in other:
        name = first.get((rename.kind, rename.old, rename.action), rename.new)
        if name != rename.new:
            again = Rename(rename.kind, rename.new, name, rename.action)
            theirs = again.follow(theirs)
    base = _followed(base, [*mine, *other])
    return base, _followed(ours, other), _followed(theirs, mine)


def _followed(project: Project, rows: Iterable[Rename]) -> Project:
    for rename in rows:
        project = rename.follow(project)
    return project
