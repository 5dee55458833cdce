"""The body's track of a prepared clip: its place on the floor and its heading at every source time.

Everything that shows a clip or moves a body by one asks here. At source time t a figure is shown as
``body(t)⁻¹ · source(t)`` and its body goes from t to u by ``body(t)⁻¹ · body(u)``, so that pose and body give the
source back wherever it is cut.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from veergust.core.model import Clip, RootUse
from veergust.core.motion import quat
from veergust.core.motion.poses import overlay
from veergust.core.motion.quat import Array
from veergust.core.motion.sampling import Motion, sample
from veergust.core.motion.skeleton import Pose, Skeleton, chain_to, mirror

MOST_FRAMES = 200_000
STILL, STILL_TURN = 0.01, 2.0
"""A root joint that goes less far (m) and turns less (degrees) than this never moves."""
WENT, TURNED = 0.4, 90.0
"""Hips that go farther (m) from where they rest or have begun, or turn farther (degrees), than this carry the body when
the root joint never moves."""
LEAP, LEAP_TURN = 12.0, 1800.0
"""Hips faster than this (m/s, degrees/s) and ``ODD`` times faster than around have leapt: an export's rest pose."""
ODD = 8.0
SURE = 0.3
"""Square of the share of a rotation that is about the upright axis or none, above which it has a heading."""


class Roots(NamedTuple):
    """The rig's root joint (−1: it has none) and its hips."""

    root: int
    hips: int

    @property
    def joint(self) -> int:
        """The joint the body's way is read from where a clip does not say."""
        return self.root if self.root >= 0 else self.hips


class Carrier(NamedTuple):
    """The joint a clip's body is read from, whether its way is smoothed, and whether it stands in for a root joint
    that never moves."""

    joint: int
    smoothed: bool
    stands_in: bool = False


@dataclass(frozen=True, eq=False, repr=False)
class BodyTrack:
    """The body at ``K`` source ``times`` (s): ``place`` ``[K, 3]`` (m), ``yaw`` ``[K]`` (radians, unwrapped).

    Between them it goes evenly; before the first and after the last it stands.
    """

    times: Array
    place: Array
    yaw: Array
    carrier: Carrier

    def at(self, seconds: Array) -> tuple[Array, Array]:
        """Place ``[F, 3]`` and yaw ``[F]`` at source times ``[F]``."""
        place = np.stack([np.interp(seconds, self.times, self.place[:, i]) for i in range(3)], axis=-1)
        return place, np.interp(seconds, self.times, self.yaw)


def headings(turn: Array) -> Array:
    """Heading ``[F]`` (radians, unwrapped) of rotations ``[F, 4]`` away from rest.

    It is the twist about the upright axis (swing–twist decomposition), which stays steady where a figure leans. What
    is near to standing on its head has none; there it goes evenly from the heading before to the one after.
    """
    y, w = turn[:, 1], turn[:, 3]
    yaw = 2.0 * np.arctan2(y, w)
    sure = np.flatnonzero(y * y + w * w > SURE)
    if not len(sure):
        return np.unwrap(yaw)
    return np.interp(np.arange(len(yaw)), sure, np.unwrap(yaw[sure]))


def make_track(skeleton: Skeleton, motion: Motion, clip: Clip, roots: Roots, turned: bool, use: RootUse) -> BodyTrack:
    """The track of a clip over its whole source.

    ``turned`` says whether its pose is mirrored; ``use`` which parts move the body. What is off stays in the pose,
    counted from the clip's first used frame.
    """
    frames = min(max(1, round(motion.seconds * motion.fps)), MOST_FRAMES)
    at = motion.seconds * np.arange(frames + 1) / frames
    end = clip.end if clip.end is not None else motion.seconds
    chosen = skeleton.index.get(clip.root_joint, roots.joint)
    place, turn = _joint_way(skeleton, motion, clip, at, chosen, turned)
    carrier = Carrier(chosen, chosen == roots.hips)
    beside = (skeleton.rest_world[roots.hips] - skeleton.rest_world[chosen])[:3, 3] * [
        -1.0 if turned else 1.0,
        0.0,
        1.0,
    ]
    if not carrier.smoothed and _never_moves(place, turn):
        inside = (at >= min(clip.start, end) - 1e-9) & (at <= max(clip.start, end) + 1e-9)
        hips = _joint_way(skeleton, motion, clip, at, roots.hips, turned)
        off = (hips[0] - place - beside)[inside][:, [0, 2]]
        if inside.sum() > 1 and (_travels(hips[0][inside], hips[1][inside]) or _far(off)):
            place, turn = hips
            carrier = Carrier(roots.hips, True, True)
    yaw = headings(turn)
    if not carrier.smoothed and float(np.linalg.norm(beside)) > WENT:
        # A joint that rests beside its figure says where that is by where the hips rest from it.
        place = place + quat.rotate(quat.from_yaw(yaw), beside)
    if carrier.smoothed and clip.smooth > 0.0 and frames > 2:
        way, heading = _smoothed(place, yaw, clip.smooth, frames / max(motion.seconds, 1e-9))
        if clip.loop:
            way, heading = _closed(at, (way, heading), (place, yaw), min(clip.start, end), max(clip.start, end))
        place, yaw = way, heading
    yaw = yaw + np.radians(-clip.forward if turned else clip.forward)
    first = end if clip.reverse else clip.start
    return _parts(at, place, yaw, carrier, use, first)


