"""A layer's aim: where it points, how fast, over which states, what it adds; and what is thrown goes there."""

from __future__ import annotations

from math import atan2, cos, degrees, hypot, radians, sin

import numpy as np
import pytest
from scipy.spatial.transform import Rotation
from tools.made.edits import replace, section

from tests.core.play.test_rules import made
from veergust.core.model import (
    Aim,
    AimPoint,
    Event,
    Fighter,
    Floor,
    Hold,
    Layer,
    Mask,
    Project,
    Speaks,
    Stage,
    Strike,
    Thrown,
)
from veergust.core.motion.figure import Assets
from veergust.core.motion.quat import Array
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.play.take.record import Record

POINTS = (
    AimPoint(clip="staff_thrust", time=0.2),
    AimPoint(clip="hit_left", side=50.0, time=0.1),
    AimPoint(clip="hit_right", side=-50.0, time=0.1),
    AimPoint(clip="overhead", up=40.0, time=0.3),
    AimPoint(clip="fall", up=-40.0, time=0.2),
)
AIM = Aim(points=POINTS, side=50.0, up=40.0, rate=360.0, ticks=5)


def project_of(
    quay: Project, aim: Aim | None = AIM, at: tuple[float, float, float] = (0.0, 0.0, 4.0), **layer: object
) -> Project:
    """One at the origin that looks along +Z, and another somewhere; locomotion looks nowhere and lays no feet."""
    ground = quay.locomotion
    ground = replace(ground, look=replace(ground.look, weight=0.0), feet=replace(ground.feet, weight=0.0))
    stage = Stage(
        floors=(Floor(low=(-50, -50), high=(50, 50)), Floor(low=(at[0] - 1, at[2] - 1), high=(at[0] + 1, at[2] + 1), height=at[1])),
        fighters=(Fighter(name="One", facing=0.0, plays="keys"), Fighter(name="Other", position=at)),
        put_back_below=-9.0,
    )  # fmt: skip
    layers = (Layer(name="Body"), Layer(name="Arms", aim=aim, **layer))  # type: ignore[arg-type]
    return replace(quay, stage=stage, layers=layers, locomotion=ground, actions=(), reactions=(), grips=(), drills=())


def played(project: Project, assets: Assets, ticks: int, script: dict[int, list[Input]] | None = None) -> list[Record]:
    simulation = Simulation(CompiledProject(project, assets))
    return [simulation.tick((script or {}).get(t, [])) for t in range(ticks)]


def pointed(at: tuple[float, float, float], tall: float) -> tuple[float, float]:
    """Plainly: from the shoulder to the other's chest."""
    return degrees(atan2(at[0], at[2])), degrees(atan2(at[1] + 0.6 * tall - 0.8 * tall, hypot(at[0], at[2])))


@pytest.mark.parametrize(
    "at", [(0.0, 0.0, 4.0), (2.0, 0.0, 3.0), (-2.5, 0.0, 2.2), (0.0, 2.0, 3.0), (3.0, 1.0, 2.0), (0.5, 3.9, 1.5)]
)
def test_it_points_at_the_target_as_far_as_it_may(
    quay: Project, assets: Assets, at: tuple[float, float, float]
) -> None:
    gaze = played(project_of(quay, at=at), assets, 60)[-1].fighter("One").aims[0]
    side, up = pointed(at, quay.rig.capsule.height)
    assert gaze.side == pytest.approx(np.clip(side, -50.0, 50.0), abs=0.2)
    assert gaze.up == pytest.approx(np.clip(up, -40.0, 40.0), abs=0.2)
    assert gaze.weight == pytest.approx(1.0)


def turned_by(base: Array, ahead: Array, pose: Array, weight: Array) -> Array:
    """Joint by joint, with SciPy: the base with so much of the turn from one pose to the other."""
    turn = Rotation.from_quat(ahead).inv() * Rotation.from_quat(pose)
    return np.asarray((Rotation.from_quat(base) * Rotation.from_rotvec(turn.as_rotvec() * weight[:, None])).as_quat())


@pytest.mark.parametrize("masked", [False, True])
@pytest.mark.parametrize("weight", [1.0, 0.4])
def test_what_it_adds_is_the_difference_from_ahead(quay: Project, assets: Assets, weight: float, masked: bool) -> None:
    """On one of its points: the base with that pose's difference, by weight and mask."""
    side = 50.0
    at = (4.0 * sin(radians(side)), 0.2 * quay.rig.capsule.height, 4.0 * cos(radians(side)))
    masks = (Mask(name="m", joint="spine"),) if masked else ()
    project = replace(project_of(quay, replace(AIM, weight=weight), at, mask="m" if masked else ""), masks=masks)
    bare = played(replace(project, layers=(Layer(name="Body"),)), assets, 60)[-1].fighter("One").pose
    there = played(project, assets, 60)[-1].fighter("One").pose
    assert bare is not None
    assert there is not None
    build = CompiledProject(project, assets)
    [compiled] = build.aims
    share = weight * build.layers["Arms"].mask
    wanted = turned_by(bare.rotation[0], compiled.poses[0].rotation[0], compiled.poses[1].rotation[0], share)
    assert np.allclose(np.abs(np.sum(wanted * there.rotation[0], axis=-1)), 1.0, atol=2e-6)
    if masked:
        assert (share == 0.0).any()
        assert np.array_equal(bare.rotation[0][share == 0.0], there.rotation[0][share == 0.0])


