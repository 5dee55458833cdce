"""Never a jump: someone who runs, jumps, guards, slides and strikes about the quay at random, and is broken off at random.

What a joint may do in a tick is told by the clips alone: the fastest step any of the clips that show makes of itself,
how far the body went and turned, and how far the fades brought it.
"""

from __future__ import annotations

import os
from math import cos, radians, sin

import numpy as np
import pytest
from msgspec.structs import replace
from tools.made.edits import WIDE, alone

from tests.conftest import OSSA
from veergust.core.model import Project
from veergust.core.motion.blend import ease, mix
from veergust.core.motion.feet import feet_of
from veergust.core.motion.figure import Assets
from veergust.core.motion.layering import added, over
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Pose, forward
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.locomotion.playing import FASTEST, state_pose
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import FighterState, Input, Voice, end

TICKS = 2_500
HANDS = 0.03
"""What a hand that is kept on a mount is brought by (m a tick), while that comes, goes, or the mount is swung."""
GIVES_WAY = 2.4
"""What is mixed in body space goes after hips that turn over by so many times their step."""
ALLOWED, LEGS = 0.04, 0.06
"""What feet that are laid on the floor may bring (m a tick): to what hangs on the pelvis, and to the legs themselves."""


class Steps:
    """The fastest step (m a tick) each joint makes about the body in a clip or a section, by its own frames."""

    def __init__(self, build: CompiledProject) -> None:
        self.build = build
        self.known: dict[object, Array] = {}

    def of_clip(self, name: str) -> Array:
        if name not in self.known:
            clip = self.build.locomotion_clip(name)
            speed = np.linalg.norm(np.diff(clip.joints, axis=0), axis=-1).max(axis=0)
            frames = (len(clip.joints) - 1) / clip.seconds
            self.known[name] = speed * frames / 60.0 * max(FASTEST, 1.0)
        return self.known[name]

    def of_section(self, name: str, section: int) -> Array:
        key = (name, section)
        if key not in self.known:
            compiled = self.build.action(name)
            assert compiled is not None
            part, bones = compiled.sections[section], self.build.assets.skeleton
            poses = [part.past(t) for t in range(part.ticks + 30)]  # what is faded out plays on past its end
            joints = np.concatenate([forward(bones, p.rotation, p.translation)[..., :3, 3] for p in poses])
            self.known[key] = np.linalg.norm(np.diff(joints, axis=0), axis=-1).max(axis=0, initial=0.0)
        return self.known[key]

    def shown(self, fighter: FighterState) -> Array:
        """The fastest of all that shows."""
        found = [np.zeros(len(self.build.assets.skeleton))]
        for voice in fighter.locomotion:
            state = self.build.states[voice.state]
            found += [self.of_clip(n) for n in (state.clip, *(p.clip for p in state.blend)) if n]
        for v in fighter.voices:
            sections = {v.section, *(g.section for g in v.going)}
            own = [self.of_section(v.compiled.action.name, s) for s in sections]
            if self.build.layers[v.layer].whole:
                found += own
            else:  # what is over or added to something else goes with that as well; in body space it gives way to it
                layer = self.build.layers[v.layer]
                way = np.where(layer.mask > 0.0, GIVES_WAY, 1.0) if layer.layer.space == "body" else 1.0
                found = [np.max(found, axis=0) * way + np.max(own, axis=0)]
        return np.max(found, axis=0)


def _put(build: CompiledProject, voice: Voice, under: Pose, pose: Pose, share: float) -> Pose:
    """A pose over another or added to it, as the voice's layer says."""
    bones, layer = build.assets.skeleton, build.layers[voice.layer]
    if layer.additive:
        reference = build.locomotion_clip(layer.layer.reference).at(0.0)
        return added(bones, under, pose, reference, share * layer.mask, None, layer.layer.space)[0]
    return over(bones, under, pose, share * layer.mask, None, layer.layer.space)[0]


class Shares:
    """What shows on a tick: how much of each source by its fades alone, and where each would have the joints (m)."""

    def __init__(self, build: CompiledProject, fighter: FighterState) -> None:
        bones = build.assets.skeleton
        self.much: dict[tuple[str | int, int], float] = {}
        self.poses: dict[tuple[str | int, int], Array] = {}
        under: Pose | None = None
        for n, v in enumerate(fighter.locomotion):
            # One that has come all the way is the bottom of the pile, whatever its number was before.
            share = 1.0 if n == 0 else ease(v.ease, v.age / (v.blend + 1))
            pose = state_pose(build, fighter, v.state, v.phase, v.at)
            self._over((v.state, n), share, forward(bones, pose.rotation, pose.translation)[0, :, :3, 3])
            under = pose if under is None else mix(under, pose, share)
        assert under is not None
        by = {voice.serial: voice for voice in fighter.voices}
        for voice in fighter.voices:
            share, above = ease(voice.compiled.action.ease, (voice.age + 1) / (voice.blend + 1)), voice
            while above.covered:
                above = by[above.covered]
            if above.ended:
                share *= 1.0 - ease(above.compiled.action.ease, above.faded / (above.compiled.action.blend_out + 1))
            pose = voice.part.past(voice.frame + (voice.faded if voice.ended and not voice.last else 0))
            # What it makes of all that is under it, faded in whole.
            full, under = (_put(build, voice, under, pose, much) for much in (1.0, share))
            whole = build.layers[voice.layer].whole
            self._over((voice.serial, 0), share, forward(bones, full.rotation, full.translation)[0, :, :3, 3], whole)

    def _over(self, key: tuple[str | int, int], share: float, joints: Array, whole: bool = True) -> None:
        # Of what is under a part of the figure something goes on being seen, however much the part has come in.
        left = 1.0 - share if whole else 1.0
        self.much = {k: m * left for k, m in self.much.items()} | {key: share}
        self.poses[key] = joints

    def brought(self, before: Shares) -> Array:
        """The most that fades can have brought each joint since ``before``: half a circle round what lies between."""
        poses = np.array([*before.poses.values(), *self.poses.values()])
        apart = np.linalg.norm(poses[:, None] - poses[None], axis=-1).max(axis=(0, 1))
        change: dict[str | int, float] = {}
        for sign, side in ((-1.0, before), (1.0, self)):
            for (name, _), much in side.much.items():
                change[name] = change.get(name, 0.0) + sign * much
        return np.asarray(apart * np.pi / 2.0 * sum(map(abs, change.values())))


