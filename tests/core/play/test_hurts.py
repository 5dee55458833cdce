"""Hurtboxes that are boxes and hurtboxes on mounts, in play: held against where the joints of the take are."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial.transform import Rotation
from tools.made.edits import replace, section

from tests.conftest import OSSA, TARN
from tests.core.play.test_made_plain import quiet
from tests.core.play.test_rules import made, opposite, run
from veergust.core.model import Hitbox, Hurtbox, Mount, Project, Region, Strike
from veergust.core.motion.figure import Assets
from veergust.core.motion.quat import Array
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.pose.posing import body_matrix
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input

SIZE = (0.03, 0.45, 0.06)
TURN, OFFSET, ABOUT = (20.0, 35.0, -50.0), (0.05, 0.1, 0.0), (0.0, 0.3, 0.0)


def carrying(quay: Project, radius: float, at: tuple[float, float, float], hand: str = "hand_right") -> Project:
    """One who strikes with a ball about the body for ten ticks, and one whose only hurtbox is a board in a hand."""
    ball = Hitbox(mount="root", shape="sphere", offset=at, radius=radius)
    strike = Strike(start=4, end=14, boxes=(ball,), damage=10.0, hit_stop=0)
    project = opposite(quiet(quay), made("Poke", section("idle", 0.5, strikes=(strike,))))
    board = Mount(name="board", joint=hand, offset=OFFSET, turn=TURN)
    box = Hurtbox(name="board", joint="board", offset=ABOUT, size=SIZE, region="held")
    rig = replace(project.rig, mounts=(*project.rig.mounts, board), hurtboxes=(box,),
                  regions=(Region(name="held", factor=0.25),))  # fmt: skip
    return replace(project, rig=rig)


def gap(simulation: Simulation, hand: str, at: Array, radius: float) -> float:
    """How far the ball is from the board on this tick, by SciPy's turns."""
    me, you = (next(f for f in simulation.fighters if f.name == n) for n in (OSSA, TARN))
    bones = simulation.build.assets.skeleton.index
    world = [body_matrix(f.position, f.facing) @ f.joints_now for f in (me, you)]
    ball = world[0][bones["root"]] @ [*at, 1.0]
    own = np.eye(4)
    own[:3, :3], own[:3, 3] = Rotation.from_euler("xyz", TURN, degrees=True).as_matrix(), OFFSET
    seen = np.linalg.inv(world[1][bones[hand]] @ own) @ ball
    off = seen[:3] - ABOUT
    return float(np.linalg.norm(off - np.clip(off, -np.array(SIZE), SIZE))) - radius


@pytest.mark.parametrize("hand", ["hand_right", "hand_left"])
def test_a_board_in_a_hand_is_touched_where_it_is(quay: Project, assets: Assets, hand: str) -> None:
    rng = np.random.default_rng(5)
    touched = 0
    for _ in range(12):
        at, radius = rng.uniform((-0.6, 0.6, 0.4), (0.6, 1.6, 1.3)), float(rng.uniform(0.1, 0.5))
        project = carrying(quay, radius, tuple(at), hand)
        simulation = Simulation(CompiledProject(project, assets))
        gaps, contacts = [], []
        for tick in range(24):
            record = simulation.tick([Input(OSSA, action="Poke")] if tick == 0 else [])
            gaps.append(gap(simulation, hand, at, radius) if 4 <= tick < 14 else np.inf)
            contacts += [(tick, c) for c in record.contacts]
            if contacts:
                break
        first = next((t for t, g in enumerate(gaps) if g < -2e-3), None)
        if contacts:
            tick, contact = contacts[0]
            touched += 1
            assert (contact.hurtbox, contact.region, contact.damage) == ("board", "held", 2.5)
            # On the tick it is first inside, or swept through on the way to a tick.
            assert first is None or tick <= first
            assert min(gaps[max(tick - 1, 0) : tick + 1]) < 0.1
        else:
            assert first is None
    assert 2 <= touched <= 11


def test_what_is_on_a_mount_goes_when_the_mount_does(quay: Project, assets: Assets) -> None:
    project = carrying(quay, 3.0, (0.0, 1.0, 0.5))
    gone = replace(project, rig=replace(project.rig, mounts=()))
    for changed, count in ((project, 1), (gone, 0)):
        takes = run(changed, assets, {0: [Input(OSSA, action="Poke")]}, 12)
        assert sum(len(t.contacts) for t in takes) == count


def test_a_joint_is_meant_before_a_mount_of_its_name(quay: Project, assets: Assets) -> None:
    joint = quay.rig.hurtboxes[0].joint
    far = Mount(name=joint, joint=joint, offset=(5.0, 0.0, 0.0))
    rig = replace(quay.rig, mounts=(far,), hurtboxes=(Hurtbox(name="a", joint=joint, offset=(0.1, 0.2, 0.3)),))
    shapes = CompiledProject(replace(quay, rig=rig), assets).hurt_shapes["standing"]
    assert np.allclose(shapes.a, [[0.1, 0.2, 0.3]])
