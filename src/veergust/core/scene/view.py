"""Scenes made from a compiled action on a frame, and from a record of play."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import msgspec
import numpy as np

from veergust.core.kinds import SPANS
from veergust.core.model import Floor, Post
from veergust.core.motion import Array, Mesh, clip_pose, ends, forward, motion_of, quat
from veergust.core.play import (
    CompiledAction,
    CompiledProject,
    CompiledSection,
    FighterState,
    Record,
    body_matrix,
    has_platforms,
    hit_volume,
    mount_trajectory,
    moved,
    posts_left,
    posture_of,
    volumes_of,
)
from veergust.core.scene.dress import figure_mesh
from veergust.core.scene.shapes import volume_tubes
from veergust.core.scene.stand_ins import stand_ins
from veergust.core.scene.things import Body, Label, Path, Ribbon, Scene, Tube

START_FACING = 90.0
FACING = body_matrix(np.zeros(3), START_FACING)
OPEN_FLOOR = (Floor(low=(-30.0, -30.0), high=(30.0, 30.0)),)


@dataclass(frozen=True)
class Shown:
    """What a stage shows beside the figure."""

    skins: bool = True
    sweep: bool = True
    path: bool = True
    body: bool = False
    hurtboxes: bool = False
    hitboxes: bool = True
    events: bool = False


def body_at(compiled: CompiledAction, frame: int) -> Array:
    """The body's frame ``[4, 4]`` on a frame of the path, an action that starts at the origin facing +X."""
    bodies = compiled.bodies
    return np.asarray(FACING @ bodies[min(max(frame, 0), len(bodies) - 1)])


def joints_at(compiled: CompiledAction, frame: int) -> Array:
    """Joint matrices ``[J, 4, 4]`` in the world on a frame of the path."""
    section, tick = compiled.locate(frame)
    return np.asarray(body_at(compiled, frame) @ compiled.world_of(section)[tick])


def standing_scene(build: CompiledProject) -> Scene:
    """The figure as it stands in its first locomotion state, before there is any action to show."""
    if len(build.assets.skeleton) == 0:
        return Scene(floors=_level((Floor(),)))
    pose = build.locomotion_clip(build.idle_clip).at(0.0)
    joints = FACING @ forward(build.assets.skeleton, pose.rotation, pose.translation)[0]
    return Scene(bodies=(Body(joints),), floors=_level((Floor(),)))


def strike_tubes(build: CompiledProject, compiled: CompiledAction, frame: int, also_closed: bool = False) -> list[Tube]:
    """Hitboxes of the strikes open on a frame; boxes are shown as tubes along their longest side."""
    section, tick = compiled.locate(frame)
    part = compiled.sections[section]
    joints = joints_at(compiled, frame)
    return list(_shapes(build, part, tick, joints, also_closed))


def _shapes(build: CompiledProject, part: CompiledSection, tick: int, joints: Array, closed: bool) -> Iterator[Tube]:
    """The hitboxes of a section on a tick; boxes are shown as their edges."""
    for kind, box, open_ in part.shapes(tick):
        volume = hit_volume(build, box, tick, part.mirrored(tick), joints, joints, True) if open_ or closed else None
        if volume is not None:
            yield from volume_tubes(volume, kind.one, open_)


def key_frames(compiled: CompiledAction) -> list[int]:
    """Frames worth a skin: where sections start, and where strikes open and close."""
    frames: set[int] = set()
    for first, i in compiled.row_starts():
        frames.add(first)
        section = compiled.sections[i].section
        for span in (span for kind in SPANS.values() for span in kind.of(section) if kind.boxes(span)):
            frames |= {first + span.start, first + span.end}
    return sorted(f for f in frames if f < compiled.rows)


