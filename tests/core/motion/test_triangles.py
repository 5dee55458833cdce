"""Triangles over points, held against SciPy's."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial import ConvexHull, Delaunay, QhullError

from veergust.core.motion.triangles import rim_of, triangulated

places = st.tuples(st.floats(-6.0, 6.0), st.floats(-3.0, 3.0))


def areas(points: np.ndarray, triangles: list[tuple[int, int, int]]) -> np.ndarray:
    a, b, c = (points[[t[i] for t in triangles]] for i in range(3))
    return 0.5 * ((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0])


@given(seed=st.integers(0, 10_000), count=st.integers(3, 14))
def test_they_are_those_of_an_independent_library(seed: int, count: int) -> None:
    points = np.random.default_rng(seed).normal(size=(count, 2)) * [4.0, 2.0]
    theirs = {tuple(sorted(map(int, t))) for t in Delaunay(points).simplices}
    assert {tuple(sorted(t)) for t in triangulated(points)} == theirs


@given(spots=st.lists(places, min_size=3, max_size=10))
def test_they_cover_the_hull_once_wherever_the_points_lie(spots: list[tuple[float, float]]) -> None:
    """Also on grids and circles, in lines, and several in one place."""
    points = np.array([(round(x, 1), round(z)) for x, z in spots])
    found = triangulated(points)
    try:
        whole = ConvexHull(points).volume
    except QhullError:
        assert found == []
        return
    assert np.all(areas(points, found) > 0.0)
    assert areas(points, found).sum() == pytest.approx(whole, rel=1e-3)


@pytest.mark.parametrize("ways", [4, 8])
def test_ways_round_about_a_middle_are_slices(ways: int) -> None:
    turn = np.arange(ways) * 2.0 * np.pi / ways
    points = np.concatenate([[[0.0, 0.0]], np.stack([np.sin(turn), np.cos(turn)], -1)])
    found = triangulated(points)
    assert len(found) == ways
    assert all(0 in t for t in found)
    assert len(rim_of(found)) == ways


@pytest.mark.parametrize("points", [[], [(0, 0)], [(0, 0), (1, 1)], [(0, 0), (1, 1), (2, 2)], [(1, 1)] * 5])
def test_points_on_a_line_have_none(points: list[tuple[float, float]]) -> None:
    assert triangulated(np.array(points, dtype=float).reshape(-1, 2)) == []
