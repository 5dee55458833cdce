"""A figure's legs, and one leg brought to a place: two bones in plain numbers, for what is done on every tick.

The batched form is ``core.motion.ik``; this one works on matrices of one frame and changes three joints of a leg.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np

from veergust.core.motion.feet import feet_of, toes_of
from veergust.core.motion.plain import (
    Quaternion,
    Vector,
    between,
    conjugate,
    dot,
    minus,
    multiply,
    plus,
    rotate,
    size,
    times,
    unit,
    vector,
)
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Skeleton

Move = tuple[Quaternion, Vector, Vector]
"""A turn, and a point with where it is brought to."""
STILL: Quaternion = (0.0, 0.0, 0.0, 1.0)
STRAIGHTEST = 0.975
"""A leg is never brought straighter than this share of its length, or than it was."""


@dataclass(frozen=True)
class Leg:
    """Joints of a leg, its bones' lengths (m), and how high ankle and ball are over the floor at rest (m)."""

    thigh: int
    shin: int
    foot: int
    ball: int
    upper: float
    lower: float
    ankle_high: float
    ball_high: float

    @property
    def size(self) -> float:
        """The length of the leg (m)."""
        return self.upper + self.lower


def legs_of(bones: Skeleton) -> tuple[Leg, ...]:
    """The legs of a figure: none where no joint is a foot on a shin on a thigh."""
    if not len(bones):
        return ()
    rest = bones.rest_world[..., :3, 3]
    out = []
    for foot in feet_of(bones):
        shin = bones.parents[foot]
        thigh = bones.parents[shin]
        ball = toes_of(bones, foot)
        upper, lower = (float(np.linalg.norm(rest[a] - rest[b])) for a, b in ((thigh, shin), (shin, foot)))
        if min(upper, lower) > 1e-4 and bones.parents[thigh] >= 0:
            out.append(Leg(thigh, shin, foot, ball, upper, lower, float(rest[foot, 1]), float(rest[ball, 1])))
    return tuple(out)


def reach(
    rotation: Array, joints: Array, leg: Leg, target: Vector, tilt: Quaternion | None, base: Quaternion
) -> tuple[Move, Move, Move]:
    """Bring a leg's ankle to ``target``, in the frame in which ``joints`` ``[J, 4, 4]`` are given.

    ``rotation`` ``[J, 4]`` are local rotations, changed in place; ``base`` is the turn of what the thigh hangs on. The
    knee stays in the plane it was in; the foot keeps its turn there, turned on by ``tilt``. Law of cosines. Gives how
    thigh, shin and foot are moved by it, for ``moved``.
    """
    a, b, c = (vector(joints[j, :3, 3]) for j in (leg.thigh, leg.shin, leg.foot))
    thigh = multiply(base, _quaternion(rotation[leg.thigh]))
    shin = multiply(thigh, _quaternion(rotation[leg.shin]))
    foot = multiply(shin, _quaternion(rotation[leg.foot]))
    was, way = minus(c, a), minus(target, a)
    long = size(was)
    length = min(max(size(way), abs(leg.upper - leg.lower) + 1e-4), max(STRAIGHTEST * leg.size, min(long, leg.size)))
    old, along = unit(was), unit(way)
    # The way the knee bends, carried along with the leg's own direction.
    bend = minus(b, a)
    bend = minus(bend, times(old, dot(bend, old)))
    side = rotate(between(old, along), unit(bend)) if size(bend) > 1e-6 else _ahead(joints, leg, along)
    cosine = (leg.upper**2 + length**2 - leg.lower**2) / (2.0 * leg.upper * length)
    cosine = min(max(cosine, -1.0), 1.0)
    knee = plus(a, times(plus(times(along, cosine), times(side, sqrt(1.0 - cosine * cosine))), leg.upper))
    tip = plus(a, times(along, length))
    upper, lower = between(minus(b, a), minus(knee, a)), between(minus(c, b), minus(tip, knee))
    thigh_new, shin_new = multiply(upper, thigh), multiply(lower, shin)
    rotation[leg.thigh] = multiply(conjugate(base), thigh_new)
    rotation[leg.shin] = multiply(conjugate(thigh_new), shin_new)
    rotation[leg.foot] = multiply(conjugate(shin_new), foot if tilt is None else multiply(tilt, foot))
    return (upper, a, a), (lower, b, knee), (tilt or STILL, c, tip)


def moved(bones: Skeleton, joints: Array, heads: tuple[int, ...], moves: Sequence[Move]) -> None:
    """All that hangs on each of ``heads`` (parents before children) carried along by its move, the nearest counting;
    ``joints`` ``[J, 4, 4]`` are changed in place."""
    rows, which, _ = bones.below(heads)
    joints[rows] = np.array([_frame(*m) for m in moves])[which] @ joints[rows]


def _frame(turn: Quaternion, start: Vector, end: Vector) -> list[list[float]]:
    """The matrix of a move."""
    x, y, z, w = turn
    a, b, c = 1.0 - 2.0 * (y * y + z * z), 2.0 * (x * y - z * w), 2.0 * (x * z + y * w)
    d, e, f = 2.0 * (x * y + z * w), 1.0 - 2.0 * (x * x + z * z), 2.0 * (y * z - x * w)
    g, h, i = 2.0 * (x * z - y * w), 2.0 * (y * z + x * w), 1.0 - 2.0 * (x * x + y * y)
    px, py, pz = start
    return [
        [a, b, c, end[0] - a * px - b * py - c * pz],
        [d, e, f, end[1] - d * px - e * py - f * pz],
        [g, h, i, end[2] - g * px - h * py - i * pz],
        [0.0, 0.0, 0.0, 1.0],
    ]


def turn_of(rotation: Array, bones: Skeleton, joint: int) -> Quaternion:
    """The turn of a joint about the body, by the chain above it."""
    out = _quaternion(rotation[joint])
    at = bones.parents[joint]
    while at >= 0:
        out = multiply(_quaternion(rotation[at]), out)
        at = bones.parents[at]
    return out


def _ahead(joints: Array, leg: Leg, along: Vector) -> Vector:
    """Where a straight leg's knee bends to: where the foot points, across the leg."""
    ahead = minus(vector(joints[leg.ball, :3, 3]), vector(joints[leg.foot, :3, 3]))
    side = minus(ahead, times(along, dot(ahead, along)))
    return unit(side) if size(side) > 1e-6 else (0.0, 0.0, 1.0)


def _quaternion(row: Array) -> Quaternion:
    x, y, z, w = row.tolist()
    return x, y, z, w
