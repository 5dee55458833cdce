"""Hitboxes fitted to what a strike sweeps, held against points of the weapon and of the skin in the world."""

from __future__ import annotations

from dataclasses import replace as changed
from typing import Any

import numpy as np
import pytest
from scipy.spatial.transform import Rotation
from tools.made.edits import action, replace, with_action, with_section

from veergust.core.edit.hitboxes import fit_boxes
from veergust.core.edit.spans import SpanRef
from veergust.core.model import Hitbox, Project, Strike
from veergust.core.motion.figure import Assets
from veergust.core.motion.quat import Array
from veergust.core.play.compiled.action import CompiledAction
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.coverage import covered, excess, sweep_of
from veergust.core.study.facts import facts
from veergust.core.study.fit import capsule_about, capsules, fitted
from veergust.core.study.striking import striking
from veergust.core.trouble import Trouble

SWEEP = SpanRef("Low sweep", 1, "strikes", 0)


def compiled_of(build: CompiledProject, name: str) -> CompiledAction:
    found = build.action(name)
    assert found is not None
    return found


def in_capsule(points: Array, a: Array, b: Array, radius: float) -> Any:
    """Which points lie in a capsule, by the nearest of many points of its middle line."""
    line = a + np.linspace(0, 1, 800)[:, None] * (b - a)
    return np.linalg.norm(points[:, None] - line[None], axis=-1).min(axis=1) <= radius + 1e-4


def world_share(build: CompiledProject, compiled: CompiledAction, section: int, boxes: tuple[Hitbox, ...]) -> float:
    """The share of the weapon's sweep in capsules on its joint, by a thousand points and the joints in the world."""
    rig, bones = build.project.rig, build.assets.skeleton
    mounts = {m.name: m for m in rig.mounts}
    assert rig.weapon is not None
    base, tip = mounts[rig.weapon.base], mounts[rig.weapon.tip]
    world = compiled.world_of(section)
    inside = total = 0.0
    strike = compiled.sections[section].section.strikes[0]
    for tick in range(strike.start, strike.end):
        ends = [world[[tick, tick - 1], bones.index[m.joint]] @ [*m.offset, 1.0] for m in (base, tip)]
        t = np.linspace(0, 1, 1000)[:, None]
        now, before = (ends[0][n, :3] + t * (ends[1][n, :3] - ends[0][n, :3]) for n in (0, 1))
        far = np.linalg.norm(now - before, axis=1)
        held = np.zeros(len(now), dtype=bool)
        for box in boxes:
            mount = mounts[box.mount]
            own = np.eye(4)
            own[:3, :3] = Rotation.from_euler("xyz", mount.turn, degrees=True).as_matrix()
            own[:3, 3] = mount.offset
            frame = world[tick, bones.index[mount.joint]] @ own
            a, b = ((frame @ [*at, 1.0])[:3] for at in (box.offset, box.to))
            held |= in_capsule(now, a, b, box.radius)
        inside, total = inside + far[held].sum(), total + far.sum()
    return inside / total


@pytest.mark.parametrize("share", [0.5, 0.75, 0.9, 1.0])
@pytest.mark.parametrize("name", ["Low sweep", "Thrust", "Overhead hook"])
def test_as_much_of_the_sweep_is_covered_as_was_asked(build: CompiledProject, name: str, share: float) -> None:
    compiled = compiled_of(build, name)
    section = next(i for i, s in enumerate(compiled.sections) if s.section.strikes)
    found = fitted(build, compiled, section, compiled.sections[section].section.strikes[0], share=share)
    assert found.what == "weapon"
    got = world_share(build, compiled, section, found.boxes)
    assert share - 0.01 <= got <= share + 0.06
    # As thick as the weapon and no thicker, and the tip before the hand.
    assert all(b.radius == pytest.approx(0.028, abs=0.003) for b in found.boxes)
    assert max(b.to[1] for b in found.boxes) == pytest.approx(1.12, abs=0.01)


def test_what_is_kept_of_an_edit_says_what_was_fitted(build: CompiledProject) -> None:
    edit = fit_boxes(build, SWEEP, 0.9)
    strike = action(edit.project, "Low sweep").sections[1].strikes[0]
    assert edit.words.startswith("Sweep: 1 hitbox fitted, 9")
    again = build.renew(edit.project)
    found = facts(again, "Low sweep")
    assert found is not None
    assert found.coverage == pytest.approx(
        world_share(again, compiled_of(again, "Low sweep"), 1, strike.boxes), abs=0.03
    )
    # Fitted once more it is what it is.
    assert fit_boxes(again, SWEEP, 0.9).project == edit.project


