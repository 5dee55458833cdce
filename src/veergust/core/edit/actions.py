"""Making and removing whole actions."""

from __future__ import annotations

import msgspec

from veergust.core.edit.spans import Edit
from veergust.core.model import Action, Cut, Project, Section
from veergust.core.motion.figure import Cast


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
    motion = cast.motion(clip.file, clip.animation)
    end = clip.end if clip.end is not None else (motion.seconds if motion else None)
    name = free_name(project, clip_name.replace("_", " ").capitalize())
    layer = project.layers[0].name if project.layers else "Body"
    section = Section(name="All", cuts=(Cut(clip=clip_name, start=clip.start, end=end),))
    action = Action(name=name, layer=layer, sections=(section,))
    changed = msgspec.structs.replace(project, actions=(*project.actions, action))
    return Edit(changed, f"New action {name}"), name
