"""Edits of clips, their poses, and the figure's mounts and props: each one step, with words."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from veergust.core.edit.clips import clip_of, remove_clip, rename_clip, set_clip
from veergust.core.edit.poses import (
    ease_pose,
    frame,
    insert_time,
    key_index,
    move_pose,
    new_rough,
    put_pose,
    remove_pose,
)
from veergust.core.edit.rig import add_mount, add_prop, mount_users, remove_mount, remove_prop, set_mount, set_weapon
from veergust.core.files.as_files import project_files, project_from_files
from veergust.core.model import Clip, Layer, Project
from veergust.core.motion import quat
from veergust.core.motion.figure import Assets
from veergust.core.motion.prepared import clip_pose
from veergust.core.motion.skeleton import Pose, mirror
from veergust.core.trouble import Trouble


def named(project: Project, name: str) -> Clip:
    clip = clip_of(project, name)
    assert clip is not None
    return clip


def test_a_renamed_clip_is_renamed_wherever_it_is_named(quay: Project) -> None:
    project = replace(quay, layers=(*quay.layers, Layer(name="Breath", mode="additive", reference="walk")))
    edit = rename_clip(project, "walk", "stroll")
    assert edit.words == "walk: renamed stroll"
    assert all(s.clip != "walk" and all(p.clip != "walk" for p in s.blend) for s in edit.project.locomotion.states)
    assert edit.project.layers[-1].reference == "stroll"
    assert named(edit.project, "stroll").file == "clips/walk.glb"
    sweep = rename_clip(quay, "staff_sweep", "sweep").project
    assert {c.clip for s in sweep.actions[0].sections for c in s.cuts} == {"sweep"}
    for new, says in (("idle", "already"), ("  ", "empty")):
        with pytest.raises(Trouble, match=says):
            rename_clip(quay, "walk", new)


def test_a_clip_that_is_played_is_not_removed(quay: Project) -> None:
    with pytest.raises(Trouble, match="staff_sweep is played by Low sweep"):
        remove_clip(quay, "staff_sweep")
    project = replace(quay, clips=(*quay.clips, Clip(name="spare", file="clips/idle.glb")))
    assert remove_clip(project, "spare").project == quay


def test_settings_of_a_clip_are_said_in_words_and_senseless_ones_refused(quay: Project) -> None:
    assert set_clip(quay, "walk", loop=False).words == "walk: not loops"
    assert set_clip(quay, "walk", rate=1.25).words == "walk: rate 1.25"
    assert named(set_clip(quay, "walk", start=0.2).project, "walk").start == 0.2
    with pytest.raises(Trouble, match="end before it begins"):
        set_clip(quay, "walk", start=0.5, end=0.4)
    with pytest.raises(Trouble, match="above 0"):
        set_clip(quay, "walk", rate=0.0)


@pytest.fixture
def rough(quay: Project, assets: Assets) -> Project:
    edit, name = new_rough(quay, assets, "overhead", 0.3)
    assert name == "rough"
    return edit.project


def pose_at(project: Project, assets: Assets, name: str, time: float) -> Pose:
    return clip_pose(assets, named(project, name), np.array([time]))


def test_a_rough_clip_starts_as_the_pose_it_was_made_from_and_is_saved_with_the_project(
    rough: Project, quay: Project, assets: Assets
) -> None:
    want = pose_at(quay, assets, "overhead", 0.3)
    for time in (0.0, 0.2, 0.4):
        assert quat.angle_between(pose_at(rough, assets, "rough", time).rotation, want.rotation).max() < 1e-5
    assert project_from_files(project_files(rough), "x.veergust") == rough
    assert new_rough(rough, assets, "", 0.0)[1] == "rough_2"


def test_a_pose_is_keyed_on_its_frame_and_keyed_again_in_place(rough: Project, assets: Assets) -> None:
    idle = pose_at(rough, assets, "idle", 0.0)
    once = put_pose(rough, assets, "rough", 0.1, idle)
    assert once.words == "rough: pose at frame 6"
    clip = named(once.project, "rough")
    assert [frame(rough, k.time) for k in clip.poses] == [0, 6, 24]
    assert quat.angle_between(pose_at(once.project, assets, "rough", 0.1).rotation, idle.rotation).max() < 1e-5
    again = put_pose(once.project, assets, "rough", 0.1, pose_at(rough, assets, "overhead", 0.5))
    assert len(named(again.project, "rough").poses) == 3
    back = remove_pose(once.project, "rough", 1)
    assert back.project == rough


def test_a_correction_changes_three_frames_to_either_side_and_no_more(quay: Project, assets: Assets) -> None:
    before = pose_at(quay, assets, "staff_sweep", 0.5)
    fixed = Pose(before.rotation.copy(), before.translation)
    joint = assets.skeleton.index["head"]
    fixed.rotation[0, joint] = quat.multiply(fixed.rotation[0, joint], quat.from_axis_angle([0.0, 1.0, 0.0], 25.0))
    project = put_pose(quay, assets, "staff_sweep", 0.5, fixed).project
    assert [frame(quay, k.time) for k in named(project, "staff_sweep").poses] == [27, 30, 33]
    for tick in range(70):
        gap = quat.angle_between(
            pose_at(project, assets, "staff_sweep", tick / 60).rotation,
            pose_at(quay, assets, "staff_sweep", tick / 60).rotation,
        )[0]
        if tick == 30:
            assert gap.max() == pytest.approx(25.0, abs=1e-4)
        assert bool(gap.max() > 1e-4) is (27 < tick < 33)
        assert np.delete(gap, joint).max() < 1e-4
    # The source's own file is not named anew: the correction lies over it.
    assert named(project, "staff_sweep").file == named(quay, "staff_sweep").file


def test_a_pose_keyed_on_a_mirrored_clip_is_the_one_that_was_seen(quay: Project, assets: Assets) -> None:
    project = set_clip(quay, "staff_sweep", mirror=True).project
    wanted = mirror(assets.skeleton, pose_at(quay, assets, "overhead", 0.2))
    made = put_pose(project, assets, "staff_sweep", 0.5, wanted).project
    assert quat.angle_between(pose_at(made, assets, "staff_sweep", 0.5).rotation, wanted.rotation).max() < 1e-5


def test_keys_move_between_their_neighbours_and_time_is_put_in_and_taken_out(rough: Project, assets: Assets) -> None:
    project = put_pose(rough, assets, "rough", 0.1, pose_at(rough, assets, "idle", 0.0)).project

    def frames(p: Project) -> list[int]:
        return [frame(p, k.time) for k in named(p, "rough").poses]

    assert frames(move_pose(project, "rough", 1, 12).project) == [0, 12, 24]
    assert frames(move_pose(project, "rough", 1, 99).project) == [0, 23, 24]
    assert frames(move_pose(project, "rough", 1, -5).project) == [0, 1, 24]
    longer = insert_time(project, "rough", 6, 6)
    assert (frames(longer.project), longer.words) == ([0, 12, 30], "rough: 6 frames in at 6")
    assert frames(insert_time(longer.project, "rough", 6, -6).project) == [0, 6, 24]
    assert frames(insert_time(project, "rough", 1, -60).project) == [0, 1, 2]
    assert named(ease_pose(project, "rough", 1, "hold").project, "rough").poses[1].ease == "hold"
    with pytest.raises(Trouble, match="its source's"):
        insert_time(project, "walk", 3, 2)
    one = remove_pose(remove_pose(project, "rough", 2).project, "rough", 1).project
    with pytest.raises(Trouble, match="needs a pose"):
        remove_pose(one, "rough", 0)


@given(moves=st.lists(st.tuples(st.integers(0, 2), st.integers(-10, 60)), max_size=8))
def test_keys_never_pass_one_another(quay: Project, assets: Assets, moves: list[tuple[int, int]]) -> None:
    project = new_rough(quay, assets, "idle", 0.0)[0].project
    project = put_pose(project, assets, "rough", 0.2, pose_at(project, assets, "overhead", 0.2)).project
    for index, to in moves:
        project = move_pose(project, "rough", index, to).project
        keys = named(project, "rough").poses
        assert all(a.time < b.time for a, b in zip(keys, keys[1:]))
        assert keys[0].time >= 0
        assert all(key_index(named(project, "rough"), k.time) == i for i, k in enumerate(keys))


def test_mounts_and_props_are_added_placed_and_taken_away_unless_something_rides_on_them(quay: Project) -> None:
    edit, name = add_mount(quay, "hand_left", "shield")
    project = set_mount(edit.project, name, offset=(0.0, 0.1, 0.0)).project
    assert project.rig.mounts[-1].offset == (0.0, 0.1, 0.0)
    edit, prop = add_prop(project, "clips/buckler.glb", name, "buckler")
    project = edit.project
    assert mount_users(project, name) == ["prop buckler"]
    with pytest.raises(Trouble, match="carries prop buckler"):
        remove_mount(project, name)
    project = remove_mount(remove_prop(project, prop).project, name).project
    assert project == quay
    assert "the weapon's line" in mount_users(quay, "tip")
    ridden = quay.actions[0].sections[1].strikes[0].boxes[0].mount
    assert "Low sweep › Sweep" in mount_users(quay, ridden)
    line = set_weapon(quay, "butt", "tip")
    assert line.words == "Sweep line butt → tip"
    assert set_weapon(quay, "tip", "tip").project.rig.weapon is None
