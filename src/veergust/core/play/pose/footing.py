"""Feet to the floor: each standing foot stays where it stands, on the floor that is there, and the pelvis gives way.

The pose says when a foot stands: while its ball is as low over the body's floor as it comes. It then keeps the place
where it came down, laid on the floor under it and turned to its slope, until it is lifted, or is so far from where the
pose has it that it takes a step of its own. How far a foot is from its pose is eased away once it is let go, and all of
it by a weight that an action takes away and every ending gives back.
"""

from __future__ import annotations

from collections.abc import Callable
from math import acos, cos, degrees, pi, radians, sin, sqrt

from veergust.core.kinds.settings import FEET
from veergust.core.model import FeetToFloor, Floor
from veergust.core.motion.legs import STRAIGHTEST, Leg, Move, moved, reach, turn_of
from veergust.core.motion.plain import (
    UP,
    Quaternion,
    Vector,
    between,
    eased,
    minus,
    plus,
    rotate,
    size,
    times,
    unit,
    vector,
)
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Pose
from veergust.core.play.body.floors import floor_at, height_at, normal_of
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.pose.footholds import GIVES_WAY, NO_FOOTING, Foothold, Footing
from veergust.core.play.state import FighterState

STANDS, LIFTED = 0.022, 0.045
"""A foot stands from where its ball is so near (of a leg's length) to the floor, until it is farther."""
FARTHEST = 0.2
"""So far (of a leg's length) from its pose a standing foot takes a step of its own."""
STEP_HIGH = 0.3
"""A step of its own rises by this share of how far it goes."""
QUICK = 1.3
"""A foot that goes faster (leg lengths a second) in the pose does not begin to stand."""
LITTLE = 0.02
"""A foot that is off by no more than this (of a leg's length) need not step."""
SKATES = 0.055
"""It is lifted by so much (of a leg's length)."""
LEAST = 1e-6
"""Nothing is laid that is off by less (m)."""
TORN = 0.03
"""A foot is let go where its leg would have to be so much longer (of its length) than it may be, and than it was."""
SINKS = 0.02
"""The pelvis is lowered, or comes up, by so much (m) a tick at the most."""
CLIMBS = 0.04
"""A foot is laid so much (m) higher or lower a tick at the most."""
SOON = 0.3
"""The share of its way to the floor that a foot, or the pelvis, makes on a tick."""


def wanted(fighter: FighterState, feet: FeetToFloor, build: CompiledProject) -> float:
    """How much of the correction is asked for now."""
    if not FEET.on(fighter.holding()) or fighter.down:
        return 0.0
    state = fighter.locomotion[-1].state
    there = not feet.states or any(build.chart.within(state, name) for name in feet.states)
    return feet.weight if there and fighter.grounded else 0.0


def step(build: CompiledProject, fighter: FighterState, own: Callable[[int], float]) -> None:
    """Bring the footing a tick on, for the pose that has just been worked out.

    ``own`` gives how much of a joint locomotion moves: an action's feet stand and go as it was made, on whatever floor.
    """
    settings = build.project.locomotion.feet
    before = fighter.footing
    if settings.weight <= 0.0 or not build.legs or fighter.joints is None:
        fighter.footing = NO_FOOTING
        return
    pull = 1.0 / (settings.ticks + 1)
    want = wanted(fighter, settings, build)
    weight = before.weight + min(max(want - before.weight, -pull), pull)
    y = float(fighter.position[1])
    behind = before.behind
    if before.height is not None and fighter.grounded:
        leapt = y - before.height
        # A step of the stairs is gone up or down by the figure in some ticks, though the body does it in one.
        if 0.04 < abs(leapt) < 0.3:
            behind -= leapt
    behind *= 1.0 - SOON * 0.7
    if not fighter.grounded:
        behind *= 0.5
    stage = build.project.stage.floors
    holds = before.feet or (Foothold(),) * len(build.legs)
    rate = build.project.settings.rate
    feet = tuple(
        _foot(fighter, leg, hold, want > 0.0, settings, stage, rate, own(leg.foot))
        for leg, hold in zip(build.legs, holds)
    )
    # The pelvis goes down as far as the leg that has the farthest to reach needs it to.
    lower = max(_short(fighter, leg, foot, behind) for leg, foot in zip(build.legs, feet))
    lower = before.lower + min(max(min(lower, settings.drops) - before.lower, -SINKS), SINKS)
    fighter.footing = Footing(feet, lower, behind, weight, y if fighter.grounded else None)