def in_world(f: FighterState) -> Array:
    turn = radians(f.facing)
    spin = np.array([[cos(turn), 0.0, sin(turn)], [0.0, 1.0, 0.0], [-sin(turn), 0.0, cos(turn)]])
    return np.asarray(f.joints_now[:, :3, 3] @ spin.T + f.position)


def wander(build: CompiledProject, seed: int, ticks: int = TICKS) -> list[str]:
    """What leapt on the way, in words."""
    rng = np.random.default_rng(seed)
    names = [a.name for a in build.project.actions]
    commands = [c.name for c in build.project.commands]
    simulation, steps = Simulation(build, seed), Steps(build)
    bones = build.assets.skeleton
    spare = np.full(len(bones), ALLOWED)
    spare[bones.below(tuple(bones.parents[foot] for foot in feet_of(bones)))] = LEGS
    hands = bones.below(tuple(hold.arm.joints[0, 0] for hold in build.grips if hold is not None))
    held: set[str] = set()
    states: list[str] = []
    out: list[str] = []
    was: Array | None = None
    before: FighterState | None = None
    shown = np.zeros(0)
    lately: list[str] = []
    for t in range(ticks):
        given: list[Input] = []
        if rng.random() < 0.04:
            way, size = rng.uniform(0.0, 2.0 * np.pi), rng.choice([0.0, 0.1, 0.3, 0.6, 1.0])
            given.append(Input(OSSA, axis="move", value=(float(size * np.cos(way)), float(size * np.sin(way)))))
        if rng.random() < 0.05 and commands:
            command = str(rng.choice(commands))
            given.append(Input(OSSA, command, press=command not in held))
            held ^= {command}
        if rng.random() < 0.008 and names:
            given.append(Input(OSSA, action=str(rng.choice(names))))
        fighter = simulation.fighter(OSSA)
        if rng.random() < 0.01:
            for voice in fighter.live():
                end(fighter, voice, "broken")
        place, facing = fighter.position.copy(), fighter.facing
        fighter.health = 100.0
        simulation.tick(given)
        fighter = simulation.fighter(OSSA)
        now, allowed = in_world(fighter), steps.shown(fighter)
        gone = fighter.position - place
        lately = [
            *lately[-3:],
            f"{[v.state for v in fighter.locomotion]} {[(v.compiled.action.name, v.frame, v.ended) for v in fighter.voices]}",
        ]
        if was is not None and before is not None and np.linalg.norm(gone) < 1.0:
            turned = abs((fighter.facing - facing + 180.0) % 360.0 - 180.0)
            arm = np.linalg.norm(now[:, [0, 2]] - fighter.position[[0, 2]], axis=-1)
            body = np.linalg.norm(gone) + 2.0 * sin(radians(turned) / 2.0) * arm
            own = np.maximum(allowed, shown)
            over = np.linalg.norm(now - was, axis=-1) - own - body - spare
            if fighter.grips != before.grips or any(fighter.grips):  # a hand that is kept goes after its mount as well
                over[hands] -= HANDS
            if over.max() > 0.0:  # only then it matters what the fades bring
                over -= Shares(build, fighter).brought(Shares(build, before))
            if over.max() > 0.0:
                j = int(np.argmax(over))
                name = build.assets.skeleton.names[j]
                out.append(f"tick {t}: {name} goes {over[j]:.3f} m too far; {lately}")
        was, shown, before = now, allowed, fighter.copy()
        states = [*states[-7:], fighter.locomotion[-1].state]
        if len(states) == 8 and len({*states[::2]}) == len({*states[1::2]}) == 1 and states[0] != states[1]:
            out.append(f"tick {t}: to and fro between {states[0]} and {states[1]}")
    return out


@pytest.mark.parametrize("seed", range(int(os.environ.get("VEERGUST_WANDERERS", "3"))))
def test_nothing_leaps_whatever_is_done(quay: Project, assets: Assets, seed: int) -> None:
    floors = WIDE if seed % 2 else quay.stage.floors
    leapt = wander(CompiledProject(alone(quay, floors=floors), assets), seed)
    assert leapt == []


def test_a_leap_is_seen(quay: Project, assets: Assets) -> None:
    """The measure itself: a change of states without a crossfade leaps."""
    hard = tuple(replace(t, ticks=0) for t in quay.locomotion.transitions)
    made = replace(quay, locomotion=replace(quay.locomotion, transitions=hard))
    assert any(wander(CompiledProject(alone(made, floors=WIDE), assets), seed, 600) for seed in range(1, 16))
