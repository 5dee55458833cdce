"""Poses keyed by hand, handles, feet, and clips as their preparation makes them."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from veergust.core.model import Clip, PoseKey, Project, RootUse
from veergust.core.motion import quat
from veergust.core.motion.feet import contacts, feet_of, toes_of
from veergust.core.motion.figure import Assets
from veergust.core.motion.handling import limb_ends, pull, turn_joint
from veergust.core.motion.mapping import leg_length
from veergust.core.motion.poses import added, key_of, overlay
from veergust.core.motion.prepared import carried, clip_pose, ends, motion_of, seconds, source_pose, times
from veergust.core.motion.skeleton import Pose, forward
from veergust.core.play.compiled.project import CompiledProject


def clip_named(quay: Project, name: str) -> Clip:
    return next(c for c in quay.clips if c.name == name)


def bent(assets: Assets, joint: str, degrees: float) -> Pose:
    pose = assets.skeleton.rest_pose()
    pose.rotation[0, assets.skeleton.index[joint]] = quat.from_axis_angle([1.0, 0.0, 0.0], degrees)
    return pose


@pytest.mark.parametrize(
    ("ease", "half"), [("linear", 0.5), ("smooth", 0.5), ("in", 0.25), ("out", 0.75), ("hold", 0.0)]
)
def test_between_two_keys_a_joint_turns_by_the_ease(assets: Assets, ease: str, half: float) -> None:
    bones, rest = assets.skeleton, assets.skeleton.rest_pose()
    keys = (key_of(bones, 0.0, rest, rest, ease), key_of(bones, 1.0, rest, bent(assets, "spine", 40.0)))
    turn, _ = added(bones, keys, np.array([-1.0, 0.5, 1.0, 9.0]))
    angle = quat.angle_between(np.broadcast_to(quat.IDENTITY, (4, 4)), turn[:, bones.index["spine"]])
    assert angle == pytest.approx([0.0, 40.0 * half, 40.0, 40.0], abs=1e-6)


def test_a_key_makes_exactly_the_pose_it_was_made_for_over_any_other(assets: Assets, quay: Project) -> None:
    clip = clip_named(quay, "staff_sweep")
    under = source_pose(assets, clip, np.array([0.4]), keyed=False)
    wanted = source_pose(assets, clip_named(quay, "overhead"), np.array([0.3]), keyed=False)
    key = key_of(assets.skeleton, 0.4, under, wanted)
    made = overlay(assets.skeleton, under, (key,), np.array([0.4]))
    assert quat.angle_between(made.rotation, wanted.rotation).max() < 1e-5
    assert np.abs(made.translation - wanted.translation).max() < 1e-8


def test_keys_of_joints_the_figure_lacks_are_passed_over(assets: Assets) -> None:
    key = PoseKey(time=0.0, turns=(("wing", (0.0, 0.0, 1.0, 0.0)),), places=(("tail", (1.0, 0.0, 0.0)),))
    rest = assets.skeleton.rest_pose()
    assert np.array_equal(overlay(assets.skeleton, rest, (key,), np.zeros(1)).translation, rest.translation)


def test_a_rough_clip_lasts_to_its_last_key_and_stands_on_the_rest_pose(assets: Assets) -> None:
    rest = assets.skeleton.rest_pose()
    clip = Clip(name="rough", poses=(PoseKey(time=0.0), key_of(assets.skeleton, 0.5, rest, bent(assets, "neck", 30.0))))
    motion = motion_of(assets, clip)
    assert motion is not None
    assert (motion.seconds, ends(assets, clip), seconds(assets, replace(clip, rate=2.0))) == (0.5, (0.0, 0.5), 0.25)
    pose = clip_pose(assets, clip, np.array([0.0, 0.5]))
    assert np.allclose(pose.rotation[0], rest.rotation[0])
    assert quat.angle_between(pose.rotation[1], rest.rotation[0])[assets.skeleton.index["neck"]] == pytest.approx(30.0)


def test_a_clip_backwards_shows_its_last_frame_first_and_travels_the_other_way(assets: Assets, quay: Project) -> None:
    clip = clip_named(quay, "walk")
    build = CompiledProject(quay, assets)
    start, end = ends(assets, clip)
    one, ahead = carried(assets, clip, times(start, end, 30), build.roots)
    two, back = carried(assets, replace(clip, reverse=True), times(start, end, 30, reverse=True), build.roots)
    assert np.array_equal(ahead.rotation[::-1], back.rotation)
    assert one.place[-1, 2] == pytest.approx(1.2, abs=1e-6)
    assert np.allclose(two.place[-1], -one.place[-1])
    turned = replace(quay, clips=tuple(replace(c, reverse=True) if c.name == "staff_sweep" else c for c in quay.clips))
    was, now = build.action("Low sweep"), CompiledProject(turned, assets).action("Low sweep")
    assert was is not None
    assert now is not None
    assert now.sections[0].source[0] == pytest.approx(was.sections[0].source[-1])
    # A tick still finds its pose and a pose its tick.
    for tick in range(now.sections[0].ticks):
        assert now.sections[0].tick_of_pose(float(now.sections[0].source[tick]), tick) == tick


def test_in_place_takes_the_travel_out_and_moves_nobody_and_a_multiplier_weighs_it(
    assets: Assets, quay: Project
) -> None:
    clip, roots = clip_named(quay, "walk"), CompiledProject(quay, assets).roots
    at = times(0.0, 1.0, 20)
    whole, left = carried(assets, clip, at, roots)
    still, same = carried(assets, replace(clip, in_place=True), at, roots)
    half, _ = carried(assets, replace(clip, root=RootUse(scale=0.5)), at, roots)
    assert not np.any(still.place)
    assert np.array_equal(left.translation, same.translation)
    assert np.allclose(half.place, whole.place * 0.5)


@given(degrees=st.floats(-170, 170), axis=st.integers(0, 2), joint=st.sampled_from(["spine", "thigh_left", "head"]))
def test_a_joint_turns_about_the_worlds_axis_or_its_own_and_nothing_above_it_moves(
    assets: Assets, degrees: float, axis: int, joint: str
) -> None:
    bones = assets.skeleton
    pose = bent(assets, "hips", 35.0)
    j = bones.index[joint]
    for local in (True, False):
        made = turn_joint(bones, pose, j, np.eye(3)[axis], degrees, local=local)
        before = forward(bones, pose.rotation, pose.translation)[0, j, :3, :3]
        after = forward(bones, made.rotation, made.translation)[0, j, :3, :3]
        spin = quat.to_matrix(quat.from_axis_angle(np.eye(3)[axis], degrees))
        assert np.allclose(after, before @ spin if local else spin @ before, atol=1e-9)
        others = [k for k in range(len(bones)) if k != j]
        assert np.array_equal(made.rotation[0, others], pose.rotation[0, others])


def test_hands_and_feet_are_pulled_by_their_limb_and_other_joints_moved_whole(assets: Assets, quay: Project) -> None:
    bones = assets.skeleton
    pose = clip_pose(assets, clip_named(quay, "idle"), np.zeros(1))
    assert {bones.names[j] for j in limb_ends(bones)} == {"hand_left", "hand_right", "foot_left", "foot_right"}
    for joint in limb_ends(bones):
        target = forward(bones, pose.rotation, pose.translation)[0, joint, :3, 3] + np.array([0.02, 0.05, 0.04])
        made = pull(bones, pose, joint, target)
        world = forward(bones, made.rotation, made.translation)[0]
        assert np.abs(world[joint, :3, 3] - target).max() < 1e-3
        assert np.array_equal(made.translation, pose.translation)
    hips = bones.index["hips"]
    made = pull(bones, pose, hips, np.array([0.0, 0.5, 0.1]))
    assert np.allclose(forward(bones, made.rotation, made.translation)[0, hips, :3, 3], [0.0, 0.5, 0.1])
    assert np.array_equal(made.rotation, pose.rotation)


def test_feet_stand_where_they_neither_move_nor_rise(assets: Assets, quay: Project) -> None:
    bones = assets.skeleton
    feet = feet_of(bones)
    assert [bones.names[f] for f in feet] == ["foot_left", "foot_right"]
    assert bones.names[toes_of(bones, feet[0])] == "toes_left"
    pose = clip_pose(assets, clip_named(quay, "walk"), times(0.0, 1.0, 60))
    places = forward(bones, pose.rotation, pose.translation)[..., :3, 3]
    found = contacts(bones, places, 1 / 60, leg_length(bones), feet)
    # Walking, each foot stands for about half of the way and never while it swings.
    for foot in feet:
        down = np.zeros(61, bool)
        for c in found:
            if c.joint == foot:
                down[c.start : c.end] = True
        assert 0.35 < down.mean() < 0.65
        high = places[:, toes_of(bones, foot), 1] > 0.06 + places[:, toes_of(bones, foot), 1].min()
        assert not (down & high).any()
    hung = places + np.array([0.0, 1.0, 0.0]) * np.linspace(0, 3, 61)[:, None, None]
    assert not contacts(bones, hung, 1 / 60, leg_length(bones), feet)
