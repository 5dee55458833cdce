"""Floors that go to and fro: who stands on one is as if it stood still, and who is in its way is taken along."""

from __future__ import annotations

from math import hypot
from typing import Any

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from scipy.interpolate import CubicHermiteSpline
from tools.made.bouts import given as pressed
from tools.made.rigs import FAMILIES, WHO, project_of

from tests.conftest import OSSA
from veergust.core.model import Fighter, Floor, Post, Project, Stage, Thrown
from veergust.core.motion.figure import Assets
from veergust.core.play.body.platforms import gone, moved
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.flight import step
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.play.take.record import Record, write_take
from veergust.core.play.world import Flying

GROUND = Floor(name="ground", low=(-60.0, -60.0), high=(60.0, 60.0))
WIDE = Floor(name="wide", low=(-50.0, -50.0), high=(50.0, 50.0), height=1.0)
WAYS = st.tuples(*[st.floats(-4.0, 4.0).map(lambda v: round(v, 3))] * 3)
PARTS = (("lunge", 0.2, 0.9), ("blow", 0.1, 0.8), ("stagger", 0.1, 0.7))


def on(quay: Project, *floors: Floor, fighters: tuple[Fighter, ...] = (), posts: tuple[Post, ...] = ()) -> Project:
    return replace(quay, stage=Stage(floors=floors, fighters=fighters or quay.stage.fighters, posts=posts))


def played(project: Project, assets: Assets, inputs: list[list[Input]]) -> list[Record]:
    simulation = Simulation(CompiledProject(project, assets))
    return [simulation.tick(row) for row in inputs]


def at(setup: Fighter, x: float, y: float, z: float = 0.0, **more: Any) -> Fighter:
    return replace(setup, position=(x, y, z), **more)


@given(goes=WAYS, takes=st.integers(1, 200), rests=st.integers(0, 90), tick=st.integers(-5, 2000))
@example(goes=(1.0, 0.0, 0.0), takes=1, rests=0, tick=1)
def test_where_a_platform_is_goes_as_an_independent_curve(goes: Any, takes: int, rests: int, tick: int) -> None:
    """SciPy's Hermite curve through where it rests and turns, level there."""
    there = np.array(goes)
    knots = np.cumsum([0, rests, takes, rests, takes])
    at_knots = np.array([0 * there, 0 * there, there, there, 0 * there])
    kept = [0, *(n for n in range(1, 5) if knots[n] > knots[n - 1])]
    curve = CubicHermiteSpline(knots[kept], at_knots[kept], np.zeros((len(kept), 3)))
    wanted = curve(max(tick, 0) % knots[-1])
    floor = replace(WIDE, goes=goes, takes=takes, rests=rests)
    assert np.allclose(gone(floor, tick), wanted, atol=1e-12)
    shifted = moved(floor, tick)
    assert np.allclose([*shifted.low, shifted.height], [-50.0 + wanted[0], -50.0 + wanted[2], 1.0 + wanted[1]])


def as_if_still(records: list[Record], still: list[Record], floor: Floor) -> int:
    """Hold play on a platform against the same on a floor that stands still; for how many ticks all stood there
    and nothing flew, which knows no platform."""
    for n, (one, other) in enumerate(zip(records, still)):
        if other.world.things or not all(f.grounded for f in other.fighters):
            return n
        for f, g in zip(one.fighters, other.fighters):
            assert np.allclose(f.position, g.position + gone(floor, n), atol=1e-6)
            assert np.allclose(f.joints_now, g.joints_now, atol=1e-6)
            assert [(v.compiled.action.name, v.section, v.frame) for v in f.voices] == [
                (v.compiled.action.name, v.section, v.frame) for v in g.voices
            ]
            assert (f.frozen, f.health, f.blocked) == (g.frozen, g.health, g.blocked)
        assert len(one.contacts) == len(other.contacts)
    return len(still)


@settings(max_examples=10)
@given(goes=WAYS, takes=st.integers(40, 200), rests=st.integers(0, 60), seed=st.integers(0, 999))
def test_a_fight_on_a_platform_is_the_fight_on_a_floor_that_stands_still(
    quay: Project, assets: Assets, goes: Any, takes: int, rests: int, seed: int
) -> None:
    """Steps, actions, touches, hit stop and reactions, as far as the platform goes; till one of them leaves it."""
    fighters = tuple(at(f, x, 1.0) for f, x in zip(quay.stage.fighters[:2], (0.0, 1.3)))
    floor = replace(WIDE, goes=goes, takes=takes, rests=rests)
    rows = [[i for i in row if i.command != "jump"] for row in pressed(on(quay, WIDE, fighters=fighters), 220, seed)]
    still = played(on(quay, WIDE, fighters=fighters), assets, rows)
    as_if_still(played(on(quay, floor, fighters=fighters), assets, rows), still, floor)


