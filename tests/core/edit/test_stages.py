"""Several stages, and takes kept in the project: made, used, renamed and removed, and the same after a save."""

from __future__ import annotations

from pathlib import Path

import pytest
from msgspec.structs import replace

from veergust.core.edit.drills import keep_results
from veergust.core.edit.kept_takes import keep_take, remove_take, rename_take, renew_take
from veergust.core.edit.stages import (
    MADE,
    add_floors,
    add_stage,
    remove_floor,
    remove_stage,
    rename_stage,
    set_floor,
    use_stage,
)
from veergust.core.edit.staging import remove_fighter, set_fighter
from veergust.core.files.folder import open_project
from veergust.core.files.saving import save_project
from veergust.core.model import Floor, Project, Stage
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.compiled.standing_on import standing_on
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.play.take.came import came_of
from veergust.core.play.take.drills import pressed_later, run_drill
from veergust.core.study.takes import came_otherwise
from veergust.core.trouble import Trouble

OSSA, TARN = "Ossa Renn", "Tarn"


@pytest.fixture
def plain(quay: Project) -> Project:
    """The demo with one stage, and no takes."""
    drills = tuple(replace(d, stage="") for d in quay.drills)
    return replace(quay, stages=(), takes=(), drills=drills)


def played(build: CompiledProject, ticks: int = 50) -> tuple[list, list]:  # type: ignore[type-arg]
    inputs = [[Input(OSSA, "light")] if t == 5 else [] for t in range(ticks)]
    simulation = Simulation(build, 3)
    return [simulation.tick(row) for row in inputs], inputs


def test_drills_stay_on_the_stage_they_were_made_on(plain: Project, assets: Assets) -> None:
    """A second stage with the other out of reach: what passes on the first still does, and fails on the second."""
    drill = next(d for d in plain.drills if d.name == "Sweep touches")
    two, name = (lambda made: (made[0].project, made[1]))(add_stage(replace(plain, drills=(drill,))))
    assert {d.stage for d in two.drills} == {plain.stage.name}
    two = set_fighter(two, TARN, position=(4.0, 0.0, 0.0)).project
    build = CompiledProject(two, assets)
    assert build.project.stage.name == name
    assert run_drill(build, two.drills[0]).passed
    assert not run_drill(build, replace(two.drills[0], stage=name)).passed
    again = use_stage(two, plain.stage.name).project
    assert again.stage == plain.stage
    assert [s.name for s in again.stages] == [name]
    assert not run_drill(CompiledProject(again, assets), replace(two.drills[0], stage=name)).passed


def test_a_stage_renamed_takes_its_drills_along_and_one_in_use_stays(plain: Project) -> None:
    two = add_stage(plain)[0].project
    back = use_stage(two, plain.stage.name).project
    named = rename_stage(back, "Old plain").project
    assert {d.stage for d in named.drills} == {"Old plain"}
    with pytest.raises(Trouble, match="is played on it"):
        remove_stage(named)
    other = use_stage(named, two.stage.name).project
    assert remove_stage(other).project.stage.name == "Old plain"
    with pytest.raises(Trouble, match="already"):
        rename_stage(other, "Old plain")
    with pytest.raises(Trouble, match="only stage"):
        remove_stage(plain)


@pytest.mark.parametrize("kind", MADE)
def test_what_is_put_on_a_stage_can_be_stood_on_or_stops(plain: Project, assets: Assets, kind: str) -> None:
    """Whoever walks into it comes to stand on it, or is stopped by it."""
    bare = replace(plain, stage=replace(plain.stage, floors=(Floor(low=(-50, -50), high=(50, 50)),), posts=()))
    me = replace(plain.stage.fighters[0], position=(0.0, 0.0, 0.0))
    made, first = (lambda pair: (pair[0].project, pair[1]))(add_floors(bare, kind))  # type: ignore[arg-type]
    made = replace(made, stage=replace(made.stage, fighters=(me,)))
    simulation = Simulation(CompiledProject(made, assets))
    going = Input(OSSA, axis="move", value=(1.0, 0.0))
    records = [simulation.tick([going]) for _ in range(90)]
    heights = [float(r.fighters[0].position[1]) for r in records]
    x = [float(r.fighters[0].position[0]) for r in records]
    if kind in ("floor", "wall"):
        assert max(heights) == 0.0
        edge = next(f for f in made.stage.floors if f.name == first).low[0]
        assert max(x) < edge
        assert edge - max(x) < 0.5
    else:
        top = max(f.height + max(f.rise, 0.0) for f in made.stage.floors)
        assert max(heights) == pytest.approx(top, abs=0.06)
    again, second = add_floors(made, kind)  # type: ignore[arg-type]
    assert second != first
    assert {f.name for f in remove_floor(again.project, second).project.stage.floors} >= {first}


