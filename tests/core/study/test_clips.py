"""What is proposed for a clip: cuts, loops, joins; and what the person is told about feet and uses."""

from __future__ import annotations

from dataclasses import replace as changed

import numpy as np
import pytest
from msgspec.structs import replace
from tools.made import readings

from veergust.core.model import Clip, FootSpan, Project
from veergust.core.motion import quat
from veergust.core.motion.feet import feet_of
from veergust.core.motion.figure import Assets
from veergust.core.motion.prepared import about_body, clip_pose, times
from veergust.core.motion.sampling import Motion, Track
from veergust.core.motion.skeleton import Pose, forward
from veergust.core.motion.track import Roots
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.clip_reading import Reading, used_frames
from veergust.core.study.joins import join
from veergust.core.study.preparing import best_loop, leading_rest, proposals, quiet_ends, seam
from veergust.core.study.uses import uses


def clip_named(quay: Project, name: str) -> Clip:
    return next(c for c in quay.clips if c.name == name)


def roots_of(assets: Assets) -> Roots:
    return Roots(assets.skeleton.index["root"], assets.skeleton.index["hips"])


def read_clip(assets: Assets, clip: Clip) -> Reading:
    return readings.read_clip(assets, clip, "root")


def of_poses(assets: Assets, poses: list[Pose], fps: float = 60.0) -> tuple[Assets, Clip]:
    """A cast with one more motion, keyed with these poses frame by frame."""
    at = np.arange(len(poses)) / fps
    turn = np.concatenate([p.rotation for p in poses])
    place = np.concatenate([p.translation for p in poses])
    tracks = []
    for j in range(len(assets.skeleton)):
        tracks += [Track(j, "rotation", "LINEAR", at, turn[:, j]), Track(j, "translation", "LINEAR", at, place[:, j])]
    motion = Motion("made", float(at[-1]), fps, tuple(tracks))
    return Assets(assets.skeleton, assets.mesh, {("made.glb", "made"): motion}), Clip(name="made", file="made.glb")


def frames_of(assets: Assets, clip: Clip, count: int, start: float = 0.0, end: float | None = None) -> list[Pose]:
    pose = clip_pose(assets, clip, times(start, end if end is not None else (count - 1) / 60, count - 1))
    return [pose.frame(i) for i in range(count)]


def test_a_rest_pose_left_over_from_the_export_is_seen_and_a_meant_one_is_not(assets: Assets, quay: Project) -> None:
    sweep = frames_of(assets, clip_named(quay, "overhead"), 64)
    rest = assets.skeleton.rest_pose()
    bad, clip = of_poses(assets, [rest, *sweep])
    reading = read_clip(bad, clip)
    assert leading_rest(reading) == 1
    found = proposals(reading, 0, 64)
    assert found[0].says == "first frame is the rest pose: start at 1"
    assert (found[0].edge, found[0].frame, found[0].seconds) == ("in", 1, pytest.approx(1 / 60))
    assert [p for p in proposals(reading, 1, 64) if p.edge == "in"] == []
    assert leading_rest(read_clip(assets, clip_named(quay, "overhead"))) == 0


def test_pre_roll_and_tail_are_found_whatever_stands_still_there(assets: Assets, quay: Project) -> None:
    sweep = frames_of(assets, clip_named(quay, "overhead"), 61)[1:]
    made, clip = of_poses(assets, [sweep[0]] * 30 + sweep + [sweep[-1]] * 25)
    reading = read_clip(made, clip)
    start, end = quiet_ends(reading)
    assert 28 <= start <= 31
    assert 84 <= end <= 91
    says = [p.says for p in proposals(reading, 0, 114)]
    assert says == [f"pre-roll: still until frame {start}", f"tail: still from frame {end}"]
    assert proposals(read_clip(made, replace(clip, loop=True)), 0, 114) == []


def test_the_frame_nearest_to_idle_is_proposed_when_the_clip_starts_farther_off(assets: Assets, quay: Project) -> None:
    idle = clip_pose(assets, clip_named(quay, "idle"), np.zeros(1))
    thrust = frames_of(assets, clip_named(quay, "staff_thrust"), 49)
    # It comes out of a thrust, stands in idle for a moment on frame 35 and goes on.
    into = frames_of(assets, clip_named(quay, "staff_thrust"), 35, 14 / 60, 48 / 60)
    made, clip = of_poses(assets, [*into, idle, *thrust])
    found = [p for p in proposals(read_clip(made, clip), 0, 84, idle) if p.edge == "in"]
    assert [p.says for p in found] == ["pre-roll: nearest to idle at frame 35"]


