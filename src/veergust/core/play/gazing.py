"""How a head, or an aim, is turned to what it is after: what both have in common."""

from __future__ import annotations

from typing import NamedTuple

BEHIND = 25.0
"""So much (degrees) beyond its limit to a side it is not looked at any more, nor aimed at."""
SIGHT, SHOULDER, CHEST = 0.9, 0.8, 0.6
"""Shares of a body's height: its eyes, where it aims from, and where it is aimed at."""


class Gaze(NamedTuple):
    """How far (degrees) it is turned to the left and up, and how much of that counts."""

    side: float = 0.0
    up: float = 0.0
    weight: float = 0.0

    def on(self, side: float, up: float, want: float, ticks: int, most: float) -> Gaze:
        """A tick on towards a direction: by ``most`` degrees, and in or out to ``want`` over ``ticks``.

        What was not seen at all comes in where it is to point.
        """
        pull = 1.0 / (ticks + 1)
        weight = self.weight + min(max(want - self.weight, -pull), pull)
        if self.weight > 0.0:
            side = self.side + min(max(side - self.side, -most), most)
            up = self.up + min(max(up - self.up, -most), most)
        return Gaze(side, up, weight)


AHEAD = Gaze()