def action_scene(
    build: CompiledProject,
    compiled: CompiledAction,
    frame: int,
    shown: Shown = Shown(),
    *,
    target: float = 1.6,
    other: CompiledAction | None = None,
    struck: tuple[Array, str] | None = None,
) -> Scene:
    """An action on a frame, seen from the side: figure, skins, sweep, root path, hitboxes, and the post.

    ``other`` is a version to compare with: a skin of its same frame stands in place of the others. ``struck`` has the
    joints ``[J, 4, 4]`` of a target about where the action began, and its posture: it stands in place of the post.
    """
    stage = build.project.stage
    if not compiled.path:
        return Scene(floors=stage.floors)
    frame = min(max(frame, 0), max(compiled.rows - 1, 0))
    joints = joints_at(compiled, frame)
    ghosts = _skins(compiled, frame, other) if shown.skins or other is not None else []
    tubes = _tubes(build, compiled, frame, joints, shown)
    ribbons = _swept(build, compiled) if shown.sweep else []
    paths: tuple[Path, ...] = ()
    if shown.path:
        points = (FACING @ compiled.bodies[: compiled.total + 1])[:, :3, 3]
        if np.ptp(points, axis=0).max() > 0.01:
            paths = (Path(points + np.array([0.0, 0.006, 0.0]), "drive"),)
    paths = (*paths, *_guarded(compiled, frame))
    posts: tuple[Post, ...] = ()
    labels: tuple[Label, ...] = ()
    if shown.events:
        fired = stand_ins(build, compiled, frame, FACING)
        tubes, paths, labels = [*tubes, *fired.tubes], (*paths, *fired.paths), fired.labels
    bodies = [Body(joints)]
    if struck is not None:
        there = np.asarray(FACING @ struck[0])
        bodies.append(Body(there, "partner"))
        tubes += _hurt_tubes(build, there, struck[1])
    elif stage.posts:
        post = msgspec.structs.replace(stage.posts[0], position=(target, 0.0, 0.0))
        posts = (post,)
        labels = (*labels, Label(f"{target:.2f} m", np.array([target, -0.02, 0.25])))
    return Scene(
        bodies=tuple(bodies),
        ghosts=tuple(ghosts),
        tubes=tuple(tubes),
        ribbons=tuple(ribbons),
        paths=paths,
        labels=labels,
        floors=_level(stage.floors),
        posts=posts,
    )


ARC = 0.62
"""How far (m) from the body the arc of a guard is drawn on the floor."""


def _guarded(compiled: CompiledAction, frame: int) -> list[Path]:
    """The arcs of the guards that are up on a frame, on the floor; the part in which one deflects is drawn twice."""
    section, tick = compiled.locate(frame)
    body = body_at(compiled, frame)
    up = [s for s in compiled.sections[section].section.shields if s.start <= tick < s.end]
    out = []
    for shield in (s for s in (*up, *compiled.action.shields) if s.kind == "guard"):
        turns = np.radians(np.linspace(shield.toward - shield.arc / 2, shield.toward + shield.arc / 2, 33))
        for far in (ARC, ARC + 0.05) if tick - shield.start < shield.deflects else (ARC,):
            points = np.stack([far * np.sin(turns), np.full(len(turns), 0.008), far * np.cos(turns)], axis=-1)
            out.append(Path(points @ body[:3, :3].T + body[:3, 3], "shield", marks=False))
    return out


def _skins(compiled: CompiledAction, frame: int, other: CompiledAction | None) -> list[Body]:
    """The figure on the key frames beside a frame, or as another version has it there."""
    if other is not None and other.order:
        return [Body(joints_at(other, min(frame, other.rows - 1)), "ghost", 0.45)]
    near = [f for f in key_frames(compiled) if f != frame]
    near = sorted(sorted(near, key=lambda f: abs(f - frame))[:2])
    return [Body(joints_at(compiled, f), "ghost", 0.22) for f in near]


def _tubes(build: CompiledProject, compiled: CompiledAction, frame: int, joints: Array, shown: Shown) -> list[Tube]:
    """Hitboxes, hurtboxes and the body's capsule, as far as they are shown."""
    tubes = strike_tubes(build, compiled, frame) if shown.hitboxes else []
    if shown.hurtboxes:
        own = compiled.sections[compiled.locate(frame)[0]].section.posture
        tubes += _hurt_tubes(build, joints, own or "standing")
    if shown.body:
        tubes.append(_capsule(build, body_at(compiled, frame)[:3, 3]))
    return tubes


