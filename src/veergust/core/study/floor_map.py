"""Where on the floor an action touches somebody, and on which tick first.

Places are about where the attacker started: x to its left, z ahead (m).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import groupby

import numpy as np
from numpy.typing import NDArray

from veergust.core.motion import Array, forward
from veergust.core.play import (
    CompiledAction,
    CompiledProject,
    Hurts,
    HurtShapes,
    Pieces,
    body_matrix,
    meeting,
    pieces,
    placed_hurts,
    touches,
)
from veergust.core.study.playout import Playout, play_out
from veergust.core.study.reach import ReachMove, moves_of, reach_of
from veergust.core.trouble import Trouble

Ticks = NDArray[np.int32]

STEP = 0.1
MOST_PLACES = 40_000
NEVER = -1
MARGIN = 0.3
"""What is left of untouched floor around all that is touched (m)."""
FARTHEST = 30.0
"""Maps go no farther from the start than this (m)."""
AT_ONCE = 400_000
"""So many pairs of pieces and hurtboxes are tested at a time."""
INNER, RAY = 0.8, 2.0
"""The middle of the width in which a dead corner is looked for, along rays so many degrees apart; at its rims nothing
near is touched anyhow."""


@dataclass(frozen=True)
class MapTarget:
    """Who stands on the floor and faces the attacker's start: in a ``stance`` (a ground state or an action's middle;
    empty: as locomotion begins), walking up at ``speed`` (m/s; below 0: away)."""

    stance: str = ""
    speed: float = 0.0


@dataclass(frozen=True, eq=False)
class FloorMap:
    """First touches ``[Z, X]`` in ticks from the action's start (``NEVER``: none) of a target at ``origin`` + steps.

    ``reach`` is how far straight ahead it is touched, as the facts have it (m); a body has ``room`` so far from the
    start (m). Bearings are in degrees to the left of ahead.
    """

    action: str
    target: MapTarget
    step: float
    origin: tuple[float, float]
    first: Ticks
    room: float
    reach: float | None = None

    @cached_property
    def farthest(self) -> tuple[float, float] | None:
        """The touched place farthest from the start, as (distance, bearing)."""
        away, bearing = self._polar
        touched = self.first != NEVER
        if not touched.any():
            return None
        at = np.unravel_index(int(np.argmax(np.where(touched, away, -1.0))), away.shape)
        return round(float(away[at]), 3), round(float(bearing[at]), 1)

    @property
    def width(self) -> float:
        """The angle seen from the start that holds all touched places where a body has room (degrees)."""
        return round(self._arc[1], 1)

    @cached_property
    def _polar(self) -> tuple[Array, Array]:
        """How far each cell is from the start (m), and in which bearing (degrees)."""
        x = self.origin[0] + self.step * np.arange(self.first.shape[1])[None]
        z = self.origin[1] + self.step * np.arange(self.first.shape[0])[:, None]
        return np.hypot(x, z), np.degrees(np.arctan2(x, z))

    @cached_property
    def _arc(self) -> tuple[float, float]:
        away, bearing = self._polar
        there = (self.first != NEVER) & (away >= self.room)
        return arc_of(bearing[there], np.degrees(np.arctan2(self.step / 2, away[there])))

    @cached_property
    def corner(self) -> tuple[float, float] | None:
        """(distance, bearing) up to which nothing is touched although farther out it is: the worst of the rays from the
        start through the middle of the width."""
        low, width = self._arc
        rows, columns = self.first.shape
        far = self.step / 2 * np.arange(int(2 * (self.farthest[0] if self.farthest else 0.0) / self.step) + 1)
        worst: tuple[float, float] | None = None
        for at in np.arange(low + width * (1 - INNER) / 2, low + width * (1 + INNER) / 2 + 1e-9, RAY):
            x, z = far * np.sin(np.radians(at)), far * np.cos(np.radians(at))
            row = np.rint((z - self.origin[1]) / self.step).astype(int)
            column = np.rint((x - self.origin[0]) / self.step).astype(int)
            within = (row >= 0) & (row < rows) & (column >= 0) & (column < columns)
            touched = np.zeros(len(far), dtype=bool)
            touched[within] = self.first[row[within], column[within]] != NEVER
            near = float(far[int(np.argmax(touched))]) if touched.any() else 0.0
            if worst is None or near > worst[0] + 1e-9:
                worst = near, float((at + 180.0) % 360.0 - 180.0)
        return None if worst is None or worst[0] < self.room + self.step else (round(worst[0], 2), round(worst[1], 1))

    @property
    def ticks(self) -> tuple[int, int] | None:
        """The first and the last tick of first touches; None where nothing is touched."""
        there = self.first[self.first != NEVER]
        return (int(there.min()), int(there.max())) if len(there) else None


def arc_of(bearings: Array, half: Array) -> tuple[float, float]:
    """The smallest arc (where it begins, how wide; degrees) that holds bearings ± ``half`` of each."""
    if not len(bearings):
        return 0.0, 0.0
    order = np.argsort(bearings)
    low, high = (bearings - half)[order], np.maximum.accumulate((bearings + half)[order])
    gaps = np.append(low[1:], low[0] + 360.0) - high
    widest = int(np.argmax(gaps))
    begin = float(low[(widest + 1) % len(low)])
    return begin, float(min(360.0 - max(gaps[widest], 0.0), 360.0))


def floor_map(
    build: CompiledProject,
    compiled: CompiledAction,
    target: MapTarget | None = None,
    step: float = STEP,
    played: Playout | None = None,
) -> FloorMap:
    """The floor map of an action, as large as what it can touch.

    Raises:
        Trouble: there is no such stance, or the step or the speed is out of bounds.
    """
    target = target or MapTarget()
    if not 0.01 <= step <= 2.0:
        raise Trouble(f"a step of {step:g} m makes no map", field="step", do="choose 0.01 to 2 m")
    if not abs(target.speed) <= 20.0:
        raise Trouble(f"nobody walks at {target.speed:g} m/s", field="speed", do="choose −20 to 20 m/s")
    played = played or play_out(build, compiled)
    moves = moves_of(build, compiled, played)
    body = Hurt.of(build, target.stance)
    room = 2.0 * build.project.rig.capsule.radius
    if not moves or not len(body):
        return FloorMap(compiled.action.name, target, step, (0.0, 0.0), np.full((1, 1), NEVER, np.int32), room)
    low, high = _bounds(moves, body, target.speed, build.project.settings.rate)
    first, last = np.floor(low / step), np.ceil(high / step)
    while float(np.prod(last - first + 1)) > MOST_PLACES:  # a blow that flies far is seen from afar
        step *= 2.0
        first, last = np.floor(low / step), np.ceil(high / step)
    x, z = (np.arange(first[i], last[i] + 1) * step for i in (0, 1))
    places = np.stack(np.meshgrid(x, z), axis=-1).reshape(-1, 2)
    ticks = first_touches(moves, body, places, target.speed, build.project.settings.rate).reshape(len(z), len(x))
    rows, columns = (_around(ticks != NEVER, axis, MARGIN / step) for axis in (1, 0))
    x, z, ticks = x[columns], z[rows], ticks[rows, columns]
    origin = float(round(x[0], 6)), float(round(z[0], 6))
    if target == MapTarget():
        reach = reach_of(build, compiled, played)
    else:
        middle = int(np.argmin(np.abs(x)))
        ahead = z[(z >= 0.0) & (ticks[:, middle] != NEVER) & (abs(float(x[middle])) < step / 2)]
        reach = round(float(ahead.max()), 3) if len(ahead) else None
    return FloorMap(compiled.action.name, target, step, origin, ticks, room, reach)


def _around(touched: NDArray[np.bool_], axis: int, spare: float) -> slice:
    """The rows or columns of what is touched, and some around them; all where nothing is."""
    there = np.flatnonzero(touched.any(axis=axis))
    if not len(there):
        return slice(0, 1)
    more = int(np.ceil(spare))
    return slice(max(int(there[0]) - more, 0), int(there[-1]) + more + 1)


@dataclass(frozen=True, eq=False)
class Hurt:
    """The hurtboxes of a body that stands at the origin and looks ahead, and its joints ``[J, 4, 4]``."""

    shapes: HurtShapes
    joints: Array

    @classmethod
    def of(cls, build: CompiledProject, stance: str = "") -> Hurt:
        """Those of the project's figure in a stance."""
        shapes = build.hurt_shapes[posture_in(build, stance)]
        return cls(shapes, stance_joints(build, stance) if shapes.names else np.zeros((0, 4, 4)))

    def __len__(self) -> int:
        return len(self.shapes.names)

    @cached_property
    def deep(self) -> float:
        """How far from its middle it goes over the floor (m)."""
        if not len(self):
            return 0.0
        here = [(np.eye(4), self.joints)]
        hurts = placed_hurts([self.shapes], here, here)
        return float((np.linalg.norm(hurts.ends[:, :, [0, 2]], axis=2) + hurts.radius).max())

    def at(self, before: Array, now: Array, towards: Array) -> Hurts:
        """The hurtboxes of one at each of ``P`` places, who goes from ``before`` to ``now`` and looks ``towards`` (each
        ``[P, 2]``): ``P·H`` of them."""
        sides = ([(body, self.joints) for body in _bodies(place, towards)] for place in (before, now))
        return placed_hurts([self.shapes] * len(before), *sides)


