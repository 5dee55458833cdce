"""The body's track, held against joints of the source in the world that are worked out elsewhere."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from tools.made import DEMO
from tools.made.captures import NAMES, Capture, capture, write_bvh

from veergust.core.files.assets import load_assets
from veergust.core.files.importing import import_file
from veergust.core.files.saving import save_project
from veergust.core.model import Clip, Project, RootUse
from veergust.core.motion.figure import Assets
from veergust.core.motion.prepared import about_body, carried, track_of
from veergust.core.motion.quat import Array
from veergust.core.motion.sampling import Motion, Track
from veergust.core.motion.skeleton import Pose, Skeleton, forward
from veergust.core.motion.track import Roots
from veergust.core.play.compiled.project import CompiledProject


@pytest.fixture(scope="module")
def taken() -> Capture:
    return capture()


@pytest.fixture(scope="module")
def shot(taken: Capture, tmp_path_factory: pytest.TempPathFactory) -> tuple[Project, Assets]:
    return arrived(taken, tmp_path_factory.mktemp("shot"))


def arrived(taken: Capture, folder: Path) -> tuple[Project, Assets]:
    """A capture in a project begun from nothing, with its own rig."""
    home = folder / "made.veergust"
    save_project(Project(name="made"), home)
    project = import_file(Project(name="made"), home, write_bvh(folder, taken)).project
    return project, load_assets(project, home)[0]


def placed(place: Array, yaw: Array, left: Pose, assets: Assets) -> Array:
    """The capture's joints ``[F, J, 3]`` of poses about bodies, put where the bodies are. Written out on purpose."""
    local = forward(assets.skeleton, left.rotation, left.translation)[:, [assets.skeleton.index[n] for n in NAMES]][
        ..., :3, 3
    ]
    c, s = np.cos(yaw)[:, None], np.sin(yaw)[:, None]
    x, y, z = local[..., 0], local[..., 1], local[..., 2]
    return np.stack([c * x + s * z, y, c * z - s * x], -1) + place[:, None]


def in_frame(places: Array, place: Array, yaw: float) -> Array:
    """World places seen from a body."""
    gone = places - place
    c, s = np.cos(-yaw), np.sin(-yaw)
    return np.stack([c * gone[..., 0] + s * gone[..., 2], gone[..., 1], c * gone[..., 2] - s * gone[..., 0]], -1)


@settings(max_examples=25)
@given(start=st.floats(0.0, 4.5), much=st.floats(0.1, 1.4), smooth=st.floats(0.0, 0.6), forward_=st.floats(-180, 180))
def test_pose_and_body_are_the_source_wherever_it_is_cut(
    shot: tuple[Project, Assets], taken: Capture, start: float, much: float, smooth: float, forward_: float
) -> None:
    project, assets = shot
    build = CompiledProject(project, assets)
    clip = replace(project.clips[0], smooth=smooth, forward=forward_)
    # On frames of the source, for between them the program has its own interpolation.
    frames = np.round(np.linspace(start, start + much, 40) * taken.fps) / taken.fps
    travel, left = carried(assets, clip, frames, build.roots)
    body, heading = track_of(assets, clip, build.roots).at(frames[:1])
    ours = placed(travel.place, travel.yaw, left, assets)
    wanted = in_frame(taken.at(frames), body[0], float(heading[0]))
    assert np.abs(ours - wanted).max() < 1e-5
    # And the figure stands over its capsule on every frame: the hips are no farther off than what was smoothed away.
    hips = forward(assets.skeleton, left.rotation, left.translation)[:, 0, :3, 3]
    assert np.linalg.norm(hips[:, [0, 2]], axis=-1).max() < 0.02 + 1.0 * smooth


