"""Making and removing whole actions."""

from __future__ import annotations

import msgspec

from veergust.core.edit.alternates import throughout
from veergust.core.edit.spans import Edit
from veergust.core.model import Action, Cut, Exit, Pool, Project, Section
from veergust.core.motion.figure import Cast
from veergust.core.motion.prepared import ends
from veergust.core.trouble import Trouble


def free_name(project: Project, wish: str) -> str:
    """``wish``, or with a number behind it when an action has it already."""
    taken = {a.name for a in project.actions}
    name, n = wish, 2
    while name in taken:
        name, n = f"{wish} {n}", n + 1
    return name


def new_action(project: Project, cast: Cast, clip_name: str) -> tuple[Edit, str]:
    """A new action of one section that plays a whole clip, and its name."""
    clip = next(c for c in project.clips if c.name == clip_name)
    start, end = ends(cast, clip)
    name = free_name(project, clip_name.replace("_", " ").capitalize())
    layer = project.layers[0].name if project.layers else "Body"
    section = Section(name="All", cuts=(Cut(clip=clip_name, start=start, end=end),))
    action = Action(name=name, layer=layer, sections=(section,))
    changed = msgspec.structs.replace(project, actions=(*project.actions, action))
    return Edit(changed, f"New action {name}"), name


def rename_action(project: Project, old: str, new: str) -> Edit:
    """An action under another name; exits, pools, reactions and drills that name it follow.

    Raises ``Trouble`` when the name is empty or taken.
    """
    new = new.strip()
    if not new:
        raise Trouble("a name cannot be empty", field="name", do="type one")
    if new != old and new in {a.name for a in project.actions}:
        raise Trouble(f"there is an action {new!r} already", field="name", do="choose another name")
    replace = msgspec.structs.replace

    def exit_(e: Exit) -> Exit:
        return replace(e, to=new) if e.to_kind == "action" and e.to == old else e

    def action(a: Action) -> Action:
        sections = tuple(replace(s, exits=tuple(exit_(e) for e in s.exits)) for s in a.sections)
        return replace(a, name=new if a.name == old else a.name, sections=sections)

    def pool(p: Pool) -> Pool:
        return replace(p, items=tuple(replace(i, name=new) if i.name == old else i for i in p.items))

    drills = tuple(
        replace(d, expect=tuple(replace(e, action=new) if e.action == old else e for e in d.expect))
        for d in project.drills
    )
    changed = replace(
        project,
        actions=tuple(throughout(a, action) for a in project.actions),
        pools=tuple(pool(p) for p in project.pools),
        reactions=tuple(replace(r, action=new) if r.action == old else r for r in project.reactions),
        drills=drills,
    )
    return Edit(changed, f"{old}: renamed {new}")
