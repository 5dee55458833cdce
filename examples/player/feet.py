"""Feet to the floor: a foot that comes down keeps its place until it is lifted; the pelvis gives way.

Lengths named *of a leg* are shares of its length. Nothing here moves the body or decides anything; it moves the legs,
and with them where they are touched.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import acos, cos, degrees, pi, radians, sin, sqrt
from typing import TYPE_CHECKING

from player.limbs import STRAIGHTEST, Move, carry, reach
from player.stage import EDGE
from player.turns import NOWHERE, STILL, Turn, Vector, between, minus, mixed, normal, plus, rotate, size, times, unit

if TYPE_CHECKING:
    from player.export import Export
    from player.fighter import Fighter
    from player.figure import Leg, Placed
    from player.stage import Stage

UPRIGHT: Vector = (0.0, 1.0, 0.0)
EASES = 10.0  # ticks over which a foot goes back to its pose
STANDS, LIFTED = 0.022, 0.045  # of a leg: its ball is so near to the floor to begin to stand, and to go on
FARTHEST = 0.2  # of a leg: so far from its pose it takes a step of its own
STEP_HIGH = 0.3  # a step of its own rises by this share of how far it goes
QUICK = 1.3  # leg lengths a second: one that goes faster does not begin to stand
LITTLE = 0.02  # of a leg: one that is off by no more need not step
SKATES = 0.055  # of a leg: one that goes along the floor faster than QUICK is lifted by so much
TORN = 0.03  # of a leg: it is let go where its leg would have to be so much longer than it may be and was
CLIMBS, LIFTS = 0.04, 0.055  # m a tick that a foot is laid higher or lower, and that one that swings is lifted
HIGHER = 0.2  # m that a swinging foot goes over floors higher than it may stand on
DRAWN_UP = 0.5  # of a leg: the least between hip and ankle
LOOKS = 7  # ticks that a swinging foot looks ahead
SINKS = 0.02  # m a tick that the pelvis is lowered
SOON = 0.3  # of its way to the floor that a foot makes in a tick
LEAST = 1e-6  # m: nothing is laid that is off by less
CATCHES_UP = 0.79  # what is left, a tick on, of how far a figure trails behind its body; half that in the air
STAIR_LOW, STAIR_HIGH = 0.04, 0.3  # m that a body rises or sinks in a tick where it goes a step of the stairs


@dataclass
class Foot:
    """Where its ball stands, how far it is laid off its pose, and how far it was off when it was let go."""

    at: Vector = NOWHERE
    off: Vector = NOWHERE
    gone: Vector = NOWHERE
    ball: Vector = NOWHERE
    up: Vector = UPRIGHT
    stands: bool = False
    ticks: float = EASES
    steps: bool = False
    seen: bool = False
    floored: bool = False
    high: float = 0.0
    laid: float = 0.0
    rise: float = 0.0
    press: float = 0.0


def flat(v: Vector) -> Vector:
    return v[0], 0.0, v[2]


def left_of(gone: Vector, ticks: float) -> Vector:
    """What is left of how far a foot was off, so many ticks after it was let go."""
    t = min(ticks / EASES, 1.0)
    return times(flat(gone), 1.0 - t * t * (3.0 - 2.0 * t))


class Body:
    """Where the body is and looks, and the floors around it."""

    def __init__(self, export: Export, f: Fighter, stage: Stage, joints: list[Placed]) -> None:
        self.place, self.grounded, self.joints, self.stage = f.position, f.grounded, joints, stage
        self.sine, self.cosine = sin(radians(f.facing)), cos(radians(f.facing))
        said = export.ground["feet"]
        self.raises, self.drops, self.tilts = said["raises"], said["drops"], said["turns"]

    def out(self, v: Vector) -> Vector:
        return self.cosine * v[0] + self.sine * v[2], v[1], self.cosine * v[2] - self.sine * v[0]

    def into(self, v: Vector) -> Vector:
        return self.cosine * v[0] - self.sine * v[2], v[1], self.cosine * v[2] + self.sine * v[0]

    def floor(self, leg: Leg, raises: float, x: float, z: float) -> tuple[float, Vector]:
        """How high the floor under a foot is, and its direction up: under ball or heel, whichever is higher."""
        y = self.place[1]
        heel = self.out(times(minus(self.joints[leg.foot][1], self.joints[leg.ball][1]), 1.3))
        best, found = -1e9, None
        for px, pz in ((x, z), (x + heel[0], z + heel[2])):
            floor = self.stage.floor_at(px, y, pz, raises)
            if floor is not None and y - self.drops - EDGE <= floor.height_at(px, pz) > best:
                best, found = floor.height_at(px, pz), floor
        if found is None:
            return y, UPRIGHT
        up = found.up()
        steep = degrees(acos(min(max(up[1], -1.0), 1.0)))
        if steep > self.tilts > 0.0:
            up = unit((up[0] * self.tilts / steep, 1.0, up[2] * self.tilts / steep))
        return min(max(found.height_at(x, z), y - self.drops), y + raises), up


def legs_step(export: Export, f: Fighter, stage: Stage, joints: list[Placed], own: list[float]) -> None:
    """Bring the feet of a fighter a tick on; ``own`` is how much of each foot locomotion moves."""
    said = export.ground["feet"]
    if said["weight"] <= 0.0 or not f.feet:
        return
    pull = 1.0 / (said["ticks"] + 1)
    state = f.steps[-1].state
    there = not said["states"] or any(export.chart.within(state, name) for name in said["states"])
    want = said["weight"] if f.grounded and not f.down and f.is_on("feet") and there else 0.0
    f.feet_weight += min(max(want - f.feet_weight, -pull), pull)
    y = f.position[1]
    if f.feet_height is not None and f.grounded and STAIR_LOW < abs(y - f.feet_height) < STAIR_HIGH:
        # A step of the stairs is gone up or down by the figure in some ticks, though the body does it in one.
        f.behind -= y - f.feet_height
    f.behind *= CATCHES_UP if f.grounded else CATCHES_UP / 2.0
    body = Body(export, f, stage, joints)
    most = 0.0
    for n, leg in enumerate(export.figure.legs):
        f.feet[n] = _step(body, leg, f.feet[n], want > 0.0, export.rate, own[n])
        most = max(most, _short_of(body, leg, f.feet[n], f.behind))
    # The pelvis goes down as far as the leg that has the farthest to reach needs it to.
    f.lower += min(max(min(most, said["drops"]) - f.lower, -SINKS), SINKS)
    f.feet_height = y if f.grounded else None


def _step(body: Body, leg: Leg, hold: Foot, on: bool, rate: float, own: float) -> Foot:
    """A foot a tick on."""
    long = leg.upper + leg.lower
    ball = plus(body.place, body.out(body.joints[leg.ball][1]))
    over = body.joints[leg.ball][1][1] - leg.ball_height
    low = over < (LIFTED if hold.stands else STANDS) * long
    quick = size(minus(ball, hold.ball)) * rate / long if hold.seen else 0.0
    stands = on and low and own > 0.5 and (hold.stands or quick < QUICK) and not (hold.steps and hold.ticks < EASES)
    steps = hold.steps and hold.ticks + 1.0 < EASES
    out = replace(hold, ticks=hold.ticks + 1.0, ball=ball, seen=True)
    if stands and not hold.stands:
        out.stands, out.at, steps = True, plus(ball, left_of(hold.gone, hold.ticks)), False
    if out.stands:
        off = flat(minus(out.at, ball))
        if not stands or size(off) > FARTHEST * long or _torn(body, leg, off):
            out.gone, out.ticks, out.stands = off, 1.0, False
            steps = stands and size(off) > LITTLE * long
    off = flat(minus(out.at, ball)) if out.stands else left_of(out.gone, out.ticks)
    up, share = _lay(
        body, leg, hold, out, (ball[0] + off[0] * own, 0.0, ball[2] + off[2] * own), minus(ball, hold.ball)
    )
    out.up = unit(mixed(hold.up, up, share))
    rise = STEP_HIGH * size(out.gone) * sin(pi * min(out.ticks / EASES, 1.0)) if steps and not out.stands else 0.0
    # A foot that goes along the floor faster than one can stand is lifted over it.
    skates = SKATES * long if on and low and not out.stands and quick >= QUICK else 0.0
    out.rise = max(rise, hold.rise + (skates - hold.rise) * (0.6 if skates > 0.0 else SOON))
    # Mixed poses stand a little over the floor, or in it.
    press = -over if out.stands else max(-over, 0.0) if on and own > 0.5 else 0.0
    out.press = hold.press + (press - hold.press) * 0.5
    out.off = off[0] * own, out.laid + (out.rise + out.press) * own, off[2] * own
    out.steps = steps
    return out


def _lay(body: Body, leg: Leg, hold: Foot, out: Foot, at: Vector, went: Vector) -> tuple[Vector, float]:
    """Lay a foot on its floor: which way is up there, and by which share it turns to that."""
    share, climbs = 0.6 if out.stands else SOON, CLIMBS
    if not body.grounded:
        # In the air there is no floor to lay it on: what it was off by is eased away.
        out.laid, out.floored = hold.laid * (1.0 - SOON), False
        return UPRIGHT, share
    # One that stands does not sink into its step while the body goes on down the stairs.
    floor, up = body.floor(leg, body.raises + (HIGHER if hold.stands else 0.0), at[0], at[2])
    if not out.stands and hold.seen and len(body.stage.floors) > 1:
        # What swings is over the step before it comes to it.
        over = (
            body.floor(leg, body.raises + HIGHER, at[0] + went[0] * k, at[2] + went[2] * k)[0] for k in range(LOOKS + 1)
        )
        floor = max(floor, *over)
        if floor > hold.high:
            climbs, share = LIFTS, 0.45
    far = (floor - hold.high) * share
    out.high = hold.high + min(max(far, -climbs), climbs) if hold.floored else floor
    out.laid, out.floored = out.high - body.place[1], True
    if not out.stands:
        # No higher than a leg can be drawn up.
        room = (
            body.joints[leg.thigh][1][1] - body.joints[leg.foot][1][1] - DRAWN_UP * (leg.upper + leg.lower) - hold.rise
        )
        out.laid = min(out.laid, max(room, min(hold.laid, 0.0)))
        out.high = out.laid + body.place[1]
    return up, share


def _torn(body: Body, leg: Leg, off: Vector) -> bool:
    """Whether a foot stands farther off than its leg reaches."""
    hip, ankle, long = body.joints[leg.thigh][1], body.joints[leg.foot][1], leg.upper + leg.lower
    was, now = size(minus(ankle, hip)), size(minus(plus(ankle, body.into(off)), hip))
    return now > was + TORN * long and now > (STRAIGHTEST + TORN) * long


def _ankle(body: Body, leg: Leg, foot: Foot, weight: float) -> tuple[Vector, Turn]:
    """Where an ankle goes for its foot to be laid, and how the foot is tilted; it turns about the point of the floor
    under its ball."""
    below = flat(body.joints[leg.ball][1])
    arm, tilt = minus(body.joints[leg.foot][1], below), STILL
    if foot.up[1] < 1.0 - 1e-9:
        x, y, z, w = between(UPRIGHT, body.into(foot.up))
        tilt = normal((x * weight, y * weight, z * weight, 1.0 + (w - 1.0) * weight))
        arm = rotate(tilt, arm)
    return plus(plus(below, body.into(times(foot.off, weight))), arm), tilt


def _short_of(body: Body, leg: Leg, foot: Foot, behind: float) -> float:
    """How much lower a hip has to be for its leg to reach where its foot is laid."""
    hip, long = body.joints[leg.thigh][1], leg.upper + leg.lower
    to, _ = _ankle(body, leg, foot, 1.0)
    most = max(STRAIGHTEST * long, min(size(minus(body.joints[leg.foot][1], hip)), long))
    aside = (to[0] - hip[0]) ** 2 + (to[2] - hip[2]) ** 2
    return max(hip[1] + behind - to[1] - sqrt(max(most * most - aside, 0.0)), 0.0)


def lay_feet(export: Export, f: Fighter, stage: Stage, joints: list[Placed]) -> None:
    """Lay the feet of a pose on the floor; its joints about the body are changed in place."""
    figure, weight = export.figure, f.feet_weight
    off = any(size(foot.off) > LEAST or foot.up[1] < 1.0 - LEAST for foot in f.feet)
    if not f.feet or (not (weight > 0.0 and off) and abs(f.behind) <= LEAST and f.lower <= LEAST):
        return
    body = Body(export, f, stage, joints)
    goals = [_ankle(body, leg, foot, weight) for leg, foot in zip(figure.legs, f.feet)]
    shift = (0.0, f.behind - f.lower * weight, 0.0)
    carry(figure, joints, {figure.hips: Move(STILL, NOWHERE, shift)})
    if weight > 0.0:
        moves: dict[int, Move] = {}
        for leg, (target, tilt) in zip(figure.legs, goals):
            limb = leg.thigh, leg.shin, leg.foot, leg.ball
            moves |= reach(joints, limb, leg.upper, leg.lower, target, tilt)
        carry(figure, joints, moves)