def test_the_figure_looks_where_its_body_looks_however_it_was_shot(tmp_path: Path) -> None:
    """Turned by any angle, the same take gives the same poses about its body."""
    poses = []
    for n, turned in enumerate((0.0, 130.0, -77.0)):
        folder = tmp_path / str(n)
        folder.mkdir()
        project, assets = arrived(capture(seconds=2.0, turned=turned, noise=0.0), folder)
        left = carried(assets, project.clips[0], np.linspace(0.2, 1.8, 20), CompiledProject(project, assets).roots)[1]
        poses.append(forward(assets.skeleton, left.rotation, left.translation)[..., :3, 3])
        hips = forward(assets.skeleton, left.rotation, left.translation)[:, 0]
        looks = np.degrees(np.arctan2(hips[:, 0, 2], hips[:, 2, 2]))
        assert np.abs(looks).max() < 8.0  # the sway that stays in the pose
    assert np.abs(poses[1] - poses[0]).max() < 2e-4
    assert np.abs(poses[2] - poses[0]).max() < 2e-4


def test_a_swaying_pelvis_does_not_swing_the_capsule(shot: tuple[Project, Assets]) -> None:
    project, assets = shot
    build, at = CompiledProject(project, assets), np.linspace(0.5, 2.0, 90)
    swings = []
    for smooth in (0.0, 0.2, 0.4):
        yaw = np.degrees(track_of(assets, replace(project.clips[0], smooth=smooth), build.roots).at(at)[1])
        straight = np.polyval(np.polyfit(at, yaw, 1), at)
        swings.append(np.abs(yaw - straight).max())
    assert swings[0] > 5.0
    assert swings[1] < 0.7 * swings[0]
    assert swings[2] < 0.35 * swings[0]


@pytest.mark.parametrize("part", ["forward", "side", "up", "turn"])
@settings(max_examples=8)
@given(first=st.floats(0.3, 4.0))
def test_what_is_off_stays_in_the_pose_counted_from_the_first_used_frame(
    shot: tuple[Project, Assets], taken: Capture, part: str, first: float
) -> None:
    project, assets = shot
    use = replace(RootUse(forward=False, side=False, turn=False), **{part: True})
    clip = replace(project.clips[0], start=first, root=use)
    build, at = CompiledProject(project, assets), np.linspace(first, first + 1.5, 60)
    frames = np.round(at * taken.fps) / taken.fps
    place, yaw = track_of(assets, clip, build.roots).at(frames)
    _, left = carried(assets, clip, frames, build.roots)
    assert np.abs(placed(place, yaw, left, assets) - taken.at(frames)).max() < 1e-5
    whole = track_of(assets, replace(clip, root=RootUse()), build.roots).at(np.array([first]))
    began = track_of(assets, clip, build.roots).at(np.array([first]))
    assert np.allclose(began[0][0, [0, 2]], whole[0][0, [0, 2]], atol=1e-9)
    assert began[1][0] == pytest.approx(whole[1][0])
    gone = in_frame(place, place[0], float(yaw[0]))
    still = {"forward": [0, 1], "side": [1, 2], "up": [0, 2], "turn": [0, 1, 2]}[part]
    assert np.abs(gone[:, still]).max() < 1e-9
    if part != "turn":
        assert np.ptp(yaw) < 1e-9


def made(assets: Skeleton, **tracks: Array) -> tuple[Assets, Clip]:
    """A cast of one motion at 60 a second with places of joints by name."""
    frames = len(next(iter(tracks.values())))
    at = np.arange(frames) / 60.0
    motion = Motion("m", float(at[-1]), 60.0, tuple(
        Track(assets.index[name], "translation", "LINEAR", at, values) for name, values in tracks.items()
    ))  # fmt: skip
    return Assets(assets, None, {("m.glb", "m"): motion}), Clip(name="m", file="m.glb")


def test_what_a_root_joint_never_moves_is_the_hips(assets: Assets) -> None:
    bones = assets.skeleton
    roots = Roots(bones.index["root"], bones.index["hips"])
    rest = bones.rest_translation[roots.hips]
    walk = rest + np.linspace(0.0, 2.0, 61)[:, None] * np.array([0.0, 0.0, 1.0])
    lean = rest + 0.15 * np.sin(np.linspace(0.0, 3.0, 61))[:, None] * np.array([0.0, 0.0, 1.0])
    still = np.zeros((61, 3))
    walks, clip = made(bones, root=still, hips=walk)
    found = track_of(walks, clip, roots)
    assert (found.carrier.joint, found.carrier.stands_in) == (roots.hips, True)
    assert np.linalg.norm(found.place[-1] - found.place[0]) == pytest.approx(2.0, abs=1e-6)
    # A lean in place is the author's: the root stays, and so does the body.
    leans, clip = made(bones, root=still, hips=lean)
    assert track_of(leans, clip, roots).carrier == (roots.root, False, False)
    carries, clip = made(bones, root=walk * [0, 0, 1], hips=np.tile(rest, (61, 1)))
    assert track_of(carries, clip, roots).carrier == (roots.root, False, False)


