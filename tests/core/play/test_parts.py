"""Smaller parts of play: conditions, drills, partners, books."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from tools.made.edits import alone, replace, with_action

from tests.conftest import OSSA
from veergust.core.kinds.conditions.kind import chance
from veergust.core.kinds.measures import Fixed
from veergust.core.model import Condition, Drill, DrillStep, Expectation, Project, RootUse
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.locomotion.playing import cycles, own_phase, parts_of
from veergust.core.play.rules.conditions import holds
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import FighterState, Input
from veergust.core.play.take.drills import expectation_words, run_drill


@pytest.fixture
def fighter(build: CompiledProject) -> FighterState:
    return Simulation(build).fighter(OSSA)


@pytest.mark.parametrize(
    ("condition", "set_up", "wanted"),
    [
        (Condition(test="speed", op=">", value=1.0), {"velocity": np.array([0.9, 5.0, 0.9])}, True),
        (Condition(test="speed", op=">", value=1.3), {"velocity": np.array([0.9, 5.0, 0.9])}, False),
        (Condition(test="rising", op="<", value=0.0), {"velocity": np.array([0.0, -0.1, 0.0])}, True),
        (Condition(test="height", op=">=", value=0.5), {"position": np.array([0.0, 0.5, 0.0])}, True),
        (Condition(test="on_floor"), {"grounded": False}, False),
        (Condition(test="on_floor", op="==", value=0.0), {"grounded": False}, True),
        (Condition(test="held", name="light"), {"held": ("light",)}, True),
        (Condition(test="released", name="light"), {"held": ("light",)}, False),
        (Condition(test="pressed", name="light"), {"pressed": ("heavy",)}, False),
        (Condition(test="parameter", name="heat", op=">", value=2.0), {"parameters": (("heat", 3.0),)}, True),
        (Condition(test="parameter", name="cold", op="==", value=0.0), {}, True),
        (Condition(test="contact"), {}, False),
        (Condition(test="distance", op="<", value=1.0), {}, False),
    ],
)
def test_conditions(condition: Condition, set_up: dict[str, Any], wanted: bool, fighter: FighterState) -> None:
    for name, value in set_up.items():
        setattr(fighter, name, value)
    assert holds((condition,), fighter) is wanted


def test_all_conditions_must_hold_and_none_always_do(fighter: FighterState) -> None:
    yes, no = Condition(test="on_floor"), Condition(test="held", name="light")
    assert holds((), fighter)
    assert holds((yes,), fighter)
    assert not holds((yes, no), fighter)


def test_chance_is_even_and_depends_on_seed_and_tick_only() -> None:
    drawn = [chance(3, t, "a") for t in range(2000)]
    assert drawn == [chance(3, t, "a") for t in range(2000)]
    assert drawn != [chance(4, t, "a") for t in range(2000)]
    assert 0.46 < np.mean(drawn) < 0.54
    assert min(drawn) >= 0.0
    assert max(drawn) < 1.0


def test_distance_is_to_the_nearest_other(build: CompiledProject) -> None:
    simulation = Simulation(build)
    ossa, tarn = simulation.fighters
    near = Condition(test="distance", op="<", value=1.8)
    assert holds((near,), ossa, others=(tarn,))
    tarn.position = np.array([9.0, 0.0, 0.0])
    assert not holds((near,), ossa, others=(tarn,))


def test_a_blend_mixes_its_two_neighbours_and_holds_at_its_ends(build: CompiledProject) -> None:
    run = build.states["run"]
    low, high = (p.at[0] for p in run.blend)
    walking, running = build.locomotion_clip("walk"), build.locomotion_clip("run")
    assert parts_of(build, Fixed({"speed": 0.1}), run) == [(walking, 1.0, low)]
    assert parts_of(build, Fixed({"speed": 99.0}), run) == [(running, 1.0, high)]
    middle = parts_of(build, Fixed({"speed": (low + high) / 2}), run)
    assert [(c, pytest.approx(w)) for c, w, _ in middle] == [(walking, 0.5), (running, 0.5)]


def test_feet_cover_the_ground_the_body_does(build: CompiledProject) -> None:
    """So much of each clip is played a second that its stride, weighed, is the speed of the body."""
    for state, speeds in (("walk", (0.5, 1.2)), ("run", (1.5, 3.0, 4.2))):
        for speed in speeds:
            body = Fixed({"speed": speed})
            for phase in (0.1, 0.4, 0.7):
                step = 1e-4
                on = phase + cycles(build, body, build.states[state], phase) * step
                played = 0.0
                for clip, weight, at in parts_of(build, body, build.states[state]):
                    own = [own_phase(build.states[state], clip, p) for p in (phase, on)]
                    played += weight * at * clip.seconds * ((own[1] - own[0]) % 1.0)
                assert played / step == pytest.approx(speed, rel=1e-6)


def test_a_drill_says_what_was_not_so(build: CompiledProject) -> None:
    steps = (DrillStep(tick=2, fighter=OSSA, command="light"),)
    never = Expectation(fighter=OSSA, tick=30, action="Low sweep", never=True)
    late = Expectation(fighter=OSSA, tick=1, action="Low sweep")
    event = Expectation(fighter=OSSA, tick=40, event="dust")
    nobody = Expectation(fighter="Nobody", tick=40, action="Low sweep")
    good = Expectation(fighter=OSSA, tick=5, since=2, action="Low sweep")
    drill = Drill(name="d", ticks=60, steps=steps, expect=(never, late, event, nobody, good))
    result = run_drill(build, drill)
    assert result.failed == tuple(expectation_words(e) for e in (never, late, nobody))
    assert not result.passed
    assert result.expected[-1] == "Ossa Renn plays Low sweep between 2 and 5"


def test_an_action_asked_for_starts_on_its_first_frame_over_whatever_plays(quay: Project, assets: Assets) -> None:
    simulation = Simulation(CompiledProject(alone(quay), assets))
    simulation.tick([Input(OSSA, "light")])
    for _ in range(10):
        simulation.tick()
    record = simulation.tick([Input(OSSA, action="Reel left")])
    assert [(v.compiled.action.name, v.frame) for v in record.fighter(OSSA).live()] == [("Reel left", 0)]
    record = simulation.tick([Input(OSSA, action="No such")])
    assert [(v.compiled.action.name, v.frame) for v in record.fighter(OSSA).live()] == [("Reel left", 1)]


def test_a_book_keeps_what_an_edit_does_not_touch(quay: Project, assets: Assets) -> None:
    build = CompiledProject(quay, assets)
    sweep, thrust = build.action("Low sweep"), build.action("Thrust")
    assert sweep is not None
    strike = replace(quay.actions[0].sections[1].strikes[0], start=3)
    sections = list(quay.actions[0].sections)
    sections[1] = replace(sections[1], strikes=(strike,))
    after = build.renew(with_action(quay, "Low sweep", sections=tuple(sections)))
    assert after.action("Thrust") is thrust
    again = after.action("Low sweep")
    assert again is not None
    assert again is not sweep
    # Only what stands on the section changed: its poses are the same arrays.
    assert again.sections[1].pose is sweep.sections[1].pose
    assert after.renew(after.project) is after


@pytest.mark.parametrize(
    ("use", "moved"), [(RootUse(), True), (RootUse(forward=False), False), (RootUse(scale=2.0), True)]
)
def test_root_use_decides_what_of_the_travel_moves_the_body(
    use: RootUse, moved: bool, quay: Project, assets: Assets
) -> None:
    simulation = Simulation(CompiledProject(alone(with_action(quay, "Duck roll", root=use)), assets))
    start = simulation.fighter(OSSA).position[0]
    for t in range(60):
        record = simulation.tick([Input(OSSA, "dodge")] if t == 0 else [])
    gone = record.fighter(OSSA).position[0] - start
    # The first ticks' travel fades in with the action.
    assert gone == pytest.approx(2.391 * use.scale if moved else 0.0, abs=2e-3)


def test_a_mirrored_action_strikes_from_the_other_side(quay: Project, assets: Assets) -> None:
    build = CompiledProject(quay, assets)
    plain = build.action("Low sweep")
    cuts = [tuple(replace(c, mirror=True) for c in s.cuts) for s in quay.actions[0].sections]
    sections = tuple(replace(s, cuts=c) for s, c in zip(quay.actions[0].sections, cuts))
    turned = CompiledProject(with_action(quay, "Low sweep", sections=sections), assets).action("Low sweep")
    assert plain is not None
    assert turned is not None
    right, left = (assets.skeleton.index[f"hand_{s}"] for s in ("right", "left"))
    a = plain.sections[1].world[3, right, :3, 3]
    b = turned.sections[1].world[3, left, :3, 3]
    assert b == pytest.approx(a * [-1, 1, 1], abs=1e-6)


def test_a_mirrored_clip_and_a_mirrored_cut_are_one_and_the_same(quay: Project, assets: Assets) -> None:
    """What rides on the pose changes sides with either, and with both it is back where it was."""
    from veergust.core.study.coverage import covered, sweep_of, tip_speed
    from veergust.core.study.facts import facts

    def turned(by_clip: bool, by_cut: bool) -> CompiledProject:
        clips = tuple(replace(c, mirror=by_clip) if c.name == "staff_sweep" else c for c in quay.clips)
        sections = tuple(
            replace(s, cuts=tuple(replace(c, mirror=by_cut) for c in s.cuts)) for s in quay.actions[0].sections
        )
        return CompiledProject(alone(with_action(replace(quay, clips=clips), "Low sweep", sections=sections)), assets)

    def dust(build: CompiledProject) -> np.ndarray:
        simulation = Simulation(build)
        records = [simulation.tick([Input(OSSA, "light")] if t == 0 else []) for t in range(20)]
        fired, facing = next((e, r) for r in records for e in r.events if e.name == "dust")
        return np.asarray(fired.position - facing.fighter(OSSA).position)

    projects = {(a, b): turned(a, b) for a in (False, True) for b in (False, True)}
    assert dust(projects[True, False]) == pytest.approx(dust(projects[False, True]))
    assert dust(projects[True, True]) == pytest.approx(dust(projects[False, False]))
    assert dust(projects[True, False])[2] == pytest.approx(-dust(projects[False, False])[2], abs=1e-6)
    for one, two in (((True, False), (False, True)), ((True, True), (False, False))):
        a, b = projects[one], projects[two]
        first, second = a.action("Low sweep"), b.action("Low sweep")
        assert first is not None
        assert second is not None
        assert tip_speed(a, first) == pytest.approx(tip_speed(b, second), abs=1e-6)
        assert covered(a, first, 1, 2) == covered(b, second, 1, 2)
        assert facts(a, "Low sweep") == facts(b, "Low sweep")
    # The box rides on the same line as the weapon whichever way round, so it covers as much of it.
    flat, turned_over = (projects[k].action("Low sweep") for k in ((False, False), (True, False)))
    assert flat is not None
    assert turned_over is not None
    lines = [sweep_of(projects[k], c, 1, 2) for k, c in (((False, False), flat), ((True, False), turned_over))]
    held = [np.any([v.holds(found[0]) for v in found[2]], axis=0) for found in lines if found is not None]
    assert held[0].tolist() == held[1].tolist()
    assert 0 < held[0].sum() < len(held[0])
