"""Mixing poses, and the eases that time a mix."""

from __future__ import annotations

import numpy as np

from veergust.core.motion import quat
from veergust.core.motion.kernels import mixing
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Pose, Skeleton, whole


def mix(a: Pose, b: Pose, weight: float | Array) -> Pose:
    """``a`` towards ``b`` by ``weight`` (one number, or ``[J]``): rotations on the shortest arc."""
    w = np.asarray(weight, dtype=np.float64)
    if w.ndim == 0:
        if w >= 1.0:
            return b
        if w <= 0.0:
            return a
        w = np.full(a.rotation.shape[1], w)
    return Pose(
        quat.slerp(a.rotation, b.rotation, w[None]),
        a.translation + (b.translation - a.translation) * w[None, :, None],
    )


def mean(frames: list[tuple[Pose, int, float]]) -> Pose:
    """The weighted mean of frames of poses: (pose, index of the frame, weight) each, the weights summing to 1.

    Rotations by their normalised weighted sum, each taken with the sign nearer to the first: the first-order mean of
    F. L. Markley et al., "Averaging Quaternions" (2007). It does not depend on the order in which poses are mixed.
    """
    joints = frames[0][0].rotation.shape[1]
    rotation, translation = np.empty((1, joints, 4)), np.empty((1, joints, 3))
    mixing.mean(frames, rotation[0], translation[0])
    return Pose(rotation, translation)


def mix_on(a: Pose, b: Pose, weight: float | Array, way: Array | None) -> tuple[Pose, Array | None]:
    """As ``mix`` of two poses that move while one fades over the other: each joint keeps the way round it began.

    ``way`` is what the last call gave; None at the beginning, or where nothing is mixed.
    """
    w = np.asarray(weight, dtype=np.float64)
    if w.max(initial=0.0) <= 0.0:
        return a, None
    if w.min(initial=1.0) >= 1.0:
        return b, None
    if w.ndim == 0:
        w = np.full(a.rotation.shape[1], w)
    rotation, way = turned_on(a.rotation, b.rotation, w, way)
    return Pose(rotation, moved_on(a.translation, b.translation, w)), way


def turned_on(a: Array, b: Array, weight: Array, way: Array | None) -> tuple[Array, Array]:
    """Rotations ``[F, J, 4]`` from ``a`` towards ``b`` by ``weight`` (``[J]``, ``[F, J]``), the way round each began.

    On the shortest arc alone a joint that comes to be turned by more than half a circle would change sides and leap.
    ``way`` is what the last call gave: rotations from ``a`` to ``b``, of the sign that is nearer to those before. Where
    the weight is 0 or 1 it is ``a`` or ``b`` to the bit.
    """
    one, two = whole(a), whole(b)
    out, goes = np.empty(one.shape), np.empty(one.shape)
    mixing.turned_on(one, two, weights_of(weight, one), way, out, goes)
    return out, goes


def moved_on(a: Array, b: Array, weight: Array) -> Array:
    """Places ``[F, J, 3]`` from ``a`` towards ``b`` by ``weight``; ``a`` or ``b`` to the bit at 0 or 1."""
    one, two = whole(a), whole(b)
    out = np.empty(one.shape)
    mixing.moved_on(one, two, weights_of(weight, one), out)
    return out


def weights_of(weight: Array, values: Array) -> Array:
    """Weights ``[J]`` or ``[F, J]`` for each joint of each frame of ``values`` ``[F, J, …]``."""
    return whole(np.broadcast_to(weight, values.shape[:2]))


def mask_weights(skeleton: Skeleton, joint: str, feather: int, own: tuple[tuple[str, float], ...] = ()) -> Array:
    """Weights ``[J]`` of a mask: from ``joint`` onward (empty: all), rising over ``feather`` joints.

    The first joint of a feather of n gets 1/(n+1), the next 2/(n+1) and so on. ``own`` weights are set last.
    """
    weights = np.zeros(len(skeleton))
    if not joint:
        weights[:] = 1.0
    elif joint in skeleton.index:
        depth: dict[int, int] = {skeleton.index[joint]: 0}
        for j, parent in enumerate(skeleton.parents):
            if parent in depth:
                depth[j] = depth[parent] + 1
        for j, d in depth.items():
            weights[j] = min(1.0, (d + 1) / (feather + 1))
    for name, value in own:
        if name in skeleton.index:
            weights[skeleton.index[name]] = value
    return weights


def ease(kind: str, t: float) -> float:
    """``t`` in 0…1 shaped: ``linear``, ``smooth`` (3t² − 2t³), ``in`` (t²), ``out`` (1 − (1 − t)²), ``hold`` (0)."""
    t = min(max(t, 0.0), 1.0)
    if kind == "smooth":
        return t * t * (3.0 - 2.0 * t)
    if kind == "in":
        return t * t
    if kind == "out":
        return 1.0 - (1.0 - t) ** 2
    if kind == "hold":
        return float(t >= 1.0)
    return t


def eases(kind: str, t: Array) -> Array:
    """``ease`` over an array."""
    t = np.clip(t, 0.0, 1.0)
    if kind == "smooth":
        return np.asarray(t * t * (3.0 - 2.0 * t))
    if kind == "in":
        return np.asarray(t * t)
    if kind == "out":
        return np.asarray(1.0 - (1.0 - t) ** 2)
    if kind == "hold":
        return np.floor(t)
    return np.asarray(t)