def test_such_fights_come_to_touches_and_hit_stop(quay: Project, assets: Assets) -> None:
    """What the property above is held over has what it is about in it."""
    fighters = tuple(at(f, x, 1.0) for f, x in zip(quay.stage.fighters[:2], (0.0, 1.3)))
    floor = replace(WIDE, goes=(2.0, 1.0, -1.0), takes=60, rests=5)
    stood, frozen = [], 0
    for seed in range(6):
        project = on(quay, WIDE, fighters=fighters)
        rows = [[i for i in row if i.command != "jump"] for row in pressed(project, 220, seed)]
        still = played(project, assets, rows)
        stood.append(as_if_still(played(on(quay, floor, fighters=fighters), assets, rows), still, floor))
        frozen += sum(f.frozen > 0 for r in still[: stood[-1]] for f in r.fighters)
    assert max(stood) > 150
    assert frozen > 10


@pytest.mark.parametrize("family", FAMILIES)
@pytest.mark.parametrize("speed", [0.0, 0.4, 1.0])
def test_any_figure_stands_walks_runs_and_strikes_on_a_platform_as_on_a_floor(family: str, speed: float) -> None:
    """Also where its clips were shot far off: in fades and between them, feet and all."""
    project, assets = project_of(family, (4.0, -7.0), 70.0, PARTS)
    fighters = (Fighter(name=WHO, position=(0.0, 1.0, 0.0), plays="keys"),)
    floor = replace(WIDE, goes=(3.0, 4.0, -2.0), takes=90, rests=15)
    presses = {40: "0", 70: "up 1", 95: "2"}
    rows = [
        [Input(WHO, axis="move", value=(0.0, speed))] if t == 2 else [Input(WHO, presses[t])] if t in presses else []
        for t in range(230)
    ]
    still = played(on(project, WIDE, fighters=fighters), assets, rows)
    assert as_if_still(played(on(project, GROUND, floor, fighters=fighters), assets, rows), still, floor) == 230


@pytest.mark.parametrize("goes", [(0.0, 2.0, 0.0), (3.0, 0.0, 1.0)])
def test_who_leaves_a_platform_has_its_speed(quay: Project, assets: Assets, goes: Any) -> None:
    """On the tick on which it is fastest somebody jumps: a tick later the body is as much faster as it went."""
    fighter = at(quay.stage.fighters[0], 0.0, 1.0)
    floor = replace(WIDE, goes=goes, takes=40, rests=10)
    rows: list[list[Input]] = [[] for _ in range(60)]
    rows[30] = [Input(fighter.name, "jump")]
    on_still = played(on(quay, WIDE, fighters=(fighter,)), assets, rows)
    on_going = played(on(quay, GROUND, floor, fighters=(fighter,)), assets, rows)
    left = next(n for n, r in enumerate(on_still) if not r.fighters[0].grounded)
    went = (np.array(gone(floor, left)) - gone(floor, left - 1)) * 60.0
    assert hypot(*went) > 1.0
    faster = np.array(on_going[left].fighters[0].velocity) - on_still[left].fighters[0].velocity
    assert np.allclose(faster, went, atol=1e-9)
    first = on_going[left].fighters[0].position - on_going[left - 1].fighters[0].position
    own = on_still[left].fighters[0].position - on_still[left - 1].fighters[0].position
    assert np.allclose(first - own, went / 60.0, atol=1e-9)


def away_from(floor: Floor, x: float, z: float) -> float:
    return hypot(max(floor.low[0] - x, 0.0, x - floor.high[0]), max(floor.low[1] - z, 0.0, z - floor.high[1]))


@given(
    goes=WAYS, takes=st.integers(2, 60), start=st.tuples(st.floats(-4, 4), st.floats(-4, 4)),
    stick=st.tuples(st.floats(-1, 1), st.floats(-1, 1)),
)  # fmt: skip
def test_no_platform_goes_through_somebody(
    quay: Project, assets: Assets, goes: Any, takes: int, start: Any, stick: Any
) -> None:
    """Whichever way it comes and they go, and however fast: on every tick they are beside it or on it."""
    block = Floor(name="block", low=(-0.8, -0.6), high=(0.8, 0.6), height=1.4, goes=(goes[0], 0.0, goes[2]), takes=takes,
                  rests=3)  # fmt: skip
    radius = quay.rig.capsule.radius
    if away_from(block, *start) <= radius + 0.01:
        return
    fighter = at(quay.stage.fighters[0], start[0], 0.0, start[1])
    rows = [[Input(fighter.name, axis="move", value=stick)] if t == 0 else [] for t in range(130)]
    for record in played(on(quay, GROUND, block, fighters=(fighter,)), assets, rows):
        x, y, z = record.fighters[0].position.tolist()
        assert y == pytest.approx(0.0, abs=1e-6)
        assert away_from(moved(block, record.tick), x, z) > radius - 1e-5


