"""Looking at the target: a chain of joints turned so that its last one faces it, each by its share and within limits.

What is turned comes on top of the pose: from where the head looks in it, to where the target is.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import asin, atan2, cos, degrees, radians, sin

from veergust.core.kinds.settings import AIM
from veergust.core.model import Look
from veergust.core.motion.legs import STILL, Move, moved, turn_of
from veergust.core.motion.plain import Quaternion, Vector, conjugate, minus, multiply, plus, rotate, unit, vector
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Pose, Skeleton
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.state import FighterState, Gaze

BEHIND = 25.0
"""So much (degrees) beyond its limit to a side it does not look any more."""


@dataclass(frozen=True)
class Aim:
    """How far (degrees) the head has to turn to a side and up for the target, from where the pose has it look."""

    side: float
    up: float
    beyond: bool


def aim_at(bones: Skeleton, joints: Array, chain: list[int], fighter: FighterState, look: Look) -> Aim | None:
    """What the last joint of a chain has to turn by; None where there is nothing to look at."""
    if fighter.sees is None or not chain:
        return None
    head = joints[chain[-1]]
    turn = radians(fighter.facing)
    c, s = cos(turn), sin(turn)
    x, y, z = minus(fighter.sees, (float(fighter.position[0]), float(fighter.position[1]), float(fighter.position[2])))
    own = (c * x - s * z, y, c * z + s * x)
    hx, hy, hz = head[:3, 3].tolist()
    to = unit(minus(own, (hx, hy, hz)))
    # Where it looks: ahead in the rest pose, carried along.
    ahead = head[:3, :3] @ bones.rest_world[chain[-1], :3, :3].T[:, 2]
    ax, ay, az = ahead.tolist()
    side = degrees(atan2(to[0], to[2])) - degrees(atan2(ax, az))
    side = (side + 180.0) % 360.0 - 180.0
    up = degrees(asin(min(max(to[1], -1.0), 1.0))) - degrees(asin(min(max(ay, -1.0), 1.0)))
    beyond = abs(degrees(atan2(to[0], to[2]))) > look.side + BEHIND
    return Aim(min(max(side, -look.side), look.side), min(max(up, -look.up), look.up), beyond)


def step(build: CompiledProject, fighter: FighterState) -> None:
    """Bring the gaze a tick on."""
    look = build.project.locomotion.look
    index = build.assets.skeleton.index
    chain = [index[share.joint] for share in look.joints if share.joint in index]
    assert fighter.joints is not None
    aim = aim_at(build.assets.skeleton, fighter.joints, chain, fighter, look)
    was = fighter.gaze
    state = fighter.locomotion[-1].state
    there = not look.states or any(build.chart.within(state, name) for name in look.states)
    free = there and AIM.on(fighter.holding()) and not fighter.down
    want = look.weight if free and aim is not None and not aim.beyond else 0.0
    pull = 1.0 / (look.ticks + 1)
    weight = was.weight + min(max(want - was.weight, -pull), pull)
    most = look.rate / build.project.settings.rate
    side, up = (aim.side, aim.up) if aim is not None and not aim.beyond else (was.side, was.up)
    if was.weight > 0.0:
        side = was.side + min(max(side - was.side, -most), most)
        up = was.up + min(max(up - was.up, -most), most)
    fighter.gaze = Gaze(side, up, weight)


def looked(build: CompiledProject, fighter: FighterState, pose: Pose, joints: Array) -> tuple[Pose, Array]:
    """The pose and its joints with the chain turned."""
    gaze, look = fighter.gaze, build.project.locomotion.look
    if gaze.weight <= 0.0:
        return pose, joints
    bones = build.assets.skeleton
    shares = {bones.index[s.joint]: s.share for s in look.joints if s.joint in bones.index}
    chain = tuple(sorted(shares))
    over = bones.below(chain)[2]
    rotation, out = pose.rotation.copy(), joints.copy()
    moves: list[Move] = []
    for n, joint in enumerate(chain):
        much = shares[joint] * gaze.weight
        turn = _turn(gaze.side * much, gaze.up * much, gaze.side)
        parent = bones.parents[joint]
        base = turn_of(rotation[0], bones, parent) if parent >= 0 else STILL
        x, y, z, w = rotation[0, joint].tolist()
        rotation[0, joint] = multiply(multiply(conjugate(base), multiply(turn, base)), (x, y, z, w))
        # It turns about where what is turned below it has brought it.
        was = vector(joints[joint, :3, 3])
        before, start, end = moves[over[n]] if over[n] >= 0 else (STILL, was, was)
        moves.append((multiply(turn, before), was, plus(rotate(before, minus(was, start)), end)))
    moved(bones, out, chain, moves)
    return Pose(rotation, pose.translation), out


def _turn(side: float, up: float, whole: float) -> Quaternion:
    """A turn to a side about the upright axis, and up about the axis across what is then looked at."""
    a, b = radians(side) / 2.0, -radians(up) / 2.0
    about: Quaternion = (0.0, sin(a), 0.0, cos(a))
    across: Vector = rotate((0.0, sin(radians(whole) / 2.0), 0.0, cos(radians(whole) / 2.0)), (1.0, 0.0, 0.0))
    tilt: Quaternion = (across[0] * sin(b), across[1] * sin(b), across[2] * sin(b), cos(b))
    return multiply(tilt, about)
