"""How a head is turned to what it looks at."""

from __future__ import annotations

from typing import NamedTuple


class Gaze(NamedTuple):
    """How far (degrees) the head is turned to a side and up to look at the target, and how much of it counts."""

    side: float = 0.0
    up: float = 0.0
    weight: float = 0.0


AHEAD = Gaze()
