"""Locomotion from nothing: somebody else's rig, captures off the origin and turned, and the usual set of them."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from tools.made.captures import blow, gait, leap, write_bvh
from tools.made.edits import WIDE
from tools.made.takes import spar_take

from tests.core.play.test_wandering import in_world, wander
from veergust.core.edit.usual import usual_set
from veergust.core.files.assets import load_assets
from veergust.core.files.importing import import_file
from veergust.core.files.saving import save_project
from veergust.core.model import Fighter, Project, Stage
from veergust.core.motion.figure import Assets
from veergust.core.motion.quat import Array
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.study.findings import findings
from veergust.core.study.usual import proposed
from veergust.core.trouble import Trouble

WHO = "Somebody"
WALK, RUN = 1.2, 4.0
STRIDES = {"take_02": 1.1, "take_03": 1.6}


@pytest.fixture(scope="module")
def made(tmp_path_factory: pytest.TempPathFactory) -> tuple[Project, Assets]:
    folder = tmp_path_factory.mktemp("shot")
    home = folder / "made.veergust"
    stage = Stage(floors=WIDE, fighters=(Fighter(name=WHO, plays="keys"),))
    project = Project(name="made", stage=stage)
    save_project(project, home)
    shots = {
        "take_01": blow(),
        "take_02": gait(WALK, 1.1, 0.6),
        "take_03": gait(RUN, 1.6, 0.33, high=0.84, lift=0.16, turned=-20.0),
        "take_04": leap(),
    }
    for name, taken in shots.items():
        project = import_file(project, home, write_bvh(folder, taken, f"{name}.bvh")).project
    assets = load_assets(project, home)[0]
    return usual_set(CompiledProject(project, assets), proposed(CompiledProject(project, assets))).project, assets


def test_a_long_take_is_cut_to_whole_strides(made: tuple[Project, Assets]) -> None:
    there = {c.name: c for c in made[0].clips}
    for name, strides in STRIDES.items():
        clip = there[name]
        assert clip.loop
        assert clip.end is not None
        laps = (clip.end - clip.start) * strides
        assert laps == pytest.approx(round(laps), abs=0.04)
        assert round(laps) >= 1


def test_clips_without_telling_names_are_known_by_how_they_move(made: tuple[Project, Assets]) -> None:
    there = {s.name: s for s in made[0].locomotion.states}
    assert there["idle"].clip == "stand"  # the one the first capture brought along
    assert [p.clip for p in there["walk"].blend] == ["stand", "take_02"]
    assert [p.clip for p in there["run"].blend] == ["take_02", "take_03"]
    assert there["fall"].clip == "take_04"
    # Speeds are the captures' own.
    assert made[0].locomotion.walk_speed == pytest.approx(WALK, abs=0.03)
    assert made[0].locomotion.run_speed == pytest.approx(RUN, abs=0.08)
    assert not [f for f in findings(CompiledProject(*made)) if f.at.part == "locomotion" and f.level != "note"]


@pytest.mark.parametrize("speed", [0.5, WALK, 2.4, RUN])
def test_its_feet_stand_at_any_speed(made: tuple[Project, Assets], speed: float) -> None:
    film, heights = [], []
    simulation = Simulation(CompiledProject(*made))
    for t in range(420):
        given = [Input(WHO, axis="move", value=(0.0, speed / made[0].locomotion.run_speed))] if t == 5 else []
        simulation.tick(given)
        film.append(in_world(simulation.fighters[0]))
        heights.append(simulation.fighters[0].position[1])
    index = made[1].skeleton.index
    for toe in ("LToe", "RToe"):
        assert max(slides(np.array(film)[120:, index[toe]])) < 0.03
    assert np.ptp(heights) < 1e-9


def slides(ball: Array) -> list[float]:
    """How far (m) a ball of the foot goes over the floor in each of its stances."""
    down = ball[:, 1] < np.percentile(ball[:, 1], 1) + 0.02
    edges = np.flatnonzero(np.diff(np.concatenate([[0], down.astype(int), [0]]))).reshape(-1, 2)
    out = []
    for start, end in edges[1:-1]:
        way = ball[start:end][:, [0, 2]]
        out.append(float(np.linalg.norm(way[:, None] - way[None], axis=-1).max()) if end - start >= 4 else 0.0)
    assert len(out) > 2
    return out


@pytest.mark.parametrize("seed", [1, 2])
def test_nothing_leaps_on_somebody_elses_rig(made: tuple[Project, Assets], seed: int) -> None:
    project, assets = made
    named = replace(project, stage=replace(project.stage, fighters=(Fighter(name="Ossa Renn", plays="keys"),)))
    assert wander(CompiledProject(named, assets), seed, 1200) == []


def test_who_spars_does_not_walk(tmp_path: Path) -> None:
    """Of minutes of footwork and blows nothing is proposed as a walk or a run; beside a walk, the walk is."""
    for with_walk in (False, True):
        home = tmp_path / f"{with_walk}.veergust"
        project = Project(name=str(with_walk), stage=Stage(floors=WIDE, fighters=(Fighter(name=WHO),)))
        save_project(project, home)
        shots = {
            "take_01": spar_take(12, seed=2)[0],
            "take_02": spar_take(0, seed=4, seconds=12.0)[0],
            "take_03": blow(),
        }
        if with_walk:
            shots["take_04"] = gait(1.3, 1.0, 0.6)
        for name, taken in shots.items():
            project = import_file(project, home, write_bvh(tmp_path, taken, f"{name}.bvh")).project
        build = CompiledProject(project, load_assets(project, home)[0])
        found = proposed(build)
        assert found.get("walk") == ("take_04" if with_walk else None)
        assert "run" not in found
        assert found["idle"] == "stand"


def test_it_does_not_start_without_somebody_who_stands(made: tuple[Project, Assets]) -> None:
    with pytest.raises(Trouble, match="stand still"):
        usual_set(CompiledProject(*made), {"walk": "take_02"})
