"""Carrying motion from one skeleton over to another.

Each mapped joint turns in the world as its source does, measured from the two rest poses with the bones laid in the
same directions; so an arm that points at something points there on the figure too, whether it rested in a T or an A.
The hips' way is scaled by the length of the legs, and a foot that stands is kept standing by two-bone IK.
"""

from __future__ import annotations

import numpy as np

from veergust.core.model import SourceRig
from veergust.core.motion import quat
from veergust.core.motion.feet import above_feet, contacts, feet_of, hips_of
from veergust.core.motion.ik import two_bone
from veergust.core.motion.mapping import leg_length
from veergust.core.motion.quat import Array
from veergust.core.motion.sampling import Motion, Track, sample
from veergust.core.motion.skeleton import Pose, Skeleton, forward

FADE = 0.07


def transfer(source: Skeleton, motion: Motion, figure: Skeleton, rig: SourceRig) -> Motion:
    """``motion`` of ``source`` for ``figure``, keyed at its own rate; joints of the figure without a pair rest."""
    frames = max(1, round(motion.seconds * motion.fps)) + 1
    at = np.linspace(0.0, motion.seconds, frames) if motion.seconds > 0 else np.zeros(1)
    pose = sample(source, motion, at)
    upright = quat.from_euler(rig.turn)
    world = forward(source, pose.rotation, pose.translation)
    spin = quat.multiply(upright, quat.from_matrix(world[..., :3, :3]))
    places = quat.rotate(upright, world[..., :3, 3]) * rig.scale
    pairs = [(source.index[s], figure.index[f]) for s, f in rig.joints if s in source.index and f in figure.index]
    made = _turned(source, figure, pairs, spin, upright)
    made = _moved(source, figure, pairs, made, places, upright, rig.scale)
    if rig.plant and frames > 2:
        made = _planted(source, figure, dict(pairs), made, places, float(at[1] - at[0]))
    rest_spin = quat.multiply(upright, quat.from_matrix(source.rest_world[None, :, :3, :3]))
    rest = _turned(source, figure, pairs, rest_spin, upright)
    return Motion(motion.name, motion.seconds, motion.fps, _tracks(figure, at, made, {f for _, f in pairs}), rest)


def _turned(source: Skeleton, figure: Skeleton, pairs: list[tuple[int, int]], spin: Array, upright: Array) -> Pose:
    of = {f: s for s, f in pairs}
    rest_s = quat.multiply(upright, quat.from_matrix(source.rest_world[:, :3, :3]))
    rest_f = quat.from_matrix(figure.rest_world[:, :3, :3])
    lay = bone_alignment(source, figure, of, upright)
    frames = len(spin)
    turn = np.broadcast_to(figure.rest_rotation, (frames, len(figure), 4)).copy()
    world = np.empty((frames, len(figure), 4))
    for f, parent in enumerate(figure.parents):
        above = world[:, parent] if parent >= 0 else np.broadcast_to(quat.IDENTITY, (frames, 4))
        s = of.get(f)
        if s is None:
            world[:, f] = quat.multiply(above, turn[:, f])
            continue
        away = quat.multiply(spin[:, s], quat.conjugate(rest_s[s]))
        world[:, f] = quat.normalize(quat.multiply(away, quat.multiply(lay[f], rest_f[f])))
        turn[:, f] = quat.multiply(quat.conjugate(above), world[:, f])
    place = np.broadcast_to(figure.rest_translation, (frames, len(figure), 3)).copy()
    return Pose(quat.normalize(turn), place)


def bone_alignment(source: Skeleton, figure: Skeleton, of: dict[int, int], upright: Array) -> Array:
    """For each joint of the figure the turn ``[J, 4]`` that lays its bone, in rest, along its source's.

    A bone goes to the mapped joints next below it (to the middle of several); one that ends a chain is laid as its
    parent's is. Hips, and what is above them, keep the frame of their rest pose.
    """
    rest_s = quat.rotate(upright, source.rest_world[:, :3, 3])
    rest_f = figure.rest_world[:, :3, 3]
    below: dict[int, list[int]] = {f: [] for f in of}
    for f in of:
        at = figure.parents[f]
        while at >= 0 and at not in of:
            at = figure.parents[at]
        if at >= 0:
            below[at].append(f)
    out = np.tile(quat.IDENTITY, (len(figure), 1))
    for f, parent in enumerate(figure.parents):
        if f not in of:
            out[f] = out[parent] if parent >= 0 else quat.IDENTITY
        elif above_feet(figure, f):
            continue
        elif below[f]:
            ours = np.mean([rest_f[c] - rest_f[f] for c in below[f]], axis=0)
            theirs = np.mean([rest_s[of[c]] - rest_s[of[f]] for c in below[f]], axis=0)
            if min(np.linalg.norm(ours), np.linalg.norm(theirs)) > 1e-6:
                out[f] = quat.between(ours, theirs)
        elif parent >= 0:
            out[f] = out[parent]
    return out


