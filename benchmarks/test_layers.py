"""Layers: ticks of fighters on whom four speak at once, and a hundred poses laid one over another."""

from __future__ import annotations

from dataclasses import replace as changed
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from msgspec.structs import replace

from veergust.core.files.assets import load_assets
from veergust.core.files.folder import open_project
from veergust.core.model import Action, Cut, Fighter, Floor, Layer, Section, Stage
from veergust.core.motion import quat
from veergust.core.motion.figure import Assets
from veergust.core.motion.layering import over
from veergust.core.motion.skeleton import Pose, Skeleton, forward
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.rules.starting import start
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input

DEMO = Path(__file__).resolve().parents[1] / "demo" / "lantern_quay.veergust"
JOINTS = 65


def fingered(assets: Assets) -> Assets:
    """The demo's figure with fingers, so that it has as many joints as a captured one."""
    bones = assets.skeleton
    spare = JOINTS - len(bones)
    hands = [bones.index["hand_left"], bones.index["hand_right"]]
    parents = [*bones.parents, *(hands[i % 2] if i < 10 else len(bones) + i - 10 for i in range(spare))]
    more = Skeleton(
        (*bones.names, *(f"finger {i}" for i in range(spare))),
        tuple(parents),
        np.concatenate([bones.rest_rotation, np.tile(quat.IDENTITY, (spare, 1))]),
        np.concatenate([bones.rest_translation, np.tile([0.0, -0.02, 0.0], (spare, 1))]),
    )
    return changed(assets, skeleton=more)


@pytest.fixture(scope="module")
def assets() -> Assets:
    return fingered(load_assets(open_project(DEMO), DEMO)[0])


def layered(assets: Assets, count: int) -> Simulation:
    """So many who walk, with an action of four laps' length on each of four layers."""
    project = open_project(DEMO)
    layers = (
        Layer(name="Low", mask="upper body", root=False),
        Layer(name="Aimed", mask="upper body", space="body", root=False),
        Layer(name="Added", mask="upper body", mode="additive", reference="idle"),
        Layer(name="Body", weight=0.5, root=False),
    )
    clips = {"Low": "cover", "Aimed": "lantern_toss", "Added": "flinch", "Body": "staff_jab"}
    actions = tuple(
        Action(name=f"On {y}", layer=y, sections=(Section(name="Round", cuts=(Cut(clip=c, end=0.35),), then="Round"),))
        for y, c in clips.items()
    )
    fighters = tuple(Fighter(name=f"F{i}", position=(4.0 * (i % 4), 0.0, 4.0 * (i // 4))) for i in range(count))
    stage = Stage(floors=(Floor(low=(-1e4, -1e4), high=(1e4, 1e4)),), fighters=fighters)
    made = replace(project, layers=layers, actions=actions, reactions=(), drills=(), stage=stage)
    build = CompiledProject(made, assets)
    simulation = Simulation(build)
    simulation.tick([Input(f.name, axis="move", value=(0.0, 0.28)) for f in fighters])
    for fighter in simulation.fighters:
        for action in actions:
            start(build, fighter, action.name, simulation.now)
    for _ in range(30):
        simulation.tick()
    assert all(len(f.voices) == 4 for f in simulation.fighters)
    return simulation


@pytest.mark.parametrize("count", [2, 16])
def test_a_tick_with_four_layers(benchmark: Any, assets: Assets, count: int) -> None:
    simulation = layered(assets, count)
    benchmark(simulation.tick)


@pytest.mark.parametrize("space", ["joint", "body"])
def test_a_hundred_poses_over_as_many_and_their_joints(benchmark: Any, assets: Assets, space: str) -> None:
    rng = np.random.default_rng(1)
    bones = assets.skeleton
    one, two = (
        Pose(quat.normalize(rng.normal(size=(100, JOINTS, 4))), rng.normal(size=(100, JOINTS, 3))) for _ in range(2)
    )
    weight = np.linspace(0.0, 1.0, JOINTS)

    def mix() -> None:
        made, _ = over(bones, one, two, weight, None, space)  # type: ignore[arg-type]
        forward(bones, made.rotation, made.translation)

    benchmark(mix)