def _joint_way(
    skeleton: Skeleton, motion: Motion, clip: Clip, at: Array, joint: int, turned: bool
) -> tuple[Array, Array]:
    """Places ``[F, 3]`` of a joint in the source's world, and its rotations ``[F, 4]`` away from the rest pose."""
    bones, moved, joint = _chain_alone(skeleton, motion, joint)
    pose = overlay(bones, sample(bones, moved, at), clip.poses, at)
    if turned:
        pose = mirror(bones, pose)
    chain = chain_to(bones, joint)
    turn, place = pose.rotation[:, chain[0]], pose.translation[:, chain[0]]
    rest = bones.rest_rotation[chain[0]]
    for j in chain[1:]:
        place = place + quat.rotate(turn, pose.translation[:, j])
        turn = quat.multiply(turn, pose.rotation[:, j])
        rest = quat.multiply(rest, bones.rest_rotation[j])
    return place, quat.multiply(turn, quat.conjugate(rest)[None])


def _chain_alone(bones: Skeleton, motion: Motion, joint: int) -> tuple[Skeleton, Motion, int]:
    """The skeleton with no joints but this one and those above it: all that its way depends on."""
    chain = chain_to(bones, joint)
    # Mirrored, a joint of one side takes the way of the other's, which the chain has not.
    if any(bones.mirrored[j] != j for j in chain):
        return bones, motion, joint
    there = {j: i for i, j in enumerate(chain)}
    alone = Skeleton(
        tuple(bones.names[j] for j in chain),
        tuple(there.get(bones.parents[j], -1) for j in chain),
        bones.rest_rotation[chain],
        bones.rest_translation[chain],
    )
    tracks = tuple(replace(t, joint=there[t.joint]) for t in motion.tracks if t.joint in there)
    return alone, Motion(motion.name, motion.seconds, motion.fps, tracks), len(chain) - 1


def _never_moves(place: Array, turn: Array) -> bool:
    flat = place[:, [0, 2]]
    turned = float(quat.angle_between(turn[:1], turn).max())
    return bool(np.ptp(flat, axis=0).max() < STILL and turned < STILL_TURN)


def _far(flat: Array) -> bool:
    """Whether what was shot stands on its median (m) somewhere else: off where the root joint is."""
    return bool(np.linalg.norm(np.median(flat, axis=0)) > WENT)


def _travels(place: Array, turn: Array) -> bool:
    far = float(np.linalg.norm(place[:, [0, 2]] - place[0, [0, 2]], axis=-1).max())
    return bool(far > WENT or np.degrees(np.ptp(headings(turn))) > TURNED)


def _smoothed(place: Array, yaw: Array, seconds: float, fps: float) -> tuple[Array, Array]:
    """Way and heading averaged by a Gaussian of ``seconds``, stretch by stretch between leaps.

    At both ends of a stretch it is continued point-symmetrically, so that it begins and ends where the hips are.
    """
    spread = seconds * fps
    place, yaw = place.copy(), yaw.copy()
    for start, end in _stretches(place[:, [0, 2]], yaw, fps):
        reach = min(int(np.ceil(4.0 * spread)), end - start - 1)
        if reach < 1:
            continue
        bell = np.exp(-0.5 * (np.arange(-reach, reach + 1) / max(spread, 1e-3)) ** 2)
        bell /= bell.sum()
        for values in (place[:, 0], place[:, 2], yaw):
            before = 2.0 * values[start] - values[start + 1 : start + reach + 1][::-1]
            after = 2.0 * values[end - 1] - values[end - reach - 1 : end - 1][::-1]
            values[start:end] = np.convolve(np.concatenate([before, values[start:end], after]), bell, "valid")
    return place, yaw


def _closed(
    at: Array, smooth: tuple[Array, Array], hips: tuple[Array, Array], start: float, end: float
) -> tuple[Array, Array]:
    """A smoothed way and heading about which the hips stand alike at both ends of a part (s) that goes round.

    What lies beyond the part is averaged into its ends as well: a stand that ends where a blow begins would creep
    after it, and leap back on every lap. What they differ by is spread evenly over the part.
    """
    place, yaw = smooth
    share = np.clip((at - start) / max(end - start, 1e-9), 0.0, 1.0)
    ends = [start, end]
    sway = np.stack([np.interp(ends, at, hips[0][:, i] - place[:, i]) for i in range(3)], axis=-1) * (1.0, 0.0, 1.0)
    faces, spare = np.interp(ends, at, yaw), np.interp(ends, at, hips[1] - yaw)
    turn = spare[1] - spare[0]
    stands = quat.rotate(quat.from_yaw(faces[1] + turn - faces[0]), sway[0])
    return place + share[:, None] * (sway[1] - stands), yaw + share * turn


