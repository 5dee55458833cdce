"""The moves in a long take: parts from rest to rest in which a hand or a foot strikes out."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from veergust.core.motion import quat
from veergust.core.motion.filtering import lowpass
from veergust.core.motion.naming import parts_of
from veergust.core.motion.quat import Array
from veergust.core.study.clip_reading import Reading
from veergust.core.study.preparing import leading_rest

CUTOFF = 7.0
"""What is faster than this (Hz) is taken for trembling and noise."""
STILL = 0.13
"""A standing person breathes and sways: slower than this (m/s, for one of ``TALL``) is still."""
STRIKE = 2.2
"""A hand or foot that goes faster than this about the hips strikes (m/s, for one of ``TALL``)."""
TALL = 1.75
PAUSE, SHORTEST, LONGEST = 0.16, 0.2, 8.0
"""Stillness lasts at least the first (s), a move at least the second and no more than the third."""
BEGINS, ENDS_AT, EDGE_PAUSE = 0.05, 0.03, 0.1
"""A move begins and ends where what stirs is no more than so much of its greatest, for so long (s)."""
REST_ANGLE, REST_TIME = 14.0, 0.4
"""Limbs turned less than so much (degrees) from the rest pose for so long (s) stand for calibration."""
LIMBS = ("upper_arm", "forearm", "thigh", "shin")
ENDS = ("hand", "foot")
WATCHED = (*ENDS, "head", "hips", "forearm", "shin")


@dataclass(frozen=True)
class Move:
    """A part of a take on frames ``[start, end]``: what strikes and how fast (m/s about the hips), on which frame."""

    start: int
    end: int
    strike: int
    joint: str
    speed: float

    @property
    def says(self) -> str:
        """It in words."""
        return f"{self.start} to {self.end}: {self.joint} {self.speed:.1f} m/s at {self.strike}"


def find_moves(reading: Reading) -> tuple[Move, ...]:
    """The moves of a take, in order."""
    bones = reading.skeleton
    parts = parts_of(bones)
    watched = [j for j, p in enumerate(parts) if p.kind in WATCHED and not p.end]
    ends = [k for k, j in enumerate(watched) if parts[j].kind in ENDS]
    if len(reading.times) < 8 or not ends:
        return ()
    size = max(float(np.ptp(bones.rest_world[:, 1, 3])), 1e-6) / TALL
    rest = leading_rest(reading)
    world = lowpass(reading.joints[:, watched], reading.step, CUTOFF, rest + 1 if rest else 0)
    stir = _speeds(world, reading.step).max(axis=1)
    about = lowpass(reading.bare[:, watched], reading.step, CUTOFF, rest + 1 if rest else 0)
    hips = next((k for k, j in enumerate(watched) if parts[j].kind == "hips"), None)
    about = about - about[:, [hips]] if hips is not None else about
    thrown = _speeds(about, reading.step)[:, ends]
    still = _still(stir, STILL * size, reading.step)
    still[: rest + 1] = True
    posed = _calibration(reading)
    out = []
    for start, end in _runs(~still):
        seconds = (end - start) * reading.step
        peak = int(thrown[start:end].max(axis=1).argmax()) + start
        speed = float(thrown[peak].max())
        stands = slice(max(start - round(0.2 / reading.step), rest), end + round(0.4 / reading.step))
        if not SHORTEST <= seconds <= LONGEST or speed < STRIKE * size or posed[stands].any():
            continue
        joint = bones.names[watched[ends[int(thrown[peak].argmax())]]]
        # A foot that settles, or a shiver beside the move, is no part of it.
        here, pause = stir[start:end], round(EDGE_PAUSE / reading.step)
        least, most = STILL * size, float(here.max())
        low, _ = _around(here >= max(least, BEGINS * most), peak - start, pause)
        _, high = _around(here >= max(least, ENDS_AT * most), peak - start, pause)
        out.append(Move(max(start + low - 1, 0), min(start + high, len(stir) - 1), peak, joint, speed))
    return tuple(out)


def _speeds(places: Array, step: float) -> Array:
    return np.asarray(np.linalg.norm(np.gradient(places, step, axis=0), axis=-1))


def _still(stir: Array, level: float, step: float) -> NDArray[np.bool_]:
    """On which frames nothing stirs; what is still for less than ``PAUSE`` is on its way."""
    still = np.asarray(stir < level)
    for start, end in _runs(still):
        if (end - start) * step < PAUSE and start > 0 and end < len(still):
            still[start:end] = False
    return still


def _around(busy: NDArray[np.bool_], at: int, pause: int) -> tuple[int, int]:
    """The first and last frame about ``at`` that are busy, up to pauses longer than ``pause``."""
    on = np.flatnonzero(busy)
    if len(on) == 0:
        return at, at
    k = int(np.searchsorted(on, at))
    k = min(k, len(on) - 1)
    breaks = np.diff(on) > max(pause, 1)
    before = np.flatnonzero(breaks[:k])
    after = np.flatnonzero(breaks[k:])
    return int(on[before[-1] + 1 if len(before) else 0]), int(on[k + after[0] if len(after) else -1]) + 1


def _calibration(reading: Reading) -> NDArray[np.bool_]:
    """On which frames the figure stands in its rest pose for a while: all its limbs as they rest."""
    parts = parts_of(reading.skeleton)
    limbs = [j for j, p in enumerate(parts) if p.kind in LIMBS and not p.end]
    if not limbs:
        return np.zeros(len(reading.times), dtype=bool)
    turned = quat.angle_between(reading.pose.rotation[:, limbs], reading.rest.rotation[:, limbs]).max(axis=-1)
    near = np.asarray(turned < REST_ANGLE)
    for start, end in _runs(near):
        if (end - start) * reading.step < REST_TIME:
            near[start:end] = False
    return near


def _runs(on: NDArray[np.bool_]) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.concatenate([[False], on, [False]]).astype(np.int8)))
    return [(int(a), int(b)) for a, b in edges.reshape(-1, 2)]
