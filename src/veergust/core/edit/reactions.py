"""Changing the reaction table: the row for one kind of hit, and rows for many sides at once."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import msgspec
from msgspec.structs import replace

from veergust.core.edit.actions import new_action
from veergust.core.edit.spans import Edit
from veergust.core.model import Project, Reaction
from veergust.core.motion import Assets
from veergust.core.play import EIGHTHS
from veergust.core.study import HitKind, answer_to
from veergust.core.trouble import Trouble

NEAR = 1.0
"""A new row asks that the attacker is no farther off (m), until it is told otherwise."""


def set_reaction(project: Project, hit: HitKind, action: str, section: str = "") -> Edit:
    """An action, begun at a section, as what answers just this kind of hit; an empty name takes its row away.

    Raises:
        Trouble: there is no such action or section.
    """
    rows = list(project.reactions)
    now = answer_to(rows, hit)
    own = next((i for i, r in enumerate(rows) if r.plain and (r.side, r.strength, r.situation) == _key(hit)), None)
    words = f"{hit.situation}, {hit.side}, {hit.strength}"
    if not action:
        if own is None:
            raise Trouble("another row answers this hit", field="reaction", do="change that one")
        del rows[own]
        return Edit(replace(project, reactions=tuple(rows)), f"No reaction of its own: {words}")
    _known(project, action, section)
    row = msgspec.convert(dict(zip(("side", "strength", "situation"), _key(hit))) | {"action": action}, Reaction)
    row = replace(row, section=section)
    if own is not None and now is not None and now.index == own:
        rows[own] = row
    else:
        if own is not None:
            del rows[own]
        before = answer_to(rows, hit)
        rows.insert(before.index if before is not None else len(rows), row)
    return Edit(replace(project, reactions=tuple(rows)), f"{action}: answers {words}")


def _known(project: Project, action: str, section: str) -> None:
    """Raise ``Trouble`` where there is no such action, or pool of them, or section of it."""
    target = next((a for a in project.actions if a.name == action), None)
    pool = target is None and any(p.name == action for p in project.pools)
    sections = {s.name for s in target.sections} if target is not None else set()
    if (target is None and not pool) or (section and section not in sections):
        raise Trouble(f"there is no {section or action!r}", field="reaction", do="choose one that is there")


def add_row(project: Project, hit: HitKind, action: str) -> tuple[Edit, int]:
    """One row more for such a hit, which goes before all others and is to ask for more; and its place.

    Raises:
        Trouble: there is no such action.
    """
    _known(project, action, "")
    row = msgspec.convert(dict(zip(("side", "strength", "situation"), _key(hit))) | {"action": action}, Reaction)
    first = next((r.name for r in project.rig.regions), "")
    row = replace(row, region=first) if first else replace(row, far=NEAR)
    made = replace(project, reactions=(row, *project.reactions))
    return Edit(made, f"{action}: one more row, {hit.situation}, {hit.side}, {hit.strength}"), 0


def set_row(project: Project, index: int, **changes: Any) -> Edit:
    """A row of the table with other fields.

    Raises:
        Trouble: there is no such row, action or section.
    """
    row = _row(project, index)
    if changes.get("action", row.action) != row.action:
        changes.setdefault("section", "")
    made = replace(row, **changes)
    _known(project, made.action, made.section)
    rows = tuple(made if i == index else r for i, r in enumerate(project.reactions))
    return Edit(replace(project, reactions=rows), f"Row {index + 1} of the reactions: {', '.join(changes)}")


def remove_row(project: Project, index: int) -> Edit:
    """The table without a row. Raises ``Trouble`` where there is none."""
    row = _row(project, index)
    rows = tuple(r for i, r in enumerate(project.reactions) if i != index)
    return Edit(replace(project, reactions=rows), f"Row {index + 1} of the reactions, {row.action}: away")


def _row(project: Project, index: int) -> Reaction:
    if not 0 <= index < len(project.reactions):
        raise Trouble(f"there is no row {index + 1}", field="reaction", do="choose one that is there")
    return project.reactions[index]


def _key(hit: HitKind) -> tuple[str, str, str]:
    return hit.side, hit.strength, hit.situation


def react_all_round(project: Project, assets: Assets, clips: Mapping[str, str], hit: HitKind) -> Edit:
    """Rows for many sides, of clips by side: each played by an action that has it, or by a new one.

    ``hit`` says for which strength and situation.
    """
    if not clips:
        raise Trouble("no clip says which side it is for", field="clips", do="name them front, back, left, right")
    made = 0
    for side in (s for s in EIGHTHS if s in clips):
        action = next((a.name for a in project.actions if _plays(a.sections, clips[side])), "")
        if not action:
            edit, action = new_action(project, assets, clips[side])
            project, made = edit.project, made + 1
        project = set_reaction(project, HitKind(side, hit.strength, hit.situation), action).project
    words = f"{len(clips)} reactions, {hit.situation}, {hit.strength}"
    return Edit(project, words, (f"{made} new actions were made for them.",) if made else ())


def _plays(sections: tuple[object, ...], clip: str) -> bool:
    """Whether an action is nothing but one cut of a clip."""
    cuts = [cut for section in sections for cut in getattr(section, "cuts", ())]
    return len(cuts) == 1 and cuts[0].clip == clip
