"""Carrying motion from one skeleton over to another.

Each mapped joint turns in the world as its source does, measured from the two rest poses with the bones laid in the
same directions; so an arm that points at something points there on the figure too, whether it rested in a T or an A.
The hips' way over the floor is scaled by the length of the legs; their height is what puts the lower foot as high over
the floor as the source's, so that ankles stand where the figure's own do. A foot that stands is kept standing by
two-bone IK. Long takes are carried in parts, so that memory does not grow with them.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import ceil
from typing import Any

import numpy as np
from numpy.typing import NDArray

from veergust.core.model import SourceRig
from veergust.core.motion import quat
from veergust.core.motion.feet import FootContact, above_feet, contacts, feet_of, hips_of, toes_of
from veergust.core.motion.ik import two_bone
from veergust.core.motion.mapping import leg_length
from veergust.core.motion.quat import Array
from veergust.core.motion.sampling import Motion, Track, sample
from veergust.core.motion.skeleton import Pose, Skeleton, forward

FADE = 0.07
CHUNK = 2048
LEAST_RATE = 60.0
UNEVEN_RATE = 120.0
"""Keys a second of what is carried: at least the first, and the second where the source's lie at no even times."""
NEARER = 0.02
"""Over how much of a leg's length the height of the lower foot gives way to the other's."""


def carried_rate(motion: Motion) -> float:
    """Keys a second at which a motion is carried over: its own, or as many times its own as make 60."""
    fps = motion.fps
    for track in motion.tracks:
        off = track.times * fps
        if len(off) and np.abs(off - np.round(off)).max() > 0.02:
            return max(UNEVEN_RATE, fps)
    return fps * max(1, ceil(LEAST_RATE / fps - 1e-6))


def transfer(
    source: Skeleton,
    motion: Motion,
    figure: Skeleton,
    rig: SourceRig,
    progress: Callable[[float], object] = lambda share: None,
) -> Motion:
    """``motion`` of ``source`` for ``figure``; joints of the figure without a pair rest.

    It is keyed at ``carried_rate``, in single precision. ``progress`` is told the share that is done, and may raise
    to give up.
    """
    frames = max(1, round(motion.seconds * carried_rate(motion))) + 1
    at = np.linspace(0.0, motion.seconds, frames) if motion.seconds > 0 else np.zeros(1)
    work = _Carrying(source, figure, rig)
    seen = work.look(motion, at, lambda share: progress(share * 0.7))
    way, shift = work.ways(seen)
    if rig.plant and frames > 2:
        work.plant(seen, way, shift, float(at[1] - at[0]), lambda share: progress(0.7 + share * 0.3))
    spin = quat.multiply(work.upright, quat.from_matrix(source.rest_world[None, :, :3, :3]))
    rest, _ = work.turned(spin)
    tracks = [Track(f, "rotation", "LINEAR", at, seen.turn[:, k]) for k, f in enumerate(work.mapped)]
    for f, place in way.items():
        if np.abs(place - figure.rest_translation[f]).max() > 1e-7:
            tracks.append(Track(f, "translation", "LINEAR", at, place.astype(np.float32)))
    tracks.sort(key=lambda track: (track.joint, track.path != "rotation"))
    whole = Pose(rest, figure.rest_translation[None].copy())
    return Motion(motion.name, motion.seconds, motion.fps, tuple(tracks), whole)


@dataclass
class _Seen:
    """What a take shows: local rotations ``[F, M, 4]`` of the mapped joints, and of some joints the source's places
    (stood up and scaled) and the figure's, as they are while nothing moves it."""

    turn: NDArray[Any]
    there: dict[int, Array]
    """Source joint → ``[F, 3]``."""
    here: dict[int, Array]
    """Figure joint → ``[F, 3]``."""
    above: dict[int, Array]
    """Figure joint → frame of its parent ``[F, 4, 4]`` as rotation and place, where it has one."""


