"""Changing how clips are prepared, and what they are called."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from msgspec.structs import replace

from veergust.core.edit.alternates import throughout
from veergust.core.edit.spans import Edit
from veergust.core.kinds import kept_identity
from veergust.core.model import Action, Clip, Cut, Layer, Project
from veergust.core.study import uses
from veergust.core.trouble import Trouble

WORDS = {
    "start": "in",
    "end": "out",
    "root_joint": "root from",
    "in_place": "in place",
    "contacts": "feet on the floor",
    "loop": "loops",
    "mirror": "mirrored",
    "swaps": "hands changed where mirrored",
    "reverse": "backwards",
}


def clip_of(project: Project, name: str) -> Clip | None:
    """A clip by name."""
    return next((c for c in project.clips if c.name == name), None)


def with_clip(project: Project, clip: Clip, name: str = "") -> Project:
    """The project with ``clip`` in place of the one called ``name`` (its own name unless given)."""
    old = name or clip.name
    return replace(project, clips=tuple(clip if c.name == old else c for c in project.clips))


def set_clip(project: Project, name: str, words: str = "", **changes: Any) -> Edit:
    """A clip with other settings. Raises ``Trouble`` when its out would not lie behind its in."""
    clip = clip_of(project, name)
    if clip is None:
        raise Trouble(f"there is no clip {name!r}", field="clip", do="choose another")
    changed = replace(clip, **changes)
    if changed.end is not None and changed.end <= changed.start:
        raise Trouble("the clip would end before it begins", field="out", do="put out behind in")
    if changed.rate <= 0.0:
        raise Trouble("a rate must be above 0", field="rate", do="type a larger number")
    said = words or ", ".join(_says(field, value) for field, value in changes.items())
    return Edit(with_clip(project, changed), f"{name}: {said}")


def follow_files(project: Project, moved: Mapping[str, str]) -> Edit:
    """Clips, props and the figure of files that are called otherwise now, by their old name."""
    rig = project.rig
    props = tuple(replace(p, file=moved.get(p.file, p.file)) for p in rig.props)
    changed = replace(
        project,
        clips=tuple(replace(c, file=moved.get(c.file, c.file)) for c in project.clips),
        rig=replace(rig, figure=moved.get(rig.figure, rig.figure), props=props),
    )
    return Edit(changed, f"Followed {', '.join(moved.values())}")


def _says(field: str, value: Any) -> str:
    word = WORDS.get(field, field.replace("_", " "))
    if isinstance(value, bool):
        return word if value else f"not {word}"
    if isinstance(value, float):
        return f"{word} {value:.3g}"
    return f"{word} {value}" if isinstance(value, str) and value else word


def rename_clip(project: Project, old: str, new: str) -> Edit:
    """A clip under another name; cuts, locomotion and layers that name it follow.

    Raises ``Trouble`` when the name is empty or taken.
    """
    new = new.strip()
    clip = clip_of(project, old)
    if clip is None or not new:
        raise Trouble("a name cannot be empty", field="name", do="type one")
    if new != old and clip_of(project, new) is not None:
        raise Trouble(f"there is a clip {new!r} already", field="name", do="choose another name")

    def cut(c: Cut) -> Cut:
        return replace(c, clip=new) if c.clip == old else c

    def action(a: Action) -> Action:
        if not any(c.clip == old for s in a.sections for c in s.cuts):
            return a
        return replace(a, sections=tuple(replace(s, cuts=tuple(cut(c) for c in s.cuts)) for s in a.sections))

    locomotion = replace(
        project.locomotion,
        states=tuple(
            replace(
                s,
                clip=new if s.clip == old else s.clip,
                blend=tuple(replace(p, clip=new) if p.clip == old else p for p in s.blend),
            )
            for s in project.locomotion.states
        ),
    )
    changed = replace(
        with_clip(project, replace(clip, name=new, identity=kept_identity(clip, new)), old),
        actions=tuple(throughout(a, action) for a in project.actions),
        locomotion=locomotion,
        layers=tuple(_of_layer(y, old, new) for y in project.layers),
    )
    return Edit(changed, f"{old}: renamed {new}")


def _of_layer(layer: Layer, old: str, new: str) -> Layer:
    """A layer, with a clip that it adds to or aims by called otherwise."""
    if layer.aim is not None and any(p.clip == old for p in layer.aim.points):
        points = tuple(replace(p, clip=new) if p.clip == old else p for p in layer.aim.points)
        layer = replace(layer, aim=replace(layer.aim, points=points))
    return replace(layer, reference=new) if layer.reference == old else layer


def remove_clip(project: Project, name: str) -> Edit:
    """The project without a clip; its file stays. Raises ``Trouble`` while something plays it."""
    users = uses(project, name)
    if users:
        raise Trouble(f"{name} is played by {', '.join(users)}", field="clip", do="take it out there first")
    return Edit(replace(project, clips=tuple(c for c in project.clips if c.name != name)), f"Remove clip {name}")


def free_clip_name(project: Project, wish: str) -> str:
    """``wish``, or with a number behind it when a clip has it already."""
    name, n = wish, 2
    while clip_of(project, name) is not None:
        name, n = f"{wish}_{n}", n + 1
    return name


def add_clip(project: Project, clip: Clip, words: str) -> Edit:
    """The project with one clip more, right behind those there are."""
    return Edit(replace(project, clips=(*project.clips, clip)), words)
