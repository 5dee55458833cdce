"""Hitboxes and hurtboxes in the world, at the last tick and now, and many of them tested at once.

A hitbox rides on the frame of its mount; between two ticks it goes along the arc that frame describes.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from veergust.core.model import Hitbox, HitboxKey
from veergust.core.motion import Array
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact import cutting

Rows = NDArray[np.intp]
PIECE = 5.0
"""The most that a straight piece of an arc turns by (degrees)."""


@dataclass(frozen=True, eq=False)
class Shape:
    """A hitbox about its mount: ends ``a`` and ``b``, ``radius``, and half extents where it is a box."""

    a: Array
    b: Array
    radius: float
    half: Array | None = None


@dataclass(frozen=True, eq=False)
class Volume:
    """A capsule or box at the last tick and now: its mount's frames ``[4, 4]`` and its shapes about them."""

    name: str
    frame_before: Array
    frame_now: Array
    shape_before: Shape
    shape_now: Shape

    @property
    def before(self) -> tuple[Array, Array]:
        """Its ends in the world at the last tick."""
        return _point(self.frame_before, self.shape_before.a), _point(self.frame_before, self.shape_before.b)

    @property
    def now(self) -> tuple[Array, Array]:
        """Its ends in the world now."""
        return _point(self.frame_now, self.shape_now.a), _point(self.frame_now, self.shape_now.b)

    @property
    def radius(self) -> float:
        """Its radius now."""
        return self.shape_now.radius

    @property
    def half(self) -> Array | None:
        """Its half extents now, where it is a box."""
        return self.shape_now.half

    def holds(self, points: Array) -> NDArray[np.bool_]:
        """Which of ``[N, 3]`` points in the world lie in it now."""
        if self.half is not None:
            frame = self.box_frame
            return np.asarray((np.abs((points - frame[:3, 3]) @ frame[:3, :3]) <= self.half).all(axis=1))
        a, b = self.now
        t = np.clip((points - a) @ (b - a) / max(float((b - a) @ (b - a)), 1e-12), 0.0, 1.0)
        return np.asarray(np.linalg.norm(points - a - t[:, None] * (b - a), axis=1) <= self.radius)

    def samples(self, count: int) -> Array:
        """About so many points in it now, evenly spread and the same every time: ``[N, 3]``."""
        a, b = self.now
        spare = np.full(3, self.radius) if self.half is None else np.abs(self.box_frame[:3, :3]) @ self.half
        low, high = np.minimum(a, b) - spare, np.maximum(a, b) + spare
        edge = max(float(np.prod(high - low) / count) ** (1 / 3), 1e-4)
        for _ in range(4):
            axes = [np.arange(lo + edge / 2, max(hi, lo + edge), edge) for lo, hi in zip(low, high)]
            grid = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, 3)
            inside = grid[self.holds(grid)]
            if len(inside) >= count / 2:
                return inside
            edge *= max((max(len(inside), 1) / count) ** (1 / 3), 0.4)
        return inside if len(inside) else np.stack([a, b])

    @property
    def box_frame(self) -> Array:
        """Where a box stands now: its mount's frame, moved to its middle."""
        out = self.frame_now.copy()
        out[:3, 3] = self.now[0]
        return out


def shape_at(box: Hitbox, tick: int, mirrored: bool = False) -> Shape:
    """A hitbox on a tick of its strike, by its keys where it has any."""
    return _shape_at(box, tick if box.keys else 0, mirrored)


@lru_cache(maxsize=1024)
def _shape_at(box: Hitbox, tick: int, mirrored: bool) -> Shape:
    flip = np.array([-1.0, 1.0, 1.0]) if mirrored else np.ones(3)
    capsule = box.shape == "capsule"
    a, b, radius = np.array(box.offset), np.array(box.to if capsule else box.offset), box.radius
    half = np.array(box.size)
    if box.keys:
        one, two, part = between_keys(box, tick)
        a = b = _mixed(np.array(one.offset), np.array(two.offset), part)
        b = _mixed(np.array(one.to), np.array(two.to), part) if capsule else a
        radius = one.radius + (two.radius - one.radius) * part
        half = _mixed(_half_of(box, one), _half_of(box, two), part)
    if box.shape != "box":
        return Shape(a * flip, b * flip, radius)
    return Shape(a * flip, a * flip, radius, half)


