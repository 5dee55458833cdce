"""Drills made from takes: what is kept of one, and that it holds of what it was made from and of nothing else."""

from __future__ import annotations

import pytest
from tools.made.edits import action, replace, with_action

from tests.conftest import OSSA, TARN
from veergust.core.edit.drills import drill_of_take, hold_over, remove_drill, set_drill
from veergust.core.model import Drill, Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.play.take.drills import run_drill
from veergust.core.play.take.record import Record
from veergust.core.trouble import Trouble

SEED = 7


def bout(
    project: Project, assets: Assets, given: dict[int, list[Input]], ticks: int
) -> tuple[list[Record], list[list[Input]]]:
    simulation = Simulation(CompiledProject(project, assets), SEED)
    rows = [given.get(t, []) for t in range(ticks)]
    return [simulation.tick(row) for row in rows], rows


KEYS = {5: [Input(OSSA, "light")], 24: [Input(OSSA, "light")], 30: [Input(TARN, axis="move", value=(0.0, 0.4))],
        60: [Input(TARN, axis="move")]}  # fmt: skip


def made(project: Project, assets: Assets) -> tuple[Project, Drill]:
    edit, name = drill_of_take(project, *bout(project, assets, KEYS, 120), SEED)
    return edit.project, next(d for d in edit.project.drills if d.name == name)


def test_a_drill_of_a_take_holds_of_it_and_breaks_where_a_touch_moves(quay: Project, assets: Assets) -> None:
    project, drill = made(quay, assets)
    records, _ = bout(quay, assets, KEYS, 120)
    touches = [(r.tick, c.result) for r in records for c in r.contacts]
    assert touches
    assert [(e.tick, e.contact) for e in drill.expect if e.contact] == touches
    assert {(e.fighter, e.locomotion) for e in drill.expect if e.locomotion} == {
        (f.name, f.locomotion[-1].state) for f in records[-1].fighters
    }
    assert run_drill(CompiledProject(project, assets), drill).passed
    sweep = action(project, "Low sweep")
    later = tuple(
        replace(s, strikes=tuple(replace(k, start=k.start + 5, end=k.end + 5) for k in s.strikes))
        for s in sweep.sections
    )
    moved = with_action(project, "Low sweep", sections=later)
    failed = run_drill(CompiledProject(moved, assets), drill).failed
    assert any("hit Tarn" in words for words in failed)


def test_a_take_without_a_beginning_or_without_a_press_is_refused(quay: Project, assets: Assets) -> None:
    records, rows = bout(quay, assets, KEYS, 20)
    with pytest.raises(Trouble, match="lost its beginning"):
        drill_of_take(quay, records[1:], rows[1:], SEED)
    with pytest.raises(Trouble, match="nothing was pressed"):
        drill_of_take(quay, *bout(quay, assets, {}, 20), SEED)


def test_a_name_goes_along_and_whoever_is_replayed_stays(quay: Project, assets: Assets) -> None:
    project, drill = made(quay, assets)
    fighters = tuple(
        replace(f, plays="replays", replay=drill.name) if f.name == TARN else f for f in project.stage.fighters
    )
    project = replace(project, stage=replace(project.stage, fighters=fighters))
    named = set_drill(project, drill.name, "named", name="evening").project
    assert [f.replay for f in named.stage.fighters if f.name == TARN] == ["evening"]
    with pytest.raises(Trouble, match="Tarn replays it"):
        remove_drill(named, "evening")
    assert "evening" not in {d.name for d in remove_drill(quay_of(named), "evening").project.drills}
    with pytest.raises(Trouble, match="already"):
        set_drill(named, "evening", "named", name=quay.drills[0].name)


def quay_of(project: Project) -> Project:
    fighters = tuple(replace(f, plays="stands") for f in project.stage.fighters)
    return replace(project, stage=replace(project.stage, fighters=fighters))


def test_a_range_is_set_changed_and_taken_away(quay: Project) -> None:
    name = quay.drills[0].name
    over = hold_over(hold_over(quay, name, "distance", 0.8, 1.6).project, name, "press", -3, 3).project
    assert [(r.what, r.low, r.high, r.step) for r in over.drills[0].over] == [
        ("distance", 0.8, 1.6, 0.1), ("press", -3, 3, 1.0),
    ]  # fmt: skip
    again = hold_over(over, name, "distance", 1.0, 1.2).project
    assert {r.what: r.low for r in again.drills[0].over} == {"press": -3, "distance": 1.0}
    assert [r.what for r in hold_over(again, name, "press", 1.0, 0.0).project.drills[0].over] == ["distance"]
