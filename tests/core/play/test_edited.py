"""Play that goes on while the project under it is edited."""

from __future__ import annotations

import dataclasses

import numpy as np
import pytest
from msgspec.structs import replace
from tools.made.edits import alone

from tests.conftest import OSSA
from veergust.core.edit.locomotion import remove, rename, set_state
from veergust.core.model import BlendPoint, Project
from veergust.core.motion.figure import Assets
from veergust.core.motion.skeleton import Skeleton
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.pose.speaking import weights_of
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input


def on_the_move(project: Project, assets: Assets, *, guard: bool) -> Simulation:
    simulation = Simulation(CompiledProject(project, assets))
    for t in range(40):
        given = [Input(OSSA, axis="move", value=(0.4, 0.2))] if t == 2 else []
        simulation.tick([*given, Input(OSSA, "guard")] if guard and t == 0 else given)
    return simulation


@pytest.mark.parametrize("how", ["removed", "renamed", "all others"])
def test_a_body_whose_state_is_gone_begins_anew_and_never_stands_in_its_rest_pose(
    how: str, quay: Project, assets: Assets
) -> None:
    project = alone(quay)
    simulation = on_the_move(project, assets, guard=False)
    now = simulation.fighters[0].locomotion[-1].state
    assert now == "walk"
    if how == "removed":
        changed = remove(project, now).project
    elif how == "renamed":
        changed = rename(project, now, "stroll").project
    else:
        there = project.locomotion
        states = tuple(replace(s, name=f"other {s.name}", group="") for s in there.states)
        changed = replace(project, locomotion=replace(there, states=states, transitions=(), entry="other idle"))
    build = CompiledProject(changed, assets)
    simulation.use(build)
    simulation.tick()
    fighter = simulation.fighters[0]
    assert fighter.locomotion[-1].state in build.states
    assert fighter.pose is not None
    assert np.abs(fighter.pose.rotation - assets.skeleton.rest_rotation).max() > 0.05


@pytest.mark.parametrize("over", [("speed",), ("direction",), ("turn_rate", "speed"), ("ahead", "left")])
def test_a_blend_may_be_laid_over_something_else_while_it_plays(
    over: tuple[str, ...], quay: Project, assets: Assets
) -> None:
    project = alone(quay)
    simulation = on_the_move(project, assets, guard=True)
    assert simulation.fighters[0].locomotion[-1].state == "guard walk"
    points = tuple(
        BlendPoint(clip=c, at=tuple(float(i * j + i) for j in range(len(over))))
        for i, c in enumerate(("guard_idle", "guard_ahead", "guard_left"))
    )
    changed = set_state(project, "guard walk", "over", over=over, blend=points).project
    simulation.use(CompiledProject(changed, assets))
    for _ in range(5):
        simulation.tick()
    assert simulation.fighters[0].locomotion[-1].state in ("guard walk", "guard")


@pytest.mark.parametrize("rate", [90.0, 360.0])
def test_a_body_turns_as_fast_as_it_is_said_to(rate: float, quay: Project, assets: Assets) -> None:
    there = replace(quay.locomotion, turn_rate=rate, spot_turn_rate=0.0)
    simulation = Simulation(CompiledProject(replace(alone(quay), locomotion=there), assets))
    simulation.tick()
    began = simulation.fighters[0].facing
    simulation.tick([Input(OSSA, axis="move", value=(0.0, 1.0) if abs(began) > 45.0 else (1.0, 0.0))])
    turned = []
    for _ in range(8):
        before = simulation.fighters[0].facing
        simulation.tick()
        turned.append(abs((simulation.fighters[0].facing - before + 180.0) % 360.0 - 180.0))
    assert turned[2:8] == pytest.approx([rate / quay.settings.rate] * 6)


@pytest.mark.parametrize("spare", [1, 35])
@pytest.mark.parametrize("feet", [True, False])
def test_play_goes_on_with_another_figure(spare: int, feet: bool, quay: Project, assets: Assets) -> None:
    """In the middle of a blow laid over a walk, with feet on the floor: more joints, and no foot that is known as one."""
    project = alone(quay)
    simulation = on_the_move(project, assets, guard=False)
    simulation.tick([Input(OSSA, "toss")])
    for _ in range(4):
        simulation.tick()
    old = assets.skeleton
    names = old.names if feet else tuple(n.replace("foot", "end").replace("toe", "tip") for n in old.names)
    more = Skeleton(
        (*names, *(f"lace {i}" for i in range(spare))),
        (*old.parents, *(len(old) - 1 for _ in range(spare))),
        np.concatenate([old.rest_rotation, np.tile([0.0, 0.0, 0.0, 1.0], (spare, 1))]),
        np.concatenate([old.rest_translation, np.zeros((spare, 3))]),
    )
    other = CompiledProject(project, dataclasses.replace(assets, skeleton=more))
    simulation.use(other)
    for _ in range(20):
        now = simulation.tick().fighter(OSSA)
        assert now.joints_now.shape == (len(old) + spare, 4, 4)
        assert np.isfinite(now.joints_now).all()
    assert len(now.footing.feet) == len(other.limbs)


def test_gone_back_after_an_edit_an_action_shows_as_much_as_its_layer_says_now(quay: Project, assets: Assets) -> None:
    project = alone(quay)
    simulation = on_the_move(project, assets, guard=False)
    simulation.tick([Input(OSSA, "toss")])
    played = [simulation.tick() for _ in range(12)]
    layers = tuple(replace(y, weight=0.25) if y.name == "Arms" else y for y in project.layers)
    simulation.use(CompiledProject(replace(project, layers=layers), assets))
    simulation.resume(played[-2], played[-3])
    fighter = simulation.fighter(OSSA)
    assert [v.layer for v in fighter.voices] == ["Arms"]
    assert weights_of(simulation.build, fighter) == (0.25,)
