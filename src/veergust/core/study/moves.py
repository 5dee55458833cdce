"""The moves in a long take: parts in which a hand or a foot strikes out, whether anybody ever stands still or not.

A strike is told by how fast its limb goes about the hips, how far it comes out and away from them, and that the other
limbs do not do the same: hands that swing in a walk go together, feet that step stay low, in a jump both rise. A move
begins where its limb leaves what it did before and ends where it is back in what it does after; where a take rests
nobody strikes, which is one sign among others.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from math import exp

import numpy as np
from numpy.typing import NDArray

from veergust.core.motion import Array, Part, chain_to, lowpass, parts_of, quat
from veergust.core.study.clip_reading import Reading
from veergust.core.study.preparing import leading_rest

CUTOFF = 12.0
"""What is faster than this (Hz) is taken for trembling and noise."""
STRIKE = 2.2
"""A hand or foot that goes faster than this about the hips may strike (m/s, for one of ``TALL``)."""
TALL = 1.75
PAUSE, SHORTEST, LONGEST = 0.12, 0.12, 3.0
"""A limb may rest so long (s) where it has come out; a move lasts at least the second and no more than the third."""
BUSY, IDLE = 0.05, 1.9
"""A limb strikes while it goes at this share of its greatest speed, and so many times as fast as it mostly does."""
LOW, NOISY, HIGH, BACK = 0.17, 0.9, 0.3, 0.8
"""An edge is where speed would be nothing: beyond two shares of the nearest peak, the lower one (so much, more where
the limb is never still) and the higher (so much more), farther out by so much of what lies between the two."""
OUT = {"hand": 0.2, "foot": 0.35}
"""A strike comes so far (m, for one of ``TALL``) from where it began."""
RAISED, KICKED = 0.26, 0.72
"""A foot that kicks is raised by this share of a leg's length, with the leg stretched to this one."""
OTHER = 1.3
"""A hand that strikes goes so many times as fast as the other, or both hold on to one thing."""
DOWN = 0.62
"""With hips lower than this share of where they mostly are somebody is down or gets up."""
TIPS, WEAPON = ("hand", "foot", "head"), "weapon"
"""What may strike."""
SURE = 0.35
"""What is less sure is not proposed."""
REST_ANGLE, REST_TIME = 14.0, 0.4
"""Limbs turned less than so much (degrees) from the rest pose for so long (s) stand for calibration."""
LIMBS = ("upper_arm", "forearm", "thigh", "shin")
OVER = {"hand": ("upper_arm", "arm"), "foot": ("thigh", "leg")}
"""What a limb hangs on at its upper end."""


@dataclass(frozen=True)
class Move:
    """A part of a take on frames ``[start, end]``: what strikes and how fast (m/s about the hips), on which frame, and
    how ``sure`` that is (0…1)."""

    start: int
    end: int
    strike: int
    joint: str
    speed: float
    sure: float = 1.0

    @property
    def says(self) -> str:
        """It in words."""
        doubt = "" if self.sure >= 0.6 else f", {self.sure:.0%} sure"
        return f"{self.start} to {self.end}: {self.joint} {self.speed:.1f} m/s at {self.strike}{doubt}"


@dataclass(frozen=True, eq=False)
class Striker:
    """A hand or a foot over ``F`` frames: ``about`` the hips ``[F, 3]`` (m), its speed there ``[F]`` (m/s), how far it
    is stretched ``[F]`` (0…1), and how fast it goes in the world ``[F]``."""

    joint: int
    kind: str
    side: str
    about: Array
    stretched: Array
    step: float
    in_world: Array
    high: Array

    @cached_property
    def speed(self) -> Array:
        """Its speed about the hips (m/s)."""
        return _speeds(self.about, self.step)

    @cached_property
    def idle(self) -> float:
        """How fast it goes where it does nothing in particular (m/s): nobody who spars is still."""
        return float(np.percentile(self.stirs, 35.0))

    @cached_property
    def stirs(self) -> Array:
        """By what a move's edges are seen (m/s): a foot that stands goes about the hips as they go over it."""
        return np.minimum(self.speed, self.in_world) if self.kind == "foot" else self.speed


