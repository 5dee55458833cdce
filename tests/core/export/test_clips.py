"""Clips as they are handed over: what a reader of the format sees moves as the source did, in the game's axes."""

from __future__ import annotations

import itertools
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from tools.made.rigs import FAMILIES, project_of

from tests.core.export.reading import joints_over, read_glb
from tests.core.files.validating import asked, validated
from veergust.core.export.axes import Axes
from veergust.core.export.clips import clip_file, ticks_of
from veergust.core.export.poses import action_file, ground_file
from veergust.core.model import Project
from veergust.core.motion.figure import Assets
from veergust.core.motion.prepared import source_pose
from veergust.core.motion.skeleton import forward
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.scene.dress import figure_mesh

ALL_AXES = [Axes(*each) for each in itertools.product("yz", ("right", "left"), ("m", "cm"))]  # type: ignore[arg-type]


def rigid(a: np.ndarray, b: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The turn and shift that lay points ``a`` on ``b`` best (Kabsch)."""
    middle_a, middle_b = a.mean(axis=0), b.mean(axis=0)
    u, _, v = np.linalg.svd((a - middle_a).T @ (b - middle_b))
    flip = np.diag([1.0, 1.0, np.sign(np.linalg.det(v.T @ u.T))])
    turn = v.T @ flip @ u.T
    return turn, middle_b - turn @ middle_a


@pytest.mark.parametrize("family", FAMILIES)
@pytest.mark.parametrize("away", [(0.0, 0.0), (14.0, -9.0)])
def test_a_clip_moves_as_it_was_shot_wherever_that_was(tmp_path: Path, family: str, away: tuple[float, float]) -> None:
    """One rigid move, upright and along the floor, lays every joint on every tick on the source's, however the rig is
    made and wherever the cameras stood; on the first tick the body stands at the origin."""
    project, assets = project_of(family, away, turned=70.0)
    build = CompiledProject(project, assets)
    for name in ("walk", "lunge", "stagger"):
        clip = replace(next(c for c in project.clips if c.name == name), start=0.31, end=1.0)
        path = tmp_path / f"{name}.glb"
        path.write_bytes(clip_file(build, clip, Axes()))
        found, count = joints_over(path, 60.0)
        assert count == ticks_of(build, clip) + 1
        pose = source_pose(assets, clip, np.linspace(0.31, 1.0, count))
        source = forward(assets.skeleton, pose.rotation, pose.translation)[..., :3, 3]
        names = [n for n in assets.skeleton.names if n not in ("Stand", "Root")]
        exported = np.stack([found[n] for n in names], axis=1)
        shot = source[:, [assets.skeleton.index[n] for n in names]]
        turn, shift = rigid(shot[0], exported[0])
        assert np.abs(shot @ turn.T + shift - exported).max() < 1e-5
        assert turn[1] == pytest.approx([0.0, 1.0, 0.0], abs=1e-6)
        assert abs(shift[1]) < 1e-5
        hips = exported[0, names.index("Hip")]
        assert np.hypot(hips[0], hips[2]) < 0.25


def test_what_of_the_travel_is_off_stays_out_of_it(tmp_path: Path, quay: Project, assets: Assets) -> None:
    build = CompiledProject(quay, assets)
    walk = build.clip("walk")
    assert walk is not None
    path = tmp_path / "walk.glb"
    went = {}
    for in_place in (False, True):
        path.write_bytes(clip_file(build, replace(walk, in_place=in_place), Axes()))
        found, _ = joints_over(path, 60.0)
        hips = found["hips"]
        went[in_place] = float(np.hypot(*(hips[-1] - hips[0])[[0, 2]]))
    assert went[False] > 0.8
    assert went[True] < 0.05


@pytest.mark.parametrize("axes", ALL_AXES, ids=lambda a: f"{a.up} up, {a.hand}-handed, {a.unit}")
def test_in_other_axes_every_joint_is_where_it_was_said_in_those(
    tmp_path: Path, quay: Project, assets: Assets, axes: Axes
) -> None:
    build = CompiledProject(quay, assets)
    clip = build.clip("staff_sweep")
    assert clip is not None
    path = tmp_path / "clip.glb"
    path.write_bytes(clip_file(build, clip, Axes()))
    ours, count = joints_over(path, 60.0)
    path.write_bytes(clip_file(build, clip, axes))
    theirs, same = joints_over(path, 60.0)
    assert same == count
    scale = 100.0 if axes.unit == "cm" else 1.0
    for name, way in ours.items():
        x, y, z = way.T
        x = -x if axes.hand == "left" else x
        said = np.stack([x, y, z] if axes.up == "y" else [x, -z, y], axis=1) * scale
        assert np.abs(theirs[name] - said).max() < 1e-5 * scale, name


@pytest.mark.parametrize("axes", ALL_AXES, ids=lambda a: f"{a.up} up, {a.hand}-handed, {a.unit}")
def test_faces_look_outwards_in_any_axes(quay: Project, assets: Assets, axes: Axes) -> None:
    """The volume a closed mesh encloses is counted with a sign, which its faces' order gives."""
    from veergust.core.export.clips import mesh_in

    mesh = figure_mesh(assets, quay.rig)
    assert mesh is not None

    def volume(points: np.ndarray, faces: np.ndarray) -> float:
        a, b, c = (points[faces[:, n]].astype(float) for n in range(3))
        return float(np.einsum("ij,ij->", a, np.cross(b, c)) / 6)

    made = mesh_in(mesh, axes)
    assert volume(made.points, made.faces) == pytest.approx(volume(mesh.points, mesh.faces) * axes.scale**3, rel=1e-4)


@asked
@pytest.mark.parametrize("axes", [Axes(), Axes("z", "left", "cm")], ids=["ours", "others"])
def test_the_validator_finds_nothing_in_any_clip(tmp_path: Path, quay: Project, assets: Assets, axes: Axes) -> None:
    build = CompiledProject(quay, assets)
    mesh = figure_mesh(assets, quay.rig)
    for n, clip in enumerate(quay.clips):
        path = tmp_path / f"{clip.name}.glb"
        path.write_bytes(clip_file(build, clip, axes, mesh if n % 2 else None))
        if n % 8 == 0 or clip.reverse or clip.mirror:
            validated(path)


@asked
def test_nor_in_the_poses_of_actions_and_of_locomotion(tmp_path: Path, quay: Project, assets: Assets) -> None:
    build = CompiledProject(quay, assets)
    compiled = build.action("Braced charge")
    assert compiled is not None
    made = {"action": action_file(compiled, assets.skeleton, 60, Axes("z", "left", "cm")),
            "walk": ground_file("walk", build.locomotion_clip("walk"), Axes()),
            "none": ground_file("nothing", build.locomotion_clip("there is none"), Axes())}  # fmt: skip
    for name, data in made.items():
        path = tmp_path / f"{name}.glb"
        path.write_bytes(data)
        validated(path)


def test_a_clip_is_under_its_name_with_the_skeleton_whole(quay: Project, assets: Assets) -> None:
    build = CompiledProject(quay, assets)
    document, _ = read_glb(clip_file(build, quay.clips[0], Axes()))
    assert document["animations"][0]["name"] == quay.clips[0].name
    assert [n["name"] for n in document["nodes"]] == list(assets.skeleton.names)
