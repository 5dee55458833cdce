"""A take cleaned, as its clip says: laid over the source, which stays as it is.

What trembles is filtered limb by limb, the figure is set on its floor, feet that stand are kept from sliding, and a
hand is kept to the weapon the other holds.
"""

from __future__ import annotations

from math import ceil

import numpy as np
from numpy.typing import NDArray

from veergust.core.model import Clean
from veergust.core.motion import quat
from veergust.core.motion.feet import contacts, feet_of
from veergust.core.motion.filtering import lowpass as filtered
from veergust.core.motion.filtering import resting, smooth_turns
from veergust.core.motion.ik import two_bone
from veergust.core.motion.mapping import leg_length
from veergust.core.motion.naming import parts_of
from veergust.core.motion.quat import Array
from veergust.core.motion.sampling import Motion, Track, sample
from veergust.core.motion.skeleton import Pose, Skeleton, forward

LEAST_RATE = 60.0
CHUNK = 4096
LIMBS = {
    "trunk": ("hips", "spine", "neck", "head", "root", "jaw", "eye"),
    "arms": ("collar", "upper_arm", "forearm", "hand", "fingers", "thumb", "index", "middle", "ring", "little"),
    "legs": ("thigh", "shin", "foot", "toe"),
}
"""The joints that are smoothed together; what is neither is smoothed with the trunk."""


def cleaned(skeleton: Skeleton, motion: Motion, clean: Clean) -> Motion:
    """A motion as ``clean`` asks for it, keyed evenly at its own rate or at least 60 a second."""
    rate = motion.fps * max(1, ceil(LEAST_RATE / motion.fps - 1e-6))
    frames = max(1, round(motion.seconds * rate)) + 1
    at = np.linspace(0.0, motion.seconds, frames)
    pose = sample(skeleton, motion, at)
    step = motion.seconds / max(frames - 1, 1)
    rest = motion.rest.rotation[0] if motion.rest is not None else skeleton.rest_rotation
    after = resting(pose.rotation, rest) if frames > 3 else 0
    pose = _smoothed(skeleton, pose, clean, step, after)
    if clean.floor:
        place = pose.translation.copy()
        for root in (j for j, parent in enumerate(skeleton.parents) if parent < 0):
            place[:, root, 1] += clean.floor
        pose = Pose(pose.rotation, place)
    if clean.feet and frames > 3:
        pose = _locked(skeleton, pose, clean.feet_blend, step)
    if clean.hand in skeleton.index and clean.to in skeleton.index and clean.hand != clean.to:
        pose = _held(skeleton, pose, skeleton.index[clean.hand], skeleton.index[clean.to])
    moved = np.flatnonzero(np.abs(pose.translation - skeleton.rest_translation).max(axis=(0, 2)) > 1e-9)
    tracks = [
        *(Track(j, "rotation", "LINEAR", at, pose.rotation[:, j].copy()) for j in range(len(skeleton))),
        *(Track(int(j), "translation", "LINEAR", at, pose.translation[:, j].copy()) for j in moved),
    ]
    return Motion(motion.name, motion.seconds, motion.fps, tuple(tracks), motion.rest)


def _smoothed(skeleton: Skeleton, pose: Pose, clean: Clean, step: float, after: int) -> Pose:
    kinds = [p.kind for p in parts_of(skeleton)]
    turn, place = pose.rotation, pose.translation
    for limb, cutoff in (("trunk", clean.trunk), ("arms", clean.arms), ("legs", clean.legs)):
        if cutoff <= 0.0:
            continue
        others = {k for name, known in LIMBS.items() if name != limb for k in known}
        own = [j for j, k in enumerate(kinds) if k in LIMBS[limb] or (limb == "trunk" and k not in others)]
        turn = turn.copy()
        turn[:, own] = smooth_turns(turn[:, own], step, cutoff, after)
        if limb == "trunk":
            place = filtered(place, step, cutoff, after)
    return Pose(turn, place)