@pytest.mark.parametrize("mirror", [False, True])
@pytest.mark.parametrize("mount", ["palm L", "foot L", "foot R", "head"])
def test_a_limb_is_covered_by_its_skin(quay: Project, assets: Assets, mount: str, mirror: bool) -> None:
    """Points of the skin in the world, by the weights of the file: nine in ten lie in the hitboxes."""
    cuts = tuple(replace(c, mirror=mirror) for c in action(quay, "Duck roll").sections[0].cuts)
    build = CompiledProject(with_section(quay, "Duck roll", 0, cuts=cuts), assets)
    compiled, strike = compiled_of(build, "Duck roll"), Strike(start=2, end=9)
    found = fitted(build, compiled, 0, strike, mount=mount, share=0.9)
    assert found.what == "limb"
    mesh, bones = assets.mesh, assets.skeleton
    assert mesh is not None
    for tick in (2, 5, 8):
        world = compiled.world_of(0)[tick]
        there = build.mount(mount, mirror)
        assert there is not None
        below = {j for j in range(len(bones)) if there[0] in _above(bones, j)}
        rows = np.flatnonzero(
            np.isin(mesh.joints[np.arange(len(mesh.points)), mesh.weights.argmax(axis=1)], list(below))
        )
        skin = np.zeros((len(rows), 3))
        for n in range(4):
            move = world[mesh.joints[rows, n]] @ mesh.inverse_bind[mesh.joints[rows, n]]
            placed = (move[:, :3, :3] @ mesh.points[rows][:, :, None])[:, :, 0] + move[:, :3, 3]
            skin += mesh.weights[rows, n, None] * placed
        frame, flip = world[there[0]] @ there[1], np.array([-1.0 if mirror else 1.0, 1, 1])
        held = np.zeros(len(skin), dtype=bool)
        for box in found.boxes:
            a, b = ((frame @ [*(np.array(at) * flip), 1.0])[:3] for at in (box.offset, box.to))
            held |= in_capsule(skin, a, a if box.shape == "sphere" else b, box.radius)
        assert held.mean() >= 0.8, (mount, tick)
    # Not much more than that: the capsules are no larger than a ball about the part.
    assert max(b.radius for b in found.boxes) < 0.25


def _above(bones: Any, joint: int) -> set[int]:
    out = set()
    while joint >= 0:
        out.add(joint)
        joint = bones.parents[joint]
    return out


def test_random_clouds_are_held_by_few_capsules_and_little_else() -> None:
    rng = np.random.default_rng(5)
    for _ in range(60):
        turn = Rotation.random(random_state=int(rng.integers(1 << 30))).as_matrix()
        long, thick = rng.uniform(0.2, 1.5), rng.uniform(0.02, 0.15)
        t, around = rng.uniform(0, long, 300), rng.normal(size=(300, 3))
        ball = around / np.linalg.norm(around, axis=1, keepdims=True) * thick * rng.uniform(0, 1, (300, 1)) ** (1 / 3)
        points = (ball + t[:, None] * [0, 1, 0]) @ turn.T + rng.uniform(-2, 2, 3)
        share = rng.uniform(0.5, 1.0)
        far = rng.uniform(0.2, 1.0, 300)
        made = capsule_about(points, far, share)
        held = in_capsule(points, made.a, made.b, made.radius)
        assert far[held].sum() >= share * far.sum() - 1e-6
        true = np.pi * thick**2 * (long + 4 / 3 * thick)
        assert made.volume <= 1.35 * true


def test_what_bends_takes_more_than_one() -> None:
    t = np.linspace(0, 1, 120)
    bent = np.concatenate([np.outer(t, [1.0, 0, 0]), [1.0, 0, 0] + np.outer(t, [0, 1.0, 0])])
    bent += np.random.default_rng(1).normal(scale=0.01, size=bent.shape)
    made = capsules(bent, np.ones(len(bent)), 0.95)
    assert 2 <= len(made) <= 4
    held = np.any([in_capsule(bent, c.a, c.b, c.radius) for c in made], axis=0)
    assert held.mean() >= 0.94
    straight = np.outer(np.linspace(0, 1, 200), [0.0, 0, 1.0]) + np.random.default_rng(2).normal(
        scale=0.01, size=(200, 3)
    )
    assert len(capsules(straight, np.ones(200), 0.95)) == 1


@pytest.mark.parametrize("points", [np.zeros((1, 3)), np.zeros((5, 3)), np.outer(np.arange(2), [0, 0, 1.0])])
def test_points_that_are_hardly_a_shape_are_held_all_the_same(points: Array) -> None:
    (made,) = capsules(points, np.ones(len(points)), 0.9)
    assert np.isfinite([*made.a, *made.b, made.radius]).all()
    assert in_capsule(points, made.a, made.b, made.radius).any()


