"""Turning joints and pulling limbs of one pose, as handles on the stage do."""

from __future__ import annotations

import numpy as np

from veergust.core.motion import quat
from veergust.core.motion.feet import feet_of
from veergust.core.motion.ik import two_bone
from veergust.core.motion.naming import parts_of
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Pose, Skeleton, forward


def turn_joint(skeleton: Skeleton, pose: Pose, joint: int, axis: Array, degrees: float, *, local: bool) -> Pose:
    """``pose`` (a batch of one) with a joint turned about ``axis`` ``[3]``, its own or the world's."""
    spin = quat.from_axis_angle(axis, degrees)
    rotation = pose.rotation.copy()
    if local:
        rotation[0, joint] = quat.normalize(quat.multiply(rotation[0, joint], spin))
    else:
        world = forward(skeleton, pose.rotation, pose.translation)[0]
        parent = skeleton.parents[joint]
        above = quat.from_matrix(world[parent, :3, :3]) if parent >= 0 else quat.IDENTITY
        inside = quat.multiply(quat.conjugate(above), quat.multiply(spin, above))
        rotation[0, joint] = quat.normalize(quat.multiply(inside, rotation[0, joint]))
    return Pose(rotation, pose.translation)


def limb_ends(skeleton: Skeleton) -> tuple[int, ...]:
    """Hands and feet: joints that can be pulled, with two more above them in the limb."""
    parts = parts_of(skeleton)
    hands = [
        j
        for j, part in enumerate(parts)
        if part.kind == "hand"
        and part.side
        and not part.end
        and skeleton.parents[j] >= 0
        and parts[skeleton.parents[j]].kind == "forearm"
    ]
    ends = [*hands, *feet_of(skeleton)]
    return tuple(j for j in ends if skeleton.parents[skeleton.parents[j]] >= 0)


def pull(skeleton: Skeleton, pose: Pose, joint: int, target: Array) -> Pose:
    """A hand or foot brought to ``target`` ``[3]`` (world) by its limb, bending as it bends now; any other joint is
    moved there with all that hangs on it."""
    world = forward(skeleton, pose.rotation, pose.translation)
    parent = skeleton.parents[joint]
    if joint in limb_ends(skeleton):
        upper = skeleton.parents[parent]
        a, b, c = (world[:, j, :3, 3] for j in (upper, parent, joint))
        bend = b - (a + c) / 2
        ahead = np.array([[0.0, 0.0, 1.0 if joint in feet_of(skeleton) else -1.0]])
        straight = np.linalg.norm(bend) < 0.01 * np.linalg.norm(c - a)
        return two_bone(skeleton, pose, upper, target[None], ahead if straight else bend)
    translation = pose.translation.copy()
    if parent < 0:
        translation[0, joint] = target
    else:
        above = world[0, parent]
        translation[0, joint] = above[:3, :3].T @ (target - above[:3, 3])
    return Pose(pose.rotation, translation)


def reset_joint(skeleton: Skeleton, pose: Pose, under: Pose, joint: int) -> Pose:
    """A joint as it lies in ``under``."""
    rotation, translation = pose.rotation.copy(), pose.translation.copy()
    rotation[0, joint], translation[0, joint] = under.rotation[0, joint], under.translation[0, joint]
    return Pose(rotation, translation)
