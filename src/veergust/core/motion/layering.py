"""One pose over another: in its place or added to it, joint by joint or in body space.

Joint by joint a mask's first joint is turned in its parent as in the pose above, so that an arm sways with hips that
the mask leaves alone. In body space it is turned about the body as in the pose above, so that what hangs on it aims
where it aimed. Both give what is under the mask to the bit where a weight is 0.
"""

from __future__ import annotations

from typing import Literal

import numpy as np

from veergust.core.motion.blend import moved_on, turned_on, weights_of
from veergust.core.motion.kernels import mixing
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Pose, Skeleton, whole

Space = Literal["joint", "body"]


def over(
    bones: Skeleton, base: Pose, pose: Pose, weight: Array, way: Array | None, space: Space = "joint"
) -> tuple[Pose, Array | None]:
    """``pose`` over ``base``, ``F`` frames each, by ``weight`` (0…1): ``[J]`` of all, or ``[F, J]``.

    ``way`` is what the last call of a fade gave (None: it begins); see ``blend.turned_on``.

    In body space the aim is kept while what the mask hangs on is turned by less than 45 degrees from where the pose
    above has it; beyond 150 it is mixed joint by joint, for on hips that are upside down nobody aims.
    """
    if weight.max(initial=0.0) <= 0.0:
        return base, None
    if weight.min(initial=1.0) >= 1.0:
        return pose, None
    place = moved_on(base.translation, pose.translation, weight)
    if space == "joint":
        rotation, way = turned_on(base.rotation, pose.rotation, weight, way)
        return Pose(rotation, place), way
    one, two = whole(base.rotation), whole(pose.rotation)
    out, goes = np.empty(one.shape), np.empty(one.shape)
    mixing.over_about(bones.above, one, two, weights_of(weight, one), way, out, goes)
    return Pose(out, place), goes


def added(
    bones: Skeleton,
    base: Pose,
    pose: Pose,
    reference: Pose,
    weight: Array,
    way: Array | None,
    space: Space = "joint",
) -> tuple[Pose, Array | None]:
    """``base`` with the difference from ``reference`` to ``pose`` added by ``weight``, shapes as in ``over``.

    In body space it is the difference of turns about the body, and it is done about the body.
    """
    if weight.max(initial=0.0) <= 0.0:
        return base, None
    w = weight[..., None]
    place = np.where(w > 0.0, base.translation + (pose.translation - reference.translation) * w, base.translation)
    own = whole(base.rotation)
    theirs, rest = (whole(np.broadcast_to(p.rotation, own.shape)) for p in (pose, reference))
    out, goes = np.empty(own.shape), np.empty(own.shape)
    if space == "joint":
        mixing.added(own, theirs, rest, weights_of(weight, own), way, out, goes)
    else:
        mixing.added_about(bones.above, own, theirs, rest, weights_of(weight, own), way, out, goes)
    return Pose(out, place), goes
