"""The body against the stage: nothing is passed through at any speed, what is blocked has none, what falls lands."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from tools.made.edits import alone, facing

from tests.conftest import OSSA, TARN
from veergust.core.model import Fighter, Floor, Post, Project
from veergust.core.motion.figure import Assets
from veergust.core.play.body.collide import sweep
from veergust.core.play.body.floors import rows_of
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input

LEVEL = Floor(low=(-500.0, -500.0), high=(500.0, 500.0))
BLOCK = Floor(name="block", low=(2.0, -1.0), high=(3.0, 1.0), height=1.0)
PLACES = st.tuples(st.floats(-4, 8), st.floats(-4, 4))


def to_block(x: float, z: float) -> float:
    return float(np.hypot(max(BLOCK.low[0] - x, 0, x - BLOCK.high[0]), max(BLOCK.low[1] - z, 0, z - BLOCK.high[1])))


@settings(max_examples=120)
@given(start=PLACES, way=st.tuples(st.floats(-60, 60), st.floats(-60, 60)), radius=st.floats(0.05, 0.6))
def test_no_wall_and_no_post_is_passed_through(
    start: tuple[float, float], way: tuple[float, float], radius: float
) -> None:
    """Held against walking the same way in steps of a centimetre: it never ends behind what they meet."""
    post = np.array([[-1.0, 0.5, 0.2, -2.0, 2.0]])
    px, pz, thick = post[0, :3]

    def clear(x: float, z: float) -> bool:
        return to_block(x, z) > radius and np.hypot(x - px, z - pz) > radius + thick

    if not clear(*start):
        return
    step = np.array([way[0], 0.0, way[1]])
    place, walls, _ = sweep(np.array([start[0], 0.0, start[1]]), step, radius, rows_of((LEVEL, BLOCK)), post)
    x, _, z = place
    assert to_block(x, z) > radius - 1e-5
    assert np.hypot(x - px, z - pz) > radius + thick - 1e-5
    far = float(np.linalg.norm(step))
    fine = np.arange(0.0, 1.0, 0.01 / max(far, 0.01))
    hits = [k for k in fine if not clear(start[0] + way[0] * k, start[1] + way[1] * k)]
    if not hits:
        assert np.allclose(place, [start[0] + way[0], 0.0, start[1] + way[1]], atol=1e-4) or walls
    else:
        # Up to there it went; on from there only along the wall: never farther than it wished.
        assert walls
        assert np.hypot(x - start[0], z - start[1]) <= far + 1e-6
        assert np.hypot(x - start[0], z - start[1]) >= far * hits[0] - 0.02 - radius or len(walls) > 1


@pytest.mark.parametrize("rate", [30, 60, 120])
@pytest.mark.parametrize("height", [0.5, 4.0, 40.0, 400.0])
def test_who_falls_lands_on_the_first_floor_below(height: float, rate: int, quay: Project, assets: Assets) -> None:
    floors = (LEVEL, Floor(name="shelf", low=(-2.0, -2.0), high=(2.0, 2.0), height=0.4))
    start = Fighter(name=OSSA, position=(0.0, height, 0.0))
    project = replace(
        facing(quay, start),
        settings=replace(quay.settings, rate=rate),
        stage=replace(quay.stage, floors=floors, fighters=(start,), posts=(), put_back_below=-50.0),
    )
    simulation = Simulation(CompiledProject(project, assets))
    for _ in range(12 * rate):
        fighter = simulation.tick().fighter(OSSA)
    assert fighter.grounded
    assert fighter.position[1] == pytest.approx(0.4)


@pytest.mark.parametrize("speed", [3.0, 40.0, 900.0])
def test_what_is_blocked_has_no_speed(speed: float, quay: Project, assets: Assets) -> None:
    wall = Floor(name="wall", low=(1.0, -5.0), high=(1.2, 5.0), height=2.0)
    project = alone(quay, floors=(LEVEL, wall))
    project = replace(project, locomotion=replace(project.locomotion, run_speed=speed, acceleration=1e6))
    simulation = Simulation(CompiledProject(project, assets))
    for _ in range(60):
        fighter = simulation.tick([Input(OSSA, axis="move", value=(1.0, 0.0))]).fighter(OSSA)
    assert fighter.position[0] == pytest.approx(1.0 - quay.rig.capsule.radius, abs=1e-4)
    assert fighter.blocked
    assert np.hypot(fighter.went[0], fighter.went[2]) < 1e-3
    assert fighter.locomotion[-1].state == "idle"


def test_a_step_of_25_centimetres_is_gone_up_and_one_of_26_is_a_wall(quay: Project, assets: Assets) -> None:
    ends = []
    for height in (0.25, 0.26):
        step = Floor(name="step", low=(0.5, -5.0), high=(9.0, 5.0), height=height)
        simulation = Simulation(CompiledProject(alone(quay, floors=(LEVEL, step)), assets))
        for _ in range(120):
            fighter = simulation.tick([Input(OSSA, axis="move", value=(0.4, 0.0))]).fighter(OSSA)
        ends.append((float(fighter.position[1]), float(fighter.position[0]) > 0.5))
    assert ends == [(0.25, True), (0.0, False)]


def test_a_lunge_stops_at_who_stands_in_the_way(quay: Project, assets: Assets) -> None:
    ossa = replace(quay.stage.fighters[0], position=(-2.0, 0.0, 0.0))
    tarn = replace(quay.stage.fighters[1], position=(0.0, 0.0, 0.0), plays="stands")
    simulation = Simulation(CompiledProject(facing(quay, ossa, tarn), assets))
    gaps = []
    for t in range(70):
        record = simulation.tick([Input(OSSA, action="Duck roll")] if t == 0 else [])
        gaps.append(float(np.linalg.norm(record.fighter(OSSA).position - record.fighter(TARN).position)))
    assert min(gaps) >= 2 * quay.rig.capsule.radius - 1e-6
    assert record.fighter(TARN).position[0] == pytest.approx(0.0, abs=1e-6)


def test_a_post_stops_a_body_at_any_speed(quay: Project, assets: Assets) -> None:
    post = Post(name="thin", position=(0.5, 0.0, 0.0), radius=0.02, height=1.5)
    project = replace(
        alone(quay, floors=(LEVEL,)), locomotion=replace(quay.locomotion, run_speed=500.0, acceleration=1e7)
    )
    project = replace(project, stage=replace(project.stage, posts=(post,)))
    simulation = Simulation(CompiledProject(project, assets))
    for _ in range(30):
        fighter = simulation.tick([Input(OSSA, axis="move", value=(1.0, 0.0))]).fighter(OSSA)
    assert fighter.position[0] < 0.5
