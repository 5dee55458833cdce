"""Locomotion: states with a clip or a speed-driven blend, and the transitions between them."""

from __future__ import annotations

from typing import Literal

from veergust.core.model.base import Condition, Factor, Speed, Ticks, Value


class BlendPoint(Value, frozen=True):
    """A clip of a blend and the ground speed (m/s) at which it is seen alone."""

    clip: str
    speed: Speed


class State(Value, frozen=True):
    """One state. A blend keeps its clips in step; ``matched`` plays the clip at the body's own speed."""

    name: str
    clip: str = ""
    blend: tuple[BlendPoint, ...] = ()
    matched: Speed = 0.0
    band: Literal["floor", "guard", "air"] = "floor"


class Transition(Value, frozen=True):
    """From one state (or ``*``) to another when all conditions hold; a crossfade of ``ticks``."""

    start: str
    to: str
    conditions: tuple[Condition, ...] = ()
    ticks: Ticks = 8
    ease: Literal["linear", "smooth", "in", "out"] = "smooth"


class Locomotion(Value, frozen=True):
    """The state machine under the actions, and how the stick moves the body (m/s, m/s², degrees/s)."""

    entry: str = ""
    states: tuple[State, ...] = ()
    transitions: tuple[Transition, ...] = ()
    walk_speed: Speed = 1.4
    run_speed: Speed = 4.4
    acceleration: Speed = 18.0
    turn_rate: Speed = 720.0
    gravity: Factor = 9.81
    friction: Speed = 9.0
