"""Telling movement from noise: low-pass filtering of takes, and the frames of rest that an export leaves at their
start."""

from __future__ import annotations

import numpy as np

from veergust.core.motion import quat
from veergust.core.motion.quat import Array

RESTING = 3.0
"""A pose whose joints are turned less than so much (degrees, in the mean) from the rest pose is one."""
SHORTEST = 16
"""Nothing shorter (frames) is filtered."""


def lowpass(values: Array, step: float, cutoff: float, after: int = 0) -> Array:
    """Values ``[F, …]`` without what is faster than ``cutoff`` (Hz), from frame ``after`` on.

    A Butterworth filter of second order, run there and back so that nothing is late (SciPy's ``sosfiltfilt``).
    """
    from scipy.signal import butter, sosfiltfilt

    first = min(after, max(len(values) - 1, 0))
    rate = 1.0 / step
    rows = values[first:]
    if cutoff >= 0.45 * rate or len(rows) < SHORTEST:
        return values
    out = np.array(values, dtype=np.float64)
    # Differences are kept small, so that a take far off the origin is filtered as well as one at it.
    base = rows.mean(axis=0)
    out[first:] = sosfiltfilt(butter(2, cutoff, fs=rate, output="sos"), rows - base, axis=0) + base
    return out


def smooth_turns(turns: Array, step: float, cutoff: float, after: int = 0) -> Array:
    """Rotations ``[F, J, 4]`` without what is faster than ``cutoff`` (Hz): their signs made alike from frame to frame,
    filtered by component and made unit again, which holds as long as a joint turns little within a frame."""
    near = np.sum(turns[1:] * turns[:-1], axis=-1)
    signs = np.cumprod(np.where(near < 0.0, -1.0, 1.0), axis=0)
    alike = turns.astype(np.float64)
    alike[1:] *= signs[..., None]
    return quat.normalize(lowpass(alike, step, cutoff, after))


def resting(turn: Array, rest: Array) -> int:
    """How many frames at the start of rotations ``[F, J, 4]`` are the rest pose ``[J, 4]`` left over from an export; 0
    when they begin with it and ease out of it, for then it is meant."""
    turned = quat.angle_between(turn[: min(len(turn), 4000)], rest).mean(axis=-1)
    count = 0
    while count < len(turned) - 1 and turned[count] < RESTING:
        count += 1
    if count == 0 or count == len(turned) - 1:
        return 0
    jump = float(quat.angle_between(turn[count], turn[count - 1]).mean())
    after = quat.angle_between(turn[count + 1 : count + 4000], turn[count : count + 3999][: len(turn) - count - 1])
    return count if jump > RESTING and jump > 3.0 * float(np.median(after.mean(axis=-1))) else 0
