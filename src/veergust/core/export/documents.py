"""The documents of an export: each file by its name, whatever the disk has."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import partial
from typing import Any, TypeVar

import msgspec
import numpy as np

from veergust.core.export.actions import Json, action_out, knockback_out
from veergust.core.export.axes import Axes
from veergust.core.export.clips import clip_file, ticks_of
from veergust.core.export.figure import figure_out
from veergust.core.export.plain import full, number, numbers
from veergust.core.export.poses import action_file, ground_file, ground_of
from veergust.core.export.sheets import sheets_out
from veergust.core.files import slug, to_scxml
from veergust.core.kinds import identity
from veergust.core.model import Action, Clip, Command, Reaction, Settings, Stage
from veergust.core.play import CompiledBlend, CompiledProject
from veergust.core.scene import figure_mesh
from veergust.core.trouble import Unknown

T = TypeVar("T")
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
        wanted |= ground_clips(build)
    return [clip for clip in project.clips if clip.name in wanted]


def ground_clips(build: CompiledProject) -> set[str]:
    """The names of the clips that locomotion, what layers add to, and aims play about the body."""
    project = build.project
    wanted = {n for s in project.locomotion.states for n in (s.clip, *(p.clip for p in s.blend))}
    wanted |= {y.reference for y in project.layers}
    return wanted | {p.clip for y in project.layers if y.aim is not None for p in y.aim.points}


def _cut(section: Any) -> list[str]:
    return [cut.clip for cut in section.cuts]


def paths_in(folder: str, things: Iterable[Clip | Action]) -> dict[str, str]:
    """A file in a folder for each of some things, by its identity: that of what it is, whatever it is called now."""
    out: dict[str, str] = {}
    for thing in things:
        stem, n = slug(identity(thing)), 2
        while f"{folder}/{stem}.glb" in out.values():
            stem, n = f"{slug(identity(thing))}_{n}", n + 1
        out[identity(thing)] = f"{folder}/{stem}.glb"
    return out


class MadeBefore:
    """Files as they were made, each with what it was made of: while that is the same thing, so is the file."""

    def __init__(self) -> None:
        self._kept: dict[str, tuple[tuple[object, ...], Any]] = {}

    def made(self, name: str, of: tuple[object, ...], make: Callable[[], T]) -> T:
        """What ``make`` gives, made anew only where anything of what it is made of is another."""
        there = self._kept.get(name)
        if there is None or len(there[0]) != len(of) or any(a is not b for a, b in zip(there[0], of)):
            there = self._kept[name] = of, make()
        return there[1]


def documents(
    build: CompiledProject,
    axes: Axes,
    only: Iterable[str] | None = None,
    *,
    mesh: bool = True,
    told: Callable[[str], object] = lambda _: None,
    clips: bool = True,
    kept: MadeBefore | None = None,
) -> Made:
    """Every file of an export but the manifest and the schemas; with ``only``, what these actions need; without
    ``clips`` none of those that are only looked at. What was made before of the same things is taken from ``kept``.

    Raises:
        Unknown: there is no action of a name.
    """
    project = build.project
    names = None if only is None else set(only)
    for name in names or ():
        if name not in build.actions_by_name:
            raise Unknown("action", name, build.actions_by_name)
    out: Made = {}
    paths = paths_in("clips", project.clips)
    skin = figure_mesh(build.assets, project.rig) if mesh else None
    once = kept if kept is not None else MadeBefore()
    for clip in used_clips(build, names) if clips else ():
        path = paths[identity(clip)]
        told(path)
        what = clip, build.assets, project.rig, axes, skin
        out[path] = once.made(path, what, partial(clip_file, build, clip, axes, skin))
    made = []
    played = paths_in("actions", project.actions)
    for action in project.actions:
        compiled = build.action(action.name) if names is None or action.name in names else None
        if compiled is not None:
            path = played[identity(action)]
            told(path)
            of = compiled, project.rig, build.assets, axes
            made.append(once.made(f"{path} row", of, partial(action_out, build, compiled, path, axes)))
            bones, rate = build.assets.skeleton, project.settings.rate
            # Poses are those of the cuts, whatever spans lie over them.
            posed = [part for section in compiled.sections for part in (section.pose, section.section.name)]
            make = partial(action_file, compiled, bones, rate, axes)
            out[path] = once.made(path, (*posed, bones, rate, axes), make)
    told("actions.json")
    out["actions.json"] = to_json({"actions": made, "pools": full(project.pools), "thrown": _thrown(build, axes)})
    ground, about = ground_clips(build), paths_in("ground", project.clips)
    rows = [_clip(build, clip, paths, about if clip.name in ground else {}, axes) for clip in used_clips(build)]
    out["clips.json"] = to_json({"clips": rows})
    if names is not None:
        return out
    for clip in project.clips:
        if clip.name in ground:
            path = about[identity(clip)]
            told(path)
            baked = build.locomotion_clip(clip.name)
            out[path] = once.made(path, (baked, axes), partial(ground_file, clip.name, baked, axes))
    moves = project.locomotion, axes
    out["ground.json"] = once.made("ground", moves, lambda: to_json(_ground(build, axes)))
    chart = project.locomotion, project.name
    out["ground.scxml"] = once.made("chart", chart, partial(to_scxml, *chart))
    layered = project.layers, project.masks, project.grips, project.locomotion, project.clips, project.rig, build.assets
    out["layers.json"] = once.made("layers", layered, lambda: to_json(_layers(build)))
    settings, commands, reactions = project.settings, project.commands, project.reactions
    out["commands.json"] = once.made("commands", (settings, commands), partial(_commands, settings, commands))
    figure = build.assets, project.rig, axes
    out["figure.json"] = once.made("figure", figure, lambda: to_json(figure_out(build, axes)))
    if project.rig.sheets:
        said, pictures = sheets_out(build)
        out |= pictures
        out["sheets.json"] = to_json(said)
    stages = project.stage, project.stages, axes
    out["stage.json"] = once.made("stage", stages, partial(_stages, *stages))
    answering = reactions, settings, axes
    out["reactions.json"] = once.made("reactions", answering, partial(_reactions, *answering))
    return out


def _commands(settings: Settings, commands: tuple[Command, ...]) -> bytes:
    return to_json({"rate": settings.rate, "buffer": settings.buffer, "commands": full(commands)})


def _stages(stage: Stage, stages: tuple[Stage, ...], axes: Axes) -> bytes:
    return to_json({"stages": [_stage(one, axes) for one in (stage, *stages)]})


def _reactions(reactions: tuple[Reaction, ...], settings: Settings, axes: Axes) -> bytes:
    rows = [{"identity": answers(r), **full(r, axes.scale)} for r in reactions]
    return to_json({"reactions": rows, "scaling": full(settings.scaling)})


def answers(reaction: Reaction) -> str:
    """The identity of a row of the reaction table: what it answers to, whatever it plays."""
    said = [reaction.situation, reaction.side, reaction.strength, reaction.region]
    said += [f"{reaction.near:g}-{'' if reaction.far is None else f'{reaction.far:g}'}"]
    said += [f"{c.test} {c.name}{c.op}{c.value:g}" for c in reaction.conditions]
    return "/".join(said)


def _clip(build: CompiledProject, clip: Clip, paths: dict[str, str], about: dict[str, str], axes: Axes) -> Json:
    path = about.get(identity(clip))
    return {
        "identity": identity(clip),
        "name": clip.name,
        "file": paths[identity(clip)],
        "animation": clip.name,
        "ticks": ticks_of(build, clip),
        "loop": clip.loop,
        "tags": list(clip.tags),
        "joints": len(build.assets.skeleton),
        "ground": None if path is None else ground_of(build.locomotion_clip(clip.name), path, axes),
    }


def _ground(build: CompiledProject, axes: Axes) -> Json:
    plain: Json = full(build.project.locomotion, axes.scale)
    for state in plain["states"]:
        blend = build.blends.get(state["name"])
        state["mesh"] = _mesh(blend) if blend is not None else None
    return plain


def _mesh(blend: CompiledBlend) -> Json:
    """How the points of a blend over two are joined."""
    return {"triangles": blend.triangles, "rim": blend.rim, "along": [number(v) for v in blend.along]}


def _thrown(build: CompiledProject, axes: Axes) -> list[Json]:
    out = []
    for one in build.project.thrown:
        plain = full(one, axes.scale)
        plain["strike"] |= {"boxes": [], "knockback": knockback_out(one.strike, axes)}
        out.append(plain)
    return out


def _layers(build: CompiledProject) -> Json:
    bones = build.assets.skeleton.names
    meshes = {aim.layer: _mesh(aim.blend) for aim in build.aims}
    return {
        "layers": [
            {
                **full(made.layer),
                "joints": {n: number(w) for n, w in zip(bones, made.mask) if w > 0.0},
                "aim_mesh": meshes.get(made.layer.name),
            }
            for made in build.layers.values()
        ],
        "grips": full(build.project.grips),
    }


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
        floors.append(
            {
                "name": floor.name,
                "corners": [at(corner) for corner in top],
                "goes": at(floor.goes),
                "takes": floor.takes,
                "rests": floor.rests,
            }
        )
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
