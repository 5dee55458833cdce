"""Hitboxes along the arc: held against the same motion in a thousand small steps."""

from __future__ import annotations

import os

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from tests.core.play.plain_sweep import segment_distance
from veergust.core.model import Hitbox, HitboxKey, Hurtbox
from veergust.core.motion.quat import Array
from veergust.core.play.compiled.hurting import hurt_shapes
from veergust.core.play.contact.hurts import capsules, placed_hurts
from veergust.core.play.contact.sweep import touches
from veergust.core.play.contact.volumes import pieces, swept

FINE = np.linspace(0.0, 1.0, 1500)
SWEEPS = int(os.environ.get("VEERGUST_SWEEPS", "60"))
"""So many random turns; 20,000 were run as well."""
EXACT = 0.004
"""What the pieces of an arc may be off by (m): their chords at 1.5 m, and a tick of the fine steps."""


def frame(turn: Rotation, at: Array) -> Array:
    out = np.eye(4)
    out[:3, :3], out[:3, 3] = turn.as_matrix(), at
    return out


def touch(box: Hitbox, before: Array, now: Array, c: Array, d: Array, radius: float, tick: int = 1) -> float:
    hits = pieces([swept(box, tick, False, before, now, False)])
    rows = np.arange(len(hits.owner))
    hurts = capsules((c[None], d[None], c[None], d[None]), np.array([radius]))
    times, _ = touches(hits, hurts, rows, np.zeros(len(rows), dtype=np.intp))
    return float(times.min())


@settings(max_examples=SWEEPS)
@given(
    degrees=st.floats(-170.0, 170.0),
    yaw=st.floats(-180.0, 180.0),
    pivot=st.tuples(st.floats(-0.6, 0.6), st.floats(-0.3, 0.3), st.floats(-0.6, 0.6)),
    target=st.tuples(st.floats(-2.4, 2.4), st.floats(-0.4, 0.4), st.floats(-2.4, 2.4)),
)
def test_a_blade_that_turns_touches_what_it_sweeps_and_nothing_else(
    degrees: float, yaw: float, pivot: tuple[float, float, float], target: tuple[float, float, float]
) -> None:
    """A metre and a half of blade about a shoulder, by any angle in one tick."""
    blade = Hitbox(mount="hand", offset=(0.0, 0.0, 0.0), to=(0.0, 0.0, 1.5), radius=0.03)
    centre, spot = np.array(pivot), np.array(target)
    first = frame(Rotation.from_euler("y", yaw, degrees=True), np.array([0.3, 0.0, 0.2]))
    around = Rotation.from_euler("y", degrees, degrees=True)

    def at(k: Array) -> tuple[Array, Array]:
        turns = Rotation.from_rotvec(np.outer(k, around.as_rotvec()))
        base = turns.apply(first[:3, 3] - centre) + centre
        return base, base + turns.apply(first[:3, :3] @ np.array([0.0, 0.0, 1.5]))

    now = frame(around * Rotation.from_matrix(first[:3, :3]), at(np.ones(1))[0][0])
    a, b = at(FINE)
    foot = np.broadcast_to(spot, a.shape)
    gap = segment_distance(a, b, foot, foot)[0] - 0.03 - 0.05
    found = touch(blade, first, now, spot, spot, 0.05)
    if gap.min() > EXACT:
        assert np.isinf(found)
    elif gap.min() < -EXACT:
        assert np.isfinite(found)
        assert found <= FINE[np.argmax(gap < -EXACT)] + 0.01
        assert gap[np.searchsorted(FINE, min(found, 1.0))] < EXACT + np.abs(np.diff(gap)).max() * 3


def test_a_blade_turning_60_degrees_a_tick_cuts_no_corner_and_reaches_no_farther() -> None:
    blade = Hitbox(mount="hand", offset=(0.0, 0.0, 0.0), to=(0.0, 0.0, 1.5), radius=0.02)
    first = frame(Rotation.identity(), np.zeros(3))
    now = frame(Rotation.from_euler("y", 60.0, degrees=True), np.zeros(3))
    half = np.radians(30.0)
    tip = np.array([np.sin(half), 0.0, np.cos(half)])
    # The chord between both tips is 20 cm short of the arc in the middle.
    for far, touched in ((1.49, True), (1.40, True), (1.56, False)):
        assert np.isfinite(touch(blade, first, now, tip * far, tip * far, 0.02)) == touched
    behind = np.array([-0.2, 0.0, 1.2])
    assert np.isinf(touch(blade, first, now, behind, behind, 0.02))


