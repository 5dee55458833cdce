"""Swept contact against a dense sampling of the same motion."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.play.plain_sweep import box_distance, plain_touch, plain_touch_box, segment_distance
from veergust.core.motion.quat import Array
from veergust.core.play.contact import advance, cutting
from veergust.core.play.contact.hurts import Hurts, capsules
from veergust.core.play.contact.sweep import touches
from veergust.core.play.contact.volumes import Pieces

FINE = np.linspace(0, 1, 2001)
Ends = tuple[Array, Array, Array, Array]


def straight(
    ends: Ends, radius: Array, radius_end: Array, half: Array | None = None, half_end: Array | None = None
) -> Pieces:
    """Hitboxes that go straight for a whole tick: one piece each, their frames the world's."""
    count, none = len(radius), np.zeros((len(radius), 3))
    return Pieces(
        np.arange(count),
        np.array([np.zeros(count), np.ones(count)]),
        np.array(ends),
        np.array([radius, radius_end]),
        np.array([none if half is None else half, none if half_end is None else half_end]),
        np.tile(np.eye(4), (2, count, 1, 1)),
        none,
        np.zeros(count),
        np.full(count, half is not None, dtype=np.uint8),
    )


def first_touch(hit: Ends, hurt: Ends, radius: Array, radius_end: Array | None = None) -> tuple[Array, Array]:
    """When hitboxes first touch the hurtboxes of their rows, and where."""
    pieces, rows = straight(hit, radius, radius if radius_end is None else radius_end), np.arange(len(radius))
    return touches(pieces, capsules(hurt, np.zeros(len(radius))), rows, rows)


def first_touch_box(half: Array, half_end: Array, hurt: Ends, radius: Array) -> tuple[Array, Array]:
    """As ``first_touch`` for boxes at the origin."""
    nowhere, rows = (np.zeros((len(radius), 3)),) * 4, np.arange(len(radius))
    return touches(straight(nowhere, radius, radius, half, half_end), capsules(hurt, radius), rows, rows)


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


@settings(max_examples=20)
@given(st.integers(0, 2**31))
def test_the_compiled_sweep_gives_the_bits_of_the_plain_one(seed: int) -> None:
    rng = np.random.default_rng(seed)
    count = 40
    ends = list(rng.normal(0, rng.choice([0.2, 1.0, 20.0]), size=(8, count, 3)))
    radius, radius_end = rng.uniform(0.0, 0.6, (2, count))
    still, ball, along = rng.random((3, count)) < 0.2
    ends[2][still], ends[3][still], ends[6][still], ends[7][still] = (ends[i][still] for i in (0, 1, 4, 5))
    radius_end[still] = radius[still]
    ends[1][ball], ends[3][ball] = ends[0][ball], ends[2][ball]
    ends[5][along] = ends[4][along] + 0.5 * (ends[1] - ends[0])[along]
    hit, hurt = tuple(ends[:4]), tuple(ends[4:])
    for end in (radius_end, radius):
        one, other = first_touch(hit, hurt, radius, end), plain_touch(hit, hurt, radius, end)
        assert np.array_equal(one[0], other[0])
        assert np.array_equal(one[1], other[1])
    half, half_end = np.abs(ends[0]), np.abs(ends[2])
    when, where = first_touch_box(half, half_end, hurt, radius)
    plainly, there = plain_touch_box(half, half_end, hurt, radius)
    assert np.array_equal(when, plainly)
    assert np.array_equal(where, there)


def test_the_compiled_sweep_refuses_arrays_that_do_not_fit() -> None:
    ends, radius, rows = np.zeros((3, 3)), np.zeros(3), np.arange(3)
    hits, hurts = straight((ends,) * 4, radius, radius), capsules((ends,) * 4, radius)
    with pytest.raises(ValueError, match="2 ends where there should be 3"):
        touches(hits, Hurts(hurts.ends[:, :2].copy(), radius, hurts.boxes, hurts.half, hurts.frames), rows, rows)
    with pytest.raises(ValueError, match="piece 3 of 3"):
        touches(hits, hurts, rows + 1, rows)
    with pytest.raises(ValueError, match="hurtbox 5 of 3"):
        touches(hits, hurts, rows, rows + 5)
    boxes = np.ones(3, dtype=np.uint8)
    with pytest.raises(ValueError, match="0 sizes where there should be 3"):
        touches(hits, Hurts(hurts.ends, radius, boxes, hurts.half, hurts.frames), rows, rows)
    places = np.zeros((2, 3))
    with pytest.raises(ValueError, match="2 places where there should be 3"):
        advance.pairs(
            rows, rows, hits.times, hits.ends, hits.radii, hits.half, hits.frames, hits.boxes,
            hurts.ends, radius, hurts.half, hurts.frames, hurts.boxes, np.zeros(3), places,
        )  # fmt: skip
    with pytest.raises(ValueError, match="strike 1 of 1"):
        cutting.near(ends, radius, hurts.ends, radius, np.ones((1, 3), dtype=np.uint8), rows, rows)
    with pytest.raises(ValueError, match="joint 2 of 2"):
        cutting.ends_on(np.eye(4), np.zeros((2, 4, 4)), rows, ends, ends, ends.copy(), ends.copy())
