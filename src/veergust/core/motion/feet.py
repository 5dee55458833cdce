"""Which feet a skeleton has, and when they stand on the floor."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from veergust.core.motion.naming import chain_above, parts_of
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Skeleton

FAST = 0.35
HIGH = 0.055
SHORTEST = 0.05
FOOT = re.compile(r"foot|ankle", re.IGNORECASE)
TOES = re.compile(r"toe|ball", re.IGNORECASE)


@dataclass(frozen=True)
class FootContact:
    """A foot on the floor over frames ``[start, end)``."""

    joint: int
    start: int
    end: int


_KNOWN: WeakKeyDictionary[Skeleton, tuple[int, ...]] = WeakKeyDictionary()


def feet_of(skeleton: Skeleton) -> tuple[int, ...]:
    """The joints that stand on the floor: those called foot or ankle that hang on a leg, one a chain."""
    known = _KNOWN.get(skeleton)
    if known is None:
        known = _KNOWN[skeleton] = _feet_of(skeleton)
    return known


def _feet_of(skeleton: Skeleton) -> tuple[int, ...]:
    out: list[int] = []
    for j, name in enumerate(skeleton.names):
        parent = skeleton.parents[j]
        # A foot has a shin and a thigh above it; the first such joint of a chain is the ankle.
        if (
            FOOT.search(name)
            and parent >= 0
            and skeleton.parents[parent] >= 0
            and not FOOT.search(skeleton.names[parent])
        ):
            out.append(j)
    return tuple(out)


def toes_of(skeleton: Skeleton, foot: int) -> int:
    """The joint under the ball of a foot, or the foot itself."""
    below = [j for j, parent in enumerate(skeleton.parents) if parent == foot]
    named = [j for j in below if TOES.search(skeleton.names[j])]
    return (named or below or [foot])[0]


def hangs_on(skeleton: Skeleton, joint: int, on: int) -> bool:
    """Whether ``joint`` is ``on`` or somewhere below it."""
    while joint >= 0 and joint != on:
        joint = skeleton.parents[joint]
    return joint == on


def above_feet(skeleton: Skeleton, joint: int) -> bool:
    """Whether every foot of a figure that has any hangs on this joint."""
    feet = feet_of(skeleton)
    return bool(feet) and joint not in feet and all(hangs_on(skeleton, foot, joint) for foot in feet)


def hips_of(skeleton: Skeleton) -> int:
    """The lowest joint that every foot hangs on; the first joint of a figure without feet."""
    return max((j for j in range(len(skeleton)) if above_feet(skeleton, j)), default=0)


def over_body(skeleton: Skeleton) -> frozenset[int]:
    """The joints above the hips that are no part of the body: roots on the floor, nodes that a scene was put under."""
    if not feet_of(skeleton):
        return frozenset(j for j, p in enumerate(skeleton.parents) if p < 0 and skeleton.parents.count(j) == 1)
    parts = parts_of(skeleton)
    return frozenset(j for j in chain_above(skeleton, hips_of(skeleton)) if parts[j].kind not in ("hips", "spine"))


def contacts(
    skeleton: Skeleton, places: Mapping[int, Array] | Array, step: float, size: float, feet: tuple[int, ...]
) -> tuple[FootContact, ...]:
    """Spans in which a foot neither moves nor is raised.

    ``places`` are joints in the world, ``[F, J, 3]`` or ``[F, 3]`` by joint (feet and balls), at ``step`` seconds a
    frame, ``size`` is the length of a leg. A
    foot stands while the slower of ankle and ball goes below ``FAST`` leg lengths a second and the ball is within
    ``HIGH`` leg lengths of the lowest it comes. Gaps and spans shorter than ``SHORTEST`` seconds are closed and
    dropped.
    """
    out: list[FootContact] = []
    for foot in feet:
        ball = toes_of(skeleton, foot)
        ways = [places[j] if isinstance(places, Mapping) else places[:, j] for j in (ball, foot)]
        low = ways[0][:, 1]
        floor = np.percentile(low, 2.0)
        speed = np.min([speeds(way, step) for way in ways], axis=0)
        down = (speed < FAST * size) & (low < floor + HIGH * size)
        short = max(1, round(SHORTEST / step))
        for start, end in _runs(_close(down, short)):
            if end - start >= short:
                out.append(FootContact(foot, start, end))
    return tuple(out)


def speeds(way: Array, step: float) -> Array:
    """Speed ``[F]`` along ``way`` ``[F, 3]``, from the frames on either side."""
    if len(way) < 2:
        return np.zeros(len(way))
    return np.asarray(np.linalg.norm(np.gradient(way, step, axis=0), axis=-1))


def _runs(on: NDArray[np.bool_]) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.concatenate([[False], on, [False]]).astype(np.int8)))
    return [(int(a), int(b)) for a, b in edges.reshape(-1, 2)]


def _close(on: NDArray[np.bool_], gap: int) -> NDArray[np.bool_]:
    out = on.copy()
    for start, end in _runs(~on):
        if start > 0 and end < len(on) and end - start < gap:
            out[start:end] = True
    return out
