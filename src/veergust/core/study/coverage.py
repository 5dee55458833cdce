"""What a strike covers of the weapon, and how fast the weapon's tip goes."""

from __future__ import annotations

from typing import Any

import numpy as np

from veergust.core.model import Hitbox
from veergust.core.motion.feet import feet_of, hangs_on, hips_of
from veergust.core.motion.quat import Array
from veergust.core.play.compiled.action import CompiledAction
from veergust.core.play.compiled.mounts import mount_trajectory
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.compiled.section import active
from veergust.core.play.contact.volumes import box_frame, hit_volume
from veergust.core.study.pops import Leap, row_steps

SAMPLES = 33
RAISED = 0.26
"""A foot that strikes is raised by this share of a leg's length."""
MOST_SHARES = 160
"""So many shares are kept; each keeps the poses it was worked out from."""


class Same:
    """Something large that counts as equal only to itself, and is kept from being forgotten."""

    def __init__(self, thing: Any) -> None:
        self.thing = thing

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Same) and other.thing is self.thing

    def __hash__(self) -> int:
        return id(self.thing)


def tip_speed(build: CompiledProject, compiled: CompiledAction) -> Array:
    """Speed (m/s) on each row of the sheet of the weapon's tip, or of the fastest mount of who carries none.

    The body's own travel is in it.
    """
    return np.asarray(np.max([np.zeros(compiled.rows), *_speeds(build, compiled).values()], axis=0))


def _speeds(build: CompiledProject, compiled: CompiledAction) -> dict[str, Array]:
    rig, out = build.project.rig, {}
    for mount in [rig.weapon.tip] if rig.weapon else [m.name for m in rig.mounts]:
        way = mount_trajectory(build, compiled, mount) if compiled.path else None
        if way is not None and len(way):
            steps = np.linalg.norm(np.diff(way, axis=0), axis=-1) * build.project.settings.rate
            out[mount] = np.concatenate([[0.0], steps])
    return out


def striking_mount(build: CompiledProject, compiled: CompiledAction, start: int, end: int) -> str:
    """The mount of the limb or weapon that strikes on rows ``[start, end)``: the one that goes fastest about the hips
    and away from them. A foot that only steps does not, and whoever strikes with a hand that holds the weapon strikes
    with that. None where the rig has no mounts."""
    rig, bones = build.project.rig, build.assets.skeleton
    hips = bones.names[build.roots.hips] if len(bones) else ""
    middle = mount_trajectory(build, compiled, hips) if compiled.path else None
    names = dict.fromkeys([*([rig.weapon.tip] if rig.weapon else []), *(m.name for m in rig.mounts)])
    rows, best, found = slice(max(start - 1, 0), end + 1), 0.0, ""
    for name in names:
        way = mount_trajectory(build, compiled, name) if middle is not None else None
        if way is None or middle is None or len(way[rows]) < 2 or _steps_only(build, name, way, rows):
            continue
        about = (way - middle)[rows]
        speed = np.linalg.norm(np.diff(about, axis=0), axis=-1)
        outward = np.diff(np.linalg.norm(about * [1.0, 0.3, 1.0], axis=-1)) > -0.25 * speed
        fast = float(np.where(outward, speed, 0.5 * speed).max())
        if fast > best:
            best, found = fast, name
    return _weapon_or(build, found) if found else next(iter(names), "")


def _steps_only(build: CompiledProject, mount: str, way: Array, rows: slice) -> bool:
    """Whether a mount is on a foot that is not raised to strike on some rows of its way ``[N, 3]``."""
    there = build.mount(mount)
    bones = build.assets.skeleton
    feet = feet_of(bones)
    if there is None or not any(hangs_on(bones, there[0], foot) for foot in feet):
        return False
    leg = float(bones.rest_world[hips_of(bones), 1, 3] - bones.rest_world[list(feet), 1, 3].min())
    return bool(float(way[rows, 1].max()) - float(way[:, 1].min()) < RAISED * leg)


