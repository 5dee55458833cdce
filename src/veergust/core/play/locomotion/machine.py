"""Locomotion: the transition that is taken on a tick, and how its states play on."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.rules.conditions import holds
from veergust.core.play.state import FighterState, LocomotionVoice


def advance(
    build: CompiledProject, fighter: FighterState, others: tuple[FighterState, ...], tick: int, seed: int
) -> None:
    """Take the first transition whose conditions hold, and let every state that shows play on by a tick."""
    now = fighter.locomotion[-1]
    state = build.states.get(now.state)
    ended = state is not None and not state.blend and now.phase >= 1.0
    for n, t in enumerate(build.project.locomotion.transitions):
        if t.start not in (now.state, "*") or t.to == now.state or t.to not in build.states:
            continue
        where = f"transition {n}"
        if holds(t.conditions, fighter, others=others, seed=seed, tick=tick, ended=ended, where=where):
            # Moving states hand their phase on, so that the feet keep step.
            step = state is not None and _moving(build, now.state) and _moving(build, t.to)
            fresh = LocomotionVoice(t.to, now.phase % 1.0 if step else 0.0, 0, t.ticks, t.ease)
            fighter.locomotion = (*fighter.locomotion, fresh)
            break
    speed = float(np.hypot(fighter.velocity[0], fighter.velocity[2]))
    rate = build.project.settings.rate
    voices = [
        replace(v, age=v.age + 1, phase=v.phase + cycles(build, v.state, speed) / rate) for v in fighter.locomotion
    ]
    full = max((i for i, v in enumerate(voices) if v.age > v.blend), default=0)
    fighter.locomotion = tuple(voices[full:])


def _moving(build: CompiledProject, state: str) -> bool:
    entry = build.states[state]
    return bool(entry.blend or entry.matched)


def cycles(build: CompiledProject, state: str, speed: float) -> float:
    """Cycles a second of a locomotion state at ground ``speed`` (m/s)."""
    entry = build.states.get(state)
    if entry is None:
        return 1.0
    if entry.blend:
        seconds = stride = 0.0
        for clip, weight, at in blend_weights(build, state, speed):
            length = build.locomotion_clip(clip).seconds
            seconds += weight * length
            stride += weight * length * at
        return min(max(speed / stride, 0.5 / seconds), 2.0 / seconds) if stride > 1e-6 else 1.0 / seconds
    pace = min(max(speed / entry.matched, 0.4), 2.0) if entry.matched else 1.0
    return pace / build.locomotion_clip(entry.clip).seconds


def blend_weights(build: CompiledProject, state: str, speed: float) -> list[tuple[str, float, float]]:
    """(clip, weight, its speed) of a speed-driven blend: the two neighbours of ``speed``, mixed linearly."""
    points = sorted(build.states[state].blend, key=lambda p: p.speed)
    if not points:
        return []
    if speed <= points[0].speed:
        return [(points[0].clip, 1.0, points[0].speed)]
    for a, b in zip(points, points[1:]):
        if speed <= b.speed:
            t = (speed - a.speed) / (b.speed - a.speed)
            return [(a.clip, 1.0 - t, a.speed), (b.clip, t, b.speed)]
    return [(points[-1].clip, 1.0, points[-1].speed)]