def test_a_figure_without_skin_strikes_with_its_bones(quay: Project, assets: Assets) -> None:
    build = CompiledProject(quay, changed(assets, mesh=None))
    found = striking(build, "foot L")
    assert found is not None
    assert found.thick > 0.01
    bones = build.assets.skeleton
    foot = bones.index["foot_left"]
    assert set(found.joints.tolist()) <= {j for j in range(len(bones)) if foot in _above(bones, j)}
    assert fitted(build, compiled_of(build, "Duck roll"), 0, Strike(start=2, end=6), mount="foot L").share >= 0.9


def test_an_excess_is_what_lies_where_nothing_moves(quay: Project, assets: Assets) -> None:
    """A box about the whole figure is nearly all excess, a thin one about a fast staff hardly any, and one beside it is
    nothing else."""
    fast = compiled_of(CompiledProject(quay, assets), "Overhead hook")
    section = next(i for i, s in enumerate(fast.sections) if s.section.strikes)

    def much(box: Hitbox) -> float:
        strike = replace(fast.sections[section].section.strikes[0], boxes=(box,))
        build = CompiledProject(with_section(quay, "Overhead hook", section, strikes=(strike,)), assets)
        share = excess(build, compiled_of(build, "Overhead hook"), section, strike.start + 1)
        assert share is not None
        return share

    thin = much(Hitbox(mount="grip", offset=(0, 0.2, 0), to=(0, 1.1, 0), radius=0.03))
    huge = much(Hitbox(mount="grip", shape="box", size=(1.5, 1.5, 1.5)))
    beside = much(Hitbox(mount="grip", shape="sphere", offset=(0, -2.0, 0), radius=0.2))
    assert thin < 0.1
    assert huge > 0.9
    assert beside == 1.0


def test_what_stands_still_is_counted_as_it_is(quay: Project, assets: Assets) -> None:
    """Where nothing moves every part counts the same, and all of a hitbox is excess."""
    build = CompiledProject(quay, assets)
    pose = compiled_of(build, "Low sweep")
    still = tuple(replace(c, rate=1e-5, end=c.start + 3e-6) for c in action(quay, "Low sweep").sections[0].cuts)
    strike = Strike(start=1, end=4, boxes=(Hitbox(mount="grip", offset=(0, 0, 0), to=(0, 0.56, 0), radius=0.05),))
    quay = with_action(quay, "Low sweep", sections=(replace(pose.sections[0].section, cuts=still, strikes=(strike,)),))
    build = CompiledProject(quay, assets)
    share = covered(build, compiled_of(build, "Low sweep"), 0, 2)
    assert share == pytest.approx((0.56 + 0.05) / 1.12, abs=0.04)
    assert excess(build, compiled_of(build, "Low sweep"), 0, 2) == 1.0
    assert covered(build, compiled_of(build, "Low sweep"), 0, 8) is None


def test_nothing_to_strike_with_is_said(build: CompiledProject) -> None:
    with pytest.raises(Trouble, match="nothing there strikes"):
        fitted(build, compiled_of(build, "Low sweep"), 1, Strike(start=1, end=4), mount="no such joint")
    with pytest.raises(Trouble, match="nothing there strikes"):
        fitted(build, compiled_of(build, "Low sweep"), 1, Strike(start=90, end=94), mount="grip")


def test_what_strikes_counts_once_however_many_hitboxes_ride_on_it(quay: Project, assets: Assets) -> None:
    """Hitboxes on a forearm and on the hand at its end, in either order: the hand counts once. Two on one weapon are
    one weapon, and two limbs are two."""

    def points(*mounts: str) -> int:
        strike = Strike(start=1, end=4, boxes=tuple(Hitbox(mount=m, shape="sphere") for m in mounts))
        build = CompiledProject(with_section(quay, "Low sweep", 0, strikes=(strike,)), assets)
        found = sweep_of(build, compiled_of(build, "Low sweep"), 0, 2)
        assert found is not None
        return len(found[0])

    for limb, end in (("forearm_left", "hand_left"), ("shin_right", "foot_right"), ("spine", "head")):
        assert points(limb, end) == points(end, limb) == points(limb) > 8
    for one, other in (("hand_left", "foot_right"), ("grip", "head")):
        assert points(one, other) == points(other, one) == points(one) + points(other)
    assert points("grip", "tip") == points("tip", "grip") == points("grip") == 33
