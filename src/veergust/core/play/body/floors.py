"""Floors of the stage: how high they are where, and which one lies under a point."""

from __future__ import annotations

from math import sqrt

from veergust.core.model import Floor

STEP_UP = 0.25
"""So much higher (m) a floor may be to be stepped on, and so much lower to be stepped down to."""


def inside(floor: Floor, x: float, z: float) -> bool:
    """Whether a point lies over a floor."""
    return floor.low[0] <= x <= floor.high[0] and floor.low[1] <= z <= floor.high[1]


def height_at(floor: Floor, x: float, z: float) -> float:
    """The height (m) of a floor at a point; beyond its rim, that of the rim."""
    if not floor.rise:
        return floor.height
    i, value = (0, x) if floor.along == "x" else (1, z)
    long = floor.high[i] - floor.low[i]
    return floor.height + floor.rise * min(max((value - floor.low[i]) / long, 0.0), 1.0) if long > 0.0 else floor.height


def normal_of(floor: Floor) -> tuple[float, float, float]:
    """The direction straight up from a floor."""
    if not floor.rise:
        return 0.0, 1.0, 0.0
    i = 0 if floor.along == "x" else 1
    slope = floor.rise / max(floor.high[i] - floor.low[i], 1e-9)
    size = sqrt(1.0 + slope * slope)
    return (-slope / size, 1.0 / size, 0.0) if i == 0 else (0.0, 1.0 / size, -slope / size)


def floor_at(floors: tuple[Floor, ...], x: float, y: float, z: float, above: float = STEP_UP) -> Floor | None:
    """The highest floor under a point, not counting floors more than a step (or ``above``, m) above it."""
    best, found = -1e9, None
    for floor in floors:
        if inside(floor, x, z):
            high = height_at(floor, x, z)
            if best < high <= y + above:
                best, found = high, floor
    return found
