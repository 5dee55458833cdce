"""Hitboxes and hurtboxes in the world, at the last tick and now, and many of them tested at once.

A hitbox rides on the frame of its mount; between two ticks it goes along the arc that frame describes.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from veergust.core.model import Hitbox, HitboxKey, Hurtbox
from veergust.core.motion import quat
from veergust.core.motion.quat import Array
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact.sweep import PIECE, first_touch, first_touch_box

Ends = tuple[Array, Array, Array, Array]
Rows = NDArray[np.intp]


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
    was = shape if fresh or not box.keys else shape_at(box, tick - 1, mirrored)
    return Volume(box.mount, now if fresh else before, now, was, shape)


def hurt_volume(build: CompiledProject, hurtbox: Hurtbox, before: Array, now: Array) -> Volume | None:
    """A hurtbox in the world from world joint matrices at the last tick and now."""
    joint = build.assets.skeleton.index.get(hurtbox.joint)
    if joint is None:
        return None
    shape = Shape(np.array(hurtbox.offset), np.array(hurtbox.to), hurtbox.radius)
    return Volume(hurtbox.name, before[joint], now[joint], shape, shape)


@dataclass(frozen=True, eq=False)
class Pieces:
    """Hitboxes cut into ``K`` straight pieces: whose each is, when in the tick it begins and ends, its ends, radii,
    half extents (boxes) and frames at both."""

    owner: Rows
    begins: Array
    ends: Array
    capsule: Ends
    radius: tuple[Array, Array]
    half: tuple[Array, Array]
    frames: tuple[Array, Array]
    boxes: NDArray[np.bool_]


def pieces(volumes: Sequence[Volume]) -> Pieces:
    """Cut hitboxes along their arcs into pieces that turn by at most ``PIECE`` degrees."""
    first = np.stack([v.frame_before for v in volumes])
    last = np.stack([v.frame_now for v in volumes])
    spin, angle, axis = _turns(first, last)
    # A ball about its mount's own origin turns without being seen to; a slide needs no pieces.
    count = np.maximum(np.ceil(np.degrees(angle) / PIECE - 1e-9), 1.0).astype(np.intp)
    owner = np.repeat(np.arange(len(volumes)), count)
    at = np.arange(len(owner)) - np.repeat(np.cumsum(count) - count, count)
    t0, t1 = at / count[owner], (at + 1) / count[owner]
    shapes = [(v.shape_before, v.shape_now) for v in volumes]
    a0, b0 = np.stack([s.a for s, _ in shapes]), np.stack([s.b for s, _ in shapes])
    a1, b1 = np.stack([s.a for _, s in shapes]), np.stack([s.b for _, s in shapes])
    r0, r1 = np.array([s.radius for s, _ in shapes]), np.array([s.radius for _, s in shapes])
    none = np.zeros(3)
    h0 = np.stack([none if s.half is None else s.half for s, _ in shapes])
    h1 = np.stack([none if s.half is None else s.half for _, s in shapes])

    def between(x: Array, y: Array, t: Array) -> Array:
        k = t if x.ndim == 1 else t[:, None]
        return np.asarray(x[owner] + (y - x)[owner] * k)

    both = _on_arc(first, last, spin, angle, axis, np.concatenate([owner, owner]), np.concatenate([t0, t1]))
    frames = both[: len(owner)], both[len(owner) :]

    def placed(frame: Array, local: Array) -> Array:
        return np.asarray((frame[:, :3, :3] @ local[:, :, None])[:, :, 0] + frame[:, :3, 3])

    capsule = (
        placed(frames[0], between(a0, a1, t0)),
        placed(frames[0], between(b0, b1, t0)),
        placed(frames[1], between(a0, a1, t1)),
        placed(frames[1], between(b0, b1, t1)),
    )
    return Pieces(
        owner,
        t0,
        t1,
        capsule,
        (between(r0, r1, t0), between(r0, r1, t1)),
        (between(h0, h1, t0), between(h0, h1, t1)),
        (frames[0], frames[1]),
        np.array([v.half is not None for v in volumes])[owner],
    )


def _turns(first: Array, last: Array) -> tuple[Array, Array, Array]:
    """The turns ``[V, 3, 3]`` from frame to frame, their angles ``[V]`` (radians) and axes ``[V, 3]``."""
    spin = last[:, :3, :3] @ np.swapaxes(first[:, :3, :3], 1, 2)
    skew = np.stack([spin[:, 2, 1] - spin[:, 1, 2], spin[:, 0, 2] - spin[:, 2, 0], spin[:, 1, 0] - spin[:, 0, 1]], -1)
    sine = np.linalg.norm(skew, axis=-1) / 2.0
    cosine = (np.trace(spin, axis1=1, axis2=2) - 1.0) / 2.0
    angle = np.arctan2(sine, cosine)
    axis = skew / np.maximum(2.0 * sine, 1e-12)[:, None]
    half_turn = (sine < 1e-6) & (cosine < 0.0)
    for i in np.flatnonzero(half_turn):  # about the axis that the turn leaves where it is
        column = (spin[i] + np.eye(3))[:, int(np.argmax(np.diag(spin[i])))]
        axis[i] = column / max(float(np.linalg.norm(column)), 1e-12)
    return spin, angle, axis


def _on_arc(first: Array, last: Array, spin: Array, angle: Array, axis: Array, owner: Rows, t: Array) -> Array:
    """Frames ``[K, 4, 4]`` a part ``t`` of the way along the screw from one frame to the other."""
    start, end = first[:, :3, 3], last[:, :3, 3]
    gone = end - start
    along = np.sum(gone * axis, axis=-1, keepdims=True) * axis
    across = gone - along
    # The axis goes through the point that turning by the angle brings as far as it came across.
    half = np.tan(np.maximum(angle, 1e-9) / 2.0)[:, None]
    centre = start + 0.5 * (across + np.cross(axis, across) / half)
    turns = (angle > 1e-4)[owner]
    u, theta = axis[owner], angle[owner] * t
    part = quat.to_matrix(np.concatenate([u * np.sin(theta / 2.0)[:, None], np.cos(theta / 2.0)[:, None]], axis=-1))
    out = np.zeros((len(owner), 4, 4))
    out[:, 3, 3] = 1.0
    out[:, :3, :3] = part @ first[owner, :3, :3]
    from_centre = (part @ (start - centre)[owner][:, :, None])[:, :, 0]
    arc = centre[owner] + from_centre + along[owner] * t[:, None]
    straight = start[owner] + gone[owner] * t[:, None]
    out[:, :3, 3] = np.where(turns[:, None], arc, straight)
    return out


def touches(hits: Pieces, hurts: Ends, radius: Array, rows: Rows, hurt: Rows) -> tuple[Array, Array]:
    """When in the tick (0…1, inf: never) piece ``rows[i]`` touches hurt capsule ``hurt[i]``, and where ``[N, 3]``."""
    begins, ends = hits.begins[rows][:, None], hits.ends[rows][:, None]
    c0, d0, c1, d1 = (e[hurt] for e in hurts)
    theirs = (c0 + (c1 - c0) * begins, d0 + (d1 - d0) * begins, c0 + (c1 - c0) * ends, d0 + (d1 - d0) * ends)
    times, places = np.full(len(rows), np.inf), np.zeros((len(rows), 3))
    box = hits.boxes[rows]
    if not box.all():
        r, mine = rows[~box], tuple(e[rows[~box]] for e in hits.capsule)
        wide = radius[hurt[~box]]
        times[~box], places[~box] = first_touch(
            mine,  # type: ignore[arg-type]
            tuple(e[~box] for e in theirs),  # type: ignore[arg-type]
            hits.radius[0][r] + wide,
            hits.radius[1][r] + wide,
        )
    if box.any():
        r = rows[box]
        local = []
        for n, end in enumerate(theirs):
            frame, middle = hits.frames[n // 2][r], hits.capsule[(n // 2) * 2][r]
            local.append((np.swapaxes(frame[:, :3, :3], 1, 2) @ (end[box] - middle)[:, :, None])[:, :, 0])
        when, where = first_touch_box(
            hits.half[0][r],
            hits.half[1][r],
            tuple(local),  # type: ignore[arg-type]
            radius[hurt[box]],
        )
        times[box] = when
        frame, middle = hits.frames[1][r], hits.capsule[2][r]
        places[box] = (frame[:, :3, :3] @ where[:, :, None])[:, :, 0] + middle
    whole = hits.begins[rows] + times * (hits.ends[rows] - hits.begins[rows])
    return np.where(np.isfinite(times), whole, np.inf), places


def balls(ends: Ends, size: Array) -> tuple[Array, Array]:
    """Centres ``[N, 3]`` and radii ``[N]`` of balls around all that capsules (radius ``size``) sweep over."""
    centre = (ends[0] + ends[1] + ends[2] + ends[3]) / 4.0
    return centre, np.max([np.linalg.norm(e - centre, axis=-1) for e in ends], axis=0) + size


def piece_balls(hits: Pieces) -> tuple[Array, Array]:
    """Balls around pieces of hitboxes, as ``balls``."""
    size = np.maximum(np.maximum(*hits.radius), np.linalg.norm(np.maximum(*hits.half), axis=-1))
    return balls(hits.capsule, size)
