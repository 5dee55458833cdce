"""Ossa Renn's figure: thirty joints, a lofted body, a straw hat and a boat staff."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from veergust.core.motion.figure import Mesh
from veergust.core.motion.skeleton import Skeleton

STAFF_TIP, STAFF_BUTT = 1.12, -0.78

# name, parent, place in the parent's frame (m); every rest rotation is the identity, arms hang down.
_JOINTS: list[tuple[str, str, tuple[float, float, float]]] = [
    ("root", "", (0, 0, 0)),
    ("hips", "root", (0, 0.94, 0)),
    ("waist", "hips", (0, 0.07, 0)),
    ("spine", "waist", (0, 0.12, -0.01)),
    ("chest", "spine", (0, 0.13, -0.01)),
    ("neck", "chest", (0, 0.19, 0.01)),
    ("head", "neck", (0, 0.09, 0.02)),
]
for _side, _x in (("left", 1), ("right", -1)):
    _JOINTS += [
        (f"collar_{_side}", "chest", (0.04 * _x, 0.13, 0.01)),
        (f"upper_arm_{_side}", f"collar_{_side}", (0.14 * _x, 0.0, -0.02)),
        (f"forearm_{_side}", f"upper_arm_{_side}", (0.02 * _x, -0.28, 0)),
        (f"hand_{_side}", f"forearm_{_side}", (0, -0.26, 0.01)),
        (f"fingers_{_side}", f"hand_{_side}", (0, -0.09, 0.0)),
        (f"thumb_{_side}", f"hand_{_side}", (-0.02 * _x, -0.04, 0.03)),
        (f"thigh_{_side}", "hips", (0.095 * _x, -0.02, 0)),
        (f"shin_{_side}", f"thigh_{_side}", (0, -0.425, 0.005)),
        (f"foot_{_side}", f"shin_{_side}", (0, -0.405, -0.005)),
        (f"toes_{_side}", f"foot_{_side}", (0, -0.065, 0.13)),
    ]
_JOINTS += [
    ("staff", "hand_right", (0, -0.075, 0.0)),
    ("hat", "head", (0, 0.17, 0.0)),
    ("sash", "hips", (0, 0.02, -0.11)),
]


def skeleton() -> Skeleton:
    names = tuple(name for name, _, _ in _JOINTS)
    parents = tuple(names.index(parent) if parent else -1 for _, parent, _ in _JOINTS)
    turn = np.tile(np.array([0.0, 0.0, 0.0, 1.0]), (len(names), 1))
    return Skeleton(names, parents, turn, np.array([place for _, _, place in _JOINTS], dtype=np.float64))


@dataclass
class Ring:
    """One cross-section of a loft: centre (world rest), half width and depth, weights by joint, tilt."""

    at: tuple[float, float, float]
    wide: float
    deep: float
    on: dict[str, float]
    across: tuple[float, float, float] = (1, 0, 0)
    along: tuple[float, float, float] = (0, 0, 1)
    square: float = 0.0


class Loft:
    """Builds one mesh of closed lofts."""

    def __init__(self, bones: Skeleton) -> None:
        self.bones = bones
        self.points: list[np.ndarray] = []
        self.joints: list[np.ndarray] = []
        self.weights: list[np.ndarray] = []
        self.faces: list[np.ndarray] = []
        self.count = 0

    def add(self, rings: list[Ring], sides: int = 14) -> None:
        turn = np.linspace(0, 2 * np.pi, sides, endpoint=False)
        first, last = rings[0], rings[-1]
        rows = [Ring(first.at, 1e-4, 1e-4, first.on, first.across, first.along), *rings]
        rows.append(Ring(last.at, 1e-4, 1e-4, last.on, last.across, last.along))
        for ring in rows:
            c, s = np.cos(turn), np.sin(turn)
            if ring.square:
                c = np.sign(c) * np.abs(c) ** (1 - ring.square)
                s = np.sign(s) * np.abs(s) ** (1 - ring.square)
            across, along = np.array(ring.across, float), np.array(ring.along, float)
            circle = np.array(ring.at) + np.outer(c * ring.wide, across) + np.outer(s * ring.deep, along)
            self.points.append(circle)
            share = sorted(ring.on.items(), key=lambda item: -item[1])[:4]
            total = sum(weight for _, weight in share)
            joints, weights = np.zeros(4, int), np.zeros(4)
            for k, (name, weight) in enumerate(share):
                joints[k], weights[k] = self.bones.index[name], weight / total
            self.joints.append(np.tile(joints, (sides, 1)))
            self.weights.append(np.tile(weights, (sides, 1)))
        for row in range(len(rows) - 1):
            a = self.count + row * sides + np.arange(sides)
            b = self.count + row * sides + np.roll(np.arange(sides), -1)
            self.faces.append(np.stack([a, a + sides, b], axis=1))
            self.faces.append(np.stack([b, a + sides, b + sides], axis=1))
        self.count += len(rows) * sides

    def mesh(self) -> Mesh:
        points = np.concatenate(self.points)
        faces = np.concatenate(self.faces)
        # Lofts run up or down and mirror left and right: turn every face outwards from its loft's own middle.
        normals = np.zeros_like(points)
        corner = points[faces]
        flat = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
        for i in range(3):
            np.add.at(normals, faces[:, i], flat)
        normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-9)
        bind = np.linalg.inv(self.bones.rest_world)
        return Mesh(
            points.astype(np.float32),
            normals.astype(np.float32),
            np.concatenate(self.joints).astype(np.int32),
            np.concatenate(self.weights).astype(np.float32),
            faces.astype(np.int32),
            bind,
        )


def _between(a: np.ndarray, b: np.ndarray, t: float) -> tuple[float, float, float]:
    point = a + (b - a) * t
    return (float(point[0]), float(point[1]), float(point[2]))


def mesh(bones: Skeleton) -> Mesh:
    """The whole body as one skinned mesh."""
    loft = Loft(bones)
    at = {name: bones.rest_world[j, :3, 3] for name, j in bones.index.items()}
    _torso(loft)
    _head(loft, at)
    for side, x in (("left", 1.0), ("right", -1.0)):
        _arm(loft, at, side, x)
        _leg(loft, at, side)
    staff = at["staff"]
    loft.add(
        [
            Ring((staff[0], staff[1] + y, staff[2]), r, r, {"staff": 1})
            for y, r in (
                (STAFF_BUTT, 0.017),
                (STAFF_BUTT + 0.05, 0.021),
                (-0.1, 0.019),
                (0.5, 0.019),
                (STAFF_TIP - 0.2, 0.019),
                (STAFF_TIP - 0.19, 0.028),
                (STAFF_TIP - 0.03, 0.026),
                (STAFF_TIP, 0.014),
            )
        ],
        10,
    )
    return loft.mesh()


def _torso(loft: Loft) -> None:
    rows = [
        (0.66, 0.205, 0.165, {"hips": 0.55, "thigh_left": 0.22, "thigh_right": 0.22}, 0.0),
        (0.74, 0.19, 0.15, {"hips": 0.8, "thigh_left": 0.1, "thigh_right": 0.1}, 0.0),
        (0.86, 0.165, 0.13, {"hips": 1}, 0.0),
        (0.96, 0.142, 0.11, {"hips": 0.7, "waist": 0.3}, 0.0),
        (1.0, 0.148, 0.115, {"hips": 0.4, "waist": 0.6}, -0.002),
        (1.04, 0.135, 0.103, {"waist": 0.8, "spine": 0.2}, -0.005),
        (1.13, 0.14, 0.105, {"waist": 0.3, "spine": 0.7}, -0.01),
        (1.24, 0.163, 0.115, {"spine": 0.4, "chest": 0.6}, -0.012),
        (1.34, 0.178, 0.118, {"chest": 1}, -0.014),
        (1.42, 0.158, 0.1, {"chest": 1}, -0.014),
        (1.465, 0.09, 0.07, {"chest": 0.8, "neck": 0.2}, -0.01),
    ]
    loft.add([Ring((0, y, z), wide, deep, on, square=0.12) for y, wide, deep, on, z in rows], 22)
    loft.add(
        [
            Ring((0, 1.43, -0.006), 0.062, 0.058, {"chest": 0.6, "neck": 0.4}),
            Ring((0, 1.48, 0.0), 0.052, 0.052, {"neck": 1}),
            Ring((0, 1.56, 0.012), 0.05, 0.054, {"neck": 0.5, "head": 0.5}),
        ]
    )
    loft.add(
        [
            Ring((0, 0.98, -0.125), 0.05, 0.03, {"hips": 0.5, "sash": 0.5}),
            Ring((0.01, 0.8, -0.165), 0.045, 0.014, {"sash": 1}),
            Ring((0.02, 0.56, -0.19), 0.055, 0.01, {"sash": 1}),
        ],
        10,
    )


def _head(loft: Loft, at: dict[str, np.ndarray]) -> None:
    y = at["head"][1]
    rows = [
        (-0.035, 0.045, 0.055, 0.035),
        (-0.005, 0.062, 0.08, 0.025),
        (0.05, 0.075, 0.094, 0.015),
        (0.1, 0.079, 0.1, 0.008),
        (0.15, 0.07, 0.09, 0.0),
        (0.185, 0.04, 0.05, -0.002),
    ]
    loft.add([Ring((0, y + dy, 0.02 + z), w, d, {"head": 1}) for dy, w, d, z in rows], 16)
    loft.add(
        [Ring((0, y + 0.04, 0.115), 0.014, 0.02, {"head": 1}), Ring((0, y + 0.075, 0.112), 0.01, 0.012, {"head": 1})],
        8,
    )
    bun = [(-0.03, 0.02), (0.0, 0.045), (0.035, 0.05), (0.07, 0.03)]
    loft.add([Ring((0, y + dy, -0.105), r, r, {"head": 1}) for dy, r in bun], 10)
    hat = [(-0.012, 0.235), (0.0, 0.24), (0.04, 0.15), (0.085, 0.075), (0.115, 0.02)]
    loft.add([Ring((0, at["hat"][1] - 0.035 + dy, 0.01 - dy * 0.15), r, r * 0.98, {"hat": 1}) for dy, r in hat], 22)


def _arm(loft: Loft, at: dict[str, np.ndarray], side: str, x: float) -> None:
    collar, upper = at[f"collar_{side}"], at[f"upper_arm_{side}"]
    fore, hand, fingers = at[f"forearm_{side}"], at[f"hand_{side}"], at[f"fingers_{side}"]
    c, u, f, h = f"collar_{side}", f"upper_arm_{side}", f"forearm_{side}", f"hand_{side}"
    loft.add(
        [
            Ring(_between(collar, upper, 0.45), 0.045, 0.06, {"chest": 0.5, c: 0.5}, (0, 1, 0)),
            Ring(_between(collar, upper, 0.8), 0.058, 0.066, {c: 0.7, u: 0.3}, (0.3 * x, 0.95, 0)),
            Ring(_between(collar, upper, 1.08), 0.064, 0.066, {c: 0.3, u: 0.7}, (0.7 * x, 0.7, 0)),
            Ring(_between(upper, fore, 0.12), 0.064, 0.064, {u: 1}),
            Ring(_between(upper, fore, 0.45), 0.056, 0.058, {u: 1}),
            Ring(_between(upper, fore, 0.85), 0.047, 0.049, {u: 0.8, f: 0.2}),
            Ring(_between(upper, fore, 1.0), 0.045, 0.047, {u: 0.5, f: 0.5}),
            Ring(_between(fore, hand, 0.18), 0.047, 0.048, {u: 0.15, f: 0.85}),
            Ring(_between(fore, hand, 0.42), 0.054, 0.056, {f: 1}),
            Ring(_between(fore, hand, 0.74), 0.05, 0.052, {f: 1}),
            Ring(_between(fore, hand, 0.76), 0.03, 0.036, {f: 1}),
            Ring(_between(fore, hand, 1.0), 0.027, 0.034, {f: 0.5, h: 0.5}),
        ]
    )
    loft.add(
        [
            Ring(_between(hand, fingers, -0.05), 0.026, 0.034, {h: 1}),
            Ring(_between(hand, fingers, 0.35), 0.031, 0.045, {h: 1}),
            Ring(_between(hand, fingers, 0.85), 0.034, 0.048, {h: 0.7, f"fingers_{side}": 0.3}),
            Ring(_between(hand, fingers, 1.3), 0.032, 0.044, {f"fingers_{side}": 1}),
            Ring(_between(hand, fingers, 1.55), 0.02, 0.034, {f"fingers_{side}": 1}),
        ],
        12,
    )
    thumb = at[f"thumb_{side}"]
    loft.add(
        [
            Ring((thumb[0], thumb[1] + 0.02, thumb[2] - 0.012), 0.014, 0.014, {h: 1}),
            Ring((thumb[0], thumb[1] - 0.05, thumb[2] + 0.012), 0.011, 0.012, {f"thumb_{side}": 1}),
        ],
        8,
    )


def _leg(loft: Loft, at: dict[str, np.ndarray], side: str) -> None:
    thigh, shin, foot = at[f"thigh_{side}"], at[f"shin_{side}"], at[f"foot_{side}"]
    t, s, f, toes = f"thigh_{side}", f"shin_{side}", f"foot_{side}", f"toes_{side}"
    loft.add(
        [
            Ring(_between(thigh, shin, -0.02), 0.082, 0.1, {"hips": 0.6, t: 0.4}),
            Ring(_between(thigh, shin, 0.16), 0.09, 0.1, {"hips": 0.15, t: 0.85}),
            Ring(_between(thigh, shin, 0.45), 0.084, 0.09, {t: 1}),
            Ring(_between(thigh, shin, 0.82), 0.072, 0.076, {t: 0.85, s: 0.15}),
            Ring(_between(thigh, shin, 1.0), 0.068, 0.074, {t: 0.5, s: 0.5}),
            Ring(_between(shin, foot, 0.16), 0.072, 0.08, {t: 0.12, s: 0.88}),
            Ring(_between(shin, foot, 0.4), 0.074, 0.084, {s: 1}),
            Ring(_between(shin, foot, 0.56), 0.066, 0.07, {s: 1}),
            Ring(_between(shin, foot, 0.58), 0.047, 0.05, {s: 1}),
            Ring(_between(shin, foot, 0.86), 0.041, 0.045, {s: 0.9, f: 0.1}),
            Ring(_between(shin, foot, 1.0), 0.041, 0.047, {s: 0.4, f: 0.6}),
        ],
        16,
    )
    x, z = foot[0], foot[2]
    up = (0, 1, 0)
    loft.add(
        [
            Ring((x, 0.045, z - 0.075), 0.03, 0.035, {f: 1}, along=up),
            Ring((x, 0.05, z - 0.05), 0.041, 0.047, {f: 1}, along=up, square=0.2),
            Ring((x, 0.056, z + 0.0), 0.045, 0.055, {f: 1}, along=up, square=0.2),
            Ring((x, 0.047, z + 0.07), 0.048, 0.046, {f: 0.9, toes: 0.1}, along=up, square=0.25),
            Ring((x, 0.035, z + 0.125), 0.05, 0.035, {f: 0.5, toes: 0.5}, along=up, square=0.3),
            Ring((x, 0.03, z + 0.175), 0.046, 0.029, {toes: 1}, along=up, square=0.2),
            Ring((x, 0.024, z + 0.21), 0.028, 0.02, {toes: 1}, along=up),
        ],
        14,
    )
