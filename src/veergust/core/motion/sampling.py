"""Clips as they come from a file, sampled by interpolation at any real time."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np

from veergust.core.motion import quat
from veergust.core.motion.quat import Array, Indices
from veergust.core.motion.skeleton import Pose, Skeleton

Interpolation = Literal["STEP", "LINEAR", "CUBICSPLINE"]


@dataclass(frozen=True, eq=False, repr=False)
class Track:
    """Keys of one channel: ``times`` ``[K]`` rising seconds, ``values`` ``[K, C]`` (cubic: ``[K, 3, C]``)."""

    joint: int
    path: Literal["rotation", "translation"]
    interpolation: Interpolation
    times: Array
    values: Array


@dataclass(frozen=True, eq=False, repr=False)
class Motion:
    """One animation of a file: its tracks, length in seconds and the sample rate it was keyed at.

    ``rest`` is what its source's rest pose looks like on the figure (a batch of one), where that is another's.
    """

    name: str
    seconds: float
    fps: float
    tracks: tuple[Track, ...]
    rest: Pose | None = None

    @cached_property
    def bundles(self) -> tuple[Bundle, ...]:
        """Its tracks, those keyed at the same times together."""
        groups: dict[object, list[Track]] = {}
        for n, track in enumerate(self.tracks):
            alike = track.interpolation == "LINEAR" and len(track.times) > 1
            key = (track.path, len(track.times), track.times.tobytes()) if alike else n
            groups.setdefault(key, []).append(track)
        return tuple(Bundle.of(tracks) for tracks in groups.values())


@dataclass(frozen=True, eq=False, repr=False)
class Bundle:
    """Tracks of one kind keyed at the same times: their ``joints`` ``[G]`` and ``values`` ``[K, G, C]``.

    One that stands alone is told as it is, in ``track``.
    """

    track: Track
    joints: Indices
    values: Array

    @staticmethod
    def of(tracks: list[Track]) -> Bundle:
        """Tracks put together."""
        joints = np.array([t.joint for t in tracks], dtype=np.intp)
        return Bundle(tracks[0], joints, np.stack([t.values for t in tracks], axis=1) if len(tracks) > 1 else EMPTY)

    def at(self, at: Array) -> Array:
        """Values ``[F, G, C]`` at times ``[F]``, as ``evaluate`` of each track."""
        if len(self.joints) == 1:
            return evaluate(self.track, at)[:, None]
        times = self.track.times
        at = np.clip(at, times[0], times[-1])
        low = np.clip(np.searchsorted(times, at, side="right") - 1, 0, len(times) - 2)
        t = (at - times[low]) / (times[low + 1] - times[low])
        a, b = (self.values[k].astype(np.float64, copy=False) for k in (low, low + 1))
        if self.track.path == "rotation":
            return quat.slerp(a, b, t[:, None])
        return np.asarray(a + (b - a) * t[:, None, None])


EMPTY = np.zeros((0, 0, 0))


def evaluate(track: Track, at: Array) -> Array:
    """Values ``[F, C]`` at times ``at`` ``[F]``, held before the first and after the last key.

    Linear rotations go by slerp; cubic ones by the Hermite form of glTF 2.0, appendix C, then normalised.
    """
    times, values = track.times, track.values
    turns = track.path == "rotation"
    cubic = track.interpolation == "CUBICSPLINE"
    keys = values[:, 1] if cubic else values
    if len(times) == 1:
        return np.broadcast_to(keys[0], (len(at), keys.shape[-1])).copy()
    at = np.clip(at, times[0], times[-1])
    low = np.clip(np.searchsorted(times, at, side="right") - 1, 0, len(times) - 2)
    if track.interpolation == "STEP":
        last = at >= times[-1]
        return np.asarray(keys[np.where(last, len(times) - 1, low)])
    span = times[low + 1] - times[low]
    t = (at - times[low]) / span
    if not cubic:
        a, b = (keys[k].astype(np.float64, copy=False) for k in (low, low + 1))
        return quat.slerp(a, b, t) if turns else np.asarray(a + (b - a) * t[:, None])
    t, d = t[:, None], span[:, None]
    t2, t3 = t * t, t * t * t
    out = (
        (2 * t3 - 3 * t2 + 1) * keys[low]
        + (t3 - 2 * t2 + t) * d * values[low, 2]
        + (-2 * t3 + 3 * t2) * keys[low + 1]
        + (t3 - t2) * d * values[low + 1, 0]
    )
    return quat.normalize(out) if turns else out


def sample(skeleton: Skeleton, motion: Motion, at: Array) -> Pose:
    """Local poses ``[F, J, …]`` at times ``at`` ``[F]``; joints without a track stay in rest."""
    frames = len(at)
    rotation = np.broadcast_to(skeleton.rest_rotation, (frames, len(skeleton), 4)).copy()
    translation = np.broadcast_to(skeleton.rest_translation, (frames, len(skeleton), 3)).copy()
    for bundle in motion.bundles:
        (rotation if bundle.track.path == "rotation" else translation)[:, bundle.joints] = bundle.at(at)
    return Pose(rotation, translation)
