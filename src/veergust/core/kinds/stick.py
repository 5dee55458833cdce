"""A stick of a gamepad: what its two readings mean."""

from __future__ import annotations

from math import hypot


def shaped(x: float, y: float, dead: float, curve: float) -> tuple[float, float]:
    """Readings from -1 to 1 as a stick that gives nothing within ``dead`` (0 to 0.9) of its middle, and beyond it from
    0 to 1 by distance, raised to ``curve`` (1: evenly; above it: finer near the middle). Its way stays as it is."""
    far = hypot(x, y)
    if far <= dead or far <= 0.0:
        return 0.0, 0.0
    much = min((far - dead) / (1.0 - dead), 1.0) ** curve
    return x / far * much, y / far * much
