"""One pose over another: in its place or added to it, joint by joint or in body space.

Joint by joint a mask's first joint is turned in its parent as in the pose above, so that an arm sways with hips that
the mask leaves alone. In body space it is turned about the body as in the pose above, so that what hangs on it aims
where it aimed. Both give what is under the mask to the bit where a weight is 0.
"""

from __future__ import annotations

from typing import Literal

import numpy as np

from veergust.core.motion.kernels import mixing
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Pose, Skeleton

Space = Literal["joint", "body"]
HALF = 0.5 - 1e-9
"""A drawing that shows by more than this much is the one that is seen."""


def over(
    bones: Skeleton,
    base: Pose,
    pose: Pose,
    weight: Array,
    way: Array | None,
    space: Space = "joint",
    share: float = 1.0,
) -> tuple[Pose, Array]:
    """``pose`` over ``base``, ``F`` frames each, by ``weight`` (0…1): ``[J]``, or ``[F, J]``; each by ``share`` of it.

    What has one frame, or one weight, counts for all.

    On the shortest arc alone a joint that comes to be turned by more than half a circle while one pose fades over the
    other would change sides and leap: each keeps the way round it began. ``way`` is what the last call gave (None: it
    begins): rotations from one to the other, of the sign that is nearer to those before.

    In body space the aim is kept while what the mask hangs on is turned by less than 45 degrees from where the pose
    above has it; beyond 150 it is mixed joint by joint, for on hips that are upside down nobody aims.
    """
    if bones.picture >= 0:
        return _chosen(bones, base, pose, weight, share)
    out, places, goes = _room(base, pose)
    mixing.over(bones.above, base, pose, _rows(weight), share, way, out, places, goes, space == "body")
    return Pose(out, places), goes


def added(
    bones: Skeleton,
    base: Pose,
    pose: Pose,
    reference: Pose,
    weight: Array,
    way: Array | None,
    space: Space = "joint",
    share: float = 1.0,
) -> tuple[Pose, Array]:
    """``base`` with the difference from ``reference`` to ``pose`` added by ``weight``.

    Shapes and ``way`` are as in ``over``.

    In body space it is the difference of turns about the body, and it is done about the body. To a drawing nothing can
    be added.
    """
    if bones.picture >= 0:
        return _chosen(bones, base, base, weight, share)
    out, places, goes = _room(base, pose)
    body = space == "body"
    mixing.added(bones.above, base, pose, reference, _rows(weight), share, way, out, places, goes, body)
    return Pose(out, places), goes


def _chosen(bones: Skeleton, base: Pose, pose: Pose, weight: Array, share: float) -> tuple[Pose, Array]:
    """Frame by frame the one of two poses that the picture's weight says."""
    frames = max(len(base.rotation), len(pose.rotation))
    rows = _rows(weight)
    much = rows[:, bones.picture if rows.shape[1] > 1 else 0] * share
    later = np.broadcast_to(much > HALF, frames)[:, None, None]
    way = np.zeros((frames, len(bones), 4))
    way[..., 3] = 1.0
    rotation = np.where(later, pose.rotation, base.rotation)
    return Pose(rotation, np.where(later, pose.translation, base.translation)), way


def _rows(weight: Array) -> Array:
    return weight if weight.ndim == 2 else weight[None]


def _room(base: Pose, pose: Pose) -> tuple[Array, Array, Array]:
    """Where rotations, places and ways are put."""
    frames, joints = max(len(base.rotation), len(pose.rotation)), base.rotation.shape[1]
    return np.empty((frames, joints, 4)), np.empty((frames, joints, 3)), np.empty((frames, joints, 4))
