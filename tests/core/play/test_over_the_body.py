"""A mix of poses that stand over their bodies stands over its body: on figures of every family, wherever their captures
were shot, in fades and blends and not only between them. What is expected are the hips of what is mixed, by themselves."""

from __future__ import annotations

from functools import cache
from math import cos, radians, sin

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from tools.made.rigs import FAMILIES, WHO, figure, motion, project_of, shot_from, shots

from veergust.core.edit.outfit import outfit
from veergust.core.model import (
    Aim,
    AimPoint,
    Clip,
    Fighter,
    Layer,
    Project,
    Reaction,
    Rig,
    RootUse,
    Strike,
)
from veergust.core.motion.blend import mean, mix
from veergust.core.motion.figure import Assets
from veergust.core.motion.layering import added, over
from veergust.core.motion.prepared import carried
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Pose, Skeleton, forward
from veergust.core.motion.track import Roots
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact.contact import Contact
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import FighterState, Input
from veergust.core.scene.mannequin import mannequin

PLACES = ((0.0, 0.0, 0.0), (0.8, 0.6, 40.0), (6.0, -8.0, -115.0), (-60.0, 80.0, 170.0))
"""How far off (m) the cameras stood, and turned by how much (degrees): 0, 1, 10 and 100 m."""
MIXES = ("mix", "mean", "over", "over in body space", "added")


@cache
def moments(family: str) -> list[tuple[Assets, Clip, Roots]]:
    """Captures on a family's figure, carried by hips and by a root, shot from several places."""
    bones = figure(family)
    roots = Roots(bones.index.get("Root", -1), bones.index["Hip"])
    out = []
    for n, (name, taken) in enumerate(shots().items()):
        for by_root in (False, True):
            x, z, turned = PLACES[(n + by_root) % len(PLACES)]
            made = motion(family, shot_from(taken, (x, z), turned), name, by_root)
            assets = Assets(bones, None, {("m.glb", name): made})
            out.append((assets, Clip(name=name, file="m.glb", animation=name), roots))
    return out


def hips_of(bones: Skeleton, pose: Pose, joint: int) -> Array:
    return forward(bones, pose.rotation, pose.translation)[0, joint, :3, 3]


@pytest.mark.parametrize("how", MIXES)
@pytest.mark.parametrize("family", list(FAMILIES))
@settings(max_examples=8, deadline=None)
@given(picks=st.tuples(*[st.integers(0, 9)] * 3), at=st.tuples(*[st.floats(0.0, 0.98)] * 3), weight=st.floats(0.0, 1.0))
def test_the_hips_of_a_mix_are_between_those_of_what_is_mixed(
    family: str,
    how: str,
    picks: tuple[int, int, int],
    at: tuple[float, float, float],
    weight: float,
) -> None:
    bones = figure(family)
    poses = []
    for pick, share in zip(picks, at):
        assets, clip, roots = moments(family)[pick]
        seconds = assets.motions["m.glb", clip.animation].seconds
        poses.append(carried(assets, clip, np.array([share * seconds]), roots)[1])
    a, b, c = (hips_of(bones, p, bones.index["Hip"]) for p in poses)
    every = np.ones(len(bones))
    if how == "mix":
        out, wanted = mix(poses[0], poses[1], weight), a + (b - a) * weight
    elif how == "mean":
        out, wanted = mean([(poses[0], 0.0, 1.0 - weight), (poses[1], 0.0, weight)]), a + (b - a) * weight
    elif how == "added":
        out = added(bones, poses[0], poses[1], poses[2], every, None, share=weight)[0]
        wanted = a + (b - c) * weight
    else:
        space = "body" if "body" in how else "joint"
        out = over(bones, poses[0], poses[1], every, None, space, weight)[0]  # type: ignore[arg-type]
        wanted = a + (b - a) * weight
    assert np.abs(hips_of(bones, out, bones.index["Hip"]) - wanted).max() < 1e-9
    # What was shot standing over the floor sways about its body, and does not leave it.
    assert max(np.hypot(x[0], x[2]) for x in (a, b, c)) < 0.35


def seen(fighter: FighterState) -> Array:
    """Joints ``[J, 3]`` in the world, by the body's place and facing."""
    x, y, z = np.moveaxis(fighter.joints_now[:, :3, 3], -1, 0)
    s, c = sin(radians(fighter.facing)), cos(radians(fighter.facing))
    return np.stack([c * x + s * z, y, c * z - s * x], -1) + fighter.position


PARTS = (("lunge", 2.6, 3.8), ("lunge", 3.9, 5.1), ("blow", 0.1, 1.3), ("run", 1.3, 2.5), ("stagger", 0.0, 1.0))
LEAP = 0.06
"""What a turn that begins at the rate of an aim (6° a tick) does to a hand (m)."""
PACES = {"standing": 0.0, "walking": 0.3, "running": 1.0}


@cache
def built(family: str, place: tuple[float, float, float]) -> CompiledProject:
    return CompiledProject(*project_of(family, place[:2], place[2], PARTS))