def tips(reading: Reading, weapon: tuple[int, Array] | None = None) -> dict[str, Array]:
    """How fast (m/s ``[F]``) hands, feet and head go about the hips, by the names of their joints; and the tip of a
    ``weapon``: the joint that it rides on, and its frame in that ``[4, 4]``."""
    bones = reading.skeleton
    parts = parts_of(bones)
    found = [j for j, p in enumerate(parts) if p.kind in TIPS and not p.end]
    about = _about(reading, found)
    out = {bones.names[j]: _speeds(about[:, k], reading.step) for k, j in enumerate(found)}
    if weapon is not None:
        joint, frame = weapon
        turn = np.tile(quat.IDENTITY, (len(reading.times), 1))
        for j in chain_to(bones, joint):
            turn = quat.multiply(turn, reading.pose.rotation[:, j])
        yaw = reading.track.at(reading.times)[1]
        there = quat.rotate(quat.from_yaw(-yaw), quat.rotate(turn, np.broadcast_to(frame[:3, 3], (len(turn), 3))))
        place = lowpass(reading.bare[:, joint] - reading.bare[:, reading.hips] + there, reading.step, CUTOFF)
        out[WEAPON] = _speeds(place, reading.step)
    return out


def find_moves(reading: Reading) -> tuple[Move, ...]:
    """The moves of a take, in order."""
    if len(reading.times) < 8:
        return ()
    limbs = limbs_of(reading)
    size = max(float(np.ptp(reading.skeleton.rest_world[:, 1, 3])), 1e-6) / TALL
    closed = _closed(reading)
    found = [m for limb in limbs for m in _strikes(reading, limb, limbs, size, closed)]
    return tuple(_apart(sorted(found, key=lambda m: m.strike)))


def limbs_of(reading: Reading) -> list[Striker]:
    """The hands and feet of a take."""
    bones = reading.skeleton
    parts = parts_of(bones)
    ends = [j for j, p in enumerate(parts) if p.kind in OVER and not p.end]
    chains = [_upper(reading, parts, j) for j in ends]
    rest = leading_rest(reading)
    about = _about(reading, ends)
    world = lowpass(reading.joints[:, ends], reading.step, CUTOFF, rest + 1 if rest else 0)
    out = []
    for k, (j, (upper, length)) in enumerate(zip(ends, chains)):
        length = max(length, 1e-6)
        stretched = np.linalg.norm(reading.bare[:, j] - reading.bare[:, upper], axis=-1) / length
        high = world[:, k, 1] - np.percentile(world[:, k, 1], 10.0)
        fast = _speeds(world[:, k], reading.step)
        out.append(Striker(j, parts[j].kind, parts[j].side, about[:, k], stretched, reading.step, fast, high / length))
    return out


def _about(reading: Reading, joints: list[int]) -> Array:
    """Places ``[F, N, 3]`` of joints about the hips, in the body's frame."""
    rest = leading_rest(reading)
    places = lowpass(reading.bare[:, [*joints, reading.hips]], reading.step, CUTOFF, rest + 1 if rest else 0)
    return np.asarray(places[:, :-1] - places[:, -1:])


def _upper(reading: Reading, parts: tuple[Part, ...], joint: int) -> tuple[int, float]:
    """The joint that a limb hangs on at its upper end, and its length (m)."""
    bones = reading.skeleton
    at, length, kinds = joint, 0.0, OVER[parts[joint].kind]
    for _ in range(4):
        above = bones.parents[at]
        if above < 0:
            break
        length += float(np.linalg.norm(bones.rest_world[at, :3, 3] - bones.rest_world[above, :3, 3]))
        at = above
        if parts[at].kind in kinds:
            break
    return at, length


