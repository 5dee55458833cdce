"""The independent player gives the same takes as the program, of whatever is handed over.

``./run referee`` does so over two hundred bouts of 2,000 ticks; here is a little of each.
"""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from tools.made import DEMO
from tools.referee.comparing import Handed, at_random, compare, handed_over, row_of
from tools.referee.made import made_projects
from tools.referee.run import BOUTS, drilled, on_stage

from veergust.core.export.axes import Axes
from veergust.core.export.writing import export
from veergust.core.model import Project
from veergust.core.motion.figure import Assets
from veergust.core.motion.skeleton import Skeleton, forward
from veergust.core.play.compiled.project import CompiledProject

PLAYER = DEMO.parents[1] / "examples" / "player"


@pytest.fixture(scope="module")
def handed(quay: Project, assets: Assets) -> Handed:
    return handed_over(quay, assets)


def test_every_drill_of_the_demo_is_the_same_take(quay: Project, handed: Handed) -> None:
    contacts = 0
    for drill in quay.drills:
        assert drill.stage in ("", quay.stage.name)
        got = compare(*handed, drilled(drill), drill.ticks, drill.seed)
        assert got.otherwise == [], (drill.name, got.ticks)
        contacts += got.contacts
    assert contacts >= 10


def test_every_drill_of_drawn_figures_is_the_same_take() -> None:
    project, figure = BOUTS["drawn figures"](Project(), Assets(Skeleton((), (), np.zeros((0, 4)), np.zeros((0, 3)))), 0)
    theirs = handed_over(project, figure)
    for drill in project.drills:
        got = compare(*theirs, drilled(drill), drill.ticks, drill.seed)
        assert got.otherwise == [], (drill.name, got.ticks)


@pytest.mark.parametrize("kind", BOUTS)
def test_whatever_two_do_it_is_the_same_take(quay: Project, assets: Assets, kind: str) -> None:
    project, figure = BOUTS[kind](quay, assets, 3)
    build, theirs = handed_over(project, figure)
    got = compare(build, theirs, at_random(project, build, 110, 3), 110, 3)
    assert (got.otherwise, got.ticks) == ([], 110)
    assert got.started > 1


@settings(max_examples=3)
@given(data=st.data())
def test_of_projects_made_at_random_it_is_the_same_take(quay: Project, assets: Assets, data: st.DataObject) -> None:
    """Every kind of span, layers of every kind, pools, gestures, reactions, things that fly, aims, scaling, partners."""
    project = data.draw(made_projects(quay))
    build, theirs = handed_over(project, assets)
    got = compare(build, theirs, at_random(project, build, 120, 7), 120, 7)
    assert (got.otherwise, got.ticks) == ([], 120)


def test_a_pose_is_handed_over_as_it_is_played(quay: Project, handed: Handed) -> None:
    """On every tick of each section, at its end and past it, each joint is where the program has it about the body."""
    build, theirs = handed
    bones = build.assets.skeleton
    for action in quay.actions:
        made = build.action(action.name)
        assert made is not None
        for part, other in zip(made.sections, theirs.actions[action.name].sections, strict=True):
            for tick in (0, part.ticks // 2, part.ticks, part.ticks + 3, part.ticks + 40):
                pose = part.past(tick)
                here = forward(bones, pose.rotation, pose.translation)[0, :, :3, 3]
                there = np.array([at for _, at in theirs.figure.placed(other.pose(tick))])
                assert np.abs(here - there).max() < 1e-5, (action.name, part.section.name, tick)


def test_a_mount_of_a_mirrored_pose_is_where_play_has_it(quay: Project, handed: Handed) -> None:
    build, theirs = handed
    for mount in quay.rig.mounts:
        for mirrored in (False, True):
            mine, other = build.mount(mount.name, mirrored), theirs.figure.mount(mount.name, mirrored)
            assert mine is not None
            assert other is not None
            assert theirs.figure.names[other[0]] == build.assets.skeleton.names[mine[0]]
            assert np.abs(mine[1][:3, 3] - other[1][1]).max() < 1e-8


def test_in_other_axes_and_units_it_is_the_same_take(quay: Project, assets: Assets) -> None:
    """Floors, ramps and all, z up, left-handed, in centimetres: the player reads them as they are said to be."""
    project = on_stage(quay, quay.stages[0].name)
    build, theirs = handed_over(project, assets, Axes("z", "left", "cm"))
    got = compare(build, theirs, at_random(project, build, 160, 1), 160, 1)
    assert (got.otherwise, got.ticks) == ([], 160)


def test_it_needs_nothing_but_python_and_says_so_where_there_is_no_export(
    quay: Project, assets: Assets, tmp_path: Path
) -> None:
    """As its users call it, without any package; the take has the fields of ours."""
    project = replace(quay, actions=quay.actions[:3], pools=(), reactions=(), drills=(), takes=(), thrown=())
    build = CompiledProject(project, assets)
    export(build, tmp_path / "out", mesh=False)
    drill = quay.drills[0]
    (tmp_path / "in.json").write_text(json.dumps([row_of(s) for s in drill.steps]))
    words = [sys.executable, "-I", "-S", str(PLAYER), str(tmp_path / "out"), "--input", str(tmp_path / "in.json")]
    words += ["--ticks", "40", "--seed", "2", "--take", str(tmp_path / "take.jsonl")]
    done = subprocess.run(words, capture_output=True, text=True, check=False)
    assert (done.returncode, done.stderr) == (0, "")
    lines = [json.loads(line) for line in (tmp_path / "take.jsonl").read_text().splitlines()]
    assert [line["tick"] for line in lines] == list(range(40))
    assert set(lines[0]["fighters"][0]) == {"name", "ground", "actions", "position", "facing", "grounded", "health"}
    assert any(line["contacts"] for line in lines)
    spoiled = tmp_path / "spoiled.json"
    for at, value, says in (
        (4, str(tmp_path), "is no export that can be played"),
        (6, str(tmp_path / "none.json"), "is no list of inputs"),
        (6, str(spoiled), "there is no fighter 'Nobody'"),
        (12, str(tmp_path / "no" / "take.jsonl"), "cannot be written"),
    ):
        spoiled.write_text('[{"tick": 1, "fighter": "Nobody", "command": "light"}]')
        done = subprocess.run([*words[:at], value, *words[at + 1 :]], capture_output=True, text=True, check=False)
        assert (done.returncode, len(done.stderr.splitlines())) == (2, 1)
        assert says in done.stderr