def test_a_platform_pushes_only_whom_it_meets_and_no_farther(quay: Project, assets: Assets) -> None:
    block = Floor(name="block", low=(-1.0, -1.0), high=(0.0, 1.0), height=1.4, goes=(2.0, 0.0, 0.0), takes=40, rests=0)
    radius = quay.rig.capsule.radius
    for x, wanted in ((1.0, 2.0 + radius), (2.5, 2.5)):
        fighter = at(quay.stage.fighters[0], x, 0.0)
        records = played(on(quay, GROUND, block, fighters=(fighter,)), assets, [[]] * 60)
        assert records[-1].fighters[0].position[0] == pytest.approx(wanted, abs=1e-4)
        steps = np.abs(np.diff([r.fighters[0].position[0] for r in records]))
        assert steps.max() <= 2.0 * 1.5 / 40 + 1e-6


def test_a_wall_and_a_post_stop_who_is_taken_along(quay: Project, assets: Assets) -> None:
    """On it, or pushed by it: a body never comes into what stands still."""
    wall = Floor(name="wall", low=(2.0, -3.0), high=(2.2, 3.0), height=4.0)
    post = Post(position=(0.0, 0.5, 2.0), radius=0.2, height=2.0)
    radius = quay.rig.capsule.radius
    raft = Floor(name="raft", low=(-1.0, -1.0), high=(1.0, 1.0), height=0.5, goes=(4.0, 0.0, 0.0), takes=60, rests=0)
    for y in (0.5, 0.0):
        x = 0.0 if y else 1.0 + radius + 0.05
        fighter = at(quay.stage.fighters[0], x, y)
        floor = raft if y else replace(raft, height=1.4)
        records = played(on(quay, GROUND, floor, wall, fighters=(fighter,)), assets, [[]] * 61)
        assert max(r.fighters[0].position[0] for r in records) == pytest.approx(2.0 - radius, abs=1e-4)
    fighter = at(quay.stage.fighters[0], 0.0, 0.5)
    floor = replace(raft, goes=(0.0, 0.0, 3.0))
    records = played(on(quay, GROUND, floor, fighters=(fighter,), posts=(post,)), assets, [[]] * 61)
    assert max(r.fighters[0].position[2] for r in records) == pytest.approx(2.0 - radius - 0.2, abs=1e-4)


@pytest.mark.parametrize("up", [8.0, -3.0])
def test_who_falls_lands_on_a_platform_wherever_it_is_by_then(quay: Project, assets: Assets, up: float) -> None:
    lift = Floor(name="lift", low=(-1.0, -1.0), high=(1.0, 1.0), height=3.5, goes=(0.0, up, 0.0), takes=12, rests=2)
    fighter = at(quay.stage.fighters[0], 0.0, 9.0)
    records = played(on(quay, GROUND, lift, fighters=(fighter,)), assets, [[]] * 150)
    grounded = False
    for r in records:
        f, top = r.fighters[0], moved(lift, r.tick).height
        assert f.position[1] >= top - 1e-6
        assert not f.grounded or f.position[1] == pytest.approx(top, abs=1e-6)
        grounded = grounded or f.grounded
    assert grounded


def test_a_thing_ends_on_a_platform_where_it_is_on_that_tick(quay: Project, assets: Assets) -> None:
    """Rising, it comes against a thing that flies level over where it rests."""
    lift = Floor(name="lift", low=(0.0, -5.0), high=(50.0, 5.0), height=0.2, goes=(0.0, 2.0, 0.0), takes=20, rests=10)
    project = on(quay, GROUND, lift)
    thing = Thrown(name="ball", radius=0.1, gravity=0.0, speed=5.0, life=200)
    one: Flying | None = Flying(1, thing, OSSA, 1, (1.0, 1.2, 0.0), (1.0, 1.2, 0.0), (5.0, 0.0, 0.0))
    simulation = Simulation(CompiledProject(project, assets), fighters=())
    simulation.world = simulation.world._replace(things=(one,) if one else (), let_go=1)
    ended = next(n for n in range(60) if not simulation.tick().world.things)
    wanted = next(n for n in range(60) if moved(lift, n).height > 1.1)
    assert ended == wanted
    assert step(
        np.zeros((0, 7)), Flying(1, thing, OSSA, 1, (1.0, 1.2, 0.0), (1.0, 1.2, 0.0), (5.0, 0.0, 0.0)), None, 1 / 60
    )


def test_play_goes_on_from_any_tick_of_a_take_with_platforms(quay: Project, assets: Assets) -> None:
    fighters = tuple(at(f, x, 1.0) for f, x in zip(quay.stage.fighters[:2], (0.0, 1.3)))
    floor = replace(WIDE, goes=(2.0, 1.0, -1.0), takes=50, rests=5)
    project = on(quay, GROUND, floor, fighters=fighters)
    rows = pressed(project, 200, 4)
    whole = played(project, assets, rows)
    for back in (0, 61, 122):
        simulation = Simulation(CompiledProject(project, assets))
        simulation.resume(whole[back], whole[back - 1] if back else None)
        assert write_take([simulation.tick(row) for row in rows[back + 1 :]]) == write_take(whole[back + 1 :])