def test_a_leap_out_of_a_leftover_rest_pose_is_not_smeared_over_the_take(assets: Assets) -> None:
    bones = assets.skeleton
    rest = bones.rest_translation[bones.index["hips"]]
    walk = rest + np.array([3.0, 0.0, 1.0]) + np.linspace(0.0, 2.0, 61)[:, None] * np.array([0.0, 0.0, 1.0])
    taken, clip = made(bones, hips=np.concatenate([rest[None], walk]))
    clip = replace(clip, root_joint="hips")
    roots = Roots(-1, bones.index["hips"])
    for frame in (1, 2, 5):
        hips = forward(bones, *_parts(about_body(taken, clip, frame / 60.0, roots)))[0, roots.hips, :3, 3]
        assert np.linalg.norm(hips[[0, 2]]) < 0.02


def _parts(pose: Pose) -> tuple[Array, Array]:
    return pose.rotation, pose.translation


def test_a_spin_of_the_hips_turns_the_body_by_as_much(assets: Assets) -> None:
    bones = assets.skeleton
    hips = bones.index["hips"]
    at = np.arange(91) / 60.0
    yaw = np.concatenate([np.zeros(20), np.linspace(0.0, 4 * np.pi, 51), np.full(20, 4 * np.pi)])
    turn = np.stack([0 * yaw, np.sin(yaw / 2), 0 * yaw, np.cos(yaw / 2)], -1)
    motion = Motion("m", 1.5, 60.0, (Track(hips, "rotation", "LINEAR", at, turn),))
    taken = Assets(bones, None, {("m.glb", "m"): motion})
    track = track_of(taken, Clip(name="m", file="m.glb", root_joint="hips"), Roots(-1, hips))
    assert track.yaw[-1] - track.yaw[0] == pytest.approx(4 * np.pi, abs=1e-6)
    assert np.all(np.diff(track.yaw) > -1e-3)


def test_the_take_lying_ready_to_import_stands_over_its_capsule(quay: Project, tmp_path: Path) -> None:
    """The demo's foreign capture, mapped onto the demo's figure, cut anywhere."""
    import shutil

    home = tmp_path / "quay.veergust"
    shutil.copytree(DEMO, home)
    done = import_file(quay, home, DEMO.parent / "to_import" / "harbour_guard.bvh")
    loaded = load_assets(done.project, home)[0]
    build = CompiledProject(done.project, loaded)
    for name in done.clips:
        clip = next(c for c in done.project.clips if c.name == name)
        seconds = loaded.motions[clip.file, clip.animation].seconds
        _, left = carried(loaded, clip, np.linspace(0.1, seconds, 30), build.roots)
        hips = forward(loaded.skeleton, left.rotation, left.translation)[:, build.roots.hips, :3, 3]
        assert np.linalg.norm(hips[:, [0, 2]], axis=-1).max() < 0.25


def test_a_roll_over_the_head_leaves_the_heading_alone(assets: Assets) -> None:
    bones = assets.skeleton
    hips = bones.index["hips"]
    at = np.arange(61) / 60.0
    pitch = np.radians(np.linspace(0.0, 360.0, 61))
    rng = np.random.default_rng(3)
    turn = np.stack([np.sin(pitch / 2), rng.normal(0, 0.03, 61), rng.normal(0, 0.03, 61), np.cos(pitch / 2)], -1)
    turn /= np.linalg.norm(turn, axis=-1, keepdims=True)
    motion = Motion("m", 1.0, 60.0, (Track(hips, "rotation", "LINEAR", at, turn),))
    taken = Assets(bones, None, {("m.glb", "m"): motion})
    track = track_of(taken, Clip(name="m", file="m.glb", root_joint="hips"), Roots(-1, hips))
    assert np.degrees(np.ptp(track.yaw)) < 15.0
