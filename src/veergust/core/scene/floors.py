"""Floors as they are drawn: a broad one as a board, a narrow one as a wall that stands on what is below."""

from __future__ import annotations

from math import isfinite

from veergust.core.model import Floor
from veergust.core.play import height_under, rows_of

THICK = 0.22
"""So far (m) down the sides of a floor are drawn."""
NARROW = 0.5
"""What is narrower than this (m) is a wall."""


def down_to(floor: Floor, floors: tuple[Floor, ...]) -> float:
    """The height (m) down to which the sides of one of the floors are drawn."""
    lowest = floor.height + min(floor.rise, 0.0)
    board = lowest - THICK
    (x0, z0), (x1, z1) = floor.low, floor.high
    if min(x1 - x0, z1 - z0) >= NARROW:
        return board
    under = height_under(rows_of(floors), (x0 + x1) / 2, board, (z0 + z1) / 2, 0.0)
    return min(board, under) if isfinite(under) else board
