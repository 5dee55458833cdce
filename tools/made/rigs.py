"""The capture's creature on figures of several families, with its body's way where their makers put it.

Hips on top, a root above them, a turned and moved node above all, and both of these. Joints are worked out by SciPy's
rotations, not by the program.
"""

from __future__ import annotations

from dataclasses import replace as changed
from functools import lru_cache

import numpy as np
from msgspec.structs import replace
from scipy.spatial.transform import Rotation

from tools.made.captures import BONES, NAMES, ORDER, Capture, blow, capture, gait, stagger
from tools.made.edits import WIDE
from veergust.core.edit.usual import usual_set
from veergust.core.model import (
    Action,
    Clip,
    Command,
    Cut,
    Fighter,
    Layer,
    Mask,
    Project,
    Rig,
    Section,
    Stage,
    StartRule,
)
from veergust.core.motion.figure import Assets
from veergust.core.motion.sampling import Motion, Track
from veergust.core.motion.skeleton import Skeleton
from veergust.core.play.compiled.project import CompiledProject

WHO = "Somebody"
Node = tuple[str, Rotation, np.ndarray]
ROOT: Node = ("Root", Rotation.identity(), np.zeros(3))
STAND: Node = ("Stand", Rotation.from_euler("XYZ", [-90.0, 0.0, 35.0], degrees=True), np.array([0.7, 0.4, -1.1]))
FAMILIES: dict[str, tuple[Node, ...]] = {
    "hips on top": (),
    "a root above them": (ROOT,),
    "a turned node above all": (STAND,),
    "a turned node above a root": (STAND, ROOT),
}


def figure(family: str) -> Skeleton:
    """The creature at rest under the nodes of a family: it stands where it stands without them."""
    turn, place = above(family)
    nodes = FAMILIES[family]
    turns = [r.as_quat() for _, r, _ in nodes] + [turn.inv().as_quat()] + [[0, 0, 0, 1.0]] * (len(BONES) - 1)
    places = [p for _, _, p in nodes]
    places.append(turn.inv().apply(np.array(BONES[0][2]) / 100.0 - place))
    places += [np.array(offset) / 100.0 for _, _, offset in BONES[1:]]
    count = len(nodes)
    parents = [*range(-1, count - 1), count - 1, *(count + NAMES.index(p) for _, p, _ in BONES[1:])]
    names = (*(n for n, _, _ in nodes), *NAMES)
    return Skeleton(names, tuple(parents), np.array(turns, dtype=float), np.array(places))


def above(family: str) -> tuple[Rotation, np.ndarray]:
    """How the nodes of a family stand in the world at rest."""
    turn, place = Rotation.identity(), np.zeros(3)
    for _, own, at in FAMILIES[family]:
        place, turn = place + turn.apply(at), turn * own
    return turn, place


def motion(family: str, taken: Capture, name: str, by_root: bool = False) -> Motion:
    """A capture on a figure: carried by its hips, or ``by_root``, that goes under them on the floor and turns."""
    bones = figure(family)
    at = np.arange(len(taken.hips)) / taken.fps
    spin = Rotation.from_euler(ORDER, taken.turns[:, 0][:, [2, 1, 0]], degrees=True)
    turn, place = above(family)
    tracks = []
    if by_root and FAMILIES[family] and FAMILIES[family][-1][0] == "Root":
        over, over_at = turn * ROOT[1].inv(), place - turn.apply(ROOT[2])
        yaw = Rotation.from_euler("Y", taken.turns[:, 0, 2:], degrees=True)
        floor = taken.hips * [1.0, 0.0, 1.0]
        # The root's rest is the node's; what it adds to that is the way on the floor.
        root_turn, root_at = yaw * turn, floor + yaw.apply(place)
        root = bones.index["Root"]
        tracks.append(Track(root, "rotation", "LINEAR", at, (over.inv() * root_turn).as_quat()))
        tracks.append(Track(root, "translation", "LINEAR", at, over.inv().apply(root_at - over_at)))
        own, own_at = root_turn.inv() * spin, root_turn.inv().apply(taken.hips - root_at)
    else:
        own, own_at = turn.inv() * spin, turn.inv().apply(taken.hips - place)
    hips = bones.index["Hip"]
    tracks.append(Track(hips, "rotation", "LINEAR", at, own.as_quat()))
    tracks.append(Track(hips, "translation", "LINEAR", at, own_at))
    for j, bone in enumerate(NAMES[1:], 1):
        turned = Rotation.from_euler(ORDER, taken.turns[:, j][:, [2, 1, 0]], degrees=True)
        tracks.append(Track(bones.index[bone], "rotation", "LINEAR", at, turned.as_quat()))
    return Motion(name, taken.seconds, taken.fps, tuple(tracks))


