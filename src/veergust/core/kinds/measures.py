"""The measures of a body that blends and conditions of locomotion ask for: name, words, unit, usual range, value."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import atan2, cos, degrees, hypot, radians, sin
from typing import Protocol

Vector = tuple[float, float, float]
STILL = 0.05
"""Below this speed (m/s) a body goes nowhere in particular: straight ahead."""


class Moving(Protocol):
    """What is measured of a fighter: velocities (m/s), facing and turning (degrees, degrees/s), heights (m).

    ``by_hand`` are measures that the tester holds at a value.
    """

    velocity: Vector
    went: Vector
    facing: float
    turning: float
    wanted: float
    above: float
    by_hand: tuple[tuple[str, float], ...]

    def parameter(self, name: str) -> float:
        """A parameter's value."""


@dataclass(frozen=True)
class Measure:
    """A measure: its words, its unit, the range it is usually in, and how it is read off a body."""

    label: str
    unit: str
    low: float
    high: float
    value: Callable[[Moving], float]


def ahead_and_left(body: Moving) -> tuple[float, float]:
    """How fast the body goes where it looks, and to its left (m/s)."""
    x, _, z = body.velocity
    turn = radians(body.facing)
    c, s = cos(turn), sin(turn)
    return x * s + z * c, x * c - z * s


def direction_of(velocity: Vector, facing: float) -> float:
    """Which way (degrees, to the left above 0) a body goes against which way it looks; 0 where it hardly goes."""
    x, _, z = velocity
    turn = radians(facing)
    c, s = cos(turn), sin(turn)
    return degrees(atan2(x * c - z * s, x * s + z * c)) if hypot(x, z) > STILL else 0.0


MEASURES: dict[str, Measure] = {
    "speed": Measure("speed", "m/s", 0.0, 6.0, lambda b: hypot(b.velocity[0], b.velocity[2])),
    "direction": Measure("direction", "°", -180.0, 180.0, lambda b: direction_of(b.velocity, b.facing)),
    "ahead": Measure("speed ahead", "m/s", -3.0, 6.0, lambda b: ahead_and_left(b)[0]),
    "left": Measure("speed to the left", "m/s", -3.0, 3.0, lambda b: ahead_and_left(b)[1]),
    "wanted speed": Measure("wanted speed", "m/s", 0.0, 6.0, lambda b: b.wanted),
    "turn rate": Measure("turn rate", "°/s", -720.0, 720.0, lambda b: b.turning),
    "rising": Measure("rising", "m/s", -12.0, 12.0, lambda b: b.velocity[1]),
    "above the floor": Measure("over the floor", "m", 0.0, 4.0, lambda b: b.above),
}
"""By the name that a blend has for them. Any other name is a parameter's."""


def measured(body: Moving, name: str) -> float:
    """A measure or a parameter of a body, as the tester holds it where it is held by hand."""
    for held, value in body.by_hand:
        if held == name:
            return value
    measure = MEASURES.get(name)
    return measure.value(body) if measure is not None else body.parameter(name)


class Fixed:
    """A body of which only some measures are known; all others are those of one who stands still."""

    velocity: Vector = (0.0, 0.0, 0.0)
    went: Vector = (0.0, 0.0, 0.0)
    facing = 0.0
    turning = 0.0
    wanted = 0.0
    above = 0.0

    def __init__(self, values: Mapping[str, float]) -> None:
        self.by_hand: tuple[tuple[str, float], ...] = tuple(values.items())

    def parameter(self, name: str) -> float:
        """0: nobody has set one."""
        return 0.0
