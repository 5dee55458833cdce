"""Two-bone inverse kinematics on batches of frames."""

from __future__ import annotations

import numpy as np

from veergust.core.motion import quat
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Pose, Skeleton, forward


def two_bone(
    skeleton: Skeleton, pose: Pose, upper: int, target: Array, pole: Array, weight: float | Array = 1.0
) -> Pose:
    """Turn a limb ``upper`` → middle → end so that its end reaches ``target`` ``[F, 3]`` (world).

    The middle joint bends towards ``pole`` ``[F, 3]``, a world direction. The end keeps its world rotation. The
    angles come from the law of cosines; a target out of reach is met with a nearly straight limb. ``weight``
    (number or ``[F]``) mixes from the pose given.
    """
    middle = skeleton.parents.index(upper)
    end = skeleton.parents.index(middle)
    world = forward(skeleton, pose.rotation, pose.translation)
    a, b, c = world[:, upper, :3, 3], world[:, middle, :3, 3], world[:, end, :3, 3]
    spin = quat.from_matrix(world[:, [upper, middle, end], :3, :3])
    first = np.linalg.norm(b - a, axis=-1)
    second = np.linalg.norm(c - b, axis=-1)
    reach = target - a
    distance = np.clip(np.linalg.norm(reach, axis=-1), np.abs(first - second) + 1e-4, first + second - 1e-4)
    along = reach / np.maximum(np.linalg.norm(reach, axis=-1, keepdims=True), 1e-9)
    side = pole - along * np.sum(pole * along, axis=-1, keepdims=True)
    side = side / np.maximum(np.linalg.norm(side, axis=-1, keepdims=True), 1e-9)
    cosine = np.clip((first**2 + distance**2 - second**2) / (2 * first * distance), -1.0, 1.0)
    elbow = a + first[:, None] * (along * cosine[:, None] + side * np.sqrt(1 - cosine**2)[:, None])
    tip = a + along * distance[:, None]
    upper_world = quat.multiply(quat.between(b - a, elbow - a), spin[:, 0])
    # Carry the middle joint along with the upper bone first, so that its twist is kept.
    carried = quat.multiply(quat.multiply(upper_world, quat.conjugate(spin[:, 0])), spin[:, 1])
    bone = quat.rotate(quat.multiply(carried, quat.conjugate(spin[:, 1])), c - b)
    middle_world = quat.multiply(quat.between(bone, tip - elbow), carried)
    parent = skeleton.parents[upper]
    base = quat.from_matrix(world[:, parent, :3, :3]) if parent >= 0 else quat.IDENTITY[None]
    rotation = pose.rotation.copy()
    w = np.broadcast_to(np.asarray(weight, dtype=np.float64), (len(a),))
    solved = {
        upper: quat.multiply(quat.conjugate(base), upper_world),
        middle: quat.multiply(quat.conjugate(upper_world), middle_world),
        end: quat.multiply(quat.conjugate(middle_world), spin[:, 2]),
    }
    for joint, value in solved.items():
        rotation[:, joint] = quat.slerp(pose.rotation[:, joint], value, w)
    return Pose(rotation, pose.translation)