def _stretches(flat: Array, yaw: Array, fps: float) -> list[tuple[int, int]]:
    """Runs of frames ``[start, end)`` between leaps."""
    leapt = _leaps(np.linalg.norm(np.diff(flat, axis=0), axis=-1) * fps, LEAP)
    leapt |= _leaps(np.abs(np.degrees(np.diff(yaw))) * fps, LEAP_TURN)
    edges = [0, *(int(i) + 1 for i in np.flatnonzero(leapt)), len(flat)]
    return list(zip(edges, edges[1:]))


def _leaps(speed: Array, least: float) -> NDArray[np.bool_]:
    """Which steps are faster than ``least`` and far faster than the median of the sixteen around."""
    fast = np.flatnonzero(speed > least)
    out = np.zeros(len(speed), dtype=bool)
    for i in fast:
        out[i] = speed[i] > ODD * max(float(np.median(speed[max(i - 8, 0) : i + 9])), 1e-6)
    return out


def _parts(at: Array, place: Array, yaw: Array, carrier: Carrier, use: RootUse, first: float) -> BodyTrack:
    """The track with the parts that are on; the others stay in the pose, counted from source time ``first``."""
    height = place[:, 1] - np.interp(first, at, place[:, 1]) if use.up else np.zeros(len(at))
    flat = place * np.array([1.0, 0.0, 1.0])
    if not (use.forward and use.side and use.turn):
        if not use.turn:
            yaw = np.full(len(at), np.interp(first, at, yaw))
        part = np.array([use.side, 0.0, use.forward], dtype=np.float64)
        step = quat.rotate(quat.from_yaw(-yaw[:-1]), np.diff(flat, axis=0)) * part
        way = np.concatenate([np.zeros((1, 3)), np.cumsum(quat.rotate(quat.from_yaw(yaw[:-1]), step), axis=0)])
        began = np.array([np.interp(first, at, flat[:, i] - way[:, i]) for i in range(3)])
        flat = way + began
    flat[:, 1] = height
    return BodyTrack(at, flat, yaw, carrier)


@dataclass(frozen=True, eq=False, repr=False)
class Trajectory:
    """The body's way over ``F`` frames from its first: ``place`` ``[F, 3]`` (m), ``yaw`` ``[F]`` (radians)."""

    place: Array
    yaw: Array


def way_between(place: Array, yaw: Array, scale: float = 1.0) -> Trajectory:
    """The way from the first of ``F`` bodies on, in its frame; each step and each turn ``scale`` times as large."""
    if scale == 1.0:
        back = quat.from_yaw(-yaw[0])
        return Trajectory(quat.rotate(np.broadcast_to(back, (len(yaw), 4)), place - place[0]), yaw - yaw[0])
    step = quat.rotate(quat.from_yaw(-yaw[:-1]), np.diff(place, axis=0)) * scale
    turned = (yaw - yaw[0]) * scale
    way = np.cumsum(quat.rotate(quat.from_yaw(turned[:-1]), step), axis=0)
    return Trajectory(np.concatenate([np.zeros((1, 3)), way]), turned)


def remove(skeleton: Skeleton, pose: Pose, place: Array, yaw: Array, onto: int) -> Pose:
    """``pose`` as seen from bodies at ``place`` ``[F, 3]`` with heading ``yaw`` ``[F]``.

    What stands above the joint ``onto`` rests, and where it stood goes into what hangs on it: two poses of a figure
    differ in where they stand about their bodies by that one joint alone, whatever their bodies were read from, and a
    mix of the two stands over its body as they do.
    """
    back = quat.from_yaw(-yaw)
    turn, at = pose.rotation.copy(), pose.translation.copy()
    above = chain_to(skeleton, onto)[:-1]
    turns: dict[int, Array] = {-1: back}
    places: dict[int, Array] = {-1: -quat.rotate(back, place)}
    rests: dict[int, tuple[Array, Array]] = {-1: (quat.IDENTITY, np.zeros(3))}
    for j in above:
        p = skeleton.parents[j]
        turns[j] = quat.multiply(turns[p], pose.rotation[:, j])
        places[j] = places[p] + quat.rotate(turns[p], pose.translation[:, j])
        rest_turn, rest_place = rests[p]
        rests[j] = (
            quat.multiply(rest_turn, skeleton.rest_rotation[j]),
            rest_place + quat.rotate(rest_turn, skeleton.rest_translation[j]),
        )
        turn[:, j], at[:, j] = skeleton.rest_rotation[j], skeleton.rest_translation[j]
    for j, p in enumerate(skeleton.parents):
        if p not in turns or j in rests:
            continue
        rest_turn, rest_place = rests[p]
        away = quat.conjugate(rest_turn)
        own = quat.multiply(turns[p], pose.rotation[:, j])
        turn[:, j] = quat.normalize(quat.multiply(away, own))
        there = places[p] + quat.rotate(turns[p], pose.translation[:, j])
        at[:, j] = quat.rotate(away, there - rest_place)
    return Pose(turn, at)
