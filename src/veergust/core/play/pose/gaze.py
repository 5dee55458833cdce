"""Looking at the target: a chain of joints turned so that its last one faces it, each by its share and within limits.

What is turned comes on top of the pose: from where the head looks in it, to where the target is.
"""

from __future__ import annotations

from math import radians

from veergust.core.kinds import AIM
from veergust.core.motion import Array
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.gazing import BEHIND
from veergust.core.play.pose import eyes
from veergust.core.play.state import FighterState


def step(build: CompiledProject, fighter: FighterState, joints: Array) -> None:
    """Bring the gaze a tick on, for a pose with ``joints`` ``[J, 4, 4]`` about the body."""
    look, chain, was = build.project.locomotion.look, build.look, fighter.gaze
    side, up, want = was.side, was.up, 0.0
    if fighter.sees is not None and len(chain.joints):
        x, y, z = fighter.position.tolist()
        tx, ty, tz = fighter.sees
        turn = radians(fighter.facing)
        aside, above, to = eyes.bearing(joints, chain.head, chain.ahead, tx - x, ty - y, tz - z, turn)
        if abs(to) <= look.side + BEHIND:
            side, up = min(max(aside, -look.side), look.side), min(max(above, -look.up), look.up)
            free = not fighter.down and build.within_any(fighter.locomotion[-1].state, look.states)
            want = look.weight if free and AIM.on(fighter.holding()) else 0.0
    fighter.gaze = was.on(side, up, want, look.ticks, look.rate / build.project.settings.rate)


def turn(build: CompiledProject, fighter: FighterState, rotation: Array, joints: Array) -> None:
    """Turn the chain of a pose: local ``rotation`` ``[J, 4]`` and ``joints`` ``[J, 4, 4]`` about the body, in place."""
    gaze, chain = fighter.gaze, build.look
    if gaze.weight <= 0.0 or not len(chain.joints):
        return
    above = build.assets.skeleton.above
    eyes.turn(above, rotation, joints, chain.joints, chain.shares, gaze.side, gaze.up, gaze.weight)
