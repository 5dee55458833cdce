"""A plain body for figures whose file has no mesh: pelvis, trunk, head, limbs, hands and feet, all closed.

Measures are parts of the figure's height, as drawing books give them. What is no part of a person, of a creature's or
of a machine's, is a rounded bone.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from veergust.core.motion import Array, Mesh, Part, Skeleton, over_body, parts_of

AROUND = 12
UP = np.array([0.0, 1.0, 0.0])
AHEAD = np.array([0.0, 0.0, 1.0])
LIMBS = {"thigh": (0.053, 0.037), "shin": (0.037, 0.024), "upper_arm": (0.031, 0.025), "forearm": (0.025, 0.017),
         "neck": (0.03, 0.028), "collar": (0.026, 0.03)}  # fmt: skip
"""How thick a limb is at its two ends, as parts of the height."""
AFTER = {"thigh": ("shin",), "shin": ("foot",), "upper_arm": ("forearm",), "forearm": ("hand",), "neck": ("head",),
         "collar": ("upper_arm",)}  # fmt: skip
HEAD = np.array([0.042, 0.066, 0.052])
HAND = np.array([0.024, 0.052, 0.014])
Weights = tuple[tuple[int, float], ...]


class _Clay:
    """Closed rounded shapes, put together as one skinned mesh."""

    def __init__(self) -> None:
        self.points: list[Array] = []
        self.faces: list[NDArray[np.intp]] = []
        self.joints: list[NDArray[np.int32]] = []
        self.weights: list[NDArray[np.float32]] = []
        self.count = 0

    def loft(self, rings: Sequence[tuple[Array, Array, Array, Weights]]) -> None:
        """A skin over rings (middle, half axes across and along, joints with weights), closed at both ends."""
        angle = np.linspace(0, 2 * np.pi, AROUND, endpoint=False)
        for middle, across, along, ride in rings:
            ring = middle + np.cos(angle)[:, None] * across + np.sin(angle)[:, None] * along
            self._put(ring, ride)
        first = self.count - AROUND * len(rings)
        around = np.arange(AROUND)
        after = np.roll(around, -1)
        for row in range(len(rings) - 1):
            low, high = first + row * AROUND, first + (row + 1) * AROUND
            self.faces.append(np.stack([low + around, low + after, high + around], axis=1))
            self.faces.append(np.stack([low + after, high + after, high + around], axis=1))
        for ring_start, (middle, _, _, ride), turn in ((first, rings[0], 1), (self.count - AROUND, rings[-1], -1)):
            tip = self.count
            self._put(middle[None], ride)
            cap = np.stack([ring_start + after, ring_start + around, np.full(AROUND, tip)], axis=1)
            self.faces.append(cap[:, ::turn])

    def _put(self, points: Array, ride: Weights) -> None:
        rows = np.zeros((len(points), 4), np.int32)
        much = np.zeros((len(points), 4), np.float32)
        for k, (joint, weight) in enumerate(ride[:4]):
            rows[:, k], much[:, k] = joint, weight
        self.points.append(points)
        self.joints.append(rows)
        self.weights.append(much)
        self.count += len(points)

    def bone(self, a: Array, b: Array, thick: tuple[float, float], joint: int) -> None:
        """A limb from ``a`` to ``b`` with round ends."""
        way = b - a
        size = float(np.linalg.norm(way))
        if size < 1e-6:
            return
        up = way / size
        side = np.cross(up, AHEAD if abs(up[2]) < 0.9 else UP)
        side /= np.linalg.norm(side)
        front = np.cross(up, side)
        rings = []
        for at, end in ((a, -1.0), (b, 1.0)):
            radius = thick[0] if end < 0 else thick[1]
            for turn in (75.0, 45.0, 15.0) if end < 0 else (15.0, 45.0, 75.0):
                s, c = np.sin(np.radians(turn)), np.cos(np.radians(turn))
                rings.append((at + up * (end * s * radius), side * (c * radius), front * (c * radius), ((joint, 1.0),)))
        self.loft(rings)

    def ball(self, middle: Array, axes: Array, joint: int) -> None:
        """An ellipsoid with half axes ``[3, 3]`` across, up and ahead."""
        rings = []
        for turn in np.radians([-80.0, -55.0, -30.0, 0.0, 30.0, 55.0, 80.0]):
            s, c = np.sin(turn), np.cos(turn)
            rings.append((middle + axes[1] * s, axes[0] * c, -axes[2] * c, ((joint, 1.0),)))
        self.loft(rings)

    def mesh(self, skeleton: Skeleton) -> Mesh:
        """All of it, bound in rest."""
        bind = np.asarray(np.linalg.inv(skeleton.rest_world), dtype=np.float64)
        if not self.points:
            empty = np.zeros((0, 3), np.float32)
            return Mesh(empty, empty, np.zeros((0, 4), np.int32), np.zeros((0, 4), np.float32),
                        np.zeros((0, 3), np.int32), bind)  # fmt: skip
        points, faces = np.concatenate(self.points), np.concatenate(self.faces)
        corners = points[faces]
        flat = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        normals = np.zeros_like(points)
        for k in range(3):
            np.add.at(normals, faces[:, k], flat)
        normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
        return Mesh(
            points.astype(np.float32),
            normals.astype(np.float32),
            np.concatenate(self.joints),
            np.concatenate(self.weights),
            faces.astype(np.int32),
            bind,
        )


def mannequin(skeleton: Skeleton) -> Mesh:
    """A body that rides on the joints of a figure in rest, upright on +Y and looking along +Z."""
    clay = _Clay()
    if not len(skeleton):
        return clay.mesh(skeleton)
    parts, at = parts_of(skeleton), skeleton.rest_world[:, :3, 3]
    over = over_body(skeleton)
    size = np.ptp(at[[j for j in range(len(at)) if j not in over]], axis=0)
    tall = max(float(size[1]), 0.3 * float(size.max()), 1e-3)
    below: dict[int, list[int]] = {j: [] for j in range(len(skeleton))}
    for j, parent in enumerate(skeleton.parents):
        if parent >= 0:
            below[parent].append(j)
    spine = _spine(skeleton, parts)
    if spine:
        _trunk(clay, skeleton, parts, at, spine, tall)
    done = set(spine)
    for j, part in enumerate(parts):
        if not part.end:
            done |= _part(clay, skeleton, parts, at, j, below, tall, bool(spine))
    for j, parent in enumerate(skeleton.parents):
        if parent < 0 or (spine and parts[j].end):
            continue
        if parent not in done and parent not in over and not _holds_only(parts, parent, bool(spine)):
            length = float(np.linalg.norm(at[j] - at[parent]))
            thick = min(0.22 * length, 0.04 * tall)
            if length > 0.01 * tall:
                clay.bone(at[parent], at[j], (thick, 0.7 * thick), parent)
    return clay.mesh(skeleton)


def _part(
    clay: _Clay,
    skeleton: Skeleton,
    parts: tuple[Part, ...],
    at: Array,
    j: int,
    below: dict[int, list[int]],
    tall: float,
    person: bool,
) -> set[int]:
    """Shape what a joint is by its name; the joints that are shaped by that."""
    part = parts[j]
    if part.kind == "head":
        clay.ball(at[j] + UP * 0.055 * tall, np.diag(HEAD * tall), j)
        return {j}
    if part.kind == "hand" and skeleton.parents[j] >= 0:
        _hand(clay, at, j, skeleton.parents[j], tall)
    elif part.kind == "foot" and person:
        _foot(clay, at, j, [c for c in below[j] if parts[c].kind == "toe"], tall)
        return {j, *below[j]}
    elif part.kind in AFTER:
        beneath = _beneath(below, j)
        ends = [c for c in beneath if parts[c].kind in AFTER[part.kind] and parts[c].side == part.side]
        if ends:
            first, last = LIMBS[part.kind]
            clay.bone(at[j], at[ends[0]], (first * tall, last * tall), j)
            return {j, *(c for c in beneath if ends[0] in _beneath(below, c))}
    return set()


def _holds_only(parts: tuple[Part, ...], joint: int, person: bool) -> bool:
    """Whether a joint is no part of the body: what only holds a leg or an arm of a person."""
    return person and (parts[joint].kind in ("root", "hips", "spine", "head", "toe") or parts[joint].kind == "")


def _beneath(below: dict[int, list[int]], joint: int) -> list[int]:
    out = list(below[joint])
    for j in out:
        out.extend(below[j])
    return out


def _spine(skeleton: Skeleton, parts: tuple[Part, ...]) -> list[int]:
    """The joints from the hips up to the neck or head of a person, the hips first; none for what is no person."""
    kinds = {(p.kind, p.side) for p in parts if not p.end}
    if (
        not {("hips", ""), ("thigh", "left"), ("thigh", "right"), ("upper_arm", "left"), ("upper_arm", "right")}
        <= kinds
    ):
        return []
    top = next((j for j, p in enumerate(parts) if p.kind in ("neck", "head") and not p.end), None)
    hips = next(j for j, p in enumerate(parts) if p.kind == "hips" and not p.side)
    out: list[int] = []
    at = top if top is not None else -1
    while at >= 0 and at != hips:
        out.insert(0, at)
        at = skeleton.parents[at]
    return [hips, *out] if at == hips and out else []


def _trunk(clay: _Clay, skeleton: Skeleton, parts: tuple[Part, ...], at: Array, spine: list[int], tall: float) -> None:
    """Pelvis, waist, chest and shoulders as one skin over the spine."""

    def wide(kind: str) -> float:
        left, right = (next(j for j, p in enumerate(parts) if (p.kind, p.side) == (kind, s)) for s in ("left", "right"))
        return float(np.linalg.norm(at[left] - at[right])) / 2

    pelvis = max(wide("thigh") + 0.035 * tall, 0.07 * tall)
    shoulders = min(max(wide("upper_arm"), 0.075 * tall), 0.16 * tall)
    chest = 0.82 * shoulders
    base, neck = at[spine[0]], at[spine[-1]]
    leg = next(j for j, p in enumerate(parts) if p.kind == "thigh")
    bottom = np.array([base[0], min(at[leg][1], base[1]) - 0.045 * tall, base[2]])
    shape = (  # share of the way up, half width, half depth
        (0.0, 0.35 * pelvis, 0.5), (0.06, 0.8 * pelvis, 0.6), (0.16, pelvis, 0.62), (0.3, 0.86 * pelvis, 0.62),
        (0.45, 0.78 * chest, 0.66), (0.66, chest, 0.64), (0.8, shoulders, 0.5), (0.88, 0.96 * shoulders, 0.4),
        (0.95, 0.6 * shoulders, 0.45), (1.0, 0.034 * tall, 0.95),
    )  # fmt: skip
    heights = [float(at[j][1]) for j in spine]
    rings = []
    for share, half, deep in shape:
        y = bottom[1] + share * (neck[1] - bottom[1])
        k = int(np.clip(np.searchsorted(heights, y) - 1, 0, len(spine) - 2))
        span = max(heights[k + 1] - heights[k], 1e-9)
        much = float(np.clip((y - heights[k]) / span, 0.0, 1.0))
        line = at[spine[k]] + (at[spine[k + 1]] - at[spine[k]]) * much if y > heights[0] else base
        middle = np.array([line[0], y, line[2]])
        # A joint turns what stands above it: at its own height half of that.
        upper = float(np.clip((much - 0.25) / 0.5, 0.0, 1.0))
        top = spine[k + 1] if k + 1 < len(spine) - 1 else spine[k]
        ride: Weights = ((spine[k], 1.0 - upper), (top, upper)) if y > heights[0] else ((spine[0], 1.0),)
        depth = min(half * deep, 0.085 * tall)
        rings.append((middle, np.array([half, 0.0, 0.0]), np.array([0.0, 0.0, -depth]), ride))
    clay.loft(rings)


def _hand(clay: _Clay, at: Array, joint: int, above: int, tall: float) -> None:
    """A hand that goes on where the forearm points."""
    way = at[joint] - at[above]
    size = float(np.linalg.norm(way))
    if size < 1e-6:
        return
    way = way / size
    side = np.cross(way, AHEAD if abs(way[2]) < 0.9 else UP)
    side /= np.linalg.norm(side)
    axes = np.stack([np.cross(way, side) * HAND[0], way * HAND[1], side * HAND[2]]) * tall
    clay.ball(at[joint] + way * 0.045 * tall, axes, joint)


def _foot(clay: _Clay, at: Array, joint: int, toes: list[int], tall: float) -> None:
    """A foot from the heel to the tip, its sole under the ankle."""
    ankle = at[joint]
    floor = min(float(ankle[1]) - 0.03 * tall, max(float(ankle[1]) - 0.06 * tall, 0.0))
    ahead = (at[toes[0]] - ankle) * np.array([1.0, 0.0, 1.0]) if toes else AHEAD * 0.07 * tall
    size = max(float(np.linalg.norm(ahead)), 0.05 * tall)
    ahead = ahead / max(float(np.linalg.norm(ahead)), 1e-9) if np.linalg.norm(ahead) > 1e-9 else AHEAD
    side = np.cross(UP, ahead)
    ball = toes[0] if toes else joint
    high = float(ankle[1]) - floor
    shape = (  # along the foot, half width, how high, whose
        (-0.035 * tall, 0.012, 0.45, joint), (-0.03 * tall, 0.02, 0.8, joint), (0.0, 0.023, 1.0, joint),
        (0.55 * size, 0.025, 0.72, joint), (size, 0.028, 0.42, ball), (size + 0.03 * tall, 0.025, 0.3, ball),
        (size + 0.045 * tall, 0.012, 0.2, ball),
    )  # fmt: skip
    rings = []
    for far, half, tallness, ride in shape:
        middle = np.array([ankle[0], floor + 0.5 * high * tallness, ankle[2]]) + ahead * far
        rings.append((middle, side * half * tall, UP * (0.5 * high * tallness), ((ride, 1.0),)))
    clay.loft(rings)
