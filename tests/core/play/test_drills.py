"""Drills over ranges, and what they measure: against the same played by hand."""

from __future__ import annotations

import random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tools.made.edits import replace

from tests.conftest import OSSA, TARN
from veergust.core.model import Drill, DrillRange, DrillStep, Expectation, Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.play.take.came import came_of
from veergust.core.play.take.drills import MOST_CELLS, Takes, cells, placed_fighters, pressed_later, run_drill
from veergust.core.play.take.record import write_take

SWEEP = Drill(
    name="sweep",
    ticks=40,
    steps=(DrillStep(tick=5, fighter=OSSA, command="light"),),
    expect=(Expectation(fighter=OSSA, tick=39, contact="hit", victim=TARN),),
)


def hits(quay: Project, assets: Assets, far: float) -> bool:
    """Whether it does, with the other put so far away by hand."""
    me, you = quay.stage.fighters
    way = np.array(you.position) - np.array(me.position)
    place = np.array(me.position) + way / np.linalg.norm(way) * far
    stage = replace(quay.stage, fighters=(me, replace(you, position=tuple(place.tolist()))))
    simulation = Simulation(CompiledProject(replace(quay, stage=stage), assets))
    records = [simulation.tick([Input(OSSA, "light")] if t == 5 else []) for t in range(40)]
    return any(c.victim == TARN for r in records for c in r.contacts)


def test_a_drill_over_distances_holds_where_the_same_by_hand_does(quay: Project, assets: Assets) -> None:
    me, you = quay.stage.fighters
    aside = (me, replace(you, position=(1.3, 0.2, 0.9)))
    there = np.array(placed_fighters(aside, SWEEP.steps, 2.5)[1].position) - me.position
    assert np.hypot(there[0], there[2]) == pytest.approx(2.5)
    assert (there[0] / there[2], there[1]) == pytest.approx(((1.3 + 0.85) / 0.9, 0.2))
    assert placed_fighters(aside, SWEEP.steps, 2.5)[0] is me
    build = CompiledProject(quay, assets)
    far = [round(0.8 + 0.3 * n, 2) for n in range(8)]
    touched = [hits(quay, assets, d) for d in far]
    assert len(set(touched)) == 2, "it touches near and not far"
    for d, wanted in zip(far, touched):
        one = replace(SWEEP, over=(DrillRange(low=d, high=d),))
        assert run_drill(build, one).passed == wanted, d
    whole = run_drill(build, replace(SWEEP, over=(DrillRange(low=far[0], high=far[-1], step=0.3),)))
    missed = [d for d, wanted in zip(far, touched) if not wanted]
    [words] = whole.failed
    assert words.endswith(f"(at {missed[0]:g} m to at {missed[-1]:g} m, {len(missed)} times)")
    assert whole.expected == tuple(run_drill(build, SWEEP).expected)


def test_the_last_press_and_what_lets_it_go_come_later(quay: Project, assets: Assets) -> None:
    steps = (
        DrillStep(tick=5, fighter=OSSA, command="light"),
        DrillStep(tick=9, fighter=OSSA, axis="move", value=(1.0, 0.0)),
        DrillStep(tick=20, fighter=OSSA, command="light"),
        DrillStep(tick=22, fighter=OSSA, command="light", press=False),
        DrillStep(tick=25, fighter=OSSA, axis="move"),
    )
    assert [s.tick for s in pressed_later(steps, 4)] == [5, 9, 24, 26, 25]
    assert [s.tick for s in pressed_later(steps, -30)] == [5, 9, 0, 0, 25]
    assert pressed_later(steps, 0) is steps
    # The next of the string comes for presses of its window, by hand and by the range alike.
    expect = (Expectation(fighter=OSSA, tick=60, action="Thrust"),)
    drill = Drill(name="string", ticks=61, steps=steps[::2][:2], expect=expect)
    build = CompiledProject(quay, assets)
    came = []
    for offset in range(-14, 20):
        simulation = Simulation(build)
        given = {5: [Input(OSSA, "light")], 20 + offset: [Input(OSSA, "light")]}
        records = [simulation.tick(given.get(t, [])) for t in range(61)]
        came.append(any(v.compiled.action.name == "Thrust" for r in records for v in r.fighter(OSSA).live()))
    over = (DrillRange(what="press", low=-14, high=19, step=1.0),)
    result = run_drill(build, replace(drill, over=over))
    assert len(set(came)) == 2
    assert f"{came.count(False)} times" in result.failed[0]


