"""Nothing pops: what play shows from tick to tick is what the clips, the body and the fades explain.

What is explained is worked out here: what a joint does on the ticks beside, and how far a fade has to bring it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tools.made.captures import NAMES, Capture, capture, write_bvh
from tools.made.edits import WIDE, alone, replace

from tests.conftest import OSSA
from veergust.core.files.assets import load_assets
from veergust.core.files.importing import import_file
from veergust.core.files.saving import save_project
from veergust.core.model import (
    Action,
    Command,
    Cut,
    Fighter,
    Locomotion,
    Project,
    Section,
    Stage,
    StartRule,
    State,
)
from veergust.core.motion.blend import ease
from veergust.core.motion.figure import Assets
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import forward
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.locomotion.playing import state_pose
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import FighterState, Input, end

FAR, TURN = 0.03, 8.0


@dataclass(eq=False)
class Seen:
    """World matrices ``[T, J, 4, 4]`` of a play, and how far fades brought each joint on each tick ``[T, J]`` (m)."""

    worlds: Array
    faded: Array
    shown: list[str]

    def pops(self) -> list[str]:
        moved = np.linalg.norm(np.diff(self.worlds[..., :3, 3], axis=0), axis=-1)
        out = []
        for t in range(2, len(moved) - 1):
            beside = np.maximum(moved[t - 1], moved[t + 1])
            over = moved[t] - 2.0 * beside - FAR - self.faded[t + 1]
            if over.max() > 0.0:
                j = int(np.argmax(over))
                out.append(f"{self.shown[t + 1]}: joint {j} goes {moved[t, j]:.3f} m")
        return out


def look(build: CompiledProject, script: dict[int, list[Input]], ticks: int, broken: int = -1) -> Seen:
    simulation = Simulation(build)
    name = simulation.fighters[0].name
    worlds, faded, shown = [], [], []
    before: dict[int, float] = {}
    for t in range(ticks):
        if t == broken:
            for voice in simulation.fighter(name).live():
                end(simulation.fighter(name), voice, "broken")
        fighter = simulation.tick(script.get(t, [])).fighter(name)
        c, s = np.cos(np.radians(fighter.facing)), np.sin(np.radians(fighter.facing))
        body = np.array([[c, 0, s, 0], [0, 1, 0, 0], [-s, 0, c, 0], [0, 0, 0, 1.0]])
        body[:3, 3] = fighter.position
        worlds.append(body @ fighter.joints_now)
        much, before = fades(build, fighter, before)
        faded.append(much)
        says = [(v.compiled.action.name, v.part.section.name, v.frame, v.ended) for v in fighter.voices]
        shown.append(f"tick {t}, {fighter.locomotion[-1].state}, {says}")
    return Seen(np.array(worlds), np.array(faded), shown)


def fades(build: CompiledProject, fighter: FighterState, before: dict[int, float]) -> tuple[Array, dict[int, float]]:
    """How far each joint is brought by what fades, at most ``[J]``: the step of each weight times what it brings to."""
    bones = build.assets.skeleton
    shown = [state_pose(build, fighter, g.state, g.phase, g.at) for g in fighter.locomotion]
    states = [forward(bones, *_of(pose))[0, :, :3, 3] for pose in shown]
    out = np.zeros(len(bones))
    for under, over, g in zip(states, states[1:], fighter.locomotion[1:]):
        out += 1.5 / (g.blend + 1) * np.linalg.norm(over - under, axis=-1)
    now: dict[int, float] = {}
    for voice in fighter.voices:
        action = voice.compiled.action
        weight = ease(action.ease, (voice.age + 1) / (voice.blend + 1))
        if voice.ended and not voice.covered:
            weight *= 1.0 - ease(action.ease, voice.faded / (action.blend_out + 1))
        now[voice.serial] = weight
        step = abs(weight - before.get(voice.serial, 0.0))
        pose = forward(bones, *_of(voice.part.past(voice.frame + voice.faded)))[0, :, :3, 3]
        out += step * np.max([np.linalg.norm(pose - s, axis=-1) for s in states], axis=0)
        for gone in voice.going:
            old = forward(bones, *_of(voice.compiled.sections[gone.section].past(gone.tick)))[0, :, :3, 3]
            out += 1.5 / (gone.blend + 1) * np.linalg.norm(pose - old, axis=-1)
    return out, now


def _of(pose: object) -> tuple[Array, Array]:
    return pose.rotation, pose.translation  # type: ignore[attr-defined]


def stick(value: float) -> Input:
    return Input(OSSA, axis="move", value=(value, 0.0))


@pytest.fixture(scope="module")
def wide(quay: Project, assets: Assets) -> CompiledProject:
    return CompiledProject(alone(quay, floors=WIDE), assets)


ACTIONS = ["Low sweep", "Thrust", "Overhead hook", "Braced charge", "Duck roll",
           "Reel front", "Reel back", "Reel left", "Reel right", "Fall"]  # fmt: skip


@pytest.mark.parametrize("held", [True, False], ids=["stick held", "stick let go"])
@pytest.mark.parametrize("speed", [0.0, 1.4 / 4.4, 1.0], ids=["standing", "walking", "running"])
@pytest.mark.parametrize("name", ACTIONS)
def test_no_action_of_the_demo_pops_from_start_to_end(
    name: str, speed: float, held: bool, wide: CompiledProject
) -> None:
    compiled = wide.action(name)
    assert compiled is not None
    script = {0: [stick(speed)], 40: [Input(OSSA, action=name), *([] if held else [stick(0.0)])]}
    seen = look(wide, script, 40 + compiled.total + 30)
    assert seen.pops() == []


def test_every_exit_of_the_demo_goes_over_without_a_pop(quay: Project, wide: CompiledProject) -> None:
    tried = 0
    for action in quay.actions:
        compiled = wide.action(action.name)
        assert compiled is not None
        for first, i in compiled.starts():
            for exit_ in compiled.sections[i].section.exits:
                if exit_.kind == "break" or not exit_.command:
                    continue
                for tick in (exit_.start, (exit_.start + exit_.end) // 2):
                    when = 20 + first + tick
                    script = {0: [stick(1.0)], 20: [Input(OSSA, action=action.name), stick(0.0)]}
                    script.setdefault(when, []).append(Input(OSSA, exit_.command))
                    assert look(wide, script, when + 60).pops() == [], (action.name, exit_.kind, exit_.to)
                    tried += 1
    assert tried > 8


@pytest.mark.parametrize("name", ["Low sweep", "Duck roll", "Braced charge"])
def test_broken_on_any_tick_it_goes_back_without_a_pop(name: str, wide: CompiledProject) -> None:
    compiled = wide.action(name)
    assert compiled is not None
    for frame in range(0, compiled.total, 3):
        script = {0: [stick(1.0)], 20: [Input(OSSA, action=name)]}
        assert look(wide, script, 20 + frame + 25, broken=21 + frame).pops() == [], frame


@pytest.mark.parametrize("after", [0, 1, 2])
def test_what_was_covered_does_not_come_back_when_what_covers_it_is_broken(after: int, wide: CompiledProject) -> None:
    script = {0: [stick(0.0)], 20: [Input(OSSA, action="Duck roll")], 36: [Input(OSSA, action="Overhead hook")]}
    seen = look(wide, script, 80, broken=37 + after)
    moved = np.linalg.norm(np.diff(seen.worlds[40 + after :, :, :3, 3], axis=0), axis=-1)
    assert moved.max() < 0.45


@pytest.mark.parametrize("name", ["Low sweep", "Duck roll", "Overhead hook"])
def test_what_plays_is_where_the_source_is_in_the_world(
    name: str, wide: CompiledProject, quay: Project, assets: Assets
) -> None:
    """Hands and feet of the source file, sampled by themselves, against where play puts them."""
    plain = replace(quay, actions=tuple(replace(a, blend_in=0) if a.name == name else a for a in quay.actions))
    build = CompiledProject(alone(plain, floors=WIDE), assets)
    compiled = build.action(name)
    assert compiled is not None
    seen = look(build, {0: [Input(OSSA, action=name)]}, compiled.total)
    source = np.concatenate([compiled.sections[i].source[:-1] for i in compiled.path])
    clip = next(c for c in quay.clips if c.name == compiled.sections[0].section.cuts[0].clip)
    motion = assets.motion(clip.file, clip.animation)
    assert motion is not None
    from veergust.core.motion.sampling import sample

    pose = sample(assets.skeleton, motion, source)
    wanted = forward(assets.skeleton, pose.rotation, pose.translation)[..., :3, 3]
    facing = np.radians(quay.stage.fighters[0].facing)
    c, s = np.cos(facing), np.sin(facing)
    turned = np.stack(
        [c * wanted[..., 0] + s * wanted[..., 2], wanted[..., 1], c * wanted[..., 2] - s * wanted[..., 0]], -1
    )
    ours = seen.worlds[:, :, :3, 3]
    root = assets.skeleton.index["root"]
    gap = (ours - ours[:1, root : root + 1]) - (turned - turned[:1, root : root + 1])
    assert np.abs(gap).max() < 1e-4


# A capture of another rig, begun away from the origin and turned


@pytest.fixture(scope="module")
def taken() -> Capture:
    return capture()


@pytest.fixture(scope="module")
def shot(taken: Capture, tmp_path_factory: pytest.TempPathFactory) -> tuple[Project, Assets]:
    folder = tmp_path_factory.mktemp("shot")
    home = folder / "made.veergust"
    empty = Project(
        name="made",
        stage=Stage(floors=WIDE, fighters=(Fighter(name=OSSA, facing=0.0, plays="keys"),)),
        locomotion=Locomotion(entry="stand", states=(State(name="stand", clip="night_walk"),)),
        commands=(Command(name="light"),),
    )
    save_project(empty, home)
    project = import_file(empty, home, write_bvh(folder, taken)).project
    return project, load_assets(project, home)[0]


@settings(max_examples=20)
@given(edges=st.lists(st.floats(0.3, 5.6), min_size=3, max_size=4, unique=True), blend=st.sampled_from([0, 5]))
def test_cut_anywhere_out_of_a_capture_it_plays_on_without_a_leap(
    shot: tuple[Project, Assets], taken: Capture, edges: list[float], blend: int
) -> None:
    """Sections cut one after the other out of the take are the take, wherever they are cut."""
    project, assets = shot
    edges = sorted(round(e * 60) / 60 for e in edges)
    spans = [(a, b) for a, b in zip(edges, edges[1:]) if b - a > 0.05]
    if not spans:
        return
    sections = tuple(
        Section(name=f"S{n}", cuts=(Cut(clip="night_walk", start=a, end=b),), then=f"S{n + 1}" if n + 1 < len(spans) else "end")
        for n, (a, b) in enumerate(spans)
    )  # fmt: skip
    made = Action(name="Made", sections=sections, blend_in=blend, start=StartRule(commands=("light",)))
    build = CompiledProject(replace(project, actions=(made,)), assets)
    compiled = build.action("Made")
    assert compiled is not None
    total = compiled.total
    seen = look(build, {5: [Input(OSSA, action="Made")]}, 5 + total)
    assert seen.pops() == []
    index = [assets.skeleton.index[n] for n in NAMES]
    ours = seen.worlds[5 + blend :, index][..., :3, 3]
    source = np.concatenate([s.source[:-1] for s in compiled.sections])[blend:]
    wanted = taken.at(source)
    gaps = np.diff(edges)
    if len(ours) < 3 or any(g <= 0.05 for g in gaps):
        return
    # Put the take's first frame onto ours by its own thigh to thigh and spine; then all of it must lie on ours.
    assert np.abs(aligned(wanted, ours[0]) - ours).max() < 2e-3


def aligned(wanted: Array, onto: Array) -> Array:
    """Places ``[F, J, 3]`` turned about the upright and moved so that the first frame lies best on ``onto``."""
    a, b = wanted[0] - wanted[0].mean(axis=0), onto - onto.mean(axis=0)
    yaw = np.arctan2((a[:, 2] * b[:, 0] - a[:, 0] * b[:, 2]).sum(), (a[:, 0] * b[:, 0] + a[:, 2] * b[:, 2]).sum())
    c, s = np.cos(yaw), np.sin(yaw)
    gone = wanted - wanted[0].mean(axis=0)
    turned = np.stack([c * gone[..., 0] + s * gone[..., 2], gone[..., 1], c * gone[..., 2] - s * gone[..., 0]], -1)
    return turned + onto.mean(axis=0)


def test_a_leap_put_in_on_purpose_is_seen(shot: tuple[Project, Assets]) -> None:
    """The measure itself: sections cut from far apart leap, and a crossfade mends it."""
    project, assets = shot
    cuts = Cut(clip="night_walk", start=0.5, end=1.0), Cut(clip="night_walk", start=3.23, end=3.8)
    for blend, leaps in ((0, True), (8, False)):
        sections = (
            Section(name="A", cuts=cuts[:1], then="B"),
            Section(name="B", cuts=(replace(cuts[1], blend=blend),)),
        )
        build = CompiledProject(replace(project, actions=(Action(name="Made", sections=sections, blend_in=0),)), assets)
        assert bool(look(build, {5: [Input(OSSA, action="Made")]}, 60).pops()) == leaps
