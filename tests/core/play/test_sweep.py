"""Swept contact against a dense sampling of the same motion."""

from __future__ import annotations

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from veergust.core.play.contact.sweep import box_distance, first_touch, first_touch_box, segment_distance

FINE = np.linspace(0, 1, 2001)


@given(st.integers(0, 2**31))
def test_segment_distance_is_the_least_over_all_pairs_of_points(seed: int) -> None:
    rng = np.random.default_rng(seed)
    a, b, c, d = rng.normal(size=(4, 1, 3))
    if seed % 5 == 0:
        d = c + (b - a) * 0.5  # parallel
    ours, p, q = segment_distance(a, b, c, d)
    s = np.linspace(0, 1, 120)
    one = a + (b - a) * s[:, None]
    two = c + (d - c) * s[:, None]
    least = np.linalg.norm(one[:, None] - two[None], axis=-1).min()
    assert ours[0] <= least + 1e-9
    assert least - ours[0] < 0.02 * (np.linalg.norm(b - a) + np.linalg.norm(d - c))
    assert np.isclose(np.linalg.norm(p - q), ours[0])


@settings(max_examples=60)
@given(st.integers(0, 2**31))
def test_a_touch_is_found_when_and_only_when_the_motion_has_one(seed: int) -> None:
    rng = np.random.default_rng(seed)
    ends = rng.normal(0, 1.2, size=(8, 1, 3))
    radius = np.array([rng.uniform(0.02, 0.5)])
    times, _ = first_touch(tuple(ends[:4]), tuple(ends[4:]), radius)
    a, b, c, d = (ends[i] + (ends[i + 2] - ends[i]) * FINE[:, None] for i in (0, 1, 4, 5))
    gap = segment_distance(a, b, c, d)[0] - radius[0]
    if (gap < -1e-3).any():
        first = FINE[np.argmax(gap < 0)]
        assert abs(times[0] - first) < 2e-2
    if gap.min() > 2e-3:
        assert np.isinf(times[0])


def test_a_fast_blade_does_not_pass_through_a_thin_target() -> None:
    thin = (np.array([[0.0, 0.0, 0.0]]), np.array([[0.0, 1.0, 0.0]]))
    for speed in (1.0, 30.0, 4000.0):
        before = np.array([[-speed, 0.5, 0.0]])
        after = np.array([[speed, 0.5, 0.0]])
        times, places = first_touch((before, before, after, after), (*thin, *thin), np.array([0.01]))
        assert abs(times[0] - 0.5) < 0.01
        assert abs(places[0, 1] - 0.5) < 0.02


@settings(max_examples=40)
@given(st.integers(0, 2**31))
def test_boxes_are_swept_like_capsules(seed: int) -> None:
    rng = np.random.default_rng(seed)
    half = rng.uniform(0.1, 0.6, 3)
    c0, d0, c1, d1 = rng.normal(0, 1.5, size=(4, 1, 3))
    times, _ = first_touch_box(half[None], half[None], (c0, d0, c1, d1), np.array([0.05]))
    c, d = c0 + (c1 - c0) * FINE[:, None], d0 + (d1 - d0) * FINE[:, None]
    gap = box_distance(half, c, d)[0] - 0.05
    if (gap < -1e-3).any():
        assert abs(times[0] - FINE[np.argmax(gap < 0)]) < 2e-2
    elif gap.min() > 2e-3:
        assert np.isinf(times[0])
    points = c + (d - c) * np.linspace(0, 1, 400)[:, None, None]
    least = np.linalg.norm(points - np.clip(points, -half, half), axis=-1).min(axis=0)
    assert (box_distance(half, c, d)[0] <= least + 1e-6).all()