def test_it_turns_no_faster_than_it_may_and_comes_in_eased(quay: Project, assets: Assets) -> None:
    """To a target that is suddenly elsewhere, after it had come in on another."""
    simulation = Simulation(
        CompiledProject(project_of(quay, replace(AIM, rate=60.0, ticks=9), (3.0, 0.0, 2.5)), assets)
    )
    gazes = []
    for tick in range(160):
        if tick == 60:
            simulation.fighter("Other").position = np.array([-3.0, 0.0, 2.5])
        gazes.append(simulation.tick().fighter("One").aims[0])
    assert gazes[0].weight == pytest.approx(0.1)
    assert gazes[0].side == pytest.approx(50.0), "it comes in where it is to point"
    for one, two in zip(gazes, gazes[1:]):
        assert abs(two.weight - one.weight) <= 0.1 + 1e-9
        assert abs(two.side - one.side) <= 1.0 + 1e-9
    assert gazes[59].weight == gazes[-1].weight == 1.0
    assert gazes[-1].side < -45.0


@pytest.mark.parametrize("off", ["state", "hold", "behind", "nobody"])
def test_it_points_only_where_its_layer_may_speak(quay: Project, assets: Assets, off: str) -> None:
    """Elsewhere, held, with the target behind or with nobody there, the pose is locomotion's to the bit."""
    scope = (Speaks(state="idle", rule="finishes"),) if off == "state" else ()
    at = (0.0, 0.0, -3.0) if off == "behind" else (1.0, 0.0, 3.0)
    project = project_of(quay, AIM, at, scope=scope)
    held = made("Held", section("idle", 1.0, holds=(Hold(start=0, end=60, setting="aim", value=0.0),)), layer="Body")
    project = replace(project, actions=(held,))
    if off == "nobody":
        project = replace(project, stage=replace(project.stage, fighters=project.stage.fighters[:1]))
    script = {0: [Input("One", action="Held")]} if off == "hold" else {}
    records = played(project, assets, 50, script)
    assert {r.fighter("One").aims[0].weight for r in records} == {0.0}
    bare = played(replace(project, layers=(Layer(name="Body"), Layer(name="Arms", scope=scope))), assets, 50, script)
    for one, two in zip(records, bare):
        a, b = one.fighter("One").pose, two.fighter("One").pose
        assert a is not None
        assert b is not None
        assert a.rotation.tobytes() == b.rotation.tobytes()


def test_towards_the_stick_it_points_where_that_does(quay: Project, assets: Assets) -> None:
    project = project_of(quay, replace(AIM, towards="stick"))
    ground = replace(project.locomotion, turn_rate=0.0, spot_turn_rate=0.0)
    project = replace(project, locomotion=ground)
    turn = radians(30.0)
    script = {0: [Input("One", axis="move", value=(0.2 * sin(turn), 0.2 * cos(turn)))], 60: [Input("One", axis="move")]}
    gazes = [r.fighter("One").aims[0] for r in played(project, assets, 90, script)]
    assert gazes[50].side == pytest.approx(30.0, abs=0.5)
    assert gazes[50].weight == 1.0
    assert gazes[-1].weight == 0.0


@pytest.mark.parametrize("at", [(2.0, 0.0, 3.0), (0.0, 2.0, 3.0), (0.0, 0.0, 4.0)])
def test_what_is_thrown_goes_where_it_points(quay: Project, assets: Assets, at: tuple[float, float, float]) -> None:
    toss = made(
        "Toss",
        section("idle", 0.5, events=(Event(tick=1, kind="spawn", name="ball", offset=(0, 1.2, 0)),)),
        layer="Body",
    )
    ball = Thrown(name="ball", speed=8.0, up=0.0, gravity=0.0, strike=Strike(start=0, end=1))
    project = replace(project_of(quay, AIM, at), actions=(toss,), thrown=(ball,))
    records = played(project, assets, 50, {40: [Input("One", action="Toss")]})
    x, y, z = records[41].world.things[0].velocity
    side, up = pointed(at, quay.rig.capsule.height)
    assert degrees(atan2(x, z)) == pytest.approx(np.clip(side, -50, 50), abs=0.3)
    assert degrees(atan2(y, hypot(x, z))) == pytest.approx(np.clip(up, -40, 40), abs=0.3)
    assert hypot(x, y, z) == pytest.approx(8.0)


def test_as_the_target_goes_round_no_joint_leaps(quay: Project, assets: Assets) -> None:
    """Walking round it, out of its limits and in again: no joint goes farther in a tick than the poses and the rate say."""
    project = project_of(quay, replace(AIM, rate=240.0), (0.0, 0.0, 2.0))
    fighters = (project.stage.fighters[0], replace(project.stage.fighters[1], plays="keys"))
    project = replace(project, stage=replace(project.stage, fighters=fighters))
    script = {t: [Input("Other", axis="move", value=(cos(t / 60.0), -sin(t / 60.0)))] for t in range(0, 400, 4)}
    records = played(project, assets, 400, script)
    places = np.array([r.fighter("One").joints_now[:, :3, 3] for r in records])
    steps = np.linalg.norm(np.diff(places, axis=0), axis=-1)
    assert len({round(r.fighter("One").aims[0].side) for r in records}) > 20
    beside = np.maximum(steps[:-2], steps[2:])
    assert (steps[1:-1] - 2.0 * beside).max() < 0.03
    assert steps.max() < 0.25
