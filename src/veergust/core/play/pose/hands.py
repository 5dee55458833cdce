"""Hands kept on a mount over any mix of layers: a two-bone arm brought to where its hand holds on.

The mount is where the mix has it; the hand keeps its turn, and no arm is stretched beyond what it was.
"""

from __future__ import annotations

from veergust.core.kinds import GRIP
from veergust.core.motion import Array, limbs, quat
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.pose.feet import STRAIGHTEST
from veergust.core.play.state import FighterState


def step_hands(build: CompiledProject, fighter: FighterState) -> None:
    """Bring every grip a tick on: it comes while one of its layers shows, and goes; while an action has what it holds
    on to in the other hand, it lets go."""
    before = fighter.grips if len(fighter.grips) == len(build.grips) else (0.0,) * len(build.grips)
    if not fighter.voices and not any(before) and build.kept_by_layers:
        fighter.grips = before
        return
    free = GRIP.on(fighter.holding()) and not fighter.down
    live = fighter.live()
    shows = [v.layer for v in live]
    turned = [v.layer for v in live if v.part.changes_hands(v.frame)]
    out = []
    for was, hold, grip in zip(before, build.grips, build.project.grips):
        there = not grip.layers or any(name in shows for name in grip.layers)
        other = bool(turned) and any(name in turned for name in grip.layers or turned)
        want = grip.weight if free and there and not other and hold is not None else 0.0
        pull = 1.0 / (grip.ticks + 1)
        out.append(was + min(max(want - was, -pull), pull))
    fighter.grips = tuple(out)


def keep(build: CompiledProject, fighter: FighterState, rotation: Array, joints: Array) -> None:
    """Bring hands to where they are kept: local ``rotation`` ``[J, 4]`` and ``joints`` ``[J, 4, 4]`` about the body, in
    place."""
    above = build.assets.skeleton.above
    for weight, hold in zip(fighter.grips, build.grips):
        if weight <= 0.0 or hold is None:
            continue
        arm, end = hold.arm, joints[hold.hand]
        wrist = end[:3, 3] + (joints[hold.joint] @ hold.frame - end @ hold.palm)[:3] * weight
        limbs.reach(above, rotation, joints, arm.joints, arm.lengths, wrist[None], quat.IDENTITY[None], STRAIGHTEST)
