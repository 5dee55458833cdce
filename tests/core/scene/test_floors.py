"""Down to where the sides of floors are drawn."""

from __future__ import annotations

import pytest

from veergust.core.model import Floor
from veergust.core.scene.floors import THICK, down_to

GROUND = Floor(name="ground", low=(-9, -9), high=(9, 9), height=-1.0)
BOARD = Floor(name="board", low=(0, 0), high=(2, 2), height=1.0)


def test_a_narrow_floor_stands_on_what_is_below_and_a_broad_one_is_a_board() -> None:
    wall = Floor(name="wall", low=(-3, -1), high=(-2.8, 1), height=2.0)
    assert down_to(wall, (wall, BOARD, GROUND)) == -1.0
    assert down_to(BOARD, (wall, BOARD, GROUND)) == pytest.approx(1.0 - THICK)
    on_board = Floor(name="rail", low=(0.5, 0.5), high=(1.5, 0.6), height=2.0)
    assert down_to(on_board, (BOARD, on_board, GROUND)) == 1.0
    assert down_to(wall, (wall,)) == pytest.approx(2.0 - THICK)
    slope = Floor(name="slope", low=(-3, -1), high=(-2.8, 1), height=2.0, rise=-1.0)
    assert down_to(slope, (slope,)) == pytest.approx(1.0 - THICK)