def stances(build: CompiledProject) -> list[str]:
    """What a target may stand in: the ground's states, and actions."""
    return [s.name for s in build.project.locomotion.states] + [a.name for a in build.project.actions]


def posture_in(build: CompiledProject, stance: str = "") -> str:
    """How somebody in a stance stands as far as touching goes."""
    states = build.project.locomotion.states
    state = next((s for s in states if s.name == stance), build.idle_state if not stance else None)
    if state is not None:
        return state.posture
    action = build.action(stance)
    own = action.sections[action.path[0]].section.posture if action is not None and action.path else ""
    return own or "standing"


def stance_joints(build: CompiledProject, stance: str = "") -> Array:
    """World joints ``[J, 4, 4]`` of somebody at the origin who looks ahead, in a stance.

    Raises:
        Trouble: the project has no state and no action of that name that shows anything.
    """
    state = next((s for s in build.project.locomotion.states if s.name == stance), None)
    action = build.action(stance) if stance and state is None else None
    if stance and state is None and (action is None or not action.sections or not action.path):
        near = ", ".join(stances(build)[:8])
        raise Trouble(f"there is no stance {stance!r}", field="stance", do=f"name a state or an action, as {near}")
    if action is not None and action.path:
        own: Array = action.world_of(action.path[0])
        return np.asarray(own[action.sections[action.path[0]].ticks // 2])
    clip = build.locomotion_clip(state.clip if state is not None and state.clip else build.idle_clip)
    pose = clip.at(0.0)
    return np.asarray(forward(build.assets.skeleton, pose.rotation, pose.translation)[0])


def map_of(build: CompiledProject, name: str, target: MapTarget) -> FloorMap | None:
    """The floor map of an action by its name; None when the project has none of that name."""
    compiled = build.action(name)
    return floor_map(build, compiled, target) if compiled is not None else None


def placed(build: CompiledProject, target: MapTarget, place: tuple[float, float], ticks: int) -> Array:
    """World joints ``[J, 4, 4]`` of a target that began at a place (x, z) and has walked for some ticks."""
    at = np.array([place], dtype=float)
    towards = _towards(at)
    gone = _gone(at, towards, target.speed * ticks / build.project.settings.rate)[0]
    turn = float(np.degrees(np.arctan2(towards[0, 0], towards[0, 1])))
    return np.asarray(body_matrix(np.array([gone[0], 0.0, gone[1]]), turn) @ stance_joints(build, target.stance))


def _towards(places: Array) -> Array:
    """The way to the start from places ``[P, 2]``; from the start itself, back."""
    away = np.linalg.norm(places, axis=1)
    out = -places / np.maximum(away, 1e-9)[:, None]
    out[away < 1e-9] = [0.0, -1.0]
    return np.asarray(out)


def _gone(places: Array, towards: Array, way: float) -> Array:
    """Places after going so far; nobody walks through the start."""
    far = np.minimum(way, np.linalg.norm(places, axis=1))
    return np.asarray(places + towards * far[:, None])


def _bounds(moves: Sequence[ReachMove], body: Hurt, speed: float, rate: int) -> tuple[Array, Array]:
    """The corners ``[2]`` of the floor on which anybody can be touched."""
    hits = pieces([m.volume for m in moves])
    centre, size = hits.middle, hits.size
    walked = abs(speed) * (max(m.at for m in moves) + 1) / rate
    around = size[:, None] + body.deep + walked + MARGIN
    low, high = (centre[:, [0, 2]] - around).min(axis=0), (centre[:, [0, 2]] + around).max(axis=0)
    return np.clip(low, -FARTHEST, FARTHEST), np.clip(high, -FARTHEST, FARTHEST)


def first_touches(moves: Sequence[ReachMove], body: Hurt, places: Array, speed: float, rate: int) -> Ticks:
    """The first tick on which each of ``P`` targets at ``places`` ``[P, 2]`` is touched, or ``NEVER``."""
    out = np.full(len(places), NEVER, dtype=np.int32)
    towards = _towards(places)
    for tick, group in groupby(sorted(moves, key=lambda m: m.at), key=lambda m: m.at):
        left = np.flatnonzero(out == NEVER)
        if not len(left):
            break
        hits = pieces([m.volume for m in group])
        before, now = (_gone(places[left], towards[left], speed * t / rate) for t in (tick, tick + 1.0))
        out[left[_touched(hits, body, before, now, towards[left])]] = tick
    return out


def _touched(hits: Pieces, body: Hurt, before: Array, now: Array, towards: Array) -> NDArray[np.intp]:
    """Which of ``P`` targets, going from ``before`` to ``now`` ``[P, 2]``, the pieces touch on their tick."""
    mine, size = hits.middle, hits.size
    flat = np.linalg.norm(mine[None][:, :, [0, 2]] - ((before + now) / 2)[:, None], axis=-1)
    slack = np.linalg.norm(now - before, axis=1) / 2
    near = (flat <= size + body.deep + slack[:, None]).any(axis=1)
    rows = np.flatnonzero(near)
    many = max(AT_ONCE // max(len(size) * len(body), 1), 1)
    found = [_some(hits, body, before, now, towards, rows[n : n + many]) for n in range(0, len(rows), many)]
    return np.concatenate(found) if found else rows


def _some(
    hits: Pieces, body: Hurt, before: Array, now: Array, towards: Array, rows: NDArray[np.intp]
) -> NDArray[np.intp]:
    hurts = body.at(before[rows], now[rows], towards[rows])
    piece, hurt = meeting(hits, hurts)
    if not len(piece):
        return rows[:0]
    times, _ = touches(hits, hurts, piece, hurt)
    return rows[np.unique(hurt[np.isfinite(times)] // len(body))]


def _bodies(places: Array, towards: Array) -> Array:
    """The frames ``[P, 4, 4]`` of bodies at places, which look ``towards`` (``[P, 2]`` both)."""
    out = np.tile(np.eye(4), (len(places), 1, 1))
    s, c = towards[:, 0], towards[:, 1]
    out[:, 0, 0], out[:, 0, 2], out[:, 2, 0], out[:, 2, 2] = c, s, -s, c
    out[:, 0, 3], out[:, 2, 3] = places[:, 0], places[:, 1]
    return out
