"""Looking at the target, told by where the head's own front points in the world."""

from __future__ import annotations

from math import cos, radians, sin

import numpy as np
import pytest
from msgspec.structs import replace
from tools.made.edits import action

from veergust.core.model import Fighter, Floor, Hold, JointShare, Look, Project, Stage
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input

LOOK = Look(
    weight=1.0,
    joints=(
        JointShare(joint="chest", share=0.2),
        JointShare(joint="neck", share=0.4),
        JointShare(joint="head", share=0.4),
    ),
    side=70.0,
    up=40.0,
)
EYES = 0.9 * 1.72


def looking(quay: Project, assets: Assets, at: tuple[float, float, float], look: Look = LOOK) -> Simulation:
    stage = Stage(
        floors=(
            Floor(low=(-50, -50), high=(50, 50)),
            Floor(low=(at[0] - 1, at[2] - 1), high=(at[0] + 1, at[2] + 1), height=at[1]),
        ),
        fighters=(Fighter(name="One", facing=0.0), Fighter(name="Other", position=at)),
        put_back_below=-9,
    )
    project = replace(quay, stage=stage, locomotion=replace(quay.locomotion, look=look))
    return Simulation(CompiledProject(project, assets))


def off(simulation: Simulation, at: tuple[float, float, float]) -> float:
    """The angle (degrees) between where the head looks and where the other's eyes are."""
    f = simulation.fighter("One")
    bones = simulation.build.assets.skeleton
    j = bones.index["head"]
    turn = radians(f.facing)
    spin = np.array([[cos(turn), 0.0, sin(turn)], [0.0, 1.0, 0.0], [-sin(turn), 0.0, cos(turn)]])
    rest = bones.rest_world[j, :3, :3]
    ahead = spin @ f.joints_now[j, :3, :3] @ rest.T @ np.array([0.0, 0.0, 1.0])
    to = np.array(at) + [0.0, EYES, 0.0] - (spin @ f.joints_now[j, :3, 3] + f.position)
    return float(np.degrees(np.arccos(np.clip(ahead @ to / np.linalg.norm(to), -1, 1))))


@pytest.mark.parametrize("at", [(1.0, 0.0, 3.0), (-2.0, 0.0, 1.5), (2.5, 0.0, 1.2), (1.0, 1.4, 2.5), (0.0, -0.9, 2.5)])
def test_the_head_looks_at_the_other_within_its_limits(
    quay: Project, assets: Assets, at: tuple[float, float, float]
) -> None:
    simulation = looking(quay, assets, at)
    for _ in range(60):
        simulation.tick()
    assert off(simulation, at) < 4.0
    without = looking(quay, assets, at, replace(LOOK, weight=0.0))
    for _ in range(60):
        without.tick()
    assert off(without, at) > 2.0 * off(simulation, at)


def test_it_looks_no_farther_than_its_limit_and_not_behind(quay: Project, assets: Assets) -> None:
    aside, behind = looking(quay, assets, (3.0, 0.0, 0.2)), looking(quay, assets, (0.5, 0.0, -3.0))
    for _ in range(60):
        aside.tick()
        behind.tick()
    assert 60.0 <= abs(aside.fighter("One").gaze.side) <= 70.0
    assert behind.fighter("One").gaze.weight == 0.0


def test_an_action_that_holds_the_aim_takes_it_off_and_every_ending_gives_it_back(
    quay: Project, assets: Assets
) -> None:
    sweep = action(quay, "Low sweep")
    held = replace(
        sweep,
        sections=tuple(replace(s, holds=(Hold(start=0, end=999, setting="aim", value=0.0),)) for s in sweep.sections),
    )
    project = replace(quay, actions=tuple(held if a is sweep else a for a in quay.actions))
    for stop in range(1, 36, 5):
        simulation = looking(project, assets, (1.0, 0.0, 4.0))
        weights, steps = [], []
        before = None
        for t in range(20 + stop + 80):
            given = {20: [Input("One", command="light")], 20 + stop: [Input("One", action="Duck roll")]}.get(t, [])
            simulation.tick(given)
            f = simulation.fighter("One")
            weights.append(f.gaze.weight)
            assert f.pose is not None
            head = f.pose.rotation[0, simulation.build.assets.skeleton.index["neck"]]
            if before is not None:
                steps.append(float(np.degrees(2 * np.arccos(np.clip(abs(head @ before), 0, 1)))))
            before = head
        assert weights[19] == 1.0
        assert all(b < a for a, b in zip(weights[19 : 19 + min(stop, 8)], weights[20 : 20 + min(stop, 8)]))
        assert weights[-1] == 1.0
        assert max(steps) < 25.0


def test_who_is_named_first_sees_no_less(quay: Project, assets: Assets) -> None:
    """The other falls off the stage and is put back: it is looked at where it is then, whoever of the two comes first."""
    one, other = Fighter(name="One"), Fighter(name="Other", position=(0.6, 0.5, 2.5))
    heads = []
    for fighters in ((one, other), (other, one)):
        stage = Stage(floors=(Floor(low=(-50, -50), high=(50, 1)),), fighters=fighters, put_back_below=-0.5)
        project = replace(quay, stage=stage, locomotion=replace(quay.locomotion, look=LOOK))
        simulation = Simulation(CompiledProject(project, assets))
        head = simulation.build.assets.skeleton.index["head"]
        heads.append([simulation.tick().fighter("One").joints_now[head] for _ in range(60)])
    assert np.allclose(heads[0], heads[1], rtol=0.0, atol=1e-9)
