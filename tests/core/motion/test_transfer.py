"""Foreign skeletons: what answers to what, and motion carried over."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from tools.made.foreign import MANNERS, as_bvh, names_in, t_pose

from veergust.core.files.bvh_read import read_bvh
from veergust.core.files.motion_file import MotionFile, fingerprint
from veergust.core.files.reading import source_rig
from veergust.core.motion import quat
from veergust.core.motion.feet import contacts, feet_of
from veergust.core.motion.figure import Assets
from veergust.core.motion.mapping import leg_length, propose
from veergust.core.motion.sampling import Motion, sample
from veergust.core.motion.skeleton import Skeleton, forward
from veergust.core.motion.transfer import transfer

LYING = quat.from_axis_angle([1.0, 0.0, 0.0], 90.0)
BACKWARDS = quat.from_yaw(np.pi)


def motion_of(assets: Assets, name: str) -> Motion:
    motion = assets.motion(f"clips/{name}.glb", name)
    assert motion is not None
    return motion


def foreign(assets: Assets, tmp_path: Path, name: str = "staff_sweep", **options: object) -> MotionFile:
    options.setdefault("names", names_in("camel"))
    options.setdefault("bind", t_pose(assets.skeleton))
    path = tmp_path / f"{name}.bvh"
    path.write_text(as_bvh(assets, motion_of(assets, name), **options))  # type: ignore[arg-type]
    return read_bvh(path)


def places(bones: Skeleton, motion: Motion, at: np.ndarray) -> np.ndarray:
    pose = sample(bones, motion, at)
    return forward(bones, pose.rotation, pose.translation)[:, :, :3, 3]


@pytest.mark.parametrize("lie", [None, LYING, BACKWARDS], ids=["upright", "z up", "backwards"])
@pytest.mark.parametrize("prefix", ["", "set:", "Fig01_"])
@pytest.mark.parametrize("manner", MANNERS)
def test_joints_are_matched_whatever_their_names_prefix_axes_unit_and_rest_pose(
    assets: Assets, tmp_path: Path, manner: str, prefix: str, lie: np.ndarray | None
) -> None:
    names = names_in(manner, prefix)
    content = foreign(assets, tmp_path, names=names, lie=lie, unit=39.37)
    found = propose(content.skeleton, assets.skeleton)
    assert {p.figure: p.source for p in found.pairs} == names
    assert found.scale == pytest.approx(1 / 39.37, rel=1e-4)


@pytest.mark.parametrize("lie", [None, LYING, BACKWARDS], ids=["upright", "z up", "backwards"])
def test_bones_point_where_they_pointed_and_the_body_goes_as_far(
    assets: Assets, tmp_path: Path, lie: np.ndarray | None
) -> None:
    content = foreign(assets, tmp_path, lie=lie)
    rig = source_rig(content.skeleton, assets.skeleton, ())
    out = transfer(content.skeleton, content.motions[0], assets.skeleton, rig)
    at = np.arange(0, 1.0, 1 / 30)
    gap = np.linalg.norm(
        places(assets.skeleton, motion_of(assets, "staff_sweep"), at) - places(assets.skeleton, out, at), axis=-1
    )
    mapped = [assets.skeleton.index[name] for name in names_in("camel")]
    assert gap[:, mapped].max() < 0.005


def test_joints_without_telling_names_are_matched_by_where_they_stand(assets: Assets, tmp_path: Path) -> None:
    names = {own: f"bone.{i:03d}" for i, own in enumerate(names_in("camel"))}
    content = foreign(assets, tmp_path, names=names, bind=None)
    found = propose(content.skeleton, assets.skeleton)
    right = [p for p in found.pairs if names.get(p.figure) == p.source]
    assert len(right) >= 18
    assert {p.reason for p in found.pairs} == {"position"}


def test_a_shorter_figure_takes_shorter_steps_and_its_feet_stay_planted(assets: Assets, tmp_path: Path) -> None:
    bones = assets.skeleton
    small = Skeleton(bones.names, bones.parents, bones.rest_rotation, bones.rest_translation * 0.6)
    # Wider hips, so that the feet would slide if they were only turned as the source's are.
    wide = small.rest_translation.copy()
    for side in ("left", "right"):
        wide[bones.index[f"thigh_{side}"], 0] *= 1.8
    small = Skeleton(bones.names, bones.parents, bones.rest_rotation, wide)
    content = foreign(assets, tmp_path, "staff_sweep", bind=None, fps=60.0)
    rig = source_rig(content.skeleton, small, ())
    assert rig.scale * 100 == pytest.approx(0.6, abs=1e-3)
    out = transfer(content.skeleton, content.motions[0], small, rig)
    at = np.arange(round(out.seconds * 60) + 1) / 60
    here, there = places(bones, motion_of(assets, "staff_sweep"), at), places(small, out, at)
    hips = bones.index["hips"]
    assert np.allclose(np.ptp(there[:, hips], axis=0), np.ptp(here[:, hips], axis=0) * 0.6, atol=0.01)
    spans = contacts(bones, here, 1 / 60, leg_length(bones), feet_of(bones))
    assert spans
    for span in spans:
        own = np.ptp(here[span.start : span.end, span.joint], axis=0).max()
        kept = np.ptp(there[span.start : span.end, span.joint], axis=0).max()
        assert kept < 0.6 * own + 0.012, bones.names[span.joint]


def test_a_skeleton_is_known_again_by_its_mark_whatever_moves_on_it(assets: Assets, tmp_path: Path) -> None:
    one, two = foreign(assets, tmp_path, "staff_sweep"), foreign(assets, tmp_path, "walk")
    assert fingerprint(one.skeleton) == fingerprint(two.skeleton)
    other = foreign(assets, tmp_path, "walk", names=names_in("short"))
    assert fingerprint(other.skeleton) != fingerprint(one.skeleton)
