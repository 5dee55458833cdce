"""Cleaning, held against takes whose noise is known."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from tools.made.captures import NAMES, Capture, blow, capture, write_bvh

from veergust.core.files.bvh_read import read_bvh
from veergust.core.files.fitting import fitted
from veergust.core.model import Clean, Clip, Rig
from veergust.core.motion.cleaning import cleaned
from veergust.core.motion.figure import Assets
from veergust.core.motion.filtering import resting, smooth_turns
from veergust.core.motion.prepared import clip_pose, motion_of
from veergust.core.motion.sampling import Motion, sample
from veergust.core.motion.skeleton import Skeleton, forward


def read(folder: Path, taken: Capture) -> tuple[Skeleton, Motion]:
    content = fitted(read_bvh(write_bvh(folder, taken)), Rig(unit=0.01))
    return content.skeleton, content.motions[0]


def places(bones: Skeleton, motion: Motion, taken: Capture) -> np.ndarray:
    pose = sample(bones, motion, np.arange(len(taken.hips)) / taken.fps)
    world = forward(bones, pose.rotation, pose.translation)[..., :3, 3]
    return world[:, [bones.index[n] for n in NAMES]]


def test_smoothing_brings_a_noisy_take_nearer_to_the_one_without_noise(tmp_path: Path) -> None:
    clean_take, noisy = capture(noise=0.0), capture(noise=4.0)
    bones, motion = read(tmp_path, noisy)
    out = cleaned(bones, motion, Clean(trunk=8.0, arms=10.0, legs=8.0))
    truth, before, after = clean_take.world(), places(bones, motion, noisy), places(bones, out, noisy)
    inside = slice(60, -60)
    error = [float(np.linalg.norm(x - truth, axis=-1)[inside].mean()) for x in (before, after)]
    assert error[1] < 0.55 * error[0]
    shaking = [float(np.abs(np.diff(x[inside], 3, axis=0)).mean()) for x in (before, after)]
    assert shaking[1] < 0.05 * shaking[0]


def test_only_the_limbs_that_are_asked_for_are_smoothed(tmp_path: Path) -> None:
    taken = capture(seconds=2.0, noise=3.0)
    bones, motion = read(tmp_path, taken)
    at = np.arange(len(taken.hips)) / taken.fps
    raw, out = sample(bones, motion, at), sample(bones, cleaned(bones, motion, Clean(arms=6.0)), at)
    changed = {
        bones.names[j] for j in range(len(bones)) if np.abs(raw.rotation[:, j] - out.rotation[:, j]).max() > 1e-6
    }
    arms = {"LShoulder", "LElbow", "LWrist", "RShoulder", "RElbow", "RWrist"}
    assert arms <= changed <= arms | {n for n in bones.names if "end" in n}
    assert np.allclose(raw.translation, out.translation, atol=1e-9)


def test_standing_feet_do_not_slide_and_moving_ones_go_where_they_went(tmp_path: Path) -> None:
    """Feet that creep by centimetres while they stand, as after a bad solve."""
    taken = blow(seconds=2.0)
    drift = np.cumsum(np.full((len(taken.hips), 3), [0.0002, 0.0, 0.0001]), axis=0)
    bones, motion = read(tmp_path, Capture(taken.hips + drift, taken.turns, taken.fps))
    raw, out = (places(bones, m, taken) for m in (motion, cleaned(bones, motion, Clean(feet=True))))
    for name in ("LAnkle", "RAnkle"):
        j, stands = NAMES.index(name), slice(150, 230)
        assert np.ptp(raw[stands, j], axis=0).max() > 0.012
        assert np.ptp(out[stands, j], axis=0).max() < 0.002
    assert np.abs(out - raw)[:, NAMES.index("Hip")].max() < 1e-6
    steps = np.linalg.norm(np.diff(out, axis=0), axis=-1)
    assert steps.max() < np.linalg.norm(np.diff(raw, axis=0), axis=-1).max() + 0.01, "nothing leaps into a lock"


def test_a_take_is_lifted_whole(tmp_path: Path) -> None:
    taken = blow()
    bones, motion = read(tmp_path, taken)
    raw, out = places(bones, motion, taken), places(bones, cleaned(bones, motion, Clean(floor=0.07)), taken)
    assert np.allclose(out - raw, [0.0, 0.07, 0.0], atol=1e-6)


def test_a_hand_is_kept_where_it_mostly_is_beside_the_other(tmp_path: Path) -> None:
    taken = capture(seconds=2.0, noise=0.5)
    bones, motion = read(tmp_path, taken)
    out = cleaned(bones, motion, Clean(hand="LWrist", to="RWrist"))
    pose = sample(bones, out, np.arange(len(taken.hips)) / taken.fps)
    world = forward(bones, pose.rotation, pose.translation)
    to, hand = bones.index["RWrist"], bones.index["LWrist"]
    beside = np.einsum("fji,fj->fi", world[:, to, :3, :3], world[:, hand, :3, 3] - world[:, to, :3, 3])
    reached = np.linalg.norm(beside - np.median(beside, axis=0), axis=-1)
    assert np.median(reached) < 0.01


def test_a_rest_pose_left_at_the_start_is_not_smeared_into_the_take(tmp_path: Path) -> None:
    taken = blow()
    turns, hips = taken.turns.copy(), taken.hips.copy()
    turns[0], hips[0] = 0.0, (0.0, 0.96, 0.0)
    odd = Capture(hips, turns, taken.fps)
    bones, motion = read(tmp_path, odd)
    assert resting(sample(bones, motion, np.arange(20) / taken.fps).rotation, bones.rest_rotation) == 1
    out = places(bones, cleaned(bones, motion, Clean(trunk=6.0, arms=6.0, legs=6.0)), odd)
    truth = odd.world()
    assert np.linalg.norm(out[1:8] - truth[1:8], axis=-1).max() < 0.03


def test_turns_of_either_sign_are_one_turn_and_stay_unit() -> None:
    turns = np.tile([0.1, 0.2, 0.3, 0.9], (120, 2, 1))
    turns /= np.linalg.norm(turns, axis=-1, keepdims=True)
    turns[::2] *= -1.0
    out = smooth_turns(turns, 1 / 60, 5.0)
    assert np.linalg.norm(out, axis=-1) == pytest.approx(np.ones((120, 2)))
    assert np.abs(np.sum(out * turns[:1], axis=-1)) == pytest.approx(np.ones((120, 2)), abs=1e-9)


def test_everything_that_shows_a_clip_shows_it_cleaned_and_its_source_is_not_touched(assets: Assets) -> None:
    clip = Clip(name="walk", file="clips/walk.glb", animation="walk")
    lifted = replace(clip, clean=Clean(floor=0.2))
    at = np.array([0.1, 0.5])
    raw, out = clip_pose(assets, clip, at), clip_pose(assets, lifted, at)
    assert np.allclose(out.translation[:, 0, 1] - raw.translation[:, 0, 1], 0.2, atol=1e-6)
    assert motion_of(assets, clip) is assets.motion(clip.file, clip.animation)
    assert motion_of(assets, lifted) is motion_of(assets, replace(lifted, name="other", start=0.2))
