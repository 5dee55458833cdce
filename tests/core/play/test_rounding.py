"""Nothing hangs on the last digit of a sum: who stands a hair elsewhere does the same, on every machine."""

from __future__ import annotations

from math import cos, radians, sin

import numpy as np
import pytest
from msgspec.structs import replace
from tools.referee.comparing import at_random
from tools.referee.run import BOUTS

from veergust.core.model import Clip, Condition, Fighter, Floor, PoseKey, Project, Stage, State, Transition
from veergust.core.motion.figure import Assets
from veergust.core.play.body.collide import sweep
from veergust.core.play.body.floors import height_under, rows_of
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.compiled.trajectory import Alone, Given, Pace, go
from veergust.core.play.locomotion.playing import feet_in, fitting_phase
from veergust.core.play.scripted import schedule
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input

HAIR = 1e-11


@pytest.mark.parametrize("kind", ["the demo", "another stage"])
def test_a_hair_away_it_is_the_same_bout(quay: Project, assets: Assets, kind: str) -> None:
    """Two at random, on floors, against walls, posts and each other: decisions and frames are the same, and nobody goes
    farther apart than hairs add up to."""
    project, _ = BOUTS[kind](quay, assets, 0)
    build = CompiledProject(project, assets)
    x, _, z = HAIR, 0.0, -HAIR
    moved = tuple(
        replace(f, position=(f.position[0] + x, f.position[1], f.position[2] + z)) for f in project.stage.fighters
    )
    other = build.renew(replace(project, stage=replace(project.stage, fighters=moved)))
    steps = at_random(project, build, 300, 0)
    one, two = Simulation(build, 0), Simulation(other, 0)
    walls = 0
    for tick in range(300):
        given = schedule(tuple(steps.get(tick, ()))).get(tick, [])
        for f, g in zip(one.tick(given).fighters, two.tick(given).fighters):
            told = [(h.locomotion[-1].state, h.health, [(v.section, v.frame) for v in h.live()]) for h in (f, g)]
            assert told[0] == told[1], tick
            assert np.abs(f.position - g.position).max() < 1e-6, tick
            walls += f.blocked
    assert walls > 3, "somebody slid along something"


def test_a_state_has_ended_when_its_clip_has_been_played_whatever_its_length(quay: Project, assets: Assets) -> None:
    """A clip of N frames ends after N of them: not one later because N times 1/N falls short of 1 or comes past it."""
    poses = (PoseKey(time=0.0), PoseKey(time=1.0))
    for ticks in range(3, 130):
        clip = Clip(name="step", poses=(poses[0], replace(poses[1], time=ticks / 60)))
        states = (State(name="in", clip="step", plays="once"), State(name="out", clip="step", plays="loop"))
        goes = Transition(start="in", to="out", conditions=(Condition(test="section_ended"),))
        ground = replace(quay.locomotion, states=states, groups=(), transitions=(goes,), entry="in")
        project = replace(quay, clips=(clip,), locomotion=ground, actions=(), reactions=(), layers=quay.layers[:1])
        simulation = Simulation(CompiledProject(project, assets), posed=False)
        states_now = [simulation.tick().fighters[0].locomotion[-1].state for _ in range(ticks + 3)]
        assert states_now.index("out") == ticks, ticks


def test_what_is_left_of_a_motion_does_not_brake_a_body_that_begins_to_walk() -> None:
    gone = []
    for rest in (0.0, 1e-9, -1e-9):
        body = Alone(velocity=(rest, 0.0, rest), steered=True)
        go(body, Given(1.0, 1.0, (1.4, 0.0), 0.0, 1.0, "keep"), Pace(acceleration=18.0, braking=6.0))
        gone.append(body.velocity[0])
    assert gone == pytest.approx([0.3] * 3, abs=1e-7)