def _speeds(places: Array, step: float) -> Array:
    return np.asarray(np.linalg.norm(np.gradient(places, step, axis=0), axis=-1))


def _closed(reading: Reading) -> NDArray[np.bool_]:
    """Frames on which nobody strikes: the rest pose of an export, a calibration, and somebody who is down."""
    out = _calibration(reading)
    out[: leading_rest(reading) + 1] = True
    high = reading.joints[:, reading.hips, 1]
    return out | (high < DOWN * float(np.median(high)))


def _strikes(
    reading: Reading, limb: Striker, limbs: list[Striker], size: float, closed: NDArray[np.bool_]
) -> list[Move]:
    """The strikes of one limb."""
    speed, step = limb.speed, limb.step
    least = STRIKE * size
    out: list[Move] = []
    used = -1
    for peak in _peaks(speed, least):
        if peak <= used:
            continue
        first, last = _busy(limb, peak)
        top = first + int(np.argmax(np.where(_outward(limb)[first : last + 1], speed[first : last + 1], 0.0)))
        used = last
        seconds = (last - first) * step
        start, end = _edges(limb, first, last)
        if not SHORTEST <= seconds <= LONGEST or closed[start : end + 1].any() or speed[top] < least:
            continue
        sure = _sure(limb, limbs, top, first, last, size)
        if sure >= SURE:
            strike, name = min(max(top, start + 1), end - 1), reading.skeleton.names[limb.joint]
            out.append(Move(start, end, strike, name, float(speed[top]), round(sure, 2)))
    return out


def _peaks(speed: Array, least: float) -> list[int]:
    """Frames on which a speed is greatest between those on either side, above ``least``."""
    inner = (speed[1:-1] >= speed[:-2]) & (speed[1:-1] > speed[2:]) & (speed[1:-1] >= least)
    return [int(i) + 1 for i in np.flatnonzero(inner)]


def _busy(limb: Striker, peak: int) -> tuple[int, int]:
    """The first and last frame about a peak on which a limb is at it, over pauses no longer than ``PAUSE``."""
    stirs = limb.stirs
    level = max(BUSY * float(limb.speed[peak]), IDLE * limb.idle)
    on = np.flatnonzero(stirs >= level)
    if not len(on):
        return peak, peak
    pause = max(round(PAUSE / limb.step), 1)
    k = min(int(np.searchsorted(on, peak)), len(on) - 1)
    breaks = np.diff(on) > pause
    before, after = np.flatnonzero(breaks[:k]), np.flatnonzero(breaks[k:])
    return int(on[before[-1] + 1 if len(before) else 0]), int(on[k + after[0] if len(after) else -1])


def _edges(limb: Striker, first: int, last: int) -> tuple[int, int]:
    """Where a limb leaves rest before its first peak, and comes to it after its last: the speed on the way there, drawn
    on to nothing."""
    # What the limb does anyway goes any way, so that the two add up by their squares.
    stirs = np.sqrt(np.maximum(limb.stirs**2 - limb.idle**2, 0.0))
    great = float(stirs[first : last + 1].max())
    peaks = _peaks(stirs[first : last + 1], 0.25 * great) or [int(np.argmax(stirs[first : last + 1]))]
    start = _drawn(stirs, first + peaks[0], -1, limb.idle)
    end = _drawn(stirs, first + peaks[-1], 1, limb.idle)
    return max(round(start), 0), min(round(end), len(stirs) - 1)


def _drawn(stirs: Array, peak: int, way: int, idle: float) -> float:
    """Where the speed that falls from a peak one way would be nothing."""
    most = float(stirs[peak])
    low = min(LOW + NOISY * idle / max(most, 1e-6), 0.5)
    crossed, at = [], peak
    for share in (low + HIGH, low):
        while 0 < at < len(stirs) - 1 and stirs[at] > share * most:
            if share == low and _turns(stirs, at, way, (low + HIGH) * most):
                break
            at += way
        inner, outer = float(stirs[at - way]) if 0 <= at - way < len(stirs) else most, float(stirs[at])
        part = (inner - share * most) / (inner - outer) if inner > outer and outer <= share * most else 1.0
        crossed.append(at - way + way * min(max(part, 0.0), 1.0))
    return crossed[1] + (crossed[1] - crossed[0]) * BACK


