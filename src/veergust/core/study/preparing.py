"""What could be done to a clip: where to cut it in and out, and where it loops best. Proposals, never deeds."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from veergust.core.motion import Array, Indices, Pose, forward, resting
from veergust.core.study.clip_reading import Reading

STILL = 0.05
"""Joints of somebody who stands go this fast (m/s, in the mean): they breathe and sway."""
NEAR_IDLE = 0.05
QUIET = 0.12
SHORTEST_LOOP = 0.3
BREATH = 1.6
"""Nobody who stands repeats in less (s)."""
SPEED_WEIGHT = 0.08
ALL = slice(None)


@dataclass(frozen=True)
class ClipProposal:
    """``says`` why, and where the clip's ``edge`` would go (source s; a frame of the source)."""

    edge: Literal["in", "out"]
    seconds: float
    frame: int
    says: str


@dataclass(frozen=True)
class Seam:
    """How the last frame meets the first: mean distance of joints (cm), and of their speeds (cm/s)."""

    pose: float
    speed: float


def proposals(reading: Reading, first: int, last: int, idle: Pose | None = None) -> list[ClipProposal]:
    """What is proposed for a clip used from frame ``first`` to ``last``; ``idle`` is the pose, about
    its body, that it should start near.

    A clip that loops keeps its quiet ends: they are part of the lap.
    """
    out: list[ClipProposal] = []
    rest = leading_rest(reading)
    if rest and first < rest:
        word = "first frame is" if rest == 1 else f"first {rest} frames are"
        out.append(_cut(reading, "in", rest, f"{word} the rest pose: start at {rest}"))
    if reading.clip.loop:
        return out
    quiet_in, quiet_out = quiet_ends(reading, rest)
    frame, gap, now = first, 0.0, 0.0
    if idle is not None:
        # Whatever leads up to the last great stir of the clip may be pre-roll.
        stir = reading.stir.copy()
        stir[: rest + 1] = 0.0
        great = int(np.flatnonzero(stir >= 0.7 * stir.max())[-1])
        frame, gap = nearest(reading, idle, rest, max(great, rest))
        now = float(gap_to(reading, idle)[first])
    if frame > first + 1 and gap < min(0.5 * now, NEAR_IDLE):
        out.append(_cut(reading, "in", frame, f"pre-roll: nearest to idle at frame {frame}"))
    elif quiet_in - first > round(QUIET / reading.step):
        out.append(_cut(reading, "in", quiet_in, f"pre-roll: still until frame {quiet_in}"))
    if last - quiet_out > round(QUIET / reading.step):
        out.append(_cut(reading, "out", quiet_out, f"tail: still from frame {quiet_out}"))
    return out


def _cut(reading: Reading, edge: Literal["in", "out"], frame: int, says: str) -> ClipProposal:
    return ClipProposal(edge, float(reading.times[frame]), frame, says)


def leading_rest(reading: Reading) -> int:
    """How many frames at the start are the rest pose left over from the export; 0 when the clip begins with it and
    eases out of it, for then it is meant."""
    return resting(reading.pose.rotation, reading.rest.rotation)


def quiet_ends(reading: Reading, after: int = 0) -> tuple[int, int]:
    """The first frame on which the figure stirs, and the last, past the first ``after`` frames."""
    stir = reading.calm.copy()
    # The jump out of a rest pose is no movement.
    stir[: after + 1] = 0.0
    level = max(STILL, 0.012 * float(np.percentile(stir, 95.0)))
    moving = np.flatnonzero(stir > level)
    if len(moving) == 0:
        return after, len(stir) - 1
    # What was filtered stirs a little early and late.
    return max(int(moving[0]), after), min(int(moving[-1]), len(stir) - 1)


def features(reading: Reading, rows: NDArray[np.intp] | slice = ALL) -> Array:
    """What is compared from frame to frame ``[N, 6 J]``: places of joints about the body, and their speeds (m/s) over
    a 60th of a second, whatever the source's rate."""
    bare = reading.bare[:, reading.figure]
    places = bare[rows]
    near = max(1, round(1.0 / 60.0 / reading.step))
    frames = np.arange(len(reading.times))[rows]
    low, high = np.maximum(frames - near, 0), np.minimum(frames + near, len(reading.times) - 1)
    span = np.maximum(high - low, 1) * reading.step
    speeds = (bare[high] - bare[low]) / span[:, None, None]
    return np.concatenate([places.reshape(len(places), -1), SPEED_WEIGHT * speeds.reshape(len(places), -1)], axis=1)


