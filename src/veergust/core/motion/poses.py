"""Poses keyed by hand, laid over what lies under them: the source of a clip, or the rest pose of a rough one."""

from __future__ import annotations

import numpy as np

from veergust.core.model import PoseKey
from veergust.core.motion import quat
from veergust.core.motion.blend import eases
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Pose, Skeleton

STILL = 1e-6


def _table(skeleton: Skeleton, keys: tuple[PoseKey, ...]) -> tuple[Array, Array]:
    """What the keys add: turns ``[K, J, 4]`` and shifts ``[K, J, 3]``. Joints the figure lacks are passed over."""
    rotation = np.tile(quat.IDENTITY, (len(keys), len(skeleton), 1))
    translation = np.zeros((len(keys), len(skeleton), 3))
    for k, key in enumerate(keys):
        for name, value in key.turns:
            if name in skeleton.index:
                rotation[k, skeleton.index[name]] = value
        for name, shift in key.places:
            if name in skeleton.index:
                translation[k, skeleton.index[name]] = shift
    return quat.normalize(rotation), translation


def added(skeleton: Skeleton, keys: tuple[PoseKey, ...], at: Array) -> tuple[Array, Array]:
    """Turns ``[F, J, 4]`` and shifts ``[F, J, 3]`` of the keys at times ``at`` ``[F]``.

    Between keys by each key's ease, on the shortest arc; held before the first and after the last.
    """
    rotation, translation = _table(skeleton, keys)
    if len(keys) == 1:
        return np.repeat(rotation, len(at), axis=0), np.repeat(translation, len(at), axis=0)
    times = np.array([key.time for key in keys])
    low = np.clip(np.searchsorted(times, at, side="right") - 1, 0, len(keys) - 2)
    t = np.clip((at - times[low]) / np.maximum(times[low + 1] - times[low], 1e-9), 0.0, 1.0)
    for kind in {key.ease for key in keys}:
        mine = np.array([key.ease == kind for key in keys])[low]
        t[mine] = eases(kind, t[mine])
    out = quat.slerp(rotation[low], rotation[low + 1], t[:, None])
    return out, translation[low] + (translation[low + 1] - translation[low]) * t[:, None, None]


def overlay(skeleton: Skeleton, pose: Pose, keys: tuple[PoseKey, ...], at: Array) -> Pose:
    """``pose`` of ``F`` frames shown at source times ``at`` with the keys laid over it."""
    if not keys:
        return pose
    rotation, translation = added(skeleton, keys, at)
    return Pose(quat.normalize(quat.multiply(pose.rotation, rotation)), pose.translation + translation)


def key_of(skeleton: Skeleton, time: float, under: Pose, wanted: Pose, ease: str = "smooth") -> PoseKey:
    """The key that makes ``wanted`` of ``under`` (batches of one); joints that stay are not listed."""
    delta = quat.multiply(quat.conjugate(under.rotation[0]), wanted.rotation[0])
    delta = delta * np.where(delta[:, 3:] < 0.0, -1.0, 1.0)
    shift = wanted.translation[0] - under.translation[0]
    turned = np.linalg.norm(delta[:, :3], axis=-1) > STILL
    moved = np.linalg.norm(shift, axis=-1) > STILL
    names = skeleton.names
    return PoseKey(
        time=time,
        ease=ease,  # type: ignore[arg-type]
        turns=tuple((names[j], _quat(delta[j])) for j in np.flatnonzero(turned)),
        places=tuple((names[j], _vec(shift[j])) for j in np.flatnonzero(moved)),
    )


def _quat(values: Array) -> tuple[float, float, float, float]:
    x, y, z, w = (round(float(v), 9) for v in values)
    return x, y, z, w


def _vec(values: Array) -> tuple[float, float, float]:
    x, y, z = (round(float(v), 9) for v in values)
    return x, y, z
