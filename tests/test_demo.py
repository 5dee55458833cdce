"""The demo's clips hold what an animator would look at first: feet, seams, travel, first poses."""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np
import pytest
from tools.made import DEMO

from veergust.core.files.assets import load_assets
from veergust.core.files.folder import open_project
from veergust.core.model import Clip, Project
from veergust.core.motion import quat
from veergust.core.motion.figure import Assets
from veergust.core.motion.prepared import carried
from veergust.core.motion.quat import Array
from veergust.core.motion.sampling import sample
from veergust.core.motion.skeleton import Pose, forward
from veergust.core.motion.track import Roots
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.take.drills import run_drill
from veergust.core.study.facts import facts
from veergust.core.study.findings import findings

LOOPS = ("idle", "walk", "run", "drop")
ON_FEET = (
    "idle",
    "walk",
    "run",
    "staff_sweep",
    "staff_thrust",
    "overhead",
    "hit_front",
    "hit_back",
    "hit_left",
    "hit_right",
)


def pose_of(assets: Assets, name: str, rate: float = 240.0) -> tuple[Pose, Array]:
    motion = assets.motion(f"clips/{name}.glb", name)
    assert motion is not None
    pose = sample(assets.skeleton, motion, np.arange(0, motion.seconds, 1 / rate))
    return pose, forward(assets.skeleton, pose.rotation, pose.translation)


def planted_slide(assets: Assets, world: Array, side: str) -> float:
    """How far a foot slides while it stands (m): each unbroken run of frames with the ball of the foot down."""
    ball = world[:, assets.skeleton.index[f"toes_{side}"], :3, 3]
    worst, start = 0.0, None
    down = ball[:, 1] < 0.0275
    for f in range(len(down) + 1):
        if f < len(down) and down[f]:
            start = f if start is None else start
        elif start is not None:
            run = ball[start:f, ::2]
            worst = max(worst, float(np.linalg.norm(run - run[0], axis=1).max()))
            start = None
    return worst


@pytest.mark.parametrize("name", ON_FEET)
def test_planted_feet_slide_less_than_two_centimetres(name: str, assets: Assets) -> None:
    _, world = pose_of(assets, name)
    for side in ("left", "right"):
        assert planted_slide(assets, world, side) < 0.02


@pytest.mark.parametrize("name", LOOPS)
def test_loops_close_within_a_degree_and_a_centimetre(name: str, assets: Assets) -> None:
    motion = assets.motion(f"clips/{name}.glb", name)
    assert motion is not None
    clip = Clip(name=name, file=f"clips/{name}.glb", animation=name)
    roots = Roots(assets.skeleton.index["root"], assets.skeleton.index["hips"])
    _, left = carried(assets, clip, np.linspace(0, motion.seconds, 121), roots)
    assert quat.angle_between(left.rotation[0], left.rotation[-1]).max() < 1.0
    world = forward(assets.skeleton, left.rotation, left.translation)[..., :3, 3]
    assert np.abs(world[0] - world[-1]).max() < 0.01


def test_the_roll_travels_two_to_three_metres(assets: Assets) -> None:
    _, world = pose_of(assets, "dodge_roll")
    root = world[:, assets.skeleton.index["root"], :3, 3]
    assert 2.0 < np.linalg.norm(root[-1] - root[0]) < 3.0


@pytest.mark.parametrize("name", ["staff_sweep", "staff_thrust", "overhead", "dodge_roll", "hit_front", "fall"])
def test_actions_begin_on_the_pose_of_idle(name: str, assets: Assets) -> None:
    idle, _ = pose_of(assets, "idle")
    first, _ = pose_of(assets, name)
    assert quat.angle_between(first.rotation[0], idle.rotation[0]).max() < 3.0


@pytest.mark.parametrize("name", ["staff_sweep", "staff_thrust", "overhead"])
def test_attacks_wind_up_strike_fast_and_settle(name: str, assets: Assets) -> None:
    """The tip goes back first, is fastest in the swing, and slows to rest without a jump."""
    _, world = pose_of(assets, name)
    staff = world[:, assets.skeleton.index["staff"]]
    tip = staff[:, :3, :3] @ np.array([0, 1.12, 0]) + staff[:, :3, 3]
    speed = np.linalg.norm(np.diff(tip, axis=0), axis=1) * 240
    fastest = int(np.argmax(speed))
    assert tip[:fastest, 2].min() < tip[0, 2] - 0.1
    assert speed.max() > 8.0
    assert speed[-8:].max() < 1.0


def test_the_figure_is_a_whole_skinned_body(assets: Assets, quay: Project) -> None:
    assert 25 <= len(assets.skeleton) <= 30
    assert assets.mesh is not None
    assert np.allclose(assets.mesh.weights.sum(axis=1), 1.0, atol=1e-5)
    used = {assets.skeleton.names[j] for j in np.unique(assets.mesh.joints[assets.mesh.weights > 0])}
    assert {"hand_left", "fingers_right", "toes_left", "staff", "head", "hat"} <= used
    height = np.ptp(assets.mesh.points[:, 1][assets.mesh.joints[:, 0] != assets.skeleton.index["staff"]])
    assert 1.6 < height < 1.9


def test_the_script_makes_what_is_committed(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.syspath_prepend(str(DEMO.parent))
    import make

    target = tmp_path / "again.veergust"
    make.make(target)
    made = {p.relative_to(target) for p in target.rglob("*") if p.is_file()}
    assert made == {p.relative_to(DEMO) for p in DEMO.rglob("*") if p.is_file()}
    for path in made:
        if path.suffix == ".json":
            assert (target / path).read_bytes() == (DEMO / path).read_bytes(), path
    for path in (DEMO.parent / "to_import").iterdir():
        assert (tmp_path / "to_import" / path.name).read_bytes() == path.read_bytes(), path
    for name in (
        "make",
        "moves",
        "posing",
        "figure",
        "scenario",
        "on_foot",
        "staff",
        "drills",
        "stages",
        "arrivals",
        "bvh_out",
        "sounds",
    ):
        sys.modules.pop(name, None)


@pytest.fixture(scope="module")
def theatre() -> CompiledProject:
    folder = DEMO.parent / "paper_theatre.veergust"
    project = open_project(folder)
    return CompiledProject(project, load_assets(project, folder)[0])


def test_the_paper_theatre_has_nothing_found_and_holds_its_drills(theatre: CompiledProject) -> None:
    assert findings(theatre) == []
    assert len(theatre.project.drills) == 12
    failed = [d.name for d in theatre.project.drills if not run_drill(theatre, d).passed]
    assert failed == []


def test_the_paper_theatre_has_the_numbers_of_the_figures_it_was_drawn_from(
    theatre: CompiledProject, build: CompiledProject
) -> None:
    """To the frame; reach to what a rectangle has more than a staff."""
    for name in ("Low sweep", "Thrust", "Overhead hook", "Duck roll", "Cover"):
        flat, posed = facts(theatre, name), facts(build, name)
        assert flat is not None
        assert posed is not None
        assert (flat.startup, flat.active, flat.recovery, flat.total) == (
            posed.startup, posed.active, posed.recovery, posed.total,
        )  # fmt: skip
        assert flat.travel[2] == pytest.approx(posed.travel[2], abs=0.03)
        if posed.reach is not None:
            assert flat.reach == pytest.approx(posed.reach, abs=0.25)