class _Carrying:
    """Two skeletons and how they answer to each other."""

    def __init__(self, source: Skeleton, figure: Skeleton, rig: SourceRig) -> None:
        self.source, self.figure, self.rig = source, figure, rig
        self.upright = quat.from_euler(rig.turn)
        pairs = [(source.index[s], figure.index[f]) for s, f in rig.joints if s in source.index and f in figure.index]
        self.of = {f: s for s, f in pairs}
        self.mapped = sorted(self.of)
        self.feet = [f for f in feet_of(figure) if f in self.of]
        self.hips = hips_of(figure)
        self.carriers = [f for f in self.mapped if self._carries(f)]
        self.rest_turn = quat.multiply(self.upright, quat.from_matrix(source.rest_world[:, :3, :3]))
        self.lay = bone_alignment(source, figure, self.of, self.upright)
        balls = [toes_of(source, self.of[f]) for f in self.feet]
        self.watched = sorted({*(self.of[f] for f in (*self.carriers, *self.feet)), *balls})
        self.legs = leg_length(figure, self.feet[0]) if self.feet else 1.0

    def _carries(self, joint: int) -> bool:
        """Whether a joint goes where its source goes: the topmost mapped ones, and the hips."""
        if joint == self.hips and above_feet(self.figure, joint):
            return True
        at = self.figure.parents[joint]
        while at >= 0:
            if at in self.of:
                return False
            at = self.figure.parents[at]
        return True

    def turned(self, spin: Array) -> tuple[Array, Array]:
        """Local and world rotations ``[F, J, 4]`` of the figure for world rotations ``spin`` of the source."""
        figure, frames = self.figure, len(spin)
        local = np.broadcast_to(figure.rest_rotation, (frames, len(figure), 4)).copy()
        world = np.empty((frames, len(figure), 4))
        rest = quat.from_matrix(figure.rest_world[:, :3, :3])
        for f, parent in enumerate(figure.parents):
            above = world[:, parent] if parent >= 0 else np.broadcast_to(quat.IDENTITY, (frames, 4))
            s = self.of.get(f)
            if s is None:
                world[:, f] = quat.multiply(above, local[:, f])
                continue
            away = quat.multiply(spin[:, s], quat.conjugate(self.rest_turn[s]))
            world[:, f] = quat.normalize(quat.multiply(away, quat.multiply(self.lay[f], rest[f])))
            local[:, f] = quat.multiply(quat.conjugate(above), world[:, f])
        return quat.normalize(local), world

    def look(self, motion: Motion, at: Array, progress: Callable[[float], object]) -> _Seen:
        """Turn the figure as its source turns, and note what places depend on."""
        frames = len(at)
        noted = {*self.carriers, *self.feet}
        out = _Seen(
            np.empty((frames, len(self.mapped), 4), np.float32),
            {s: np.empty((frames, 3)) for s in self.watched},
            {f: np.empty((frames, 3)) for f in noted},
            {f: np.empty((frames, 3, 4)) for f in self.carriers if self.figure.parents[f] >= 0},
        )
        for low in range(0, frames, CHUNK):
            progress(low / frames)
            part = slice(low, min(low + CHUNK, frames))
            pose = sample(self.source, motion, at[part])
            world = forward(self.source, pose.rotation, pose.translation)
            spin = quat.multiply(self.upright, quat.from_matrix(world[..., :3, :3]))
            for s in self.watched:
                out.there[s][part] = quat.rotate(self.upright, world[:, s, :3, 3]) * self.rig.scale
            local, _ = self.turned(spin)
            out.turn[part] = local[:, self.mapped]
            stands = forward(self.figure, local, np.broadcast_to(self.figure.rest_translation, (*local.shape[:2], 3)))
            for f in noted:
                out.here[f][part] = stands[:, f, :3, 3]
            for f, frame in out.above.items():
                frame[part] = stands[:, self.figure.parents[f], :3]
        return out

    def ways(self, seen: _Seen) -> tuple[dict[int, Array], Array]:
        """Local places ``[F, 3]`` of the joints that go where their source goes, and how far ``[F, 3]`` that brings
        what hangs on them."""
        out: dict[int, Array] = {}
        moved = np.zeros((len(seen.turn), 3))
        for f in self.carriers:
            want = seen.there[self.of[f]].copy()
            if above_feet(self.figure, f) and f == self.hips and self.feet:
                want[:, 1] = self._height(seen, f)
            if f in seen.above:
                frame = seen.above[f]
                base = frame[:, :, 3] + moved
                out[f] = np.einsum("fij,fi->fj", frame[:, :, :3], want - base)
            else:
                out[f] = want
            if not self.feet or above_feet(self.figure, f):
                moved = want - seen.here[f]
        return out, moved

    def _height(self, seen: _Seen, hips: int) -> Array:
        """How high ``[F]`` the hips are, so that the lower foot is as high over the floor as the source's."""
        feet = self.feet
        over = np.stack([self._over(seen, f) for f in feet], axis=-1)
        rise = np.stack([seen.here[hips][:, 1] - seen.here[f][:, 1] for f in feet], axis=-1)
        weight = np.exp(-(over - over.min(axis=1, keepdims=True)) / (NEARER * self.legs))
        wanted = over + np.array([max(float(self.figure.rest_world[f, 1, 3]), 0.0) for f in feet]) + rise
        return np.asarray((wanted * weight).sum(axis=1) / weight.sum(axis=1))

    def _over(self, seen: _Seen, foot: int) -> Array:
        """How high ``[F]`` over where it stands the source's ankle is, in metres of the figure."""
        return np.asarray(seen.there[self.of[foot]][:, 1] - self._floor(seen)[foot])

    def _floor(self, seen: _Seen) -> dict[int, float]:
        """How high each ankle of the source is while it stands: as it is lowest, or as it rests if it never stands."""
        out: dict[int, float] = {}
        lowest = min(float(np.percentile(seen.there[self.of[f]][:, 1], 5.0)) for f in self.feet)
        for f in self.feet:
            s = self.of[f]
            rest = float(quat.rotate(self.upright, self.source.rest_world[s, :3, 3])[1]) * self.rig.scale
            own = float(np.percentile(seen.there[s][:, 1], 5.0))
            ankle = own if own - lowest < 0.05 * self.legs else lowest
            sunk = float(quat.rotate(self.upright, self.source.rest_world[:, :3, 3])[:, 1].min()) * self.rig.scale
            stood = rest - sunk  # over the floor its rest pose stands on
            # A take that is all in the air never comes down to a floor; it keeps the one at 0.
            out[f] = ankle if abs(ankle - stood) < 0.12 * self.legs or not self._in_air(seen) else stood
        return out

    def _in_air(self, seen: _Seen) -> bool:
        """Whether no foot ever stands: the lowest it comes is passed at speed."""
        ways = np.stack([seen.there[self.of[f]] for f in self.feet], axis=1)
        if len(ways) < 3:
            return False
        frame = int(ways[:, :, 1].min(axis=1).argmin())
        foot = int(ways[frame, :, 1].argmin())
        around = ways[max(frame - 2, 0) : frame + 3, foot]
        return bool(np.abs(np.diff(around[:, 1])).max() > 0.02 * self.legs)

    def plant(
        self, seen: _Seen, way: dict[int, Array], shift: Array, step: float, progress: Callable[[float], object]
    ) -> None:
        """Keep the feet that stand where they stand: their ankles do what the source's do."""
        if not self.feet:
            return
        found = contacts(self.source, seen.there, step, self.legs, tuple(self.of[f] for f in self.feet))
        floor = self._floor(seen)
        goals = {f: self._goal(f, seen, shift, found, step, floor[f]) for f in self.feet}
        for low in range(0, len(seen.turn), CHUNK):
            progress(low / len(seen.turn))
            part = slice(low, min(low + CHUNK, len(seen.turn)))
            if any(weight[part].any() for _, weight in goals.values()):
                self._bend(seen, way, goals, part)

    def _goal(
        self, foot: int, seen: _Seen, shift: Array, found: tuple[FootContact, ...], step: float, floor: float
    ) -> tuple[Array, Array]:
        """Where an ankle should be ``[F, 3]``, and how much of that ``[F]``."""
        there, own = seen.there[self.of[foot]], seen.here[foot] + shift
        goal, weight = np.zeros((len(own), 3)), np.zeros(len(own))
        fade = max(1, round(FADE / step))
        high = max(float(self.figure.rest_world[foot, 1, 3]), 0.0) - floor
        for span in (c for c in found if c.joint == self.of[foot]):
            # Still where it is still, and turning over the ball where it does that.
            stands = np.median((own - there)[span.start : span.end], axis=0)
            stands[1] = high
            low, top = max(span.start - fade, 0), min(span.end + fade, len(own))
            ramp = np.ones(top - low)
            ramp[: span.start - low] = np.linspace(0, 1, span.start - low + 1)[:-1]
            ramp[span.end - low :] = np.linspace(1, 0, top - span.end + 1)[1:]
            goal[low:top] += ramp[:, None] * (there[low:top] + stands)
            weight[low:top] += ramp
        # Where one stand fades out while the next fades in, the foot goes from the one to the other.
        held = np.minimum(weight, 1.0)
        return own + (goal / np.maximum(weight, 1e-9)[:, None] - own) * held[:, None], held

    def _bend(self, seen: _Seen, way: dict[int, Array], goals: dict[int, tuple[Array, Array]], part: slice) -> None:
        figure = self.figure
        pose = self._pose(seen, way, part)
        for foot, (goal, weight) in goals.items():
            knee = figure.parents[foot]
            upper = figure.parents[knee]
            touched = weight[part] > 0.0
            if upper < 0 or not touched.any():
                continue
            world = forward(figure, pose.rotation, pose.translation)
            bend = world[:, knee, :3, 3] - (world[:, upper, :3, 3] + world[:, foot, :3, 3]) / 2
            ahead = world[:, foot, :3, :3] @ np.array([0.0, 0.0, 1.0])
            bent = np.linalg.norm(bend, axis=-1, keepdims=True) > 0.02 * self.legs
            solved = two_bone(figure, pose, upper, goal[part], np.where(bent, bend, ahead))
            turn = pose.rotation.copy()
            turn[touched] = solved.rotation[touched]
            pose = Pose(turn, pose.translation)
        seen.turn[part] = pose.rotation[:, self.mapped]

    def _pose(self, seen: _Seen, way: dict[int, Array], part: slice) -> Pose:
        count = part.stop - part.start
        turn = np.broadcast_to(self.figure.rest_rotation, (count, len(self.figure), 4)).copy()
        turn[:, self.mapped] = quat.normalize(seen.turn[part].astype(np.float64))
        place = np.broadcast_to(self.figure.rest_translation, (count, len(self.figure), 3)).copy()
        for f, places in way.items():
            place[:, f] = places[part]
        return Pose(turn, place)


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
