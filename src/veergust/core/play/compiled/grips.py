"""Grips as they are on a figure: which arm brings which palm to which mount."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from veergust.core.model import Grip
from veergust.core.motion.legs import Limb, Limbs
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Skeleton

FindMount = Callable[[str], tuple[int, Array] | None]
"""The joint of a mount and its place in it ``[4, 4]``, by its name."""


@dataclass(frozen=True, eq=False)
class Hold:
    """A grip on this figure: the arm, its hand, the palm in that ``[4]``, the mount's joint and place in it ``[4]``."""

    grip: Grip
    arm: Limbs
    hand: int
    palm: Array
    joint: int
    frame: Array


def holds_of(grips: Sequence[Grip], bones: Skeleton, mount: FindMount) -> tuple[Hold | None, ...]:
    """Grips as they are on a figure; None for one that cannot be."""
    return tuple(_hold(grip, bones, mount) for grip in grips)


def _hold(grip: Grip, bones: Skeleton, mount: FindMount) -> Hold | None:
    hand, at = mount(grip.hand), mount(grip.mount)
    if hand is None or at is None:
        return None
    fore = bones.parents[hand[0]]
    upper = bones.parents[fore] if fore >= 0 else -1
    # What hangs on the hand itself goes wherever the hand goes.
    if upper < 0 or bones.parents[upper] < 0 or at[0] in bones.below((upper,)):
        return None
    rest = bones.rest_world[:, :3, 3]
    long = [float(np.linalg.norm(rest[a] - rest[b])) for a, b in ((upper, fore), (fore, hand[0]))]
    if min(long) < 1e-4:
        return None
    arm = Limbs.of([Limb(upper, fore, hand[0], hand[0], (long[0], long[1]))])
    return Hold(grip, arm, hand[0], hand[1][:, 3], at[0], at[1][:, 3])
