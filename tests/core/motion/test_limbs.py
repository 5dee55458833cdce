"""Limbs brought to a place and chains turned: what the joints say is what the local rotations make, by SciPy."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from veergust.core.motion import quat
from veergust.core.motion.kernels import limbs
from veergust.core.motion.legs import Limb, Limbs
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Skeleton, forward
from veergust.core.play.pose import eyes

SEEDS = st.integers(0, 10_000)
JOINTS = 12


def some(seed: int) -> tuple[Skeleton, Array, Array, Array, np.random.Generator]:
    """Joints on one another at random, and a pose of them: a leg from 1 to 4, all else anywhere."""
    rng = np.random.default_rng(seed)
    parents = (-1, 0, 1, 2, 3, *(int(rng.integers(0, j)) for j in range(5, JOINTS)))
    rotation = quat.normalize(rng.normal(size=(JOINTS, 4)))
    translation = rng.normal(size=(JOINTS, 3)) * 0.4
    bones = Skeleton(tuple(f"j{n}" for n in range(JOINTS)), parents, rotation, translation)
    return bones, rotation.copy(), translation, forward(bones, rotation[None], translation[None])[0], rng


def plain(bones: Skeleton, rotation: Array, translation: Array) -> tuple[Rotation, Array]:
    """Turns and places of joints about the body, one after the other."""
    turn: list[Rotation] = []
    place: list[Array] = []
    for j, parent in enumerate(bones.parents):
        own = Rotation.from_quat(rotation[j])
        turn.append(own if parent < 0 else turn[parent] * own)
        place.append(translation[j] if parent < 0 else place[parent] + turn[parent].apply(translation[j]))
    return Rotation.concatenate(turn), np.array(place)


@given(SEEDS)
def test_an_end_comes_to_its_target_and_keeps_its_turn(seed: int) -> None:
    bones, rotation, translation, joints, rng = some(seed)
    long = tuple(float(np.linalg.norm(translation[j])) for j in (2, 3))
    leg = Limbs.of([Limb(1, 2, 3, 4, (long[0], long[1]))])
    hip, was = joints[1, :3, 3].copy(), joints.copy()
    far = rng.uniform(abs(long[0] - long[1]) + 1e-3, 0.97 * sum(long))
    way = rng.normal(size=3)
    target = hip + far * way / np.linalg.norm(way)
    tilt = Rotation.from_rotvec(rng.normal(size=3) * 0.3)
    limbs.reach(
        bones.above, rotation, joints, leg.joints, leg.lengths, target[None], tilt.as_quat()[None].copy(), 0.975
    )
    turn, place = plain(bones, rotation, translation)
    assert np.allclose(place, joints[:, :3, 3], atol=1e-9)
    assert np.allclose(turn.as_matrix(), joints[:, :3, :3], atol=1e-9)
    assert np.allclose(place[3], target, atol=1e-9)
    assert np.allclose(turn[3].as_matrix(), tilt.as_matrix() @ was[3, :3, :3], atol=1e-9)
    aside = [j for j in range(JOINTS) if 1 not in _over(bones, j)]
    assert np.array_equal(joints[aside], was[aside])


@given(SEEDS)
def test_a_chain_is_turned_about_the_body_one_on_top_of_the_other(seed: int) -> None:
    """As eyes turn it: each to a side about the upright axis, and up about the axis across what is then looked at."""
    bones, rotation, translation, joints, rng = some(seed)
    chain = np.array(sorted(rng.choice(JOINTS, 3, replace=False)), dtype=np.intp)
    shares, (side, up), weight = rng.random(3), rng.uniform(-80.0, 80.0, 2), float(rng.random())
    was = Rotation.from_matrix(joints[:, :3, :3])
    eyes.turn(bones.above, rotation, joints, chain, shares, side, up, weight)
    turn, place = plain(bones, rotation, translation)
    assert np.allclose(place, joints[:, :3, 3], atol=1e-9)
    across = Rotation.from_euler("y", side, degrees=True).apply([1.0, 0.0, 0.0])
    for j in range(JOINTS):
        wanted = was[j]
        for n, joint in enumerate(chain):
            if joint in _over(bones, j):
                much = shares[n] * weight
                aside = Rotation.from_euler("y", side * much, degrees=True)
                wanted = Rotation.from_rotvec(-np.radians(up * much) * across) * aside * wanted
        assert (turn[j].inv() * wanted).magnitude() < 1e-9


def _over(bones: Skeleton, joint: int) -> list[int]:
    """A joint and all it hangs on."""
    out = []
    while joint >= 0:
        out.append(joint)
        joint = bones.parents[joint]
    return out
