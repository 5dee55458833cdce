"""One pose over another, against the same written out plainly with SciPy's rotations, one joint after the other."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation, Slerp

from veergust.core.motion.blend import mask_weights, mean
from veergust.core.motion.layering import Space, added, over
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Pose, Skeleton, forward

SPACES: tuple[Space, ...] = ("joint", "body")


def figure(rng: np.random.Generator, joints: int) -> Skeleton:
    parents = (-1, *(int(rng.integers(-1 if j % 7 == 6 else 0, j)) for j in range(1, joints)))
    names = tuple(f"j{n}" for n in range(joints))
    return Skeleton(names, parents, turns(rng, joints), rng.normal(size=(joints, 3)))


def turns(rng: np.random.Generator, joints: int) -> Array:
    return Rotation.random(joints, random_state=int(rng.integers(1 << 30))).as_quat()


def near(rng: np.random.Generator, base: Array, most: float = 2.0) -> Array:
    """Rotations up to so much (radians) from others: less than half a circle, where both ways round are clear."""
    axis = rng.normal(size=(len(base), 3))
    axis /= np.linalg.norm(axis, axis=-1, keepdims=True)
    return (Rotation.from_quat(base) * Rotation.from_rotvec(axis * rng.uniform(0, most, (len(base), 1)))).as_quat()


def about(parents: tuple[int, ...], local: list[Rotation]) -> list[Rotation]:
    out: list[Rotation] = []
    for parent, own in zip(parents, local):
        out.append(own if parent < 0 else out[parent] * own)
    return out


def between(a: Rotation, b: Rotation, share: float) -> Rotation:
    return Slerp([0.0, 1.0], Rotation.concatenate([a, b]))(share)


def part(turn: Rotation, share: float) -> Rotation:
    return Rotation.from_rotvec(turn.as_rotvec() * share)


def plain_over(parents: tuple[int, ...], base: Array, pose: Array, weight: Array, space: str) -> list[Rotation]:
    a, b = [Rotation.from_quat(q) for q in base], [Rotation.from_quat(q) for q in pose]
    if space == "joint":
        return [between(x, y, w) for x, y, w in zip(a, b, weight)]
    whole_a, whole_b = about(parents, a), about(parents, b)
    out: list[Rotation] = []
    mixed: list[Rotation] = []
    for j, parent in enumerate(parents):
        above = mixed[parent] if parent >= 0 else Rotation.identity()
        held = parent
        while held >= 0 and weight[held] > 0:
            held = parents[held]
        aim = whole_b[j]
        if held >= 0:
            sway = whole_a[held] * whole_b[held].inv()
            t = min(max((float(np.degrees(sway.magnitude())) - 45.0) / 105.0, 0.0), 1.0)
            aim = part(sway, t * t * (3.0 - 2.0 * t)) * aim
        mixed.append(between(whole_a[j], aim, weight[j]) if weight[j] > 0 else above * a[j])
        out.append(above.inv() * mixed[j])
    return out


def plain_added(
    parents: tuple[int, ...], base: Array, pose: Array, reference: Array, weight: Array, space: str
) -> list[Rotation]:
    a, b, r = ([Rotation.from_quat(q) for q in rows] for rows in (base, pose, reference))
    if space == "joint":
        return [x * part(z.inv() * y, w) for x, y, z, w in zip(a, b, r, weight)]
    whole_a, whole_b, whole_r = (about(parents, rows) for rows in (a, b, r))
    out: list[Rotation] = []
    mixed: list[Rotation] = []
    for j, parent in enumerate(parents):
        above = mixed[parent] if parent >= 0 else Rotation.identity()
        turned = part(whole_b[j] * whole_r[j].inv(), weight[j]) * whole_a[j]
        mixed.append(turned if weight[j] > 0 else above * a[j])
        out.append(above.inv() * mixed[j])
    return out


def apart(ours: Array, theirs: list[Rotation]) -> float:
    return max(float((Rotation.from_quat(q).inv() * r).magnitude()) for q, r in zip(ours, theirs))


def masks(rng: np.random.Generator, bones: Skeleton) -> Array:
    """A mask from a joint on with a feather, written out, and some joints of their own weight."""
    first, feather = int(rng.integers(len(bones))), int(rng.integers(5))
    own = {f"j{int(rng.integers(len(bones)))}": float(rng.choice([0.0, 0.3, 1.0])) for _ in range(int(rng.integers(3)))}
    got = mask_weights(bones, f"j{first}", feather, tuple(own.items()))
    for j in range(len(bones)):
        deep, at = 0, j
        while at not in (first, -1):
            deep, at = deep + 1, bones.parents[at]
        want = min(1.0, (deep + 1) / (feather + 1)) if at == first else 0.0
        assert got[j] == own.get(f"j{j}", want)
    return got


@settings(max_examples=150)
@given(seed=st.integers(0, 1 << 30), joints=st.integers(1, 24), space=st.sampled_from(SPACES))
def test_a_stack_of_layers_is_what_it_is_written_out(seed: int, joints: int, space: Space) -> None:
    rng = np.random.default_rng(seed)
    bones = figure(rng, joints)
    pose = Pose(turns(rng, joints)[None], rng.normal(size=(1, joints, 3)))
    for _ in range(int(rng.integers(1, 5))):
        weight = masks(rng, bones) * float(rng.choice([0.0, 0.25, 0.7, 1.0]))
        base, place = pose.rotation[0], pose.translation[0]
        upper = Pose(near(rng, base, 1.0)[None], rng.normal(size=(1, joints, 3)))
        if rng.random() < 0.5:
            want = plain_over(bones.parents, base, upper.rotation[0], weight, space)
            there = place + (upper.translation[0] - place) * weight[:, None]
            pose, _ = over(bones, pose, upper, weight, None, space)
        else:
            rest = Pose(near(rng, upper.rotation[0], 1.0)[None], rng.normal(size=(1, joints, 3)))
            want = plain_added(bones.parents, base, upper.rotation[0], rest.rotation[0], weight, space)
            there = place + (upper.translation[0] - rest.translation[0]) * weight[:, None]
            pose, _ = added(bones, pose, upper, rest, weight, None, space)
        assert apart(pose.rotation[0], want) < 1e-6 or _turned_half(bones, base, upper.rotation[0])
        assert np.allclose(pose.translation[0], there, atol=1e-9)
        # What is masked out is there to the bit.
        out = weight <= 0.0
        assert np.array_equal(pose.rotation[0][out], base[out])
        assert np.array_equal(pose.translation[0][out], place[out])


def _turned_half(bones: Skeleton, base: Array, pose: Array) -> bool:
    """Whether some joint is so nearly half a circle off, about the body, that either way round is the shorter."""
    a, b = (about(bones.parents, [Rotation.from_quat(q) for q in rows]) for rows in (base, pose))
    return any(float((x.inv() * y).magnitude()) > np.pi - 1e-3 for x, y in zip(a, b))


@settings(max_examples=60)
@given(seed=st.integers(0, 1 << 30), joints=st.integers(2, 24))
def test_in_body_space_what_hangs_under_the_mask_aims_where_it_aimed(seed: int, joints: int) -> None:
    """While the hips sway by less than 45°: every joint with the whole weight is turned as in the pose above."""
    rng = np.random.default_rng(seed)
    bones = figure(rng, joints)
    base = Pose(turns(rng, joints)[None], rng.normal(size=(1, joints, 3)))
    upper = Pose(near(rng, base.rotation[0], 0.7 / joints)[None], base.translation)
    weight = mask_weights(bones, f"j{int(rng.integers(1, joints))}", 1)
    mixed, _ = over(bones, base, upper, weight, None, "body")
    got, want = (about(bones.parents, [Rotation.from_quat(q) for q in p.rotation[0]]) for p in (mixed, upper))
    for j in np.flatnonzero(weight >= 1.0):
        assert float((got[j].inv() * want[j]).magnitude()) < 1e-6


@pytest.mark.parametrize("space", SPACES)
def test_many_poses_at_once_are_those_one_by_one(space: Space) -> None:
    rng = np.random.default_rng(7)
    bones = figure(rng, 20)
    base, upper, rest = (
        Pose(np.array([turns(rng, 20) for _ in range(6)]), rng.normal(size=(6, 20, 3))) for _ in range(3)
    )
    mask = mask_weights(bones, "j2", 2)
    weight = mask * rng.uniform(0.1, 1.0, (6, 1))
    put = over(bones, base, upper, weight, None, space)[0]
    more = added(bones, base, upper, rest, weight, None, space)[0]
    for i in range(6):
        a, b, c = base.frame(i), upper.frame(i), rest.frame(i)
        one = over(bones, a, b, weight[i], None, space)[0]
        two = added(bones, a, b, c, weight[i], None, space)[0]
        for many, alone in ((put, one), (more, two)):
            assert np.allclose(many.rotation[i], alone.rotation[0], atol=1e-12)
            assert np.allclose(many.translation[i], alone.translation[0], atol=1e-12)


def test_on_hips_that_are_upside_down_nobody_aims() -> None:
    """Beyond 150° it is joint by joint, and on the way there nothing leaps, whichever way the hips turn."""
    bones = Skeleton(("hips", "spine", "head"), (-1, 0, 1), np.tile([0.0, 0, 0, 1], (3, 1)), np.zeros((3, 3)))
    weight = np.array([0.0, 0.5, 1.0])
    upper = Pose(Rotation.from_euler("y", [[0], [20], [30]], degrees=True).as_quat()[None], np.zeros((1, 3, 3)))
    last: Rotation | None = None
    for angle in range(0, 361, 2):
        rolled = Rotation.from_euler("x", [[angle], [10], [0]], degrees=True).as_quat()
        mixed, _ = over(bones, Pose(rolled[None], np.zeros((1, 3, 3))), upper, weight, None, "body")
        plain, _ = over(bones, Pose(rolled[None], np.zeros((1, 3, 3))), upper, weight, None, "joint")
        head = about(bones.parents, [Rotation.from_quat(q) for q in mixed.rotation[0]])[2]
        if 150 <= angle <= 210:
            bare = about(bones.parents, [Rotation.from_quat(q) for q in plain.rotation[0]])[1]
            spine = about(bones.parents, [Rotation.from_quat(q) for q in mixed.rotation[0]])[1]
            assert float((spine.inv() * bare).magnitude()) < 1e-6
        if last is not None:
            assert float((last.inv() * head).magnitude()) < np.radians(8.0)
        last = head


def test_a_fade_goes_on_the_way_round_it_began() -> None:
    """A joint that comes to be turned by more than half a circle while it fades does not change sides."""
    bones = Skeleton(("a", "b"), (-1, 0), np.tile([0.0, 0, 0, 1], (2, 1)), np.zeros((2, 3)))
    for space in SPACES:
        way, last = None, None
        steps: list[float] = []
        base = Pose(np.tile([0.0, 0, 0, 1], (1, 2, 1)), np.zeros((1, 2, 3)))
        for angle in range(150, 211, 2):
            turn = Rotation.from_rotvec([[0, 0, 0], [0, angle, 0]], degrees=True).as_quat()
            mixed, way = over(bones, base, Pose(turn[None], np.zeros((1, 2, 3))), np.array([0.0, 0.5]), way, space)
            now = Rotation.from_quat(mixed.rotation[0, 1])
            steps += [] if last is None else [float((last.inv() * now).magnitude())]
            last = now
        assert max(steps) < np.radians(1.01)


def test_poses_that_do_not_fit_one_another_are_refused() -> None:
    """Kernels look nothing up beyond the end of an array."""
    rng = np.random.default_rng(1)
    bones = figure(rng, 8)
    right = Pose(turns(rng, 8)[None], np.zeros((1, 8, 3)))
    short = Pose(turns(rng, 5)[None], np.zeros((1, 5, 3)))
    odd = Pose(turns(rng, 8)[None], np.zeros((1, 5, 3)))
    for wrong in (short, odd):
        with pytest.raises(ValueError, match="joints"):
            forward(bones, wrong.rotation, wrong.translation)
        with pytest.raises(ValueError, match="8 joints"):
            over(bones, right, wrong, np.ones(8), None)
        with pytest.raises(ValueError, match="8 joints"):
            added(bones, right, right, wrong, np.ones(8), None, "body")
        with pytest.raises(ValueError, match="8 joints"):
            mean([(right, 0.0, 0.5), (wrong, 0.0, 0.5)])
    with pytest.raises(ValueError, match="8 joints"):
        over(bones, right, right, np.ones(7), None)
    with pytest.raises(ValueError, match="1 frames"):
        mean([(right, 0.0, 0.5), (right, 0.5, 0.5)])