def shot_from(taken: Capture, away: tuple[float, float], turned: float) -> Capture:
    """The same capture with the cameras elsewhere: turned about the origin, then so far away."""
    spin = Rotation.from_euler("Y", turned, degrees=True)
    turns = taken.turns.copy()
    turns[:, 0, 2] += turned
    return changed(taken, hips=spin.apply(taken.hips) + np.array([away[0], 0.0, away[1]]), turns=turns)


@lru_cache(4)
def shots(quiet: bool = False) -> dict[str, Capture]:
    """What was captured of the creature: it walks and lunges, walks, runs, strikes, is struck."""
    noise = 0.0 if quiet else 1.0
    return {
        "lunge": capture(noise=noise),
        "walk": gait(1.2, 1.1, 0.6, noise=noise),
        "run": gait(4.0, 1.6, 0.33, high=0.84, lift=0.16, turned=-20.0, noise=noise),
        "blow": blow(),
        "stagger": stagger(),
    }


@lru_cache(64)
def project_of(
    family: str,
    away: tuple[float, float] = (0.0, 0.0),
    turned: float = 0.0,
    parts: tuple[tuple[str, float, float], ...] = (),
) -> tuple[Project, Assets]:
    """A project of a family's figure with all captures shot from somewhere, locomotion made of them, and an action of
    each of some ``parts`` (capture, from, to in s): on the whole body (``0`` …) and from the waist up (``up 0`` …)."""
    bones = figure(family)
    taken = {name: shot_from(c, away, turned) for name, c in shots().items()}
    motions = {(f"{n}.glb", n): motion(family, c, n) for n, c in taken.items()}
    assets = Assets(bones, None, motions)
    commands = tuple(Command(name=n) for n in _names(parts))
    project = Project(
        name="shot",
        rig=Rig(figure="stand.glb", hips="Hip", root="Root" if "Root" in bones.index else ""),
        clips=tuple(Clip(name=n, file=f"{n}.glb", animation=n) for n in taken),
        stage=Stage(floors=WIDE, fighters=(Fighter(name=WHO, plays="keys"),)),
        commands=commands,
        masks=(Mask(name="up", joint="Waist", feather=1),),
        layers=(Layer(name="Body"), Layer(name="Up", mask="up", space="body")),
    )
    project = replace(
        project, clips=(replace(project.clips[3], name="stand", start=0.0, end=0.3, loop=True), *project.clips)
    )
    build = CompiledProject(project, assets)
    project = usual_set(build, {"idle": "stand", "walk": "walk", "run": "run"}).project
    actions = [
        Action(
            name=f"{layer}{n}",
            layer="Up" if layer else "Body",
            sections=(Section(name="All", cuts=(Cut(clip=clip, start=a, end=b),)),),
            start=StartRule(commands=(f"{layer}{n}",)),
        )
        for layer in ("", "up ")
        for n, (clip, a, b) in enumerate(parts)
    ]
    return replace(project, actions=tuple(actions)), assets


def _names(parts: tuple[tuple[str, float, float], ...]) -> list[str]:
    return [f"{layer}{n}" for layer in ("", "up ") for n in range(len(parts))]
