"""How far a blend's standing feet slide, by its clips alone, over the range of what it is blended over."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, hypot, radians, sin

import numpy as np
from numpy.typing import NDArray

from veergust.core.kinds import Fixed
from veergust.core.model import State
from veergust.core.motion import Array, feet_of, toes_of
from veergust.core.play import CompiledProject, cycles, own_phase, parts_of

STEPS = 64
LOW = 0.022
"""A ball of the foot within this share of a leg of the lowest it comes stands."""


@dataclass(frozen=True, eq=False)
class Slide:
    """A point of a blend's range: the ``value`` there, how far (m) a standing foot slides at most, and when each foot
    stands over a lap ``[feet, STEPS]``."""

    value: float
    slides: float
    stands: NDArray[np.bool_]


def slides_of(build: CompiledProject, state: State, points: int = 12) -> tuple[Slide, ...]:
    """Over the range of the last thing a state is blended over (its speed, usually); nothing for one that stands."""
    if not state.blend and not state.matched:
        return ()
    if not feet_of(build.assets.skeleton):
        return ()
    over = state.over[:2] if state.blend else ("speed",)
    index = over.index("speed") if "speed" in over else len(over) - 1
    values = [p.at[index] for p in state.blend if len(p.at) > index] or [0.4 * state.matched, 1.4 * state.matched]
    out = []
    for value in np.linspace(min(values), max(values), points):
        at = dict.fromkeys(over, 0.0) | {over[index]: float(value)}
        out.append(slide_at(build, state, at))
    return tuple(out)


def slide_at(build: CompiledProject, state: State, at: dict[str, float]) -> Slide:
    """The slide where a state's measures are ``at``, with the body going as fast as they say."""
    body = Fixed(at)
    balls = [toes_of(build.assets.skeleton, f) for f in feet_of(build.assets.skeleton)]
    speed = at.get("speed", hypot(at.get("ahead", 0.0), at.get("left", 0.0)))
    way = radians(at.get("direction", 0.0))
    phases = np.arange(STEPS + 1) / STEPS
    seconds = np.zeros(STEPS + 1)
    places = np.zeros((STEPS + 1, len(balls), 3))
    parts = parts_of(build, body, state)
    leg = parts[0][0].leg if parts else 1.0
    for n, phase in enumerate(phases):
        for clip, weight, _ in parts:
            own = own_phase(state, clip, float(phase)) % 1.0
            places[n] += weight * clip.joints[round(own * (len(clip.joints) - 1)), balls]
        if n:
            seconds[n] = seconds[n - 1] + 1.0 / STEPS / max(cycles(build, body, state, float(phases[n - 1])), 1e-6)
    went = (speed * seconds)[:, None] * np.array([sin(way), cos(way)])[None]
    world = places[..., [0, 2]] + went[:, None]
    high = places[..., 1]
    stands = high < high.min(axis=0) + LOW * leg
    farthest = max((_farthest(world[:, k], stands[:, k]) for k in range(len(balls))), default=0.0)
    value = at.get("speed", next(iter(at.values()), 0.0))
    return Slide(float(value), farthest, stands[:-1].T)


def _farthest(way: Array, stands: NDArray[np.bool_]) -> float:
    edges = np.flatnonzero(np.diff(np.concatenate([[0], stands.astype(int), [0]]))).reshape(-1, 2)
    spans = [way[a:b] for a, b in edges if b - a >= 3]
    return max((float(np.linalg.norm(s[:, None] - s[None], axis=-1).max()) for s in spans), default=0.0)