def test_the_seam_of_a_lap_is_nothing_and_the_best_loop_finds_the_lap(assets: Assets, quay: Project) -> None:
    walk = clip_named(quay, "walk")
    lap = frames_of(assets, walk, 61)
    # A lap and a half, walked on: the pair that meets best is a whole lap apart.
    step = assets.skeleton.index["root"]
    more = []
    for pose in lap[1:31]:
        place = pose.translation.copy()
        place[0, step, 2] += 1.2
        more.append(Pose(pose.rotation, place))
    made, clip = of_poses(assets, lap + more)
    reading = read_clip(made, clip)
    best = best_loop(reading)
    assert best is not None
    assert best[1] - best[0] == 60
    assert seam(reading, *best).pose < 0.2
    half = seam(reading, 0, 30)
    assert half.pose > 5.0
    assert half.speed > 10.0
    assert best_loop(read_clip(*of_poses(assets, lap[:5]))) is None


def test_a_join_is_told_joint_by_joint_with_the_best_frame_and_a_fade(assets: Assets, quay: Project) -> None:
    run, idle = clip_named(quay, "run"), clip_named(quay, "idle")
    reading = read_clip(assets, run)
    pose = about_body(assets, run, float(reading.times[20]), roots_of(assets))
    same = join(reading, 20, pose, 60)
    assert same.overall == pytest.approx(0.0, abs=1e-9)
    assert (same.best, same.fade) == (20, 2)
    other = join(reading, 20, about_body(assets, idle, 0.0, roots_of(assets)), 60)
    assert other.overall > 5.0
    assert other.best_overall <= other.overall
    assert other.fade > same.fade
    assert join(reading, 20, about_body(assets, idle, 0.0, roots_of(assets)), 120).fade == pytest.approx(
        2 * other.fade, abs=1
    )
    names = [name for name, _, _ in other.worst(3)]
    assert len(set(names)) == 3
    assert other.worst(1)[0][1] == pytest.approx(other.degrees.max())


def test_where_the_figure_stands_and_looks_does_not_matter_to_a_join(assets: Assets, quay: Project) -> None:
    walk = clip_named(quay, "walk")
    reading = read_clip(assets, walk)
    frames = frames_of(assets, walk, 61)
    moved = [elsewhere(assets, pose, 1.1, np.array([3.0, 0.0, -2.0])) for pose in frames]
    far, clip = of_poses(assets, moved)
    for root in ("", "hips"):
        pose = about_body(far, replace(clip, root_joint=root), float(reading.times[10]), roots_of(assets))
        other = read_clip(assets, replace(walk, root_joint=root))
        assert join(other, 10, pose, 60).overall == pytest.approx(0.0, abs=1e-6)


def elsewhere(assets: Assets, pose: Pose, yaw: float, at: np.ndarray) -> Pose:
    """The pose turned about the origin and moved, as a take that was shot off it."""
    spin = quat.from_yaw(yaw)
    turn, place = pose.rotation.copy(), pose.translation.copy()
    turn[:, 0] = quat.multiply(spin, turn[:, 0])
    place[:, 0] = quat.rotate(spin, place[:, 0]) + at
    return Pose(turn, place)


def test_a_foot_slides_as_far_as_the_body_does_not_go_with_it(assets: Assets, quay: Project) -> None:
    walk = clip_named(quay, "walk")
    for clip, least, most in (
        (walk, 0.0, 0.6),
        (replace(walk, in_place=True), 25.0, 70.0),
        (replace(walk, root=replace(walk.root, scale=0.5)), 12.0, 36.0),
    ):
        reading = read_clip(assets, clip)
        slides = [reading.slide(c) for c in reading.contacts if c.end - c.start > 20]
        assert slides
        assert all(least <= s <= most for s in slides), slides