def _foot(
    fighter: FighterState,
    leg: Leg,
    hold: Foothold,
    on: bool,
    settings: FeetToFloor,
    floors: tuple[Floor, ...],
    rate: int,
    own: float,
) -> Foothold:
    assert fighter.joints is not None
    turn = radians(fighter.facing)
    c, s = cos(turn), sin(turn)
    bx, by, bz = fighter.joints[leg.ball, :3, 3].tolist()
    px, py, pz = fighter.position.tolist()
    ball = (px + c * bx + s * bz, py + by, pz + c * bz - s * bx)
    over = by - leg.ball_high
    low = over < (LIFTED if hold.at is not None else STANDS) * leg.size
    quick = size(minus(ball, hold.ball)) * rate / leg.size if hold.ball is not None else 0.0
    stands = on and low and own > 0.5 and (hold.at is not None or quick < QUICK)
    if hold.steps and hold.ticks < GIVES_WAY:
        stands = False
    at = hold.at
    gone, ticks, steps = hold.gone, hold.ticks + 1, hold.steps and hold.ticks + 1 < GIVES_WAY
    if stands and at is None:
        at, steps = plus(ball, _left(hold, gone, hold.ticks)), False
    far = size((at[0] - ball[0], 0.0, at[2] - ball[2])) if at is not None else 0.0
    if at is not None and (not stands or far > FARTHEST * leg.size or _torn(fighter, leg, at, ball)):
        gone, ticks, at = (at[0] - ball[0], 0.0, at[2] - ball[2]), 1, None
        steps = stands and size(gone) > LITTLE * leg.size
    flat = (at[0] - ball[0], 0.0, at[2] - ball[2]) if at is not None else _left(hold, gone, ticks)
    x, z = ball[0] + flat[0] * own, ball[2] + flat[2] * own
    share = 0.6 if at is not None else SOON
    if fighter.grounded:
        floor, up = _floor(fighter, leg, floors, x, py, z, settings)
        high = floor if hold.high is None else hold.high + min(max((floor - hold.high) * share, -CLIMBS), CLIMBS)
        laid = high - py
    else:
        # In the air there is no floor to lay it on: what it was off by is eased away.
        laid, up, high = hold.laid * (1.0 - SOON), UP, None
    up = unit(plus(times(hold.up, 1.0 - share), times(up, share)))
    rise = STEP_HIGH * size(gone) * sin(pi * min(ticks / GIVES_WAY, 1.0)) if steps and at is None else 0.0
    # A foot that goes along the floor faster than one can stand is lifted over it.
    skates = SKATES * leg.size if on and low and at is None and quick >= QUICK else 0.0
    rise = max(rise, hold.rise + (skates - hold.rise) * (0.6 if skates else SOON))
    # Mixed poses stand a little over the floor, or in it.
    press = hold.press + ((-over if at is not None else max(-over, 0.0) * (on and own > 0.5)) - hold.press) * 0.5
    off = (flat[0] * own, laid + (rise + press) * own, flat[2] * own)
    return Foothold(at, off, gone, ticks, steps, high=high, laid=laid, up=up, rise=rise, press=press, ball=ball)


def _short(fighter: FighterState, leg: Leg, foot: Foothold, behind: float) -> float:
    """How much lower (m) the hip of a leg has to be for it to reach where its foot is laid."""
    assert fighter.joints is not None
    hip, ankle = vector(fighter.joints[leg.thigh, :3, 3]), vector(fighter.joints[leg.foot, :3, 3])
    most = max(STRAIGHTEST * leg.size, min(size(minus(ankle, hip)), leg.size))
    to, _ = _ankle(fighter, fighter.joints, leg, foot, 1.0)
    flat = (to[0] - hip[0]) ** 2 + (to[2] - hip[2]) ** 2
    return max(hip[1] + behind - to[1] - sqrt(max(most * most - flat, 0.0)), 0.0)


def _ankle(
    fighter: FighterState, joints: Array, leg: Leg, foot: Foothold, weight: float
) -> tuple[Vector, Quaternion | None]:
    """Where an ankle goes for its foot to be laid, and how the foot is tilted, about the body.

    The foot turns about the point of the floor under its ball.
    """
    turn = radians(fighter.facing)
    c, s = cos(turn), sin(turn)
    ox, oy, oz = times(foot.off, weight)
    nx, ny, nz = foot.up
    tilt = eased(between(UP, (c * nx - s * nz, ny, c * nz + s * nx)), weight) if ny < 1.0 - 1e-9 else None
    ankle, ball = vector(joints[leg.foot, :3, 3]), vector(joints[leg.ball, :3, 3])
    below = (ball[0], 0.0, ball[2])
    arm = minus(ankle, below)
    return plus(plus(below, (c * ox - s * oz, oy, c * oz + s * ox)), rotate(tilt, arm) if tilt else arm), tilt


