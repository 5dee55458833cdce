"""Hurtboxes in the world, at the last tick and now."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from veergust.core.motion import Array, Indices
from veergust.core.play.compiled.hurting import HurtShapes
from veergust.core.play.contact import cutting
from veergust.core.play.contact.volumes import Shape, Volume

NO_FRAMES, NO_SIZES = np.zeros((2, 0, 4, 4)), np.zeros((2, 0, 3))


@dataclass(frozen=True, eq=False)
class Hurts:
    """``H`` hurtboxes: ends at the last tick and now ``[4, H, 3]`` (of a box its middle, twice), the radius about them
    in which all of it is ``[H]``, and where there are boxes half extents ``[2, H, 3]`` and frames ``[2, H, 4, 4]``."""

    ends: Array
    radius: Array
    boxes: NDArray[np.uint8]
    half: Array
    frames: Array

    def __len__(self) -> int:
        return len(self.radius)

    def chosen(self, rows: Indices, moved: Array) -> Hurts:
        """Some of them, each moved by ``[N, 3]``."""
        sized = len(self.half[0]) > 0
        return Hurts(
            np.ascontiguousarray(self.ends[:, rows] + moved),
            self.radius[rows],
            self.boxes[rows],
            np.ascontiguousarray(self.half[:, rows]) if sized else NO_SIZES,
            np.ascontiguousarray(self.frames[:, rows]) if sized else NO_FRAMES,
        )


def capsules(ends: Sequence[Array], radius: Array) -> Hurts:
    """Capsules from their ends (a, b at the last tick, a, b now; each ``[H, 3]``)."""
    made = np.ascontiguousarray(np.stack([np.asarray(e, dtype=float) for e in ends]))
    return Hurts(made, np.asarray(radius, dtype=float), np.zeros(len(radius), dtype=np.uint8), NO_SIZES, NO_FRAMES)


Stood = tuple[Array, Array]
"""A body's frame in the world ``[4, 4]``, and its joints in that ``[J, 4, 4]``."""


def placed_hurts(shapes: Sequence[HurtShapes], before: Sequence[Stood], now: Sequence[Stood]) -> Hurts:
    """The hurtboxes of bodies as they stood at the last tick and stand now."""
    ends = np.empty((4, sum(len(s.names) for s in shapes), 3))
    if not shapes:
        return capsules(list(ends), np.zeros(0))
    for n, side in enumerate((before, now)):
        at = 0
        for own, (body, joints) in zip(shapes, side):
            to = at + len(own.names)
            cutting.ends_on(body, joints, own.joints, own.a, own.b, ends[2 * n, at:to], ends[2 * n + 1, at:to])
            at = to
    radius, boxes = np.concatenate([s.radius for s in shapes]), np.concatenate([s.boxes for s in shapes])
    if not boxes.any():
        return Hurts(ends, radius, boxes, NO_SIZES, NO_FRAMES)
    turn, half = np.concatenate([s.turn for s in shapes]), np.concatenate([s.half for s in shapes])
    frames = np.array(
        [np.concatenate([body @ joints[s.joints] for s, (body, joints) in zip(shapes, side)]) for side in (before, now)]
    )
    frames[:, :, :3, :3] = frames[:, :, :3, :3] @ turn
    hurts = Hurts(ends, radius, boxes, np.stack([half, half]), frames)
    at = 0
    for own, (body, _), (later, joints) in zip(shapes, before, now):
        if len(own.spanned):
            _span(own, at, (body, later), joints, hurts)
        at += len(own.names)
    return hurts


AWAY = np.array([0.0, -1e5, 0.0])
"""Where a hurtbox is that is not there: so far from anything that nothing touches it."""
FLAT = 1e-6
"""A box that is less high or long (m) is none."""


def between(shapes: HurtShapes, n: int, joints: Array) -> tuple[Array, Array]:
    """Middle and half extents ``[3]`` about its body of a hurtbox that spans, as joints ``[J, 4, 4]`` stand; away, and
    of no size, where it is not there."""
    low, high = joints[shapes.joints[n], :3, 3], joints[shapes.spans[n], :3, 3]
    half = np.abs(high - low) / 2.0
    if half[1] < FLAT or half[2] < FLAT:
        return AWAY, np.zeros(3)
    half[0] = shapes.half[n, 0]
    return (low + high) / 2.0, half


def _span(shapes: HurtShapes, first: int, bodies: tuple[Array, Array], joints: Array, hurts: Hurts) -> None:
    """Set hurtboxes that span, the first of whose body is row ``first``: along the body's axes, as they are drawn now.
    From one drawing to the next nothing goes: only the body does."""
    for n in shapes.spanned:
        middle, half = between(shapes, n, joints)
        row = first + n
        hurts.half[:, row], hurts.radius[row] = half, float(np.linalg.norm(half))
        for side, body in enumerate(bodies):
            at = body[:3, :3] @ middle + body[:3, 3]
            hurts.ends[2 * side : 2 * side + 2, row] = at
            hurts.frames[side, row, :3, :3], hurts.frames[side, row, :3, 3] = body[:3, :3], at


def volumes_of(shapes: HurtShapes, before: Array, now: Array) -> list[Volume]:
    """Hurtboxes one by one, of a body whose world joints stood at ``before`` and stand at ``now`` ``[J, 4, 4]``; but
    those that are not there."""
    out = []
    for n, name in enumerate(shapes.names):
        if shapes.spans[n] >= 0:
            # A drawn figure's first joint is turned as its body is.
            bodies = [side[0] for side in (before, now)]
            middle, half = between(shapes, n, np.linalg.inv(bodies[1]) @ now)
            if half.any():
                drawn, local = Shape(np.zeros(3), np.zeros(3), float(np.linalg.norm(half)), half), np.eye(4)
                local[:3, 3] = middle
                out.append(Volume(name, bodies[0] @ local, bodies[1] @ local, drawn, drawn))
            continue
        shape, frames = Shape(shapes.a[n], shapes.b[n], float(shapes.radius[n])), [before, now]
        frames = [side[shapes.joints[n]] for side in frames]
        if shapes.boxes[n]:
            shape = Shape(np.zeros(3), np.zeros(3), float(shapes.radius[n]), shapes.half[n])
            local = np.eye(4)
            local[:3, :3], local[:3, 3] = shapes.turn[n], shapes.a[n]
            frames = [side @ local for side in frames]
        out.append(Volume(name, frames[0], frames[1], shape, shape))
    return out