def _hurt_tubes(build: CompiledProject, joints: Array, posture: str) -> list[Tube]:
    """The hurtboxes of a body in the world, as it stands."""
    return [t for v in volumes_of(build.hurt_shapes[posture], joints, joints) for t in volume_tubes(v, "hurt", False)]


def _swept(build: CompiledProject, compiled: CompiledAction) -> list[Ribbon]:
    """What the weapon sweeps while a strike is open."""
    weapon, frames = build.project.rig.weapon, list(compiled.open_frames)
    if weapon is None or len(frames) < 2:
        return []
    low, high = mount_trajectory(build, compiled, weapon.base), mount_trajectory(build, compiled, weapon.tip)
    if low is None or high is None:
        return []
    return [Ribbon(low[frames] @ FACING[:3, :3].T, high[frames] @ FACING[:3, :3].T, "strike")]


def _level(floors: tuple[Floor, ...]) -> tuple[Floor, ...]:
    """A wide level floor: an action is looked at on open ground whatever the stage is."""
    return OPEN_FLOOR if floors else ()


def _capsule(build: CompiledProject, at: Array) -> Tube:
    body = build.project.rig.capsule
    low, high = np.array([0, body.radius, 0]), np.array([0, body.height - body.radius, 0])
    return Tube(at + low, at + high, body.radius, "capsule")


def record_scene(build: CompiledProject, record: Record, shown: Shown = Shown()) -> Scene:
    """A tick of play on the project's stage."""
    bodies, tubes, labels = [], [], []
    for i, fighter in enumerate(record.fighters):
        own = build.of(fighter.setup)
        joints = body_matrix(fighter.position, fighter.facing) @ fighter.joints_now
        mesh = own.ask(guest_mesh) if own is not build else None
        bodies.append(Body(joints, "body" if i == 0 else "partner", mesh=mesh))
        if shown.hitboxes:
            tubes += _open_tubes(own, fighter, joints)
        if shown.hurtboxes and not fighter.down:
            tubes += _hurt_tubes(own, joints, posture_of(own, fighter))
        if shown.body:
            tubes.append(_capsule(own, fighter.position))
    for contact in record.contacts:
        words = f"{contact.damage:g}" if contact.damage else contact.result
        labels.append(Label(words, contact.position, "strike", strong=True))
    for thing in record.world.things:
        at = np.array(thing.position)
        tubes.append(Tube(at, at, thing.thing.radius, "event", True))
    posts = posts_left(build, record.world)
    floors = build.project.stage.floors
    floors = tuple([moved(floor, record.tick) for floor in floors]) if build.ask(has_platforms) else floors
    return Scene(tuple(bodies), (), tuple(tubes), (), (), tuple(labels), floors, posts)


def guest_mesh(build: CompiledProject) -> Mesh | None:
    """What is drawn of a guest."""
    return figure_mesh(build.assets, build.project.rig)


def _open_tubes(build: CompiledProject, fighter: FighterState, joints: Array) -> list[Tube]:
    voices = fighter.live()
    return [tube for v in voices for tube in _shapes(build, v.part, v.frame, joints, False)]


def clip_scene(build: CompiledProject, name: str, frame: int) -> Scene:
    """A clip on a source frame at the tick rate, its own travel included."""
    clip = build.clip(name)
    if clip is None or motion_of(build.assets, clip) is None:
        return Scene()
    start, end = ends(build.assets, clip)
    along = frame / build.project.settings.rate * clip.rate
    pose = clip_pose(build.assets, clip, np.array([end - along if clip.reverse else start + along]))
    joints = forward(build.assets.skeleton, pose.rotation, pose.translation)[0]
    turned = np.eye(4)
    turned[:3, :3] = quat.to_matrix(quat.from_yaw(np.radians(START_FACING)))
    return Scene(bodies=(Body(turned @ joints),), floors=_level((Floor(),)))
