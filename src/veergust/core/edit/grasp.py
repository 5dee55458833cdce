"""What of a hitbox can be taken in hand, and what it becomes when that is brought elsewhere."""

from __future__ import annotations

from typing import Any

import numpy as np

from veergust.core.model import Hitbox
from veergust.core.motion import Array
from veergust.core.play import Shape

ENDS = {"from": "offset", "to": "to"}
SIDES = ("side x", "side y", "side z")
THINNEST = 0.005


def grasped(box: Hitbox, shape: Shape) -> dict[str, Array]:
    """What can be taken of a hitbox that has a ``shape`` about its mount: places ``[3]`` there (m) by name. The
    ``edge`` of one that is round lies all around it, and is left to who draws it."""
    middle = (shape.a + shape.b) / 2
    if shape.half is not None:
        sides = {name: middle + shape.half * np.eye(3)[n] for n, name in enumerate(SIDES)}
        return {"middle": middle, **sides}
    if box.shape == "capsule":
        return {"from": shape.a, "to": shape.b, "middle": middle}
    return {"middle": middle}


def brought(box: Hitbox, shape: Shape, part: str, to: Array, mirrored: bool) -> dict[str, Any]:
    """The fields of a hitbox whose ``part`` was brought ``to`` a place ``[3]`` about its mount (m)."""
    flip = np.array([-1.0, 1.0, 1.0]) if mirrored else np.ones(3)
    if part in ENDS:
        return {ENDS[part]: _place(to * flip)}
    if part == "middle":
        gone = to - (shape.a + shape.b) / 2
        out = {"offset": _place((shape.a + gone) * flip)}
        return out | ({"to": _place((shape.b + gone) * flip)} if box.shape == "capsule" else {})
    if part in SIDES and shape.half is not None:
        axis = SIDES.index(part)
        half = shape.half.copy()
        half[axis] = max(abs(float(to[axis] - shape.a[axis])), THINNEST)
        return {"size": _place(half)}
    way = shape.b - shape.a
    t = np.clip((to - shape.a) @ way / max(float(way @ way), 1e-12), 0.0, 1.0)
    return {"radius": round(max(float(np.linalg.norm(to - shape.a - t * way)), THINNEST), 4)}


def _place(at: Array) -> tuple[float, float, float]:
    x, y, z = (round(float(v), 4) + 0.0 for v in at)
    return x, y, z
