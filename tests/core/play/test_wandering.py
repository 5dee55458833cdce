"""Never a jump: someone who runs, jumps, guards, slides and strikes about the quay at random, and is broken off at random.

What a joint may do in a tick is told by the clips alone: the fastest step any of the clips that show makes of itself,
how far the body went and turned, and how far the fades brought it.
"""

from __future__ import annotations

from math import cos, radians, sin

import numpy as np
import pytest
from msgspec.structs import replace

from tests.conftest import OSSA
from tests.core.edits import alone
from tests.core.play.test_continuity import WIDE, fades
from veergust.core.model import Project
from veergust.core.motion.figure import Assets
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import forward
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.locomotion.playing import FASTEST
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import FighterState, Input, end

TICKS = 2_500
ALLOWED = 0.03
"""What feet that are laid on the floor may bring (m a tick)."""


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
            pose = compiled.sections[section].pose
            joints = forward(self.build.assets.skeleton, pose.rotation, pose.translation)[..., :3, 3]
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
            found += [self.of_section(v.compiled.action.name, s) for s in sections]
        return np.max(found, axis=0)


def in_world(f: FighterState) -> Array:
    turn = radians(f.facing)
    spin = np.array([[cos(turn), 0.0, sin(turn)], [0.0, 1.0, 0.0], [-sin(turn), 0.0, cos(turn)]])
    return np.asarray(f.joints_now[:, :3, 3] @ spin.T + f.position)


def wander(build: CompiledProject, seed: int, ticks: int = TICKS) -> list[str]:
    """What leapt on the way, in words."""
    rng = np.random.default_rng(seed)
    names = [a.name for a in build.project.actions]
    commands = [c.name for c in build.project.commands]
    simulation, steps = Simulation(build, seed, keeps=2), Steps(build)
    held: set[str] = set()
    out: list[str] = []
    was: Array | None = None
    before: dict[int, float] = {}
    shown = np.zeros(0)
    lately: list[str] = []
    for t in range(ticks):
        given: list[Input] = []
        if rng.random() < 0.04:
            way, size = rng.uniform(0.0, 2.0 * np.pi), rng.choice([0.0, 0.1, 0.3, 0.6, 1.0])
            given.append(Input(OSSA, axis="move", value=(float(size * np.cos(way)), float(size * np.sin(way)))))
        if rng.random() < 0.05:
            command = str(rng.choice(commands))
            given.append(Input(OSSA, command, press=command not in held))
            held ^= {command}
        if rng.random() < 0.008:
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
        lately = [*lately[-3:], f"{[v.state for v in fighter.locomotion]} {[(v.compiled.action.name, v.frame, v.ended) for v in fighter.voices]}"]
        if was is not None and np.linalg.norm(gone) < 1.0:
            turned = abs((fighter.facing - facing + 180.0) % 360.0 - 180.0)
            arm = np.linalg.norm(now[:, [0, 2]] - fighter.position[[0, 2]], axis=-1)
            body = np.linalg.norm(gone) + 2.0 * sin(radians(turned) / 2.0) * arm
            own = np.maximum(allowed, shown)
            over = np.linalg.norm(now - was, axis=-1) - own - body - ALLOWED
            much, before = fades(build, fighter, before)
            over -= much
            if over.max() > 0.0:
                j = int(np.argmax(over))
                name = build.assets.skeleton.names[j]
                out.append(f"tick {t}: {name} goes {over[j]:.3f} m too far; {lately}")
        was, shown = now, allowed
    return out


@pytest.mark.parametrize("seed", range(20))
def test_nothing_leaps_whatever_is_done(quay: Project, assets: Assets, seed: int) -> None:
    floors = WIDE if seed % 2 else quay.stage.floors
    leapt = wander(CompiledProject(alone(quay, floors=floors), assets), seed)
    assert leapt == []


def test_a_leap_is_seen(quay: Project, assets: Assets) -> None:
    """The measure itself: a change of states without a crossfade leaps."""
    hard = tuple(replace(t, ticks=0) for t in quay.locomotion.transitions)
    made = replace(quay, locomotion=replace(quay.locomotion, transitions=hard))
    assert wander(CompiledProject(alone(made, floors=WIDE), assets), 1, 600)