def _moved(
    source: Skeleton,
    figure: Skeleton,
    pairs: list[tuple[int, int]],
    pose: Pose,
    places: Array,
    upright: Array,
    scale: float,
) -> Pose:
    """The way of the topmost mapped joints, so that the figure stands as high over the floor as the source."""
    place = pose.translation.copy()
    of = {f: s for s, f in pairs}
    hips = hips_of(figure)
    rest_s = quat.rotate(upright, source.rest_world[:, :3, 3]) * scale
    for s, f in pairs:
        parent = figure.parents[f]
        above_mapped = parent >= 0 and _has_mapped_above(figure, parent, of)
        carries = f == hips and above_feet(figure, f)
        if above_mapped and not carries:
            continue
        # A root on the floor goes where the source's goes; hips keep their rise over the feet.
        ours = figure.rest_world[f, :3, 3]
        foot_s = min((float(rest_s[of[j], 1]) for j in feet_of(figure) if j in of), default=0.0)
        foot_f = min((float(figure.rest_world[j, 1, 3]) for j in feet_of(figure) if j in of), default=0.0)
        want = places[:, s].copy()
        if carries:
            # The floor under the source is where its feet are lowest while it moves, not where they are in rest.
            stand = [of[j] for j in feet_of(figure) if j in of]
            lowest = float(np.percentile(places[:, stand, 1].min(axis=1), 5.0)) if stand else 0.0
            sole = max(foot_f, 0.0)
            want[:, 1] += sole - lowest if abs(lowest - foot_s) > 0.5 * abs(ours[1]) else sole - max(foot_s, 0.0)
        above = forward(figure, pose.rotation, place)[:, parent] if parent >= 0 else None
        if above is not None:
            rel = want - above[:, :3, 3]
            place[:, f] = np.einsum("fij,fi->fj", above[:, :3, :3], rel)
        else:
            place[:, f] = want
    return Pose(pose.rotation, place)


def _has_mapped_above(figure: Skeleton, joint: int, of: dict[int, int]) -> bool:
    while joint >= 0:
        if joint in of:
            return True
        joint = figure.parents[joint]
    return False


def _planted(
    source: Skeleton, figure: Skeleton, of_source: dict[int, int], pose: Pose, places: Array, step: float
) -> Pose:
    of = {f: s for s, f in of_source.items()}
    legs = [f for f in feet_of(figure) if f in of and figure.parents[figure.parents[f]] >= 0]
    if not legs:
        return pose
    size = leg_length(figure, legs[0])
    found = contacts(source, places, step, size, tuple(of[f] for f in legs))
    fade = max(1, round(FADE / step))
    for foot in legs:
        spans = [c for c in found if c.joint == of[foot]]
        if not spans:
            continue
        knee = figure.parents[foot]
        upper = figure.parents[knee]
        world = forward(figure, pose.rotation, pose.translation)
        way = world[:, foot, :3, 3]
        weight, goal = np.zeros(len(way)), way.copy()
        for span in spans:
            # The ankle does what the source's does, from where the figure stands: still where it is still, and
            # turning over the ball where it does that.
            there = places[:, of[foot]]
            stands = np.median((way - there)[span.start : span.end], axis=0)
            low, high = max(span.start - fade, 0), min(span.end + fade, len(way))
            goal[low:high] = there[low:high] + stands
            weight[span.start : span.end] = 1.0
            weight[low : span.start] = np.maximum(
                weight[low : span.start], np.linspace(0, 1, span.start - low + 1)[:-1]
            )
            weight[span.end : high] = np.maximum(weight[span.end : high], np.linspace(1, 0, high - span.end + 1)[1:])
        bend = world[:, knee, :3, 3] - (world[:, upper, :3, 3] + world[:, foot, :3, 3]) / 2
        ahead = world[:, foot, :3, :3] @ np.array([0.0, 0.0, 1.0])
        bent = np.linalg.norm(bend, axis=-1, keepdims=True) > 0.02 * size
        solved = two_bone(figure, pose, upper, way + (goal - way) * weight[:, None], np.where(bent, bend, ahead))
        touched = weight > 0.0
        turn = pose.rotation.copy()
        turn[touched] = solved.rotation[touched]
        pose = Pose(turn, pose.translation)
    return pose


def _tracks(figure: Skeleton, at: Array, pose: Pose, mapped: set[int]) -> tuple[Track, ...]:
    tracks: list[Track] = []
    for f in range(len(figure)):
        if f in mapped:
            tracks.append(Track(f, "rotation", "LINEAR", at, pose.rotation[:, f].copy()))
        if np.abs(pose.translation[:, f] - figure.rest_translation[f]).max() > 1e-7:
            tracks.append(Track(f, "translation", "LINEAR", at, pose.translation[:, f].copy()))
    return tuple(tracks)