def seam(reading: Reading, first: int, last: int) -> Seam:
    """How frame ``last`` meets frame ``first`` when the clip loops."""
    both = features(reading)[[first, last]]
    half = both.shape[1] // 2
    gap = (both[0] - both[1]).reshape(2, half // 3, 3)
    size = np.linalg.norm(gap, axis=-1).mean(axis=-1) * 100.0
    return Seam(float(size[0]), float(size[1] / SPEED_WEIGHT))


def best_loop(reading: Reading) -> tuple[int, int] | None:
    """The pair of frames that meet best, at least a stride apart (``shortest_loop``); longer loops win ties.

    None when the clip is too short to loop.
    """
    rest = leading_rest(reading)
    rows = features(reading)[rest:]
    shortest = max(2, round(shortest_loop(reading)[0] / reading.step))
    stride = max(1, len(rows) // 400)
    rows = rows[::stride]
    if len(rows) * stride <= shortest + 1:
        return None
    i, j = np.triu_indices(len(rows), max(shortest // stride, 1))
    # A loop twice as long is worth a millimetre of seam.
    worth, size = 0.001 * np.log2((j - i) * stride), np.sqrt(rows.shape[1] / 6.0)
    near = least(distances(rows, rows)[i, j] / size - worth)
    i, j, worth = i[near], j[near], worth[near]
    best = int(np.argmin(np.linalg.norm(rows[i] - rows[j], axis=-1) / size - worth))
    return int(i[best]) * stride + rest, int(j[best]) * stride + rest


def distances(a: Array, b: Array) -> Array:
    """How far each of rows ``a`` ``[N, K]`` is from each of ``b`` ``[M, K]``, ``[N, M]``, to some 1e-8 of their size:
    by |a − b|² = |a|² + |b|² − 2 ab, which is one product of matrices."""
    middle = b.mean(axis=0)
    a, b = a - middle, b - middle
    square = np.sum(a * a, axis=-1)[:, None] + np.sum(b * b, axis=-1) - 2.0 * (a @ b.T)
    return np.asarray(np.sqrt(np.maximum(square, 0.0)))


def least(values: Array) -> Indices:
    """Where values ``[N]`` that are right to 1e-6 may be least, in order."""
    return np.flatnonzero(values <= values.min() + 2e-6)


def closest(a: Array, b: Array) -> tuple[int, int]:
    """The row of ``a`` ``[N, K]`` and the row of ``b`` ``[M, K]`` that are closest, the first of equals."""
    i, j = np.unravel_index(least(distances(a, b).ravel()), (len(a), len(b)))
    best = int(np.argmin(np.linalg.norm(a[i] - b[j], axis=-1)))
    return int(i[best]), int(j[best])


def shortest_loop(reading: Reading) -> tuple[float, str]:
    """How long (s) a loop of a clip is at least, and what it is for: a whole stride where feet step by turns, a breath
    where somebody stands, else as long as anything is seen to repeat."""
    starts: dict[int, list[int]] = {}
    for contact in reading.contacts:
        starts.setdefault(contact.joint, []).append(contact.start)
    strides = [b - a for rows in starts.values() for a, b in zip(sorted(rows), sorted(rows)[1:])]
    over = float(np.linalg.norm(np.ptp(reading.joints[:, reading.root][:, [0, 2]], axis=0)))
    if strides and over > 0.5:
        return max(0.9 * float(np.median(strides)) * reading.step, SHORTEST_LOOP), "a stride"
    seconds = float(reading.times[-1])
    if not strides and over < 0.3 and seconds >= BREATH:
        return BREATH, "standing"
    return SHORTEST_LOOP, "what repeats"


def places_of(reading: Reading, pose: Pose) -> Array:
    """Joint places ``[J, 3]`` of a pose that is about its body."""
    return np.asarray(forward(reading.skeleton, pose.rotation, pose.translation)[0, :, :3, 3])


def gap_to(reading: Reading, pose: Pose) -> Array:
    """Mean distance of joints (m) from a pose about its body, on every frame ``[F]``, each about its own body."""
    gap = (reading.bare - places_of(reading, pose))[:, reading.figure]
    return np.asarray(np.linalg.norm(gap, axis=-1).mean(axis=-1))


def nearest(reading: Reading, pose: Pose, low: int = 0, high: int | None = None) -> tuple[int, float]:
    """The frame from ``low`` to ``high`` that is nearest to a pose, and how far off it is (m)."""
    gap = gap_to(reading, pose)[low : None if high is None else max(high + 1, low + 1)]
    return low + int(np.argmin(gap)), float(gap.min())
