"""Mounts and grips as they are on a figure: where one is, and which arm brings which palm to which mount."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from veergust.core.model import Grip, Mount
from veergust.core.motion import Array, Limb, Limbs, Skeleton, quat

FindMount = Callable[[str], tuple[int, Array] | None]
"""The joint of a mount and its place in it ``[4, 4]``, by its name."""


@dataclass(frozen=True, eq=False)
class CompiledGrip:
    """A grip on this figure: the arm, its hand, the palm in that ``[4]``, the mount's joint and place in it ``[4]``."""

    grip: Grip
    arm: Limbs
    hand: int
    palm: Array
    joint: int
    frame: Array


def holds_of(grips: Sequence[Grip], bones: Skeleton, mount: FindMount) -> tuple[CompiledGrip | None, ...]:
    """Grips as they are on a figure; None for one that cannot be."""
    return tuple(_hold(grip, bones, mount) for grip in grips)


def _hold(grip: Grip, bones: Skeleton, mount: FindMount) -> CompiledGrip | None:
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
    return CompiledGrip(grip, arm, hand[0], hand[1][:, 3], at[0], at[1][:, 3])


def placed_mount(mount: Mount | None, name: str, bones: Skeleton, mirrored: bool) -> tuple[int, Array] | None:
    """(joint, frame in it ``[4, 4]``) of a mount, or of a joint of that name; on the other side of a mirrored pose."""
    index = bones.index
    joint = index.get(mount.joint if mount else name)
    if joint is None:
        return None
    offset = np.array(mount.offset if mount else (0.0, 0.0, 0.0))
    turn = quat.from_euler(mount.turn if mount else (0.0, 0.0, 0.0))
    if mirrored:
        joint = bones.mirrored[joint]
        offset = offset * np.array([-1.0, 1.0, 1.0])
        turn = turn * np.array([1.0, -1.0, -1.0, 1.0])
    local = np.eye(4)
    local[:3, :3], local[:3, 3] = quat.to_matrix(turn), offset
    return joint, local