def play(
    family: str, place: tuple[float, float, float], what: str, pace: float, ticks: int = 130
) -> list[FighterState]:
    """A part begun on the 40th tick of standing, walking or running with the stick held on."""
    simulation = Simulation(built(family, place))
    given = {0: [Input(WHO, axis="move", value=(0.0, pace))], 40: [Input(WHO, what)]}
    return [simulation.tick(given.get(t, [])).fighter(WHO) for t in range(ticks)]


@pytest.mark.parametrize("pace", list(PACES))
@pytest.mark.parametrize("what", ["0", "3", "up 1"])
@pytest.mark.parametrize("family", list(FAMILIES))
def test_a_take_is_the_same_wherever_its_captures_were_shot(family: str, what: str, pace: str) -> None:
    """Shot 1, 10 and 100 m away and turned, a play is the same, and the same as on hips on top; the hips never leave
    the body by more than the captures themselves sway."""
    runs = [play("hips on top", PLACES[0], what, PACES[pace])]
    runs += [play(family, place, what, PACES[pace]) for place in PLACES[1:]]
    bones = [figure("hips on top"), *[figure(family)] * len(PLACES[1:])]
    films = [np.array([seen(f)[b.index["Hip"] :] for f in run]) for run, b in zip(runs, bones)]
    bodies = [np.array([f.position for f in run]) for run in runs]
    for film, body in zip(films[1:], bodies[1:]):
        assert np.abs(film - films[1]).max() < 1e-4
        assert np.abs(body - bodies[1]).max() < 1e-4
        assert np.abs(film - films[0]).max() < 1e-4
        off = np.linalg.norm((film[:, 0] - body)[:, [0, 2]], axis=-1)
        assert off.max() < 0.2, f"hips {off.max():.2f} m from the body"
        assert np.linalg.norm(np.diff(film[:, 0], axis=0), axis=-1).max() < 0.12


def test_a_slow_blend_of_a_far_capture_stands_over_its_body() -> None:
    for family in FAMILIES:
        simulation = Simulation(built(family, PLACES[2]))
        for t in range(200):
            fighter = simulation.tick([Input(WHO, axis="move", value=(0.0, 0.12))] if t == 5 else []).fighter(WHO)
            hips = seen(fighter)[figure(family).index["Hip"]]
            assert np.hypot(*(hips - fighter.position)[[0, 2]]) < 0.1


@pytest.mark.parametrize("family", list(FAMILIES))
def test_a_mirrored_figure_is_its_reflection_under_any_node(family: str) -> None:
    bones = figure(family)
    roots = Roots(bones.index.get("Root", -1), bones.index["Hip"])
    taken = motion(family, shots()["lunge"], "lunge")
    assets = Assets(bones, None, {("m.glb", "lunge"): taken})
    clip = Clip(name="lunge", file="m.glb", animation="lunge", root=RootUse())
    at = np.linspace(0.4, 5.0, 30)
    straight, turned = (carried(assets, replace(clip, mirror=m), at, roots)[1] for m in (False, True))
    own, other = (forward(bones, p.rotation, p.translation)[..., :3, 3] for p in (straight, turned))
    first = bones.index["Hip"]
    reflected = own[:, list(bones.mirrored)] * [-1.0, 1.0, 1.0]
    assert np.abs(reflected[:, first:] - other[:, first:]).max() < 1e-6


@pytest.mark.parametrize("family", FAMILIES)
def test_what_stands_over_the_body_is_no_part_of_it(family: str) -> None:
    """A figure is hit, and drawn, where its body is, whatever its maker put above the hips."""

    def body(family: str) -> tuple[list[tuple[str, list[float]]], np.ndarray]:
        bones = figure(family)
        rest = bones.rest_world
        boxes = outfit(Project(name="new", rig=Rig(figure="x.glb")), Assets(bones, None, {})).rig.hurtboxes
        ends = [(b.name, (rest[bones.index[b.joint]] @ [*b.to, 1.0])[:3].round(3).tolist()) for b in boxes]
        points = mannequin(bones).points
        return ends, np.array([points.min(axis=0), points.max(axis=0)])

    (boxes, extents), (plain, plain_extents) = body(family), body("hips on top")
    assert [name for name, _ in boxes] == [name for name, _ in plain]
    np.testing.assert_allclose([e for _, e in boxes], [e for _, e in plain], atol=2e-3)
    np.testing.assert_allclose(extents, plain_extents, atol=0.03)


@pytest.mark.parametrize("family", FAMILIES)
def test_a_stand_cut_out_before_a_blow_does_not_creep_and_leap_back(family: str) -> None:
    """The hips stand still in the source; what the blow does after the cut brings in no leap from lap to lap."""
    source = shots()["blow"]
    assert np.ptp(source.hips[: round(0.3 * source.fps)], axis=0).max() < 0.01
    project, assets = project_of(family, (7.0, -4.0), 130.0)
    hips = assets.skeleton.index["Hip"]
    simulation = Simulation(CompiledProject(project, assets))
    about = []
    for _ in range(60):
        about.append(simulation.tick().fighter(WHO).joints_now[hips, :3, 3])
    flat = np.array(about)[:, [0, 2]]
    assert np.abs(np.diff(flat, axis=0)).max() < 0.008
    assert np.ptp(flat, axis=0).max() < 0.015


