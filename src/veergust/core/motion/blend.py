"""Mixing poses, and the eases that time a mix."""

from __future__ import annotations

import numpy as np

from veergust.core.motion import quat
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


def mean(rotations: Array, translations: Array, weights: Array) -> Pose:
    """The weighted mean of ``k`` poses, rotations ``[k, J, 4]`` and translations ``[k, J, 3]``, weights summing to 1.

    Rotations by their normalised weighted sum, each taken with the sign nearer to the first: the first-order mean of
    F. L. Markley et al., "Averaging Quaternions" (2007). It does not depend on the order in which poses are mixed.
    """
    near = np.einsum("kji,ji->kj", rotations, rotations[0])
    signed = np.where(near < 0.0, -weights[:, None], weights[:, None])
    rotation = np.einsum("kj,kji->ji", signed, rotations)
    size = np.sqrt(np.einsum("ji,ji->j", rotation, rotation))
    rotation /= np.maximum(size, 1e-12)[:, None]
    return Pose(rotation[None], np.tensordot(weights, translations, 1)[None])


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
    delta = same_way(quat.multiply(quat.conjugate(a), b), way)
    mixed = quat.normalize(quat.multiply(a, partly(delta, weight)))
    w = weight[..., None]
    return np.where(w <= 0.0, a, np.where(w >= 1.0, b, mixed)), delta


def same_way(delta: Array, way: Array | None) -> Array:
    """Rotations of the sign that goes the way round they went before, the shorter one where there is no before."""
    side = delta[..., 3] if way is None else np.sum(delta * way, axis=-1)
    return np.where(side[..., None] < 0.0, -delta, delta)


def partly(delta: Array, weight: Array) -> Array:
    """Rotations ``[…, 4]`` done by ``weight`` ``[…]`` only, each the way round its sign says."""
    half = np.arctan2(np.linalg.norm(delta[..., :3], axis=-1), delta[..., 3])
    whole = np.sin(half)
    sine = np.sin(half * weight) / np.where(whole > 1e-9, whole, 1.0)
    # Of a turn too small to have an axis a part is as large as it is.
    sine = np.where(whole > 1e-9, sine, weight)
    return np.concatenate([delta[..., :3] * sine[..., None], np.cos(half * weight)[..., None]], axis=-1)


def moved_on(a: Array, b: Array, weight: Array) -> Array:
    """Places ``[F, J, 3]`` from ``a`` towards ``b`` by ``weight``; ``a`` or ``b`` to the bit at 0 or 1."""
    w = weight[..., None]
    return np.where(w >= 1.0, b, a + (b - a) * w)


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
