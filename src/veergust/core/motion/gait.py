"""The beat of a gait: when each foot is in the middle of standing, by which clips are kept in step.

Two walks are in step where the same foot is in the middle of its stance, however long the clips are, wherever they
begin and however often each foot steps in them.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from veergust.core.motion.feet import feet_of, toes_of
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Skeleton

LOW = 0.3
"""A foot stands while it is within this share of how high it is raised in all."""
RAISED = 0.012
"""A clip in which no foot is raised so much (of a leg's length) has no beat."""
APART = 0.15
"""So much of a lap lies at least between the two feet."""


@dataclass(frozen=True, eq=False, repr=False)
class Beat:
    """The time line of a looping clip in steps: ``laps`` strides of both feet in it.

    In step ``θ`` (a whole number: the first foot stands; a half: the second) the clip is at ``own(θ)`` of its length.
    ``theta`` are the half steps, ``phase`` how much of it has played at each.
    """

    laps: int
    theta: Array
    phase: Array

    def own(self, theta: float) -> float:
        """How much of the clip (0…1) has played in step ``theta``."""
        at = theta % self.laps
        i = int(2.0 * at)
        phases, slopes = self._rows
        return (phases[i] + slopes[i] * (at - i / 2.0)) % 1.0

    def step(self, own: float) -> float:
        """The step in which a share ``own`` of the clip has played."""
        low = self.phase[0]
        at = (own - low) % 1.0 + low
        return float(np.interp(at, self.phase, self.theta)) % self.laps

    def slope(self, theta: float) -> float:
        """How much of the clip is played a step, at ``theta``."""
        return self._rows[1][int(2.0 * (theta % self.laps))]

    @cached_property
    def _rows(self) -> tuple[list[float], list[float]]:
        """The phase at each half step, and how much of the clip is played a step from there, as plain numbers."""
        slopes = np.diff(self.phase) * 2.0
        return [*self.phase.tolist(), 0.0], [*slopes.tolist(), float(slopes[-1])]


def beat_of(skeleton: Skeleton, places: Array, size: float) -> Beat | None:
    """The beat of a lap; ``places`` ``[F, J, 3]`` are joints about the body, the last frame being the first again.

    ``size`` is the length of a leg (m). None where there are no two feet, or they do not step in turn.
    """
    feet = feet_of(skeleton)
    if len(feet) < 2 or len(places) < 8:
        return None
    # The lowest of a foot's two points: a heel that is raised over standing toes stands.
    pair = sorted(feet[:2], key=lambda f: -float(places[:, f, 0].mean()))
    stands = []
    for foot in pair:
        ball = toes_of(skeleton, foot)
        high = np.minimum(_over(places[:-1, foot]), _over(places[:-1, ball]))
        if float(np.ptp(high)) < RAISED * size:
            return None
        stands.append(_middles(high < LOW * float(np.ptp(high))))
    first, second = stands
    if len(first) != len(second) or not len(first):
        return None
    laps = len(first)
    start = float(first[0])
    theta = np.arange(2 * laps + 1) / 2.0
    both = np.empty(2 * laps + 1)
    both[:-1:2] = first
    both[1::2] = np.sort((second - start) % 1.0) + start
    both[-1] = start + 1.0
    if np.any(np.diff(both) < APART / laps):
        return None
    return Beat(laps, theta, both)


def _over(way: Array) -> Array:
    return np.asarray(way[:, 1] - way[:, 1].min())


def _middles(stands: NDArray[np.bool_]) -> Array:
    """The middles (0…1, rising) of the runs of a lap in which a foot stands; the short ones do not count."""
    n = len(stands)
    if stands.all() or not stands.any():
        return np.zeros(0)
    turned = int(np.argmin(stands))  # begin where it does not stand
    edges = np.flatnonzero(np.diff(np.concatenate([[0], np.roll(stands, -turned).astype(int), [0]])))
    runs = edges.reshape(-1, 2)
    longest = int((runs[:, 1] - runs[:, 0]).max())
    runs = runs[(runs[:, 1] - runs[:, 0]) * 3 >= longest]
    return np.sort(((runs.sum(axis=1) / 2 + turned) % n) / n)


def pace_of(skeleton: Skeleton, places: Array, seconds: float) -> Array:
    """How fast (m/s: to the left, ahead) a lap that is played on the spot would go, by its standing feet.

    ``places`` ``[F, J, 3]`` are joints about the body over ``seconds``. It is what the lower foot goes back by, by the
    median over the lap; nothing where there are no feet.
    """
    feet = [toes_of(skeleton, f) for f in feet_of(skeleton)]
    if not feet or len(places) < 3:
        return np.zeros(2)
    step = seconds / (len(places) - 1)
    lower = np.argmin(places[:, feet, 1], axis=1)
    back = -np.gradient(places[:, feet][..., [0, 2]], step, axis=0)
    return np.asarray(np.median(back[np.arange(len(places)), lower], axis=0))
