"""Movement against independent references: SciPy's rotations, the glTF formula written out, a plain recursion."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from scipy.spatial.transform import Rotation, Slerp

from veergust.core.model import Project
from veergust.core.motion import quat
from veergust.core.motion.blend import mask_weights, mix
from veergust.core.motion.figure import Assets
from veergust.core.motion.ik import two_bone
from veergust.core.motion.layering import added
from veergust.core.motion.prepared import clip_pose
from veergust.core.motion.sampling import Track, evaluate, sample
from veergust.core.motion.skeleton import Pose, Skeleton, forward, mirror

SEEDS = st.integers(0, 2**31)


def spins(rng: np.random.Generator, *shape: int) -> np.ndarray:
    return quat.normalize(rng.normal(size=(*shape, 4)))


@given(SEEDS)
def test_products_turns_and_matrices_agree_with_scipy(seed: int) -> None:
    rng = np.random.default_rng(seed)
    a, b, v = spins(rng, 5), spins(rng, 5), rng.normal(size=(5, 3))
    ra, rb = Rotation.from_quat(a), Rotation.from_quat(b)
    assert np.allclose(quat.to_matrix(quat.multiply(a, b)), (ra * rb).as_matrix(), atol=1e-12)
    assert np.allclose(quat.rotate(a, v), ra.apply(v), atol=1e-12)
    assert np.allclose(quat.to_matrix(quat.from_matrix(quat.to_matrix(a))), ra.as_matrix(), atol=1e-9)
    assert np.allclose(quat.yaw_of(ra.as_matrix()), quat.yaw(a), atol=1e-9)
    assert np.allclose(quat.angle_between(a, b), np.degrees((ra.inv() * rb).magnitude()), atol=1e-6)


@given(SEEDS, st.integers(2, 9))
def test_linear_keys_agree_with_scipy_slerp(seed: int, keys: int) -> None:
    rng = np.random.default_rng(seed)
    times = np.cumsum(rng.uniform(0.01, 0.5, keys))
    values = spins(rng, keys)
    at = rng.uniform(times[0], times[-1], 20)
    ours = evaluate(Track(0, "rotation", "LINEAR", times, values), at)
    theirs = Slerp(times, Rotation.from_quat(values))(at)
    assert (Rotation.from_quat(ours).inv() * theirs).magnitude().max() < 1e-6


@given(SEEDS)
def test_cubic_keys_follow_the_gltf_formula(seed: int) -> None:
    rng = np.random.default_rng(seed)
    times, values = np.array([0.2, 0.5, 1.3]), rng.normal(size=(3, 3, 3))
    t = float(rng.uniform(0.5, 1.3))
    ours = evaluate(Track(0, "translation", "CUBICSPLINE", times, values), np.array([t]))[0]
    d, u = 0.8, (t - 0.5) / 0.8
    v0, b0, a1, v1 = values[1, 1], values[1, 2], values[2, 0], values[2, 1]
    wanted = (
        (2 * u**3 - 3 * u**2 + 1) * v0
        + d * (u**3 - 2 * u**2 + u) * b0
        + (-2 * u**3 + 3 * u**2) * v1
        + d * (u**3 - u**2) * a1
    )
    assert np.allclose(ours, wanted, atol=1e-12)


def test_step_keys_hold_until_the_next_one() -> None:
    track = Track(0, "translation", "STEP", np.array([0.0, 1.0, 2.0]), np.eye(3))
    assert np.array_equal(evaluate(track, np.array([0.99, 1.0, 1.99, 2.0, 5.0])), np.eye(3)[[0, 1, 1, 2, 2]])


@pytest.mark.parametrize("many", [1, 3, 40, 300])
def test_joints_in_the_world_agree_with_a_plain_recursion(many: int, assets: Assets) -> None:
    """For few frames and for many, which are worked out in other ways."""
    bones = assets.skeleton
    rng = np.random.default_rng(5)
    turn, place = spins(rng, many, len(bones)), rng.normal(size=(many, len(bones), 3))
    ours = forward(bones, turn, place)

    def world(frame: int, joint: int) -> tuple[Rotation, np.ndarray]:
        spin, at = Rotation.from_quat(turn[frame, joint]), place[frame, joint]
        if bones.parents[joint] < 0:
            return spin, at
        above, origin = world(frame, bones.parents[joint])
        return above * spin, origin + above.apply(at)

    for frame in {0, many // 2, many - 1}:
        for joint in range(len(bones)):
            spin, at = world(frame, joint)
            assert np.allclose(ours[frame, joint, :3, :3], spin.as_matrix(), atol=1e-9)
            assert np.allclose(ours[frame, joint, :3, 3], at, atol=1e-9)


@pytest.mark.parametrize(
    ("left", "right"),
    [("upper_arm_left", "upper_arm_right"), ("LeftArm", "RightArm"), ("LShoulder", "RShoulder"), ("lThigh", "rThigh"),
     ("hand_l", "hand_r"), ("L_Hand", "R_Hand"), ("FootL", "FootR"), ("Arm.L", "Arm.R"), ("rig L hand", "rig R hand")],
)  # fmt: skip
def test_the_other_side_is_found_by_whatever_names_have(left: str, right: str) -> None:
    names = ("Hips", left, "Lower", right, "Rear")
    bones = Skeleton(names, (-1, 0, 0, 0, 0), np.tile([0.0, 0, 0, 1], (5, 1)), np.zeros((5, 3)))
    assert [names[j] for j in bones.mirrored] == ["Hips", right, "Lower", left, "Rear"]


def test_a_weapon_goes_to_the_other_hand_when_asked(assets: Assets, quay: Project) -> None:
    """In the world it is the reflection of itself, twice mirrored it is as it was; left in its hand it is neither."""
    bones = assets.skeleton
    clip = next(c for c in quay.clips if c.name == "staff_sweep")
    at = np.linspace(0.2, 1.0, 9)
    staff, right, left = (bones.index[n] for n in ("staff", "hand_right", "hand_left"))
    plain, turned = (clip_pose(assets, replace(clip, mirror=on, swaps=True), at) for on in (False, True))
    a, b = (forward(bones, p.rotation, p.translation) for p in (plain, turned))
    flip = np.diag([-1.0, 1.0, 1.0])
    for point in (np.zeros(3), np.array([0.0, 1.1, 0.0])):
        one, two = (m[:, staff, :3, :3] @ point + m[:, staff, :3, 3] for m in (a, b))
        assert np.allclose(one @ flip, two, atol=1e-6)
    gap = [np.linalg.norm(m[:, staff, :3, 3] - m[:, hand, :3, 3], axis=-1).max() for m, hand in ((a, right), (b, left))]
    assert gap[1] == pytest.approx(gap[0], abs=1e-6)
    again = mirror(bones, turned, True)
    back = forward(bones, again.rotation, again.translation)
    assert np.allclose(back, a, atol=1e-6)
    stays = clip_pose(assets, replace(clip, mirror=True), at)
    c = forward(bones, stays.rotation, stays.translation)
    assert np.linalg.norm(c[:, staff, :3, 3] - c[:, right, :3, 3], axis=-1).max() < 0.2


def test_a_mirrored_pose_puts_each_hand_where_the_other_was(assets: Assets) -> None:
    bones = assets.skeleton
    motion = assets.motion("clips/staff_sweep.glb", "staff_sweep")
    assert motion is not None
    pose = sample(bones, motion, np.array([0.1, 0.42]))
    flipped = mirror(bones, pose)
    a = forward(bones, pose.rotation, pose.translation)[:, :, :3, 3]
    b = forward(bones, flipped.rotation, flipped.translation)[:, :, :3, 3]
    left, right = bones.index["hand_left"], bones.index["hand_right"]
    assert np.allclose(b[:, left], a[:, right] * [-1, 1, 1], atol=1e-9)
    twice = mirror(bones, flipped)
    assert quat.angle_between(twice.rotation, pose.rotation).max() < 1e-5


@given(SEEDS)
def test_ik_reaches_what_is_in_reach_and_keeps_the_hand_turned_as_it_was(seed: int) -> None:
    rng = np.random.default_rng(seed)
    rest = np.tile(quat.IDENTITY, (3, 1))
    bones = Skeleton(("a", "b", "c"), (-1, 0, 1), rest, np.array([[0, 0, 0], [0, -0.4, 0], [0, -0.35, 0]]))
    pose = Pose(spins(rng, 4, 3), np.tile(bones.rest_translation, (4, 1, 1)))
    way = rng.normal(size=(4, 3))
    target = way / np.linalg.norm(way, axis=1, keepdims=True) * rng.uniform(0.1, 0.7, (4, 1))
    solved = two_bone(bones, pose, 0, target, rng.normal(size=(4, 3)))
    world = forward(bones, solved.rotation, solved.translation)
    assert np.allclose(world[:, 2, :3, 3], target, atol=1e-5)
    assert np.allclose(world[:, 2, :3, :3], forward(bones, pose.rotation, pose.translation)[:, 2, :3, :3], atol=1e-6)


def test_mixing_masks_and_adding(assets: Assets) -> None:
    bones = assets.skeleton
    rng = np.random.default_rng(1)
    a, b = (Pose(spins(rng, 1, len(bones)), rng.normal(size=(1, len(bones), 3))) for _ in range(2))
    weights = mask_weights(bones, "waist", feather=1)
    mixed = mix(a, b, weights)
    legs, arm, waist = bones.index["thigh_left"], bones.index["hand_left"], bones.index["waist"]
    assert np.allclose(mixed.rotation[:, legs], a.rotation[:, legs])
    assert quat.angle_between(mixed.rotation[:, arm], b.rotation[:, arm])[0] < 1e-5
    half = quat.angle_between(a.rotation[:, waist], mixed.rotation[:, waist])
    assert half == pytest.approx(quat.angle_between(a.rotation[:, waist], b.rotation[:, waist]) / 2, abs=1e-6)
    same, _ = added(bones, a, b, b, np.ones(len(bones)), None)
    assert quat.angle_between(same.rotation, a.rotation).max() < 1e-5
