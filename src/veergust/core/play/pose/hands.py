"""Hands kept on a mount over any mix of layers: a two-bone arm brought to where its hand holds on.

The mount is where the mix has it; the hand keeps its turn, and no arm is stretched beyond what it was.
"""

from __future__ import annotations

from veergust.core.kinds.settings import GRIP
from veergust.core.motion.legs import moved, reach, turn_of
from veergust.core.motion.plain import Vector, minus, plus, times, vector
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Pose
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.state import FighterState


def step(build: CompiledProject, fighter: FighterState) -> None:
    """Bring every grip a tick on: it comes while one of its layers shows, and goes."""
    before = fighter.grips if len(fighter.grips) == len(build.grips) else (0.0,) * len(build.grips)
    free = GRIP.on(fighter.holding()) and not fighter.down
    shows = {v.layer for v in fighter.live()}
    out = []
    for was, hold, grip in zip(before, build.grips, build.project.grips):
        there = not grip.layers or any(name in shows for name in grip.layers)
        want = grip.weight if free and there and hold is not None else 0.0
        pull = 1.0 / (grip.ticks + 1)
        out.append(was + min(max(want - was, -pull), pull))
    fighter.grips = tuple(out)


def kept(build: CompiledProject, fighter: FighterState, pose: Pose, joints: Array) -> tuple[Pose, Array]:
    """The pose and its joints about the body ``[J, 4, 4]`` with hands where they are to be."""
    bones = build.assets.skeleton
    for weight, hold in zip(fighter.grips, build.grips):
        if weight <= 0.0 or hold is None:
            continue
        arm = hold.arm
        palm: Vector = vector((joints[arm.foot] @ hold.palm)[:3])
        mount: Vector = vector((joints[hold.joint] @ hold.frame)[:3])
        wrist = plus(vector(joints[arm.foot, :3, 3]), times(minus(mount, palm), weight))
        rotation, out = pose.rotation.copy(), joints.copy()
        base = turn_of(rotation[0], bones, bones.parents[arm.thigh])
        moves = reach(rotation[0], out, arm, wrist, None, base)
        moved(bones, out, (arm.thigh, arm.shin, arm.foot), moves)
        pose, joints = Pose(rotation, pose.translation), out
    return pose, joints
