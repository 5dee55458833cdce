"""Hurtboxes ready to be placed, by how the body stands."""

from __future__ import annotations

import numpy as np

from veergust.core.model import Rig
from veergust.core.motion.quat import Array, Indices
from veergust.core.motion.skeleton import Skeleton

POSTURES = ("standing", "ducking", "down")
HurtCapsules = tuple[Indices, Array, Array, Array, list[str]]
"""Joints ``[H]``, ends in them ``[H, 3]`` twice, radii ``[H]`` and names of hurtboxes."""


def hurt_capsules_of(rig: Rig, skeleton: Skeleton) -> dict[str, HurtCapsules]:
    """By posture, the hurtboxes that are there and whose joint the figure has."""
    return {posture: _in(rig, skeleton, posture) for posture in POSTURES}


def _in(rig: Rig, skeleton: Skeleton, posture: str) -> HurtCapsules:
    index = skeleton.index
    there = [h for h in rig.hurtboxes if not h.postures or posture in h.postures]
    known = [h for h in there if h.joint in index]
    joints = np.array([index[h.joint] for h in known], dtype=np.intp)
    a, b = (np.array([getattr(h, end) for h in known], dtype=float).reshape(-1, 3) for end in ("offset", "to"))
    return joints, a, b, np.array([h.radius for h in known]), [h.name for h in known]
