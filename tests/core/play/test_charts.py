"""Locomotion as a state chart, played: groups and how they are entered, what is asked first, parameters, jumping."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np
import pytest
from msgspec.structs import replace
from tools.made.edits import action

from veergust.core.model import (
    Choice,
    Condition,
    Ending,
    Event,
    Fighter,
    Floor,
    Group,
    Jump,
    Locomotion,
    Parameter,
    Project,
    Setting,
    Stage,
    State,
    Transition,
)
from veergust.core.motion.figure import Assets
from veergust.core.motion.skeleton import forward
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.locomotion.playing import state_pose
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import FighterState, Input

WHO = "One"
FLAT = Stage(floors=(Floor(low=(-90, -90), high=(90, 90)),), fighters=(Fighter(name=WHO),), put_back_below=-9)


def plays(name: str, group: str = "", **more: Any) -> State:
    return State(name=name, group=group, clip="idle", **more)


def held(name: str, value: float = 1.0) -> Condition:
    return Condition(test="held", name=name, value=value)


def pressed(name: str) -> Condition:
    return Condition(test="pressed", name=name)


def bout(quay: Project, assets: Assets, locomotion: Locomotion, stage: Stage = FLAT, seed: int = 1) -> Simulation:
    project = replace(quay, locomotion=replace(locomotion, run_speed=4.0), stage=stage)
    return Simulation(CompiledProject(project, assets), seed)


def after(simulation: Simulation, *inputs: Input, ticks: int = 1) -> FighterState:
    simulation.tick(inputs)
    for _ in range(ticks - 1):
        simulation.tick()
    return simulation.fighters[0]


def state(simulation: Simulation) -> str:
    return simulation.fighters[0].locomotion[-1].state


def press(name: str, down: bool = True) -> Input:
    return Input(WHO, command=name, press=down)


NESTED = Locomotion(
    entry="stand",
    groups=(Group(name="floor"), Group(name="low", group="floor")),
    states=(plays("stand", "floor"), plays("crouch", "low"), plays("crawl", "low"), plays("float")),
    transitions=(
        Transition(start="*", to="float", conditions=(pressed("light"),)),
        Transition(start="floor", to="stand", conditions=(pressed("light"),)),
        Transition(start="low", to="crawl", conditions=(pressed("light"),)),
        Transition(start="stand", to="low", conditions=(pressed("heavy"),)),
        Transition(start="crawl", to="crouch", conditions=(pressed("light"),)),
    ),
)


def test_the_innermost_is_asked_first_then_its_group_then_anywhere(quay: Project, assets: Assets) -> None:
    simulation = bout(quay, assets, NESTED)
    after(simulation, press("heavy"))
    assert state(simulation) == "crouch"
    after(simulation, press("light"))
    assert state(simulation) == "crawl"  # of the group low
    after(simulation, press("light"))
    assert state(simulation) == "crouch"  # of the state itself
    out = replace(NESTED, transitions=NESTED.transitions[:2] + NESTED.transitions[3:])
    simulation = bout(quay, assets, out)
    after(simulation, press("heavy"))
    after(simulation, press("light"))
    assert state(simulation) == "stand"  # of the group around the group
    after(simulation, press("light"))
    assert state(simulation) == "float"  # stand is there already: anywhere is asked


def test_one_transition_a_tick_and_anywhere_restarts_nothing(quay: Project, assets: Assets) -> None:
    always = Condition(test="on_floor")
    chain = Locomotion(
        entry="a",
        states=(plays("a"), plays("b"), plays("c")),
        transitions=(
            Transition(start="a", to="b", conditions=(always,)),
            Transition(start="b", to="c", conditions=(always,)),
            Transition(start="*", to="c", conditions=(always,)),
        ),
    )
    simulation = bout(quay, assets, chain)
    assert [state(simulation), *(after(simulation).locomotion[-1].state for _ in range(2))] == ["a", "b", "c"]
    before = simulation.fighters[0].locomotion[-1].age
    assert after(simulation, ticks=5).locomotion[-1].age == before + 5


def test_a_group_remembers_where_it_was_left(quay: Project, assets: Assets) -> None:
    locomotion = Locomotion(
        entry="stand",
        groups=(Group(name="ways", enters="last"), Group(name="inner", group="ways")),
        states=(plays("stand"), plays("one", "ways"), plays("two", "inner"), plays("three", "inner")),
        transitions=(
            Transition(start="stand", to="ways", conditions=(pressed("light"),)),
            Transition(start="ways", to="stand", conditions=(pressed("light"),)),
            Transition(start="one", to="three", conditions=(pressed("heavy"),)),
        ),
    )
    simulation = bout(quay, assets, locomotion)
    assert after(simulation, press("light")).locomotion[-1].state == "one"
    after(simulation, press("heavy"))
    after(simulation, press("light"))
    assert state(simulation) == "stand"
    assert after(simulation, press("light")).locomotion[-1].state == "three"


def test_a_group_is_entered_by_a_parameter_or_from_a_pool(quay: Project, assets: Assets) -> None:
    members = (Choice(state="one", value=0.0), Choice(state="two", value=1.0), Choice(state="three", value=2.0))
    group = Group(name="ways", enters="parameter", parameter="mood", choices=members, default="three")
    locomotion = Locomotion(
        entry="stand",
        groups=(group,),
        states=(plays("stand"), *(plays(n, "ways") for n in ("one", "two", "three"))),
        transitions=(
            Transition(start="stand", to="ways", conditions=(pressed("light"),)),
            Transition(start="ways", to="stand", conditions=(pressed("light"),)),
        ),
        parameters=(Parameter(name="mood", kind="whole", high=9, default=1),),
    )
    simulation = bout(quay, assets, locomotion)
    assert after(simulation, press("light")).locomotion[-1].state == "two"
    after(simulation, press("light"))
    after(simulation, Input(WHO, parameter="mood", number=7.0))
    assert after(simulation, press("light")).locomotion[-1].state == "three"
    pool = replace(locomotion, groups=(replace(group, enters="pool", apart=1),))
    simulation = bout(quay, assets, pool)
    seen = []
    for _ in range(40):
        seen.append(after(simulation, press("light")).locomotion[-1].state)
        after(simulation, press("light"))
    assert set(seen) == {"one", "two", "three"}
    assert all(a != b for a, b in zip(seen, seen[1:]))


def test_a_momentary_parameter_is_true_for_one_look(quay: Project, assets: Assets) -> None:
    go = Condition(test="parameter", name="go")
    locomotion = Locomotion(
        entry="stand",
        states=(plays("stand"), plays("one"), plays("two")),
        transitions=(
            Transition(start="stand", to="one", conditions=(go, held("light"))),
            Transition(start="one", to="two", conditions=(go,)),
        ),
        parameters=(Parameter(name="go", kind="momentary"),),
    )
    simulation = bout(quay, assets, locomotion)
    after(simulation, Input(WHO, parameter="go", number=1.0), ticks=3)
    after(simulation, press("light"), ticks=3)
    assert state(simulation) == "stand"  # it was set before, and is gone
    after(simulation, Input(WHO, parameter="go", number=1.0), ticks=5)
    assert state(simulation) == "one"  # used up: not two in a row


def test_endings_and_events_of_actions_set_parameters_that_transitions_ask_for(quay: Project, assets: Assets) -> None:
    sweep = action(quay, "Low sweep")
    first = sweep.sections[0]
    told = replace(
        sweep,
        sections=(
            replace(first, events=(Event(tick=2, kind="parameter", name="warm", payload="3"),)),
            *sweep.sections[1:],
        ),
        on_cancelled=Ending(parameters=(Setting(setting="cut", value=1.0),)),
    )
    locomotion = Locomotion(
        entry="idle",
        states=(plays("idle"), plays("warmed"), plays("cut off")),
        transitions=(
            Transition(start="idle", to="warmed", conditions=(Condition(test="parameter", name="warm", value=3.0),)),
            Transition(start="warmed", to="cut off", conditions=(Condition(test="parameter", name="cut"),)),
        ),
        parameters=(Parameter(name="warm", high=5), Parameter(name="cut", kind="yes or no")),
    )
    project = replace(quay, actions=tuple(told if a is sweep else a for a in quay.actions))
    simulation = bout(project, assets, locomotion)
    after(simulation, Input(WHO, action="Low sweep"), ticks=3)
    assert state(simulation) == "idle"
    after(simulation)
    assert state(simulation) == "warmed"
    after(simulation, Input(WHO, action="Thrust"))
    assert state(simulation) == "cut off"


def test_what_plays_and_how_it_ended_can_be_asked(quay: Project, assets: Assets) -> None:
    locomotion = Locomotion(
        entry="idle",
        states=(plays("idle"), plays("sweeping"), plays("done")),
        transitions=(
            Transition(start="idle", to="sweeping", conditions=(Condition(test="plays", name="Low sweep"),)),
            Transition(start="sweeping", to="done", conditions=(Condition(test="has_ended", name="completed"),)),
        ),
    )
    simulation = bout(quay, assets, locomotion)
    after(simulation, Input(WHO, action="Low sweep"))
    assert state(simulation) == "sweeping"
    total = 0
    while simulation.fighters[0].playing():
        after(simulation)
        total += 1
        assert total < 200
    assert state(simulation) == "done"


def test_a_state_runs_its_action_and_leaves_when_it_ends(quay: Project, assets: Assets) -> None:
    locomotion = Locomotion(
        entry="idle",
        states=(plays("idle"), State(name="roll", action="Duck roll", clip="idle")),
        transitions=(
            Transition(start="idle", to="roll", conditions=(pressed("guard"),)),
            Transition(start="roll", to="idle", conditions=(Condition(test="section_ended"),)),
        ),
    )
    simulation = bout(quay, assets, locomotion)
    fighter = after(simulation, press("guard"))
    assert fighter.playing() == ("Duck roll",)
    assert state(simulation) == "roll"
    for _ in range(90):
        after(simulation)
    assert state(simulation) == "idle"
    assert not simulation.fighters[0].playing()
    # Left early, the action goes with it; while its layer is taken, the state is not entered.
    early = replace(
        locomotion,
        transitions=(*locomotion.transitions, Transition(start="roll", to="idle", conditions=(pressed("thrust"),))),
    )
    simulation = bout(quay, assets, early)
    after(simulation, press("guard"), ticks=5)
    assert after(simulation, press("thrust")).playing() == ()
    simulation = bout(quay, assets, early)
    after(simulation, Input(WHO, action="Low sweep"), ticks=3)
    assert after(simulation, press("guard")).locomotion[-1].state == "idle"


def test_blocked_turning_direction_time_and_shares_are_asked(quay: Project, assets: Assets) -> None:
    wall = replace(FLAT, floors=(*FLAT.floors, Floor(low=(2.0, -9.0), high=(5.0, 9.0), height=1.0)))
    asks: dict[str, Iterable[Condition]] = {
        "blocked": (Condition(test="blocked"),),
        "turning": (Condition(test="turn_rate", op="<", value=-100.0),),
        "late": (Condition(test="time_here", op=">=", value=20.0),),
        "half": (Condition(test="clip_share", op=">=", value=0.5),),
        "wants": (Condition(test="wanted_speed", op=">", value=3.0),),
    }
    expected = {"blocked": 33, "turning": 3, "late": 20, "half": 72, "wants": 1}
    for name, conditions in asks.items():
        locomotion = Locomotion(
            entry="a",
            states=(plays("a", plays="once"), plays("b")),
            transitions=(Transition(start="a", to="b", conditions=tuple(conditions)),),
            turn_rate=360.0,
        )
        simulation = bout(quay, assets, locomotion, wall)
        simulation.fighters[0].facing = 179.0
        moving = () if name in ("late", "half") else (Input(WHO, axis="move", value=(1.0, 0.0)),)
        taken = 0
        after(simulation, *moving)
        while state(simulation) == "a" and taken < 200:
            after(simulation)
            taken += 1
        assert abs(taken - expected[name]) <= 2, (name, taken)


# Jumping

AIR = Locomotion(
    entry="stand",
    states=(plays("stand"), plays("up", band="air")),
    transitions=(
        Transition(start="*", to="up", conditions=(Condition(test="jumped"),)),
        Transition(start="up", to="stand", conditions=(Condition(test="on_floor"),)),
    ),
    jump=Jump(command="jump", height=1.0, tap=0.3, held=14, late=5, early=6),
)


def highest(simulation: Simulation, inputs: dict[int, list[Input]], ticks: int) -> float:
    high = 0.0
    for t in range(ticks):
        simulation.tick(inputs.get(t, []))
        high = max(high, float(simulation.fighters[0].position[1]))
    return high


def test_a_jump_goes_as_high_as_it_says_held_and_tapped(quay: Project, assets: Assets) -> None:
    assert highest(bout(quay, assets, AIR), {5: [press("jump")]}, 90) == pytest.approx(1.0, abs=0.05)
    tapped = highest(bout(quay, assets, AIR), {5: [press("jump")], 7: [press("jump", False)]}, 90)
    assert 0.3 < tapped < 0.6
    assert highest(bout(quay, assets, AIR), {5: [press("jump")], 60: [press("jump", False)]}, 90) > 0.9


def test_a_press_counts_a_little_after_an_edge_and_a_little_before_landing(quay: Project, assets: Assets) -> None:
    ledge = Stage(
        floors=(Floor(low=(-9, -9), high=(0.5, 9)), Floor(low=(-90, -90), high=(90, 90), height=-3.0)),
        fighters=(Fighter(name=WHO, facing=90.0),),
        put_back_below=-9,
    )
    for late, jumps in ((4, True), (9, False)):
        simulation = bout(quay, assets, AIR, ledge)
        simulation.tick([Input(WHO, axis="move", value=(1.0, 0.0))])
        while simulation.fighters[0].grounded:
            simulation.tick()
        for _ in range(late - 1):
            simulation.tick()
        simulation.tick([press("jump")])
        assert simulation.fighters[0].jumping is jumps
    tap = {0: [press("jump")], 2: [press("jump", False)]}
    simulation = bout(quay, assets, AIR)
    lands = 0
    for t in range(200):
        simulation.tick(tap.get(t, []))
        if t > 3 and simulation.fighters[0].grounded:
            lands = t
            break
    for early, jumps in ((1, True), (4, True), (12, False)):
        simulation = bout(quay, assets, AIR)
        rose = False
        for t in range(lands + 6):
            simulation.tick([*tap.get(t, []), *([press("jump")] if t == lands - early else [])])
            rose |= t > lands and simulation.fighters[0].jumping
        assert rose is jumps, early


def test_falling_and_braking_have_numbers_of_their_own(quay: Project, assets: Assets) -> None:
    def airborne(locomotion: Locomotion) -> int:
        simulation = bout(quay, assets, locomotion)
        simulation.tick([press("jump")])
        n = 0
        while not simulation.fighters[0].grounded or n < 3:
            simulation.tick()
            n += 1
        return n

    assert airborne(replace(AIR, falling=25.0)) < airborne(AIR) - 5
    ways = []
    for braking in (0.0, 5.0):
        simulation = bout(quay, assets, replace(AIR, braking=braking, acceleration=20.0))
        after(simulation, Input(WHO, axis="move", value=(0.0, 1.0)), ticks=40)
        before = simulation.fighters[0].position
        after(simulation, Input(WHO, axis="move", value=(0.0, 0.0)), ticks=80)
        ways.append(float(np.linalg.norm(simulation.fighters[0].position - before)))
    # v² / 2a, with v = 4 m/s.
    assert ways == [pytest.approx(16 / 40, abs=0.08), pytest.approx(16 / 10, abs=0.08)]


def test_a_state_that_faces_the_target_strafes(quay: Project, assets: Assets) -> None:
    locomotion = Locomotion(entry="a", states=(plays("a", turns="target", most=1.0),), turn_rate=400.0)
    stage = replace(FLAT, fighters=(Fighter(name=WHO, facing=0.0), Fighter(name="Other", position=(8.0, 0.0, 0.0))))
    simulation = bout(quay, assets, locomotion, stage)
    fighter = after(simulation, Input(WHO, axis="move", value=(0.0, 1.0)), ticks=60)
    x, _, z = (float(v) for v in fighter.position)
    assert fighter.facing == pytest.approx(float(np.degrees(np.arctan2(8.0 - x, -z))), abs=3.0)
    assert float(np.hypot(fighter.velocity[0], fighter.velocity[2])) == pytest.approx(1.0, abs=1e-6)


def test_an_action_that_ends_over_a_moving_body_hands_it_a_phase_in_which_the_feet_fit(
    quay: Project, assets: Assets
) -> None:
    """The feet that locomotion goes on with are as near to those on the screen as in the nearest of many phases."""
    stage = replace(FLAT, fighters=(Fighter(name=WHO, facing=90.0),))
    simulation = Simulation(CompiledProject(replace(quay, stage=stage), assets))
    build = simulation.build
    feet = [build.assets.skeleton.index[n] for n in ("foot_left", "foot_right")]
    simulation.tick([Input(WHO, axis="move", value=(1.0, 0.0))])
    for _ in range(40):
        simulation.tick()
    simulation.tick([Input(WHO, action="Duck roll")])
    shown = simulation.fighters[0].joints_now[feet, :3, 3]
    while simulation.fighters[0].playing():
        shown = simulation.fighters[0].joints_now[feet, :3, 3]
        simulation.tick()
    fighter = simulation.fighters[0]
    now = fighter.locomotion[-1]
    assert now.state in ("walk", "run")
    gaps = []
    for phase in (now.phase, *np.linspace(0.0, 1.0, 24, endpoint=False)):
        pose = state_pose(build, fighter, now.state, float(phase), now.at)
        joints = forward(build.assets.skeleton, pose.rotation, pose.translation)[0]
        gaps.append(float(np.linalg.norm(joints[feet, :3, 3] - shown)))
    assert gaps[0] <= min(gaps[1:]) + 0.05
    assert gaps[0] < 0.7 * np.mean(gaps[1:])