def test_cells_multiply_and_are_bounded() -> None:
    both = replace(SWEEP, over=(DrillRange(low=1.0, high=1.4), DrillRange(what="press", low=-2, high=2, step=1.0)))
    assert len(cells(both)) == 25
    assert [c.words for c in cells(both)][:3] == ["at 1 m pressed -2 f", "at 1 m pressed -1 f", "at 1 m"]
    assert [c.words for c in cells(SWEEP)] == [""]
    assert len(cells(replace(SWEEP, over=(DrillRange(low=0.0, high=1000.0, step=0.01),)))) == MOST_CELLS


@pytest.mark.parametrize("measure", ["distance", "travel", "health"])
def test_what_is_measured_is_what_the_take_has(quay: Project, assets: Assets, measure: str) -> None:
    build = CompiledProject(quay, assets)
    simulation = Simulation(build)
    records = [simulation.tick([Input(OSSA, "light")] if t == 5 else []) for t in range(60)]
    me, you, first = records[50].fighter(OSSA), records[50].fighter(TARN), records[0].fighter(TARN)
    flat = [0, 2]
    value = {
        "distance": float(np.linalg.norm((me.position - you.position)[flat])),
        "travel": float(np.linalg.norm((you.position - first.position)[flat])),
        "health": you.health,
    }[measure]
    for low, high, holds in ((value - 0.01, value + 0.01, True), (value + 0.02, value + 1, False),
                             (value - 1, value - 0.02, False)):  # fmt: skip
        expect = Expectation(fighter=TARN, tick=50, since=50, measure=measure, low=low, high=high)  # type: ignore[arg-type]
        drill = replace(SWEEP, ticks=60, expect=(expect,))
        assert run_drill(build, drill).passed == holds, (low, high)
        assert run_drill(build, replace(drill, expect=(replace(expect, never=True),))).passed != holds


@given(seed=st.integers(0, 10_000))
def test_takes_that_share_their_beginning_are_as_if_each_was_played_alone(
    quay: Project, build: CompiledProject, seed: int
) -> None:
    """Whatever the order of the presses, cut short where what is expected is decided or played to the end."""
    draw = random.Random(seed)
    drill = draw.choice([d for d in quay.drills if d.ticks <= 60])
    far = draw.choice([None, 0.8, 1.7])
    takes = Takes(build, drill, far)
    for _ in range(3):
        offset, whole = draw.randrange(-8, 9), draw.random() < 0.5
        alone = Takes(build, drill, far).take(offset, whole=whole)
        assert write_take(takes.take(offset, whole=whole)) == write_take(alone)
        if whole:
            assert len(alone) == drill.ticks


def test_what_missed_stands_with_its_cell_and_what_came_is_of_the_first(quay: Project, build: CompiledProject) -> None:
    """Presses are played from the latest to the earliest, and told in the order of the drill."""
    over = (DrillRange(what="distance", low=0.8, high=2.0, step=0.6), DrillRange(what="press", low=-4, high=4, step=4))
    late = replace(SWEEP, expect=(Expectation(fighter=OSSA, since=0, tick=12, action="Low sweep"),
                                  Expectation(fighter=OSSA, tick=20, contact="hit", victim=TARN)), over=over)  # fmt: skip
    result = run_drill(build, late)
    assert [cell for cell, _ in result.cells] == cells(late)
    assert len({missed for _, missed in result.cells}) > 1
    for cell, missed in result.cells:
        (alone,) = run_drill(build, replace(late, over=(DrillRange(what="distance", low=cell.distance or 0.0, high=cell.distance or 0.0),),
                                            steps=pressed_later(late.steps, cell.offset))).cells  # fmt: skip
        assert alone[1] == missed
    first = result.cells[0][0]
    assert result.came == came_of(Takes(build, late, first.distance).take(first.offset))