@settings(max_examples=8, deadline=None)
@given(
    st.sampled_from(["walk", "run", "blow", "stagger", "lunge"]), st.floats(0.0, 0.5), st.floats(0.2, 0.9),
    st.sampled_from(list(FAMILIES)), st.booleans(),
)  # fmt: skip
def test_whatever_part_goes_round_its_hips_stand_over_the_body_as_at_its_beginning(
    name: str, start: float, long: float, family: str, mirror: bool
) -> None:
    taken = shot_from(shots()[name], (7.0, -4.0), 130.0)
    bones, moved = figure(family), motion(family, taken, name)
    end = min(start + long, taken.seconds)
    clip = Clip(name=name, file="a.glb", animation=name, start=start, end=end, loop=True, mirror=mirror)
    assets = Assets(bones, None, {("a.glb", name): moved})
    hips = bones.index["Hip"]
    _, pose = carried(assets, clip, np.array([start, end]), Roots(-1, hips))
    world = forward(bones, pose.rotation, pose.translation)[:, hips]
    np.testing.assert_allclose(world[1, [0, 2], 3], world[0, [0, 2], 3], atol=5e-3)
    ahead = np.degrees(np.arctan2(world[:, 0, 2], world[:, 2, 2]))
    assert abs((ahead[1] - ahead[0] + 180.0) % 360.0 - 180.0) < 3.0


def struck(
    family: str, place: tuple[float, float, float], pace: float, aims: bool, ticks: int = 150
) -> list[FighterState]:
    """Struck again and again, with stuns that cut a stagger short, hold its last frame, or catch it anew, pushed and
    launched; and aiming meanwhile, or not, at somebody who is somewhere else on every second."""
    project, assets = project_of(family, place[:2], place[2], PARTS)
    points = (AimPoint(clip="stand"), AimPoint(clip="blow", side=50.0, time=0.6), AimPoint(clip="lunge", side=-50.0, time=3.0),
              AimPoint(clip="stagger", up=40.0, time=0.3), AimPoint(clip="run", up=-40.0, time=1.0))  # fmt: skip
    layers = (Layer(name="Body"), Layer(name="Up", mask="up", space="body", aim=Aim(points=points) if aims else None))
    fighters = (*project.stage.fighters, Fighter(name="Other", position=(1.0, 0.0, 3.0), facing=180.0))
    project = replace(
        project, layers=layers, reactions=(Reaction(action="4"),), stage=replace(project.stage, fighters=fighters)
    )
    stuns = (9, 40, 80, None, 25)

    def touches(simulation: Simulation) -> list[Contact]:
        if simulation.now % 35 != 20:
            return []
        n = simulation.now // 35
        strike = Strike(
            start=0, end=1, stun=stuns[n % 5], hit_stop=n % 4, knockback=(0.5, 2.0 * (n % 3 == 2), 1.5), damage=0.0
        )
        return [Contact(strike, "Other", WHO, "", "hit", np.zeros(3), 0.0, (0, 0))]

    simulation = Simulation(CompiledProject(project, assets), touches=touches)
    out = []
    for t in range(ticks):
        if t % 60 == 30:
            turn = 1.3 * t
            simulation.fighter("Other").position = np.array([4.0 * sin(turn), 0.0, 4.0 * cos(turn)])
        given = [Input(WHO, axis="move", value=(0.0, pace))] if t == 0 else []
        out.append(simulation.tick(given).fighter(WHO))
    return out


@pytest.mark.parametrize("aims", [False, True])
@pytest.mark.parametrize("pace", list(PACES))
def test_who_is_struck_over_and_over_leaps_on_no_figure(pace: str, aims: bool) -> None:
    """The same on every family, shot off the origin and turned; no joint goes farther than its neighbours' steps say."""
    films = []
    for family, place in zip(FAMILIES, PLACES):
        run = struck(family, place, PACES[pace], aims)
        assert {f.stun > 0 for f in run} == {True, False}
        assert any(f.aims and f.aims[0].weight > 0.5 for f in run) == aims
        films.append(np.array([seen(f)[figure(family).index["Hip"] :] for f in run]))
    for film in films[1:]:
        assert np.abs(film - films[0]).max() < 1e-4
    steps = np.linalg.norm(np.diff(films[0], axis=0), axis=-1)
    beyond = steps[1:-1] - 2.0 * np.maximum(steps[:-2], steps[2:])
    assert beyond.max() < LEAP, f"{beyond.max():.3f} m on tick {np.unravel_index(beyond.argmax(), beyond.shape)}"