def between_keys(box: Hitbox, tick: int) -> tuple[HitboxKey, HitboxKey, float]:
    """The keys of a hitbox on either side of a tick, and how far (0…1) it has gone from the one to the other."""
    after = bisect_right(box.keys, tick, key=lambda k: k.tick)
    one, two = box.keys[max(after - 1, 0)], box.keys[min(after, len(box.keys) - 1)]
    part = (tick - one.tick) / (two.tick - one.tick) if one.tick < tick < two.tick else 0.0
    if one.ease == "hold":
        part = 0.0
    elif one.ease == "eased":
        part = part * part * (3.0 - 2.0 * part)
    return one, two, part


def leaps(box: Hitbox, tick: int) -> bool:
    """Whether a hitbox comes to a key on this tick that it held off from until then: between the two it never was."""
    after = bisect_right(box.keys, tick, key=lambda k: k.tick)
    return after > 1 and box.keys[after - 1].tick == tick and box.keys[after - 2].ease == "hold"


def _mixed(one: Array, two: Array, part: float) -> Array:
    return np.asarray(one + (two - one) * part)


def _half_of(box: Hitbox, key: HitboxKey) -> Array:
    """The half extents of a box on a key: its own, else as large as its radius says in proportion."""
    if key.size is not None:
        return np.array(key.size)
    return np.array(box.size) * (key.radius / box.radius if box.radius > 0.0 else 1.0)


def box_frame(build: CompiledProject, box: Hitbox, joints: Array, mirrored: bool) -> Array | None:
    """The frame ``[4, 4]`` of a hitbox's mount in the body, of joints ``[J, 4, 4]``."""
    mount = build.mount(box.mount, mirrored)
    return None if mount is None else np.asarray(joints[mount[0]] @ mount[1])


def _point(frame: Array, at: Array) -> Array:
    return np.asarray(frame[:3, :3] @ at + frame[:3, 3])


def hit_volume(
    build: CompiledProject, box: Hitbox, tick: int, mirrored: bool, before: Array, now: Array, fresh: bool
) -> Volume | None:
    """A hitbox in the world from world joint matrices at the last tick and now; ``fresh`` ones have not moved."""
    start_frame, end_frame = box_frame(build, box, before, mirrored), box_frame(build, box, now, mirrored)
    if start_frame is None or end_frame is None:
        return None
    return swept(box, tick, mirrored, start_frame, end_frame, fresh)


def swept(box: Hitbox, tick: int, mirrored: bool, before: Array, now: Array, fresh: bool) -> Volume:
    """A hitbox whose mount has the frames ``before`` and ``now`` ``[4, 4]``, as ``hit_volume``."""
    shape = shape_at(box, tick, mirrored)
    was = shape if fresh or not box.keys or leaps(box, tick) else shape_at(box, tick - 1, mirrored)
    return Volume(box.mount, now if fresh else before, now, was, shape)


@dataclass(frozen=True, eq=False)
class Pieces:
    """Hitboxes cut into ``K`` straight pieces: whose each is ``[K]``, when in the tick it begins and ends ``[2, K]``,
    its ends at both ``[4, K, 3]``, radii ``[2, K]``, half extents ``[2, K, 3]`` and frames ``[2, K, 4, 4]``, which are
    boxes ``[K]``, and the balls around all that each sweeps: middles ``[K, 3]`` and radii ``[K]``."""

    owner: Rows
    times: Array
    ends: Array
    radii: Array
    half: Array
    frames: Array
    middle: Array
    size: Array
    boxes: NDArray[np.uint8]


def pieces(volumes: Sequence[Volume]) -> Pieces:
    """Cut hitboxes along their arcs into pieces that turn by at most ``PIECE`` degrees."""
    sides = [v.shape_before for v in volumes], [v.shape_now for v in volumes]
    none = np.zeros(3)
    made = cutting.cut(
        np.array([[v.frame_before for v in volumes], [v.frame_now for v in volumes]]),
        np.array([end for side in sides for end in ([s.a for s in side], [s.b for s in side])]),
        np.array([[s.radius for s in side] for side in sides], dtype=float),
        np.array([[none if s.half is None else s.half for s in side] for side in sides]),
        PIECE,
    )
    return Pieces(*made, np.array([v.half is not None for v in volumes], dtype=np.uint8)[made[0]])
