"""Locomotion: states with a clip or a speed-driven blend, and the transitions between them."""

from __future__ import annotations

from typing import Literal

from veergust.core.model.base import Condition, Record


class BlendPoint(Record, frozen=True):
    """A clip of a blend and the ground speed (m/s) at which it is seen alone."""

    clip: str
    speed: float


class State(Record, frozen=True):
    """One state. A blend keeps its clips in step; ``matched`` plays the clip at the body's own speed."""

    name: str
    clip: str = ""
    blend: tuple[BlendPoint, ...] = ()
    matched: float = 0.0
    band: Literal["floor", "guard", "air"] = "floor"


class Transition(Record, frozen=True):
    """From one state (or ``*``) to another when all conditions hold; a crossfade of ``ticks``."""

    start: str
    to: str
    conditions: tuple[Condition, ...] = ()
    ticks: int = 8
    ease: Literal["linear", "smooth", "in", "out"] = "smooth"


class Ground(Record, frozen=True):
    """The state machine under the actions, and how the stick moves the body (m/s, m/s², degrees/s)."""

    entry: str = ""
    states: tuple[State, ...] = ()
    transitions: tuple[Transition, ...] = ()
    walk_speed: float = 1.4
    run_speed: float = 4.4
    acceleration: float = 18.0
    turn_rate: float = 720.0
    gravity: float = 9.81
    friction: float = 9.0