def test_whichever_way_it_faces_a_body_turns_as_fast_as_it_begins_to_walk(quay: Project, assets: Assets) -> None:
    """The usual acceleration comes to the very speed below which a body turns on the spot."""
    ground = replace(quay.locomotion, acceleration=18.0, turn_rate=720.0, spot_turn_rate=90.0)
    stage = Stage(floors=(Floor(low=(-50, -50), high=(50, 50)),), fighters=(Fighter(name="Me"),))
    turned = set()
    for facing in range(0, 360, 7):
        me = Fighter(name="Me", facing=float(facing))
        project = replace(quay, locomotion=ground, stage=replace(stage, fighters=(me,)))
        simulation = Simulation(CompiledProject(project, assets), posed=False)
        way = radians(facing + 90.0)
        simulation.tick([Input("Me", axis="move", value=(sin(way), cos(way)))])
        simulation.tick()
        turned.add(round(abs((simulation.fighters[0].facing - facing + 180.0) % 360.0 - 180.0), 6))
    assert len(turned) == 1


def test_between_two_frames_the_feet_are_where_the_earlier_has_them(quay: Project, assets: Assets) -> None:
    build = CompiledProject(quay, assets)
    body = Simulation(build).fighters[0]
    drop = build.states["drop"]
    half = 7.5 / build.locomotion_clip(drop.clip).last
    here, there = (feet_in(build, body, drop, half + off) for off in (-HAIR, HAIR))
    assert np.abs(here - there).max() == 0.0


def test_of_phases_that_fit_as_well_the_first_is_taken(quay: Project, assets: Assets) -> None:
    """Somebody on guard hardly moves its feet; what is in single precision is off by a ten-millionth."""
    build = CompiledProject(quay, assets)
    body = Simulation(build).fighters[0]
    guard = build.states["guard"]
    feet = feet_in(build, body, guard, 0.4)
    draw = np.random.default_rng(1)
    phases = {fitting_phase(build, body, guard, feet + draw.normal(0.0, 1e-7, feet.shape)) for _ in range(40)}
    assert len(phases) == 1


def test_who_leans_on_a_thing_slides_along_it_at_once() -> None:
    """A hair nearer or farther, and hardly against it: the same way, to a thousandth of a hair's breadth."""
    post = np.array([[0.0, 0.0, 0.3, -2.0, 2.0]])
    nowhere = np.zeros((0, 7))
    for turned in range(0, 360, 15):
        way = np.array([sin(radians(turned)), 0.0, cos(radians(turned))])
        along = np.array([way[2], 0.0, -way[0]]) * 0.05 - way * 1e-5
        went = [sweep(way * (0.58 + off), along, 0.28, nowhere, post)[0] for off in (-HAIR, 0.0, HAIR, 1e-7)]
        for other in went[1:]:
            assert np.abs(np.subtract(went[0], other)).max() < 2e-7, turned
    wall = rows_of((Floor(low=(-1.0, 0.0), high=(1.0, 1.0), height=3.0),))
    went = [sweep(np.array([0.0, 0.0, -0.28 + off]), np.array([0.05, 0.0, 1e-5]), 0.28, wall, np.zeros((0, 5)))[0]
            for off in (-HAIR, 0.0, HAIR)]  # fmt: skip
    assert np.abs(np.subtract(went[0], went[2])).max() < 1e-9


def test_a_step_of_just_the_height_that_may_be_is_gone_up_whatever_it_is_added_to() -> None:
    for low in (0.0, 0.1, 0.3, 0.7, -0.45, 1.1):
        floors = rows_of((Floor(low=(-1.0, -1.0), high=(1.0, 0.0), height=low),
                          Floor(low=(-1.0, 0.0), high=(1.0, 1.0), height=low + 0.25)))  # fmt: skip
        for off in (-HAIR, 0.0, HAIR):
            assert height_under(floors, 0.0, low + off, 0.5) == low + 0.25
            place, walls, _ = sweep(
                np.array([0.0, low + off, -0.3]), np.array([0.0, 0.0, 0.2]), 0.28, floors, np.zeros((0, 5))
            )
            assert (place[2], walls) == (pytest.approx(-0.1), [])
