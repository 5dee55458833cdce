"""Root travel: what of a pose's travel moves the body, and the pose that is left."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from veergust.core.motion import quat
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Pose, Skeleton, forward


@dataclass(frozen=True, eq=False, repr=False)
class Travel:
    """The body's way over ``F`` frames from its first: ``place`` ``[F, 3]`` (m), ``yaw`` ``[F]`` (radians)."""

    place: Array
    yaw: Array


def extract(
    skeleton: Skeleton,
    pose: Pose,
    joint: int,
    *,
    forward_on: bool = True,
    side_on: bool = True,
    up_on: bool = False,
    turn_on: bool = True,
) -> tuple[Travel, Pose]:
    """Split ``pose`` into the body's travel and the pose that is left.

    The travel of ``joint`` (a root, or the hips projected to the floor) is cut into steps from frame to frame in
    the body's own frame; the parts that are off stay in the pose. Placing the pose that is left at the travel
    gives the source back exactly: ``body · left = source`` (up to rounding).
    """
    world = forward(skeleton, pose.turn, pose.place)[:, joint]
    heading = np.unwrap(quat.yaw_of(world))
    yaw = heading - heading[0] if turn_on else np.zeros(len(heading))
    # The body turns about itself, so its way is that of the point under which it stood on the first frame.
    under = world[0, :3, 3] * np.array([1.0, 0.0, 1.0])
    place = world[:, :3, 3] - quat.rotate(quat.from_yaw(yaw), np.broadcast_to(under, (len(yaw), 3)))
    part = np.array([side_on, up_on, forward_on], dtype=np.float64)
    step = quat.rotate(quat.from_yaw(-yaw[:-1]), np.diff(place, axis=0)) * part
    way = np.cumsum(quat.rotate(quat.from_yaw(yaw[:-1]), step), axis=0)
    travel = Travel(np.concatenate([np.zeros((1, 3)), way]), yaw)
    return travel, remove(skeleton, pose, travel)


def remove(skeleton: Skeleton, pose: Pose, travel: Travel) -> Pose:
    """``pose`` as seen from a body that has made ``travel``."""
    back = quat.from_yaw(-travel.yaw)
    turn, place = pose.turn.copy(), pose.place.copy()
    for j, parent in enumerate(skeleton.parents):
        if parent < 0:
            turn[:, j] = quat.multiply(back, turn[:, j])
            place[:, j] = quat.rotate(back, place[:, j] - travel.place)
    return Pose(quat.normalize(turn), place)