def test_a_hitbox_that_shrinks_touches_at_its_old_size_first() -> None:
    keys = (
        HitboxKey(tick=0, offset=(0, 0, 0), to=(0, 0, 0), radius=0.5),
        HitboxKey(tick=1, offset=(0, 0, 0), to=(0, 0, 0), radius=0.1),
    )
    ball = Hitbox(mount="hand", shape="sphere", keys=keys)
    still, far = frame(Rotation.identity(), np.zeros(3)), np.array([0.0, 0.0, 0.45])
    assert touch(ball, still, still, far, far, 0.02) == pytest.approx(0.0)
    # Growing the other way round it is touched when the ball has come to be as large.
    grows = Hitbox(
        mount="hand", shape="sphere", keys=(keys[0], HitboxKey(tick=1, offset=(0, 0, 0), to=(0, 0, 0), radius=0.5))
    )
    grows = Hitbox(mount="hand", shape="sphere", keys=(HitboxKey(tick=0, offset=(0, 0, 0), to=(0, 0, 0), radius=0.1), *grows.keys[1:]))  # fmt: skip
    assert touch(grows, still, still, far, far, 0.02) == pytest.approx((0.43 - 0.1) / 0.4, abs=0.01)


@settings(max_examples=40)
@given(degrees=st.floats(-120.0, 120.0), target=st.tuples(st.floats(-1.5, 1.5), st.floats(-1.5, 1.5)))
def test_a_box_turns_with_its_mount(degrees: float, target: tuple[float, float]) -> None:
    plank = Hitbox(mount="hand", shape="box", offset=(0.0, 0.0, 0.8), size=(0.05, 0.3, 0.6))
    first = frame(Rotation.identity(), np.zeros(3))
    around = Rotation.from_euler("y", degrees, degrees=True)
    now = frame(around, np.zeros(3))
    spot = np.array([target[0], 0.0, target[1]])
    turns = Rotation.from_rotvec(np.outer(FINE, around.as_rotvec()))
    local = turns.inv().apply(spot) - np.array([0.0, 0.0, 0.8])
    half = np.array([0.05, 0.3, 0.6])
    gap = np.linalg.norm(local - np.clip(local, -half, half), axis=-1) - 0.05
    found = touch(plank, first, now, spot, spot, 0.05)
    if gap.min() > 2 * EXACT:
        assert np.isinf(found)
    elif gap.min() < -2 * EXACT:
        assert np.isfinite(found)


@settings(max_examples=SWEEPS)
@given(seed=st.integers(0, 2**31), degrees=st.floats(0.0, 120.0))
def test_a_hurtbox_that_is_a_box_turns_evenly_and_is_met_where_it_is(seed: int, degrees: float) -> None:
    """A ball that flies by, and a box that turns by up to 120 degrees in the tick as it goes."""
    rng = np.random.default_rng(seed)
    half, size = rng.uniform(0.05, 0.6, 3), rng.uniform(0.02, 0.2)
    starts, ends = rng.normal(0.0, 0.9, (2, 3)), rng.normal(0.0, 0.9, (2, 3))
    axis = rng.normal(size=3)
    first = Rotation.random(random_state=seed)
    turn = Rotation.from_rotvec(np.radians(degrees) * axis / np.linalg.norm(axis))
    box = hurt_shapes([Hurtbox(name="box", joint="box", size=tuple(half))], {"box": 0}, lambda _: None)
    sides = [(np.eye(4), frame(way, at)[None]) for way, at in ((first, starts[0]), (turn * first, ends[0]))]
    ball = Hitbox(mount="hand", shape="sphere", radius=size)
    still = Rotation.identity()
    hits = pieces([swept(ball, 1, False, frame(still, starts[1]), frame(still, ends[1]), False)])
    times, places = touches(hits, placed_hurts([box], sides[:1], sides[1:]), np.zeros(1, np.intp), np.zeros(1, np.intp))
    middles, balls = (starts[n] + (ends[n] - starts[n]) * FINE[:, None] for n in (0, 1))
    turned = Rotation.from_rotvec(np.outer(FINE, turn.as_rotvec())) * first
    local = turned.inv().apply(balls - middles)
    gap = np.linalg.norm(local - np.clip(local, -half, half), axis=1) - size
    # What a piece of the turn is taken as straight by, a metre off.
    loose = EXACT + 1.5 * (1.0 - np.cos(np.radians(2.5)))
    if gap.min() > loose:
        assert np.isinf(times[0])
    elif gap.min() < -loose:
        assert times[0] <= FINE[np.argmax(gap < -loose)] + 0.01
        at = np.searchsorted(FINE, min(float(times[0]), 1.0))
        assert gap[at] < loose + np.abs(np.diff(gap)).max() * 3
        assert np.linalg.norm(places[0] - balls[at]) < size + 3 * loose + np.abs(np.diff(balls, axis=0)).max() * 3
