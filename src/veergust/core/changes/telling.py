"""What was changed from one state of a project to another, told in the animator's words."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import msgspec

from veergust.core.changes.renames import renames
from veergust.core.changes.walking import FieldChange, differences
from veergust.core.changes.words import label, sentence, where
from veergust.core.model import Project
from veergust.core.trouble import Trouble


@dataclass(frozen=True)
class ToldChange:
    """One thing that is otherwise: where it is, what of it, as it was and is, and that in words."""

    where: tuple[str, ...]
    what: str
    old: Any
    new: Any
    says: str
    difference: FieldChange | None = None

    @property
    def of(self) -> str:
        """The action, clip, state … that it is of."""
        return self.where[0]


def changes(old: Project, new: Project) -> list[ToldChange]:
    """What is otherwise in ``new``: a rename first, and then what is changed in what is called otherwise."""
    out: list[ToldChange] = []
    before = old
    for rename in renames(old, new):
        try:
            before = rename.to(before, rename.new).project
        except Trouble:
            continue  # its new name was another's before: what follows it is told one by one
        where_ = (rename.action, rename.new) if rename.action else (rename.new,)
        says = f"{': '.join(where_)}: renamed {rename.old} → {rename.new}"
        out.append(ToldChange(where_, "renamed", rename.old, rename.new, says))
    return [*out, *(_told(one) for one in differences(before, new))]


def _told(one: FieldChange) -> ToldChange:
    path = where(one)
    what = label(one.holder, one.field) if one.kind == "changed" else one.kind
    says = f"{path[0]}: {_inside(path, one)}{sentence(one)}"
    return ToldChange(path, what, plain(one.old), plain(one.new), says, one)


def _inside(path: tuple[str, ...], one: FieldChange) -> str:
    """The part of an action that a change is in, where its sentence does not say it."""
    last = len(path) - 1
    return "".join(f"{word} › " for word in path[1:last])


def plain(value: Any) -> Any:
    """A value as JSON has it."""
    return msgspec.to_builtins(value)
