"""Mixing poses, and the eases that time a mix."""

from __future__ import annotations

import numpy as np

from veergust.core.motion import quat
from veergust.core.motion.kernels import mixing
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Pose, Skeleton


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


def strongest(moments: list[tuple[Pose, float, float]]) -> Pose:
    """Of moments as ``mean`` takes them the frame that counts most, the first of those that count alike: what there is
    of a drawn figure, whose drawings have no mean."""
    most = max(weight for _, _, weight in moments)
    pose, at, _ = next(m for m in moments if m[2] >= most - 1e-9)
    return pose.frame(int(at + 1e-6))


def mean(moments: list[tuple[Pose, float, float]]) -> Pose:
    """The weighted mean of moments of poses, the weights summing to 1: (pose, frame, weight) each; a frame of 2.25 is
    a quarter of the way from the third to the fourth.

    Rotations by their normalised weighted sum, each taken with the sign nearer to the first: the first-order mean of
    F. L. Markley et al., "Averaging Quaternions" (2007). It does not depend on the order in which poses are mixed.
    """
    joints = moments[0][0].rotation.shape[1]
    rotation, translation = np.empty((1, joints, 4)), np.empty((1, joints, 3))
    mixing.mean(moments, rotation[0], translation[0])
    return Pose(rotation, translation)


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