def _turns(stirs: Array, at: int, way: int, below: float) -> bool:
    """Whether a speed rises again where it should fall: the stillest moment before something else."""
    on = at + way
    return 0 <= on < len(stirs) and bool(stirs[on] > stirs[at]) and bool(stirs[at] < below)


def _outward(limb: Striker) -> NDArray[np.bool_]:
    """On which frames a limb goes away from what it hangs on, or across in front of it."""
    away = np.gradient(np.linalg.norm(limb.about * [1.0, 0.3, 1.0], axis=-1), limb.step)
    return np.asarray(away > -0.25 * limb.speed)


def _sure(limb: Striker, limbs: list[Striker], top: int, first: int, last: int, size: float) -> float:
    """How sure it is that a limb strikes (0…1): how fast, how far out, and how much unlike its other."""
    rows = slice(first, last + 1)
    out = float(np.linalg.norm(limb.about[rows] - limb.about[first], axis=-1).max())
    signs = [_over(float(limb.speed[top]), STRIKE * size, 0.5 * size), _over(out, OUT[limb.kind] * size, 0.05 * size)]
    other = next((o for o in limbs if o.kind == limb.kind and o.side != limb.side), None)
    near = slice(max(top - round(0.08 / limb.step), 0), top + round(0.08 / limb.step) + 1)
    if limb.kind == "foot":
        raised = (limb.high[rows] > RAISED) & (limb.stretched[rows] > KICKED)
        signs.append(1.0 if raised.any() else 0.0)
        if other is not None:
            signs.append(_over(float(limb.speed[top]) / max(float(other.speed[near].max()), 0.3), 1.4, 0.15))
    elif other is not None:
        ratio = float(limb.speed[top]) / max(float(other.speed[near].max()), 0.3)
        held = float(np.ptp(np.linalg.norm(limb.about[rows] - other.about[rows], axis=-1))) < 0.12 * size
        signs.append(max(_over(ratio, OTHER, 0.12), 1.0 if held else _over(float(limb.speed[top]), 4.2 * size, 0.5)))
    return float(np.prod(signs)) ** (1.0 / len(signs)) if min(signs) > 0.12 else 0.0


def _over(value: float, level: float, soft: float) -> float:
    """How sure it is that a value is over a level: a half at it."""
    return 1.0 / (1.0 + exp(-min(max((value - level) / soft, -30.0), 30.0)))


def _apart(moves: list[Move]) -> list[Move]:
    """Moves one after the other: what belongs together joined, what runs into the next cut between the two."""
    out: list[Move] = []
    for move in moves:
        if not out:
            out.append(move)
            continue
        last = out[-1]
        shared = min(last.end, move.end) - max(last.start, move.start)
        if shared <= 0:
            out.append(move)
        elif shared > 0.5 * min(last.end - last.start, move.end - move.start):
            out[-1] = _joined(last, move)
        else:
            middle = (max(last.start, move.start) + min(last.end, move.end)) // 2
            out[-1] = _within(last, last.start, max(middle, last.strike + 1))
            out.append(_within(move, min(middle, move.strike - 1), move.end))
    return out


def _joined(a: Move, b: Move) -> Move:
    """Two limbs at once: the faster one's move, and all of both where the other does nearly as much."""
    main, other = (a, b) if a.speed * a.sure >= b.speed * b.sure else (b, a)
    if other.speed < 0.75 * main.speed:
        return main
    return _within(main, min(a.start, b.start), max(a.end, b.end))


def _within(move: Move, start: int, end: int) -> Move:
    return Move(start, end, move.strike, move.joint, move.speed, move.sure)


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
