"""A figure's legs, and limbs in the form in which they are brought to a place on every tick (``kernels.limbs``)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from veergust.core.motion.feet import feet_of, toes_of
from veergust.core.motion.quat import Array, Indices
from veergust.core.motion.skeleton import Skeleton


@dataclass(frozen=True)
class Limb:
    """Joints of a leg or an arm, what its end points to, its bones' lengths (m), and how high (m) that is at rest."""

    upper: int
    middle: int
    end: int
    tip: int
    lengths: tuple[float, float]
    tip_high: float = 0.0


@dataclass(frozen=True, eq=False)
class Limbs:
    """Limbs as arrays: ``joints`` ``[n, 4]`` from upper to tip, ``lengths`` ``[n, 2]``, ``tip_high`` ``[n]``."""

    joints: Indices
    lengths: Array
    tip_high: Array

    def __len__(self) -> int:
        return len(self.joints)

    @staticmethod
    def of(limbs: Sequence[Limb]) -> Limbs:
        """Limbs put together."""
        joints = np.array([(x.upper, x.middle, x.end, x.tip) for x in limbs], dtype=np.intp).reshape(-1, 4)
        lengths = np.array([x.lengths for x in limbs], dtype=np.float64).reshape(-1, 2)
        return Limbs(joints, lengths, np.array([x.tip_high for x in limbs], dtype=np.float64))


def legs_of(bones: Skeleton) -> tuple[Limb, ...]:
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
            out.append(Limb(thigh, shin, foot, ball, (upper, lower), float(rest[ball, 1])))
    return tuple(out)