def test_the_sides_of_a_floor_cannot_cross(plain: Project) -> None:
    made = set_floor(plain, "quay", low=(9.0, 5.0)).project
    floor = next(f for f in made.stage.floors if f.name == "quay")
    assert (floor.low, floor.high) == ((4.6, 3.0), (9.0, 5.0))


def test_a_kept_take_is_the_same_after_a_save_and_tells_what_an_edit_made_otherwise(
    plain: Project, assets: Assets, tmp_path: Path
) -> None:
    build = CompiledProject(plain, assets)
    records, inputs = played(build)
    kept, name = (lambda pair: (pair[0].project, pair[1]))(keep_take(plain, records, inputs, 3))
    folder = tmp_path / "kept.veergust"
    save_project(replace(kept, clips=(), rig=replace(kept.rig, figure="", props=())), folder)
    read = open_project(folder)
    assert read.takes == kept.takes
    assert (folder / "takes" / "take.json").exists()
    take = read.takes[0]
    assert (take.name, take.ticks, take.seed, take.stage) == (name, 50, 3, "")
    assert [(s.tick, s.command) for s in take.steps] == [(5, "light")]
    assert [line.says for line in take.came][:3] == [
        f"{OSSA} begins Low sweep", f"{TARN} begins Reel front", f"Sweep of {OSSA} hit {TARN}",
    ]  # fmt: skip
    assert came_otherwise(take.came, came_of(records)) == ()
    far = set_fighter(plain, TARN, position=(3.0, 0.0, 0.0)).project
    otherwise = came_otherwise(take.came, came_of(played(CompiledProject(far, assets))[0]))
    touch = next(line for line in take.came if " hit " in line.says)
    assert (otherwise[0].was, otherwise[0].now) in ((touch.tick, None), (touch.tick, touch.tick))
    assert otherwise[-1].says.startswith(f"{TARN} is left with ")
    assert otherwise[-1].says.endswith(" → 100")
    missed = renew_take(kept, name, played(CompiledProject(far, assets))[0]).project.takes[0]
    assert not any(" hit " in line.says for line in missed.came)
    two = keep_take(kept, records, inputs, 3)[0].project
    with pytest.raises(Trouble, match="already"):
        rename_take(two, two.takes[1].name, name)
    assert remove_take(two, name).project.takes == two.takes[1:]
    with pytest.raises(Trouble, match="lost its beginning"):
        keep_take(plain, records[1:], inputs[1:], 3)


def test_a_renamed_fighter_goes_along_in_takes_and_one_who_plays_there_stays(plain: Project, assets: Assets) -> None:
    records, inputs = played(CompiledProject(plain, assets))
    kept = keep_take(replace(plain, drills=()), records, inputs, 3)[0].project
    named = set_fighter(kept, OSSA, name="Ossa").project
    assert {s.fighter for s in named.takes[0].steps} == {"Ossa"}
    assert named.takes[0].came[0].says == "Ossa begins Low sweep"
    with pytest.raises(Trouble, match="plays in Take"):
        remove_fighter(named, "Ossa")
    assert len(remove_fighter(named, TARN).project.stage.fighters) == 1


def test_kept_results_tell_what_only_moved(plain: Project, assets: Assets) -> None:
    """A drill that still passes tells how much later all came than when it was kept."""
    build = CompiledProject(plain, assets)
    drill = next(d for d in plain.drills if d.name == "Sweep touches")
    kept = keep_results(plain, {drill.name: run_drill(build, drill).came}).project
    drill = next(d for d in kept.drills if d.name == drill.name)
    again = CompiledProject(kept, assets)
    assert came_otherwise(drill.came, run_drill(again, drill).came) == ()
    later = replace(drill, steps=pressed_later(drill.steps, 3), expect=drill.expect[1:])
    result = run_drill(again, later)
    assert result.passed
    moved = [(one.was, one.now) for one in came_otherwise(drill.came, result.came)]
    assert len(moved) == 3
    assert all(was is not None and now == was + 3 for was, now in moved)


def test_a_stage_that_is_not_there_is_the_one_that_is_shown(plain: Project, assets: Assets) -> None:
    build = CompiledProject(plain, assets)
    assert standing_on(build, "nowhere") is build
    other = CompiledProject(replace(plain, stages=(Stage(name="Yard"),)), assets)
    assert standing_on(other, "Yard").project.stage.name == "Yard"