def _places(skeleton: Skeleton, pose: Pose, joints: list[int]) -> dict[int, Array]:
    """Where some joints are in the world ``[F, 3]``, worked out in parts."""
    out = {j: np.empty((len(pose.rotation), 3)) for j in joints}
    for low in range(0, len(pose.rotation), CHUNK):
        rows = slice(low, low + CHUNK)
        world = forward(skeleton, pose.rotation[rows], pose.translation[rows])
        for j in joints:
            out[j][rows] = world[:, j, :3, 3]
    return out


def _locked(skeleton: Skeleton, pose: Pose, blend: float, step: float) -> Pose:
    """Feet that stand kept where they stand, with a blend in and out (s)."""
    feet = [f for f in feet_of(skeleton) if skeleton.parents[skeleton.parents[f]] >= 0]
    if not feet:
        return pose
    places = _places(skeleton, pose, list(range(len(skeleton))))
    size = leg_length(skeleton, feet[0])
    fade = max(1, round(blend / step))
    for foot in feet:
        own = places[foot]
        goal, weight = np.zeros((len(own), 3)), np.zeros(len(own))
        for span in contacts(skeleton, places, step, size, (foot,)):
            low, high = max(span.start - fade, 0), min(span.end + fade, len(own))
            stands = np.median(own[span.start : span.end], axis=0)
            ramp = np.ones(high - low)
            ramp[: span.start - low] = _ease(np.arange(1, span.start - low + 1) / (span.start - low + 1))
            ramp[span.end - low :] = _ease(np.arange(high - span.end, 0, -1) / (high - span.end + 1))
            goal[low:high] += ramp[:, None] * stands
            weight[low:high] += ramp
        # Where one lock fades out while the next fades in, the foot goes from the one to the other.
        held = np.minimum(weight, 1.0)[:, None]
        goal = own + (goal / np.maximum(weight, 1e-9)[:, None] - own) * held
        pose = _reached(skeleton, pose, foot, goal, weight > 0.0)
    return pose


def _ease(x: Array) -> Array:
    return np.asarray(x * x * (3.0 - 2.0 * x))


def _reached(skeleton: Skeleton, pose: Pose, end: int, goal: Array, where: NDArray[np.bool_]) -> Pose:
    """A limb's end brought to ``goal`` ``[F, 3]`` on some frames, bending as it bends."""
    middle = skeleton.parents[end]
    upper = skeleton.parents[middle]
    turn = pose.rotation.copy()
    for low in range(0, len(turn), CHUNK):
        rows = slice(low, low + CHUNK)
        on = np.flatnonzero(where[rows]) + low
        if not len(on):
            continue
        part = Pose(pose.rotation[on], pose.translation[on])
        world = forward(skeleton, part.rotation, part.translation)
        bend = world[:, middle, :3, 3] - (world[:, upper, :3, 3] + world[:, end, :3, 3]) / 2
        ahead = world[:, end, :3, :3] @ np.array([0.0, 0.0, 1.0])
        bent = np.linalg.norm(bend, axis=-1, keepdims=True) > 1e-3
        turn[on] = two_bone(skeleton, part, upper, goal[on], np.where(bent, bend, ahead)).rotation
    return Pose(turn, pose.translation)


def _held(skeleton: Skeleton, pose: Pose, hand: int, to: int) -> Pose:
    """A hand kept where it mostly is beside the joint that holds the weapon."""
    if skeleton.parents[hand] < 0 or skeleton.parents[skeleton.parents[hand]] < 0:
        return pose
    world = forward(skeleton, pose.rotation, pose.translation)
    turned = quat.from_matrix(world[:, to, :3, :3])
    beside = quat.rotate(quat.conjugate(turned), world[:, hand, :3, 3] - world[:, to, :3, 3])
    goal = world[:, to, :3, 3] + quat.rotate(turned, np.median(beside, axis=0))
    return _reached(skeleton, pose, hand, goal, np.ones(len(goal), dtype=bool))
