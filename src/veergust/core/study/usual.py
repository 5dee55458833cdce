"""Which clips are likely to be what in locomotion, by their names and by how they move."""

from __future__ import annotations

import re
from dataclasses import dataclass
from math import hypot

import numpy as np

from veergust.core.motion import feet_of, toes_of
from veergust.core.play import CompiledProject
from veergust.core.study.clip_reading import reading_of
from veergust.core.study.preparing import best_loop, seam


@dataclass(frozen=True)
class ClipPart:
    """A part that a clip can have: its name, what it is, the words in the names of clips that have it."""

    name: str
    says: str
    words: str


PARTS = (
    ClipPart("idle", "stands", r"idle|stand|rest|wait|breath"),
    ClipPart("walk", "walks", r"walk|stroll"),
    ClipPart("run", "runs", r"run|jog|sprint"),
    ClipPart("rise", "leaves the floor", r"leap|jump|take.?off|rise"),
    ClipPart("fall", "is in the air", r"fall|drop|air|aloft"),
    ClipPart("land", "lands", r"land"),
    ClipPart("guard", "stands on guard", r"guard|aim|ready|combat"),
    ClipPart(
        "guard ahead", "goes ahead on guard", r"guard.*(ahead|fwd|forward|walk)|(aim|strafe).*(ahead|fwd|forward)"
    ),
    ClipPart("guard back", "goes back on guard", r"(guard|aim|strafe).*(back|bwd)"),
    ClipPart("guard left", "goes left on guard", r"(guard|aim|strafe).*left"),
    ClipPart("guard right", "goes right on guard", r"(guard|aim|strafe).*right"),
)
STANDS, WALKS = 0.25, 2.6
"""Speeds (m/s, for one of 1.75 m): slower stands, faster runs."""
STRAIGHT, STEADY, TURNS, MEETS = 0.9, 0.4, 40.0, 0.06
"""Who walks comes as far as this share of his way, varies his speed by less than this share, turns by less (degrees),
and after whole strides his joints are where they were to so much (m, for one of 1.75 m)."""
OFF = 0.04
"""Both feet farther (m) than this from the floor: it is in the air."""


def proposed(build: CompiledProject) -> dict[str, str]:
    """Part → the clip that is likely to be it; those for which nothing speaks are left out.

    A name speaks first; among clips of no telling name, how fast they go and whether their feet leave the floor.
    """
    names = [c.name for c in build.project.clips]
    out: dict[str, str] = {}
    taken: set[str] = set()
    # The longer words first, so that a guarding walk is not taken for the walk.
    for part in reversed(PARTS):
        found = [n for n in names if n not in taken and re.search(part.words, n, re.IGNORECASE)]
        found = [n for n in found if _fits(build, part.name, n)]
        if found:
            out[part.name] = min(found, key=lambda n: (len(n), n))
            taken.add(out[part.name])
    for name, speed in (("idle", 0.0), ("walk", 1.4), ("run", 4.5)):
        free = [n for n in names if n not in taken and _fits(build, name, n)]
        # What loops already is meant to; of the others only what goes on in steps can.
        free = [n for n in free if build.locomotion_clip(n).loop] or [n for n in free if _goes_on(build, name, n)]
        if name not in out and free:
            out[name] = min(free, key=lambda n: abs(_speed(build, n) - speed))
            taken.add(out[name])
    free = [n for n in names if n not in taken and _off(build, n) > OFF * _tall(build)]
    if "fall" not in out and free:
        out["fall"] = max(free, key=lambda n: _off(build, n))
    return {part.name: out[part.name] for part in PARTS if part.name in out}


def _fits(build: CompiledProject, part: str, name: str) -> bool:
    """Whether a clip moves like a part."""
    speed = _speed(build, name)
    tall = _tall(build)
    if part in ("idle", "guard"):
        return speed < STANDS * tall
    if part == "walk":
        return STANDS * tall <= speed < WALKS * tall
    if part == "run":
        return speed >= WALKS * tall * 0.8
    if part == "fall":
        return _off(build, name) > OFF * tall
    return True


def _tall(build: CompiledProject) -> float:
    """How tall the figure is, of 1.75 m."""
    bones = build.assets.skeleton
    return float(np.ptp(bones.rest_world[:, 1, 3])) / 1.75 if len(bones) else 1.0


def _speed(build: CompiledProject, name: str) -> float:
    return hypot(*build.locomotion_clip(name).pace)


def _steps(build: CompiledProject, name: str) -> bool:
    """Whether both feet of a clip step by turns, at least twice each."""
    reading = reading_of(build, name)
    if reading is None:
        return False
    starts = [c.joint for c in reading.contacts]
    return len(set(starts)) > 1 and all(starts.count(foot) > 2 for foot in set(starts))


def _goes_on(build: CompiledProject, part: str, name: str) -> bool:
    """Whether a clip that was not made to loop can be one in locomotion: somebody who stands, or whose steps repeat,
    steadily, and lead somewhere. Sparring on the spot steps as well, and is none."""
    if not _steps(build, name):
        return False
    reading = reading_of(build, name)
    lap = best_loop(reading) if reading is not None else None
    if part == "idle" or reading is None or lap is None:
        return part == "idle"
    if seam(reading, *lap).pose > MEETS * 100.0 * _tall(build):
        return False
    place, yaw = reading.track.at(reading.times[lap[0] : lap[1] + 1])
    steps = np.linalg.norm(np.diff(place[:, [0, 2]], axis=0), axis=-1)
    far = float(np.linalg.norm(place[-1, [0, 2]] - place[0, [0, 2]]))
    straight = far >= STRAIGHT * float(steps.sum())
    steady = float(steps.std()) <= STEADY * float(steps.mean())
    return straight and steady and float(np.degrees(np.ptp(yaw))) < TURNS


def _off(build: CompiledProject, name: str) -> float:
    """How far off the floor the lower foot is, by the median over the clip."""
    bones = build.assets.skeleton
    balls = [toes_of(bones, f) for f in feet_of(bones)]
    if not balls:
        return 0.0
    over = build.locomotion_clip(name).joints[:, balls, 1] - bones.rest_world[balls, 1, 3]
    return float(np.median(over.min(axis=1)))
