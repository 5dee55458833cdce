"""Where a clip's body could look: what is proposed for a rig whose joints do not say."""

from __future__ import annotations

import numpy as np

from veergust.core.model import Clip
from veergust.core.motion import (
    Array,
    Assets,
    Pose,
    Roots,
    Skeleton,
    clip_pose,
    ends,
    forward,
    headings,
    motion_of,
    parts_of,
    quat,
    track_of,
)
from veergust.core.study.clip_reading import Reading

MOST = 240


def chest_of(bones: Skeleton) -> int:
    """The lowest joint that both arms hang on; −1 where there are no two."""
    parts = parts_of(bones)
    chains = []
    for side in ("left", "right"):
        arm = next((j for j, p in enumerate(parts) if p.kind == "upper_arm" and p.side == side), -1)
        chain = []
        while arm >= 0:
            chain.append(arm)
            arm = bones.parents[arm]
        chains.append(chain)
    return next((j for j in chains[0] if j in chains[1]), -1)


def as_chest_and_hips(assets: Assets, clip: Clip, roots: Roots) -> float | None:
    """``forward`` (degrees) with which the body looks where chest and hips look for most of the used clip.

    None when the file is gone.
    """
    if motion_of(assets, clip) is None:
        return None
    start, end = ends(assets, clip)
    at = np.linspace(start, end, MOST)
    pose = clip_pose(assets, clip, at)
    world = forward(assets.skeleton, pose.rotation, pose.translation)
    rest = assets.skeleton.rest_world
    joints = [j for j in (roots.hips, chest_of(assets.skeleton)) if j >= 0]
    looks = np.mean([np.exp(1j * _heading(world[:, j], rest[j])) for j in joints], axis=0)
    track = track_of(assets, clip, roots)
    body = track.at(at)[1]
    apart = looks * np.exp(-1j * body)
    off = float(np.degrees(np.arctan2(np.median(apart.imag), np.median(apart.real))))
    return _wrapped(clip.forward + (-off if clip.mirror else off))


def _heading(world: Array, rest: Array) -> Array:
    away = world[:, :3, :3] @ rest[:3, :3].T
    return headings(quat.from_matrix(away))


def as_in_idle(reading: Reading, frame: int, idle: Pose) -> float:
    """``forward`` (degrees) with which the pose of ``frame`` is turned most like idle (a pose about its body).

    The turn about the upright that brings two sets of points nearest to each other in the least squares
    (Procrustes in the plane).
    """
    here = reading.bare[frame][:, [0, 2]]
    there = forward(reading.skeleton, idle.rotation, idle.translation)[0, :, :3, 3][:, [0, 2]]
    a, b = here - here.mean(axis=0), there - there.mean(axis=0)
    turn = np.degrees(np.arctan2((a[:, 1] * b[:, 0] - a[:, 0] * b[:, 1]).sum(), (a * b).sum()))
    clip = reading.clip
    return _wrapped(clip.forward + (turn if clip.mirror else -turn))


def _wrapped(degrees: float) -> float:
    return round(float((degrees + 180.0) % 360.0 - 180.0), 2)
