"""How well a pose of one clip goes over into another's: the difference, the best frame, and how long to fade."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from veergust.core.motion import Array, Pose, quat
from veergust.core.study.clip_reading import Reading
from veergust.core.study.preparing import closest, features, nearest, places_of

EASY = 320.0
FADE = (2, 24)
LOOKED = 400
"""So many frames of either clip are looked at first."""


@dataclass(frozen=True, eq=False)
class Join:
    """``degrees`` ``[J]`` and ``centimetres`` ``[J]`` by joint; ``overall`` is the mean distance (cm), ``best`` the
    frame of the clip nearest to the pose with its own distance, ``fade`` the crossfade proposed (ticks)."""

    names: tuple[str, ...]
    degrees: Array
    centimetres: Array
    overall: float
    best: int
    best_overall: float
    fade: int

    def worst(self, count: int = 6) -> list[tuple[str, float, float]]:
        """The joints that differ most: name, degrees, centimetres."""
        order = np.argsort(-self.degrees)[:count]
        return [(self.names[j], float(self.degrees[j]), float(self.centimetres[j])) for j in order]


def best_pair(
    a: Reading, used_a: tuple[int, int], b: Reading, used_b: tuple[int, int]
) -> tuple[int, int, float] | None:
    """The frames of two clips, between their ins and outs, that are most alike: poses about their bodies and how fast
    they change; and how far off they are (m). None when either has no frame.

    Where the clips are long, every so many frames are looked at first, and then all about the best of those.
    """
    rows_a, rows_b = (np.arange(first, last + 1) for first, last in (used_a, used_b))
    if not len(rows_a) or not len(rows_b):
        return None
    every = [max(1, len(rows) // LOOKED) for rows in (rows_a, rows_b)]
    features_a, features_b = features(a, rows_a[:: every[0]]), features(b, rows_b[:: every[1]])
    i, j = closest(features_a, features_b)
    near_a, near_b = (
        rows[max(int(k) * step - step, 0) : int(k) * step + step + 1]
        for rows, k, step in ((rows_a, i, every[0]), (rows_b, j, every[1]))
    )
    i, j = closest(features(a, near_a), features(b, near_b))
    here, there = int(near_a[i]), int(near_b[j])
    far = np.linalg.norm((a.bare[here] - b.bare[there])[a.figure], axis=-1).mean()
    return here, there, float(far)


def join(reading: Reading, frame: int, other: Pose, rate: int) -> Join:
    """How ``frame`` of a clip goes together with a pose, both about their bodies; joints turn in their parents.

    The fade is as long as it takes the joint at the ninetieth percentile to make up its difference at ``EASY``
    degrees a second, a quick and still soft turn.
    """
    here = reading.about(frame)
    degrees = quat.angle_between(here.rotation[0], other.rotation[0])
    gap = np.linalg.norm(places_of(reading, here) - places_of(reading, other), axis=-1) * 100.0
    best, far = nearest(reading, other)
    ticks = round(float(np.percentile(degrees, 90.0)) / EASY * rate)
    low, high = (round(f * rate / 60) for f in FADE)
    overall = float(gap[reading.figure].mean())
    return Join(reading.skeleton.names, degrees, gap, overall, best, far * 100.0, min(max(ticks, low), high))