def test_feet_set_by_hand_stand_in_place_of_those_found(assets: Assets, quay: Project) -> None:
    clip = replace(clip_named(quay, "walk"), contacts=(FootSpan(joint="foot_left", start=0.1, end=0.2),))
    reading = read_clip(assets, clip)
    assert [(c.joint, c.start, c.end) for c in reading.contacts] == [(feet_of(assets.skeleton)[0], 6, 12)]
    assert used_frames(assets, reading) == (0, 60)


def test_a_reading_carries_the_figure_as_the_source_does(assets: Assets, quay: Project) -> None:
    reading = read_clip(assets, clip_named(quay, "staff_sweep"))
    assert np.abs(reading.world(slice(None))[..., :3, 3] - reading.joints).max() < 1e-9
    assert reading.speed.max() > 0.5
    assert 0.6 < reading.height.min() < reading.height.max() < 1.1


def test_everything_that_plays_a_clip_is_named(quay: Project) -> None:
    assert uses(quay, "staff_sweep") == ["Low sweep"]
    assert uses(quay, "walk") == ["ground walk", "ground run"]
    assert uses(quay, "nothing") == []


def test_an_edited_clip_recompiles_what_plays_it_and_nothing_else(quay: Project, assets: Assets) -> None:
    build = CompiledProject(quay, assets)
    sweep, thrust, walk = build.action("Low sweep"), build.action("Thrust"), build.locomotion_clip("walk")
    clips = tuple(replace(c, mirror=True) if c.name == "staff_sweep" else c for c in quay.clips)
    later = build.renew(replace(quay, clips=clips))
    assert later.action("Thrust") is thrust
    assert later.locomotion_clip("walk") is walk
    changed = later.action("Low sweep")
    assert changed is not sweep
    assert changed is not None
    assert changed.sections[0].mirrored(0)


@pytest.mark.parametrize("changes", [{}, {"mirror": True}, {"reverse": True}, {"root_joint": "hips"}, {"rate": 2.0}])
def test_the_way_of_a_clip_is_that_of_its_poses(assets: Assets, quay: Project, changes: dict[str, object]) -> None:
    from veergust.core.motion.prepared import carried
    from veergust.core.study.lengths import clip_travel, length_and_travel

    roots = roots_of(assets)
    for name in ("dodge_roll", "overhead"):
        clip = replace(clip_named(quay, name), **changes)
        reading = read_clip(assets, clip)
        at = times(0.0, float(reading.times[-1]), len(reading.times) - 1, clip.reverse)
        whole, _ = carried(assets, clip, at, roots)
        alone = clip_travel(assets, clip, roots)
        assert np.array_equal(alone.place, whole.place)
        # Where the joint that carries the body goes in the source, the body goes: at both ends exactly.
        joint = assets.skeleton.index[clip.root_joint or "root"]
        source = clip_pose(assets, clip, at[[0, -1]])
        gone = forward(assets.skeleton, source.rotation, source.translation)[:, joint, :3, 3]
        assert np.linalg.norm((gone[1] - gone[0])[[0, 2]]) == pytest.approx(np.linalg.norm(whole.place[-1][[0, 2]]))
        seconds, far = length_and_travel(assets, clip, roots)
        assert far == pytest.approx(float(np.linalg.norm(whole.place[-1])))
        assert seconds == pytest.approx(float(reading.times[-1]) / clip.rate)


def test_a_clip_of_one_moment_is_read(assets: Assets) -> None:
    """A rough clip that has a key at its beginning and no other lasts no time at all."""
    from veergust.core.model import PoseKey

    for poses in ((), (PoseKey(time=0.0),)):
        reading = read_clip(assets, Clip(name="still", poses=poses))
        assert reading.frame_of(0.5) in (0, 1)
        assert used_frames(assets, reading) == (0, 0)
        assert np.isfinite(reading.speed).all()
        assert reading.contacts is not None


def test_speed_is_over_the_floor_and_not_up(assets: Assets, quay: Project) -> None:
    """A body that only falls has no speed over the floor."""
    reading = read_clip(assets, clip_named(quay, "idle"))
    way = np.zeros_like(reading.joints)
    way[..., 1] = np.arange(len(way))[:, None] * 0.1
    assert changed(reading, joints=way).speed.max() == 0.0
    way[..., 0] = np.arange(len(way))[:, None] * reading.step
    assert changed(reading, joints=way).speed == pytest.approx(np.ones(len(way)))
