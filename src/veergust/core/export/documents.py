"""The documents of an export: each file by its name, whatever the disk has."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

import msgspec
import numpy as np

from veergust.core.export.actions import Json, action_out
from veergust.core.export.axes import Axes
from veergust.core.export.clips import clip_file, skeleton_in, ticks_of
from veergust.core.export.plain import full, number, numbers
from veergust.core.files.as_files import slug
from veergust.core.files.scxml_write import to_scxml
from veergust.core.kinds.identity import identity
from veergust.core.model import Clip, Hurtbox, Reaction, Stage
from veergust.core.play.compiled.hurting import place_of
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.scene.dress import figure_mesh
from veergust.core.trouble import Unknown

Made = dict[str, bytes]
"""Files by their path in the folder."""


def to_json(document: Any) -> bytes:
    """A document as its file: two spaces, in the order it was made, with a line end."""
    return msgspec.json.format(msgspec.json.encode(document), indent=2) + b"\n"


def used_clips(build: CompiledProject, actions: Iterable[str] | None = None) -> list[Clip]:
    """The clips that actions (all, or those named) and, for all, locomotion, layers and aims play."""
    project = build.project
    wanted = {c for a in project.actions if actions is None or a.name in actions for s in a.sections for c in _cut(s)}
    if actions is None:
        wanted |= {n for s in project.locomotion.states for n in (s.clip, *(p.clip for p in s.blend))}
        wanted |= {y.reference for y in project.layers}
        wanted |= {p.clip for y in project.layers if y.aim is not None for p in y.aim.points}
    return [clip for clip in project.clips if clip.name in wanted]


def _cut(section: Any) -> list[str]:
    return [cut.clip for cut in section.cuts]


def clip_paths(build: CompiledProject) -> dict[str, str]:
    """The file of every clip, by its identity: that of what it is, whatever it is called now."""
    out: dict[str, str] = {}
    for clip in build.project.clips:
        stem, n = slug(identity(clip)), 2
        while f"clips/{stem}.glb" in out.values():
            stem, n = f"{slug(identity(clip))}_{n}", n + 1
        out[identity(clip)] = f"clips/{stem}.glb"
    return out


def documents(
    build: CompiledProject,
    axes: Axes,
    only: Iterable[str] | None = None,
    *,
    mesh: bool = True,
    told: Callable[[str], object] = lambda _: None,
) -> Made:
    """Every file of an export but the manifest and the schemas; with ``only``, what these actions need.

    Raises:
        Unknown: there is no action of a name.
    """
    project = build.project
    names = None if only is None else set(only)
    for name in names or ():
        if name not in build.actions_by_name:
            raise Unknown("action", name, build.actions_by_name)
    out: Made = {}
    paths = clip_paths(build)
    skin = figure_mesh(build.assets, project.rig) if mesh else None
    for clip in used_clips(build, names):
        path = paths[identity(clip)]
        told(path)
        out[path] = clip_file(build, clip, axes, skin)
    told("actions.json")
    actions = [a for a in project.actions if names is None or a.name in names]
    made = [action_out(build, compiled, axes) for a in actions if (compiled := build.action(a.name)) is not None]
    out["actions.json"] = to_json({"actions": made, "pools": full(project.pools), "thrown": _thrown(build, axes)})
    out["clips.json"] = to_json({"clips": [_clip(build, clip, paths) for clip in used_clips(build)]})
    if names is not None:
        return out
    out["ground.json"] = to_json(full(project.locomotion, axes.scale))
    out["ground.scxml"] = to_scxml(project.locomotion, project.name)
    out["layers.json"] = to_json(_layers(build))
    out["commands.json"] = to_json(
        {"rate": project.settings.rate, "buffer": project.settings.buffer, "commands": full(project.commands)}
    )
    out["figure.json"] = to_json(_figure(build, axes))
    out["stage.json"] = to_json({"stages": [_stage(stage, axes) for stage in (project.stage, *project.stages)]})
    out["reactions.json"] = to_json(
        {
            "reactions": [{"identity": answers(r), **full(r, axes.scale)} for r in project.reactions],
            "scaling": full(project.settings.scaling),
        }
    )
    return out


def answers(reaction: Reaction) -> str:
    """The identity of a row of the reaction table: what it answers to, whatever it plays."""
    said = [reaction.situation, reaction.side, reaction.strength, reaction.region]
    said += [f"{reaction.near:g}-{'' if reaction.far is None else f'{reaction.far:g}'}"]
    said += [f"{c.test} {c.name}{c.op}{c.value:g}" for c in reaction.conditions]
    return "/".join(said)


def _clip(build: CompiledProject, clip: Clip, paths: dict[str, str]) -> Json:
    return {
        "identity": identity(clip),
        "name": clip.name,
        "file": paths[identity(clip)],
        "animation": clip.name,
        "ticks": ticks_of(build, clip),
        "loop": clip.loop,
        "tags": list(clip.tags),
        "joints": len(build.assets.skeleton),
    }


def _thrown(build: CompiledProject, axes: Axes) -> list[Json]:
    out = []
    for one in build.project.thrown:
        plain = full(one, axes.scale)
        plain["strike"]["boxes"] = []
        out.append(plain)
    return out


def _layers(build: CompiledProject) -> Json:
    bones = build.assets.skeleton.names
    return {
        "layers": [
            {**full(made.layer), "joints": {n: number(w) for n, w in zip(bones, made.mask) if w > 0.0}}
            for made in build.layers.values()
        ],
        "grips": full(build.project.grips),
    }


def _figure(build: CompiledProject, axes: Axes) -> Json:
    rig, bones = build.project.rig, skeleton_in(build.assets.skeleton, axes)
    names = build.assets.skeleton.names
    mounts = []
    for mount in rig.mounts:
        at = build.mount(mount.name)
        if at is not None:
            frame = axes.frames(at[1])
            mounts.append({"name": mount.name, "joint": names[at[0]], "frame": numbers(frame)})
    return {
        "joints": [
            {
                "name": name,
                "parent": names[parent] if parent >= 0 else None,
                "turn": numbers(bones.rest_rotation[n]),
                "place": numbers(bones.rest_translation[n]),
            }
            for n, (name, parent) in enumerate(zip(bones.names, bones.parents))
        ],
        "mounts": mounts,
        "hurtboxes": [row for box in rig.hurtboxes if (row := _hurtbox(build, box, axes)) is not None],
        "regions": full(rig.regions),
        "capsule": {
            "radius": number(axes.length(rig.capsule.radius)),
            "height": number(axes.length(rig.capsule.height)),
        },
    }


def _hurtbox(build: CompiledProject, box: Hurtbox, axes: Axes) -> Json | None:
    at = place_of(box.joint, build.assets.skeleton.index, build.mount)
    if at is None:
        return None
    joint, frame = at
    ends = np.array([box.offset, box.to]) @ frame[:3, :3].T + frame[:3, 3]
    out: Json = {
        "name": box.name,
        "joint": build.assets.skeleton.names[joint],
        "region": box.region,
        "postures": list(box.postures),
    }
    if box.size is None:
        radius = number(axes.length(box.radius))
        return out | {"shape": "capsule", "from": numbers(axes.places(ends[0])), "to": numbers(axes.places(ends[1])),
                      "radius": radius}  # fmt: skip
    turn = axes.matrix @ frame[:3, :3] @ axes.matrix.T
    return out | {"shape": "box", "middle": numbers(axes.places(ends[0])), "half": numbers(axes.halves(box.size)),
                  "turn": numbers(turn)}  # fmt: skip


def _stage(stage: Stage, axes: Axes) -> Json:
    def at(place: tuple[float, float, float]) -> Any:
        return numbers(axes.places(np.array(place)))

    floors = []
    for floor in stage.floors:
        (x0, z0), (x1, z1) = floor.low, floor.high
        top = [(x, floor.height, z) for x, z in ((x0, z0), (x1, z0), (x1, z1), (x0, z1))]
        if floor.rise:
            far = [x == x1 if floor.along == "x" else z == z1 for x, _, z in top]
            top = [(x, y + floor.rise * f, z) for (x, y, z), f in zip(top, far)]
        floors.append({"name": floor.name, "corners": [at(corner) for corner in top]})
    return {
        "name": stage.name,
        "floors": floors,
        "posts": [
            {
                "name": p.name,
                "position": at(p.position),
                "radius": number(axes.length(p.radius)),
                "height": number(axes.length(p.height)),
                "health": number(p.health),
                "falls": p.falls,
            }
            for p in stage.posts
        ],
        "fighters": [{**full(f, axes.scale), "position": at(f.position)} for f in stage.fighters],
        "put_back_below": number(axes.length(stage.put_back_below)),
    }