def _weapon_or(build: CompiledProject, mount: str) -> str:
    """The weapon's base for a mount on the weapon, or on the hand that holds it; else the mount."""
    weapon, there = build.project.rig.weapon, build.mount(mount)
    held = build.mount(weapon.base) if weapon is not None else None
    if weapon is None or there is None or held is None:
        return mount
    bones = build.assets.skeleton
    near = {held[0], bones.parents[held[0]]}
    return weapon.base if mount in (weapon.base, weapon.tip) or there[0] in near else mount


def swing_of(build: CompiledProject) -> Swing:
    """The swing of a build's actions; every build renewed from one shares it."""
    swing: Swing = build.memo.setdefault("swing", Swing())
    return swing


class Swing:
    """The tip's speed and the covered shares of actions, by the poses that they come from."""

    def __init__(self) -> None:
        self._speed: tuple[tuple[object, ...], Array] = ((), np.zeros(0))
        self._steps: tuple[tuple[object, ...], tuple[Array, list[Leap]]] = ((), (np.zeros(0), []))
        self._shares: dict[tuple[object, ...], float | None] = {}

    def speed(self, build: CompiledProject, compiled: CompiledAction) -> Array:
        """As ``tip_speed``."""
        under = (Same(build.project.rig), Same(compiled.bodies), *(Same(s.pose) for s in compiled.sections))
        if self._speed[0] != under:
            self._speed = (under, tip_speed(build, compiled))
        return self._speed[1]

    def steps(self, compiled: CompiledAction) -> tuple[Array, list[Leap]]:
        """As ``row_steps``."""
        under = (Same(compiled.bodies), *(Same(compiled.world_of(i)) for i in compiled.order))
        if self._steps[0] != under:
            self._steps = (under, row_steps(compiled))
        return self._steps[1]

    def share(self, build: CompiledProject, compiled: CompiledAction, section: int, tick: int) -> float | None:
        """As ``covered``."""
        part = compiled.sections[section]
        open_ = tuple(part.section.strikes[i].boxes for i in active(part.section.strikes, tick))
        key = (Same(compiled.world_of(section)), tick, part.mirrored(tick), Same(build.project.rig), open_)
        if key not in self._shares:
            if len(self._shares) > MOST_SHARES:
                self._shares.clear()
            self._shares[key] = covered(build, compiled, section, tick)
        return self._shares[key]


def covered(build: CompiledProject, compiled: CompiledAction, section: int, tick: int) -> float | None:
    """The share of the weapon's line that open hitboxes cover on a tick; None when no strike is open."""
    part = compiled.sections[section]
    weapon = build.project.rig.weapon
    open_ = active(part.section.strikes, tick)
    if not open_ or weapon is None:
        return None
    joints, turned = compiled.world_of(section)[tick], part.mirrored(tick)
    base, tip = (box_frame(build, Hitbox(mount=m), joints, turned) for m in (weapon.base, weapon.tip))
    if base is None or tip is None:
        return None
    line = base[:3, 3] + (tip[:3, 3] - base[:3, 3]) * np.linspace(0, 1, SAMPLES)[:, None]
    inside = np.zeros(SAMPLES, dtype=bool)
    for i in open_:
        for box in part.section.strikes[i].boxes:
            volume = hit_volume(build, box, tick, turned, joints, joints, True)
            if volume is None:
                continue
            if volume.half is not None:
                frame = volume.box_frame
                local = (line - frame[:3, 3]) @ frame[:3, :3]
                inside |= (np.abs(local) <= volume.half).all(axis=1)
                continue
            a, b = volume.now
            ab = b - a
            t = np.clip((line - a) @ ab / max(float(ab @ ab), 1e-12), 0.0, 1.0)
            inside |= np.linalg.norm(line - (a + t[:, None] * ab), axis=1) <= volume.radius
    return float(inside.mean())