def _torn(fighter: FighterState, leg: Leg, at: Vector, ball: Vector) -> bool:
    """Whether a foot stands farther off than its leg reaches."""
    assert fighter.joints is not None
    turn = radians(fighter.facing)
    x, z = at[0] - ball[0], at[2] - ball[2]
    off = cos(turn) * x - sin(turn) * z, 0.0, cos(turn) * z + sin(turn) * x
    hip, ankle = vector(fighter.joints[leg.thigh, :3, 3]), vector(fighter.joints[leg.foot, :3, 3])
    was, now = size(minus(ankle, hip)), size(minus(plus(ankle, off), hip))
    return now > was + TORN * leg.size and now > (STRAIGHTEST + TORN) * leg.size


def _left(hold: Foothold, gone: Vector, ticks: int) -> Vector:
    """What is left of how far a foot was from its pose, so many ticks after it was let go."""
    t = min(ticks / GIVES_WAY, 1.0)
    much = 1.0 - t * t * (3.0 - 2.0 * t)
    return gone[0] * much, 0.0, gone[2] * much


def _floor(
    fighter: FighterState, leg: Leg, floors: tuple[Floor, ...], x: float, y: float, z: float, settings: FeetToFloor
) -> tuple[float, Vector]:
    """How high (m) the floor under a foot is, in the world, and its direction up."""
    assert fighter.joints is not None
    turn = radians(fighter.facing)
    ax, _, az = fighter.joints[leg.foot, :3, 3].tolist()
    bx, _, bz = fighter.joints[leg.ball, :3, 3].tolist()
    hx, hz = (ax - bx) * 1.3, (az - bz) * 1.3
    heel = (x + cos(turn) * hx + sin(turn) * hz, z + cos(turn) * hz - sin(turn) * hx)
    found = [(f, px, pz) for px, pz in ((x, z), heel) if (f := floor_at(floors, px, y, pz, settings.raises))]
    found = [(f, px, pz) for f, px, pz in found if height_at(f, px, pz) >= y - settings.drops]
    if not found:
        return y, UP
    floor, _, _ = max(found, key=lambda row: height_at(row[0], row[1], row[2]))
    nx, ny, nz = normal_of(floor)
    steep = degrees(acos(min(max(ny, -1.0), 1.0)))
    if steep > settings.turns > 0.0:
        nx, ny, nz = unit((nx * settings.turns / steep, 1.0, nz * settings.turns / steep))
    high = height_at(floor, x, z)
    return min(max(high, y - settings.drops), y + settings.raises), (nx, ny, nz)


def laid(build: CompiledProject, fighter: FighterState, pose: Pose, joints: Array) -> tuple[Pose, Array]:
    """The pose and its joints about the body ``[J, 4, 4]`` with the feet laid on the floor."""
    footing = fighter.footing
    weight = footing.weight
    laid_off = weight > 0.0 and any(size(f.off) > LEAST or f.up[1] < 1.0 - LEAST for f in footing.feet)
    if not laid_off and abs(footing.behind) <= LEAST and footing.lower <= LEAST:
        return pose, joints
    bones = build.assets.skeleton
    hips = build.roots.hips
    rotation, translation = pose.rotation.copy(), pose.translation.copy()
    shift = footing.behind - footing.lower * weight
    parent = bones.parents[hips]
    translation[0, hips] += joints[parent, 1, :3] * shift if parent >= 0 else (0.0, shift, 0.0)
    out = joints.copy()
    out[bones.below((hips,))[0], 1, 3] += shift
    if weight > 0.0:
        moves: dict[int, Move] = {}
        bases: dict[int, Quaternion] = {}
        for leg, hold in zip(build.legs, footing.feet):
            target, tilt = _ankle(fighter, joints, leg, hold, weight)
            hangs = bones.parents[leg.thigh]
            if hangs not in bases:
                bases[hangs] = turn_of(rotation[0], bones, hangs)
            found = reach(rotation[0], out, leg, target, tilt, bases[hangs])
            moves.update(zip((leg.thigh, leg.shin, leg.foot), found))
        heads = tuple(sorted(moves))
        moved(bones, out, heads, [moves[j] for j in heads])
    return Pose(rotation, translation), out
