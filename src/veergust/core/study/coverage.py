"""What a strike covers of what strikes, and how fast the weapon's tip goes."""

from __future__ import annotations

import weakref
from collections.abc import Callable
from typing import Any

import numpy as np

from veergust.core.motion import Array, feet_of, hangs_on, hips_of
from veergust.core.play import (
    CompiledAction,
    CompiledProject,
    CompiledSection,
    Volume,
    active,
    hit_volume,
    mount_trajectory,
)
from veergust.core.study.pops import Leap, row_steps
from veergust.core.study.striking import Striking, striking

HARDLY = 1e-4
"""Every part counts for at least this much of a way (m), so that of what stands still all parts count the same."""
WAY, ROOM, STIRS, FILLING = 4, 0.04, 1.0, 160
"""Where something strikes is within so much (m) of so many places of its way on a tick, if it goes so fast (m/s); and
so many points of a hitbox are asked."""
RAISED = 0.26
"""A foot that strikes is raised by this share of a leg's length."""
MOST_SHARES = 640
"""So many shares are kept."""


Work = Callable[[CompiledProject, CompiledAction, int, int], float | None]


class Same:
    """Something large that is equal only to itself, and is not kept: when nobody else has it, it is like nothing."""

    def __init__(self, thing: Any) -> None:
        self._mark = id(thing)
        self._gone: Any = None
        try:
            self._there: Callable[[], Any] = weakref.ref(thing)
        except TypeError:  # something small, or nothing: that is kept
            self._there, self._gone = (lambda: thing), self

    @property
    def thing(self) -> Any:
        """It, as long as somebody has it."""
        return self._there()

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Same) or self._mark != other._mark:
            return False
        thing = self._there()
        return self is other or (thing is not self._gone and thing is other._there())

    def __hash__(self) -> int:
        return self._mark


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
        return self._of(covered, build, compiled, section, tick)

    def excess(self, build: CompiledProject, compiled: CompiledAction, section: int, tick: int) -> float | None:
        """As ``excess``."""
        return self._of(excess, build, compiled, section, tick)

    def _of(
        self, work: Work, build: CompiledProject, compiled: CompiledAction, section: int, tick: int
    ) -> float | None:
        part = compiled.sections[section]
        open_ = tuple(part.section.strikes[i].boxes for i in active(part.section.strikes, tick))
        if not open_:
            return None
        key = (work, Same(compiled.world_of(section)), tick, part.mirrored(tick), Same(build.project.rig), open_)
        if key not in self._shares:
            if len(self._shares) > MOST_SHARES:
                self._shares.clear()
            self._shares[key] = work(build, compiled, section, tick)
        return self._shares[key]


def covered(build: CompiledProject, compiled: CompiledAction, section: int, tick: int) -> float | None:
    """The share of what strikes, by how far each part of it goes on the tick, that open hitboxes cover; None when no
    strike is open, or its hitboxes ride on nothing."""
    # What is drawn strikes where it is drawn: there is no limb of which it covers a share.
    drawn = build.assets.skeleton.picture >= 0
    found = None if drawn else sweep_of(build, compiled, section, tick)
    if found is None:
        return None
    points, far, volumes = found
    inside = np.any([v.holds(points) for v in volumes], axis=0) if volumes else np.zeros(len(points), dtype=bool)
    return float((inside * far).sum() / far.sum())


def excess(build: CompiledProject, compiled: CompiledAction, section: int, tick: int) -> float | None:
    """The share of open hitboxes in which nothing that strikes moves on the tick; None where ``covered`` is."""
    found = sweep_of(build, compiled, section, tick)
    if found is None or not found[2]:
        return None
    from scipy.spatial import KDTree

    part, world = compiled.sections[section], compiled.world_of(section)
    rate, last = build.project.settings.rate, max(tick - 1, 0)
    samples = np.concatenate([v.samples(FILLING) for v in found[2]])
    near = np.zeros(len(samples), dtype=bool)
    for what in _strikings(build, part, tick):
        now, before = what.at(world[tick]), what.at(world[last])
        moving = np.linalg.norm(now - before, axis=1) * rate >= STIRS
        if moving.any():
            t = np.linspace(0.0, 1.0, WAY)[:, None, None]
            way = (before[moving] + (now - before)[moving] * t).reshape(-1, 3)
            near |= KDTree(way).query(samples, distance_upper_bound=what.thick + ROOM)[0] < np.inf
    return float(1.0 - near.mean())


def sweep_of(
    build: CompiledProject, compiled: CompiledAction, section: int, tick: int
) -> tuple[Array, Array, list[Volume]] | None:
    """What strikes on a tick: points ``[N, 3]`` about the body, how far each goes ``[N]``, and the open hitboxes."""
    part, world = compiled.sections[section], compiled.world_of(section)
    what = _strikings(build, part, tick)
    if not what:
        return None
    now = np.concatenate([w.at(world[tick]) for w in what])
    other = max(tick - 1, 0) if tick > 0 else min(1, part.ticks - 1)
    far = np.linalg.norm(now - np.concatenate([w.at(world[other]) for w in what]), axis=1)
    far = far + HARDLY
    strikes, turned = part.section.strikes, part.mirrored(tick)
    boxes = [box for i in active(strikes, tick) for box in strikes[i].boxes]
    made = (hit_volume(build, box, tick, turned, world[tick], world[tick], True) for box in boxes)
    return now, far, [v for v in made if v is not None]


def _strikings(build: CompiledProject, part: CompiledSection, tick: int) -> list[Striking]:
    """All that strikes on a tick, each once, however many hitboxes ride on it: a hand is part of its forearm."""
    strikes, turned = part.section.strikes, part.mirrored(tick)
    mounts = dict.fromkeys(box.mount for i in active(strikes, tick) for box in strikes[i].boxes)
    if not mounts and active(strikes, tick) and build.project.rig.weapon is not None:
        mounts = {build.project.rig.weapon.base: None}
    found = [s for m in mounts if (s := striking(build, m, turned)) is not None]
    if len(found) < 2:
        return found
    joints = [frozenset(s.joints.tolist()) for s in found]
    # Of two that are the same the first.
    whole = [all(not own <= other or (own == other and i <= j) for j, other in enumerate(joints) if j != i)
             for i, own in enumerate(joints)]  # fmt: skip
    return [s for s, is_whole in zip(found, whole) if is_whole]
