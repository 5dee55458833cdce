"""How a body moves on a tick: by locomotion, by root motion or a drive, by gravity and pushes."""

from __future__ import annotations

from collections.abc import Sequence
from math import atan2, cos, degrees, hypot, radians, sin
from typing import Any, NamedTuple

from player import fades
from player.export import Export
from player.fighter import Fighter, Playing, Seen
from player.stage import EDGE, STEP_UP, Disc, Stage
from player.turns import NOWHERE, Vector, around, ease, minus, plus, size, times

Json = dict[str, Any]
SLOW = 0.3 - 1e-6
"""Below this speed (m/s) a body turns on the spot."""
CREEPS = 1e-3
"""Who goes more slowly (m/s) stands, and is not braked."""
SLOWER = 1.0 - 1e-6
"""Whose wish along its way is less than this share of its speed is braked."""
IN_THE_AIR = -1.0
NEAR = 0.01
ROOT: Json = {"kind": "root", "scale": 1.0, "turn": "usual", "turn_rate": 360.0}


class Share(NamedTuple):
    """An action's part in moving the body: by its layer (``full``), and as far as it has faded in (``own``)."""

    playing: Playing
    drive: Json
    full: float
    own: float


def drive_of(p: Playing) -> Json:
    """The drive on its frame: the last span that holds it, else the whole action's, else root motion."""
    for drive in reversed(p.part.row["drives"]):
        if drive["start"] <= p.frame < drive["end"]:
            return drive  # type: ignore[no-any-return]
    whole = p.action.row["drives"]
    return whole[-1] if whole else ROOT


def shares(export: Export, f: Fighter, all_: Sequence[Playing]) -> tuple[list[Share], float, float]:
    """What each action has of the body, from the top layer down, and what all leave to locomotion: by weight, now."""
    out: list[Share] = []
    full_left = left = 1.0
    for p in reversed(all_):
        layer = export.layers.get(p.layer)
        weight = layer.root * fades.layer_weight(f, layer) if layer is not None and layer.root > 0.0 else 0.0
        if weight > 0.0:
            full = weight * full_left
            own = weight * ease(p.action.row["ease"], (p.age + 1) / (p.blend + 1)) * left
            out.append(Share(p, drive_of(p), full, own))
            full_left, left = full_left - full, left - own
    return out, max(full_left, 0.0), max(left, 0.0)


def by_stick(parts: Sequence[Share], full_left: float) -> float:
    """How much of its full speed the stick gives."""
    return float(full_left + sum(p.full * p.drive["scale"] for p in parts if p.drive["kind"] == "stick"))


def top_speed(f: Fighter) -> float:
    """The speed (m/s) of the whole stick here."""
    state = f.export.chart.states.get(f.steps[-1].state)
    return float(state["most"] if state is not None and state["most"] > 0.0 else f.export.ground["run_speed"])


def slowed(speed: Vector, by: float) -> Vector:
    long = size(speed)
    return times(speed, max(0.0, long - by) / long) if long > 0.0 else speed


def move(
    export: Export,
    f: Fighter,
    before: Sequence[Playing],
    others: Sequence[Fighter],
    seen: Sequence[Seen],
    stage: Stage,
) -> None:
    """Move a body for a tick. ``before`` are its actions as they stood on the last tick, ``others`` where they have
    come to, and as they are ``seen`` they were when the tick began."""
    ground, dt = export.ground, 1.0 / export.rate
    parts, full_left, left = shares(export, f, before)
    stick = by_stick(parts, full_left)
    onward = by_stick(*shares(export, f, f.acting())[:2])
    steers = stick > 0.0 and onward > 0.0
    if steers and not f.steered:
        f.go_on()
    _speed(export, f, parts, stick, onward, left)
    x, y, z = f.velocity[0] * dt, 0.0, f.velocity[2] * dt
    flies = sum(p.own for p in parts if p.drive["kind"] == "ballistic")
    if flies > 0.0:
        flown = slowed(f.went, ground["friction"] * dt) if f.grounded else f.went
        x, z = x + flown[0] * dt * flies, z + flown[2] * dt * flies
    turn, climbs = 0.0, False
    for part in parts:
        if part.drive["kind"] == "root":
            (rx, ry, rz), spin, up = _root_step(f, part)
            x, y, z, turn, climbs = x + rx, y + ry, z + rz, turn + spin, climbs or up
    was = f.facing
    _turn(export, f, parts, full_left if steers else 0.0, seen, dt)
    knock = f.knock[0] * dt, f.knock[2] * dt
    _slow_push(f, ground["friction"] * dt)
    if not f.grounded and not climbs and f.is_on("gravity"):
        falls = ground["falling"] > 0.0 and f.velocity[1] < 0.0
        down = f.velocity[1] - (ground["falling"] if falls else ground["gravity"]) * dt
        f.velocity = (f.velocity[0], down, f.velocity[2])
        y += down * dt
    f.facing = around(f.facing + turn)
    f.turning = around(f.facing - was) / dt
    _carry(export, f, (x + knock[0], y, z + knock[1]), knock, others, stage, dt)


def _speed(export: Export, f: Fighter, parts: Sequence[Share], stick: float, onward: float, left: float) -> None:
    """The velocity that locomotion gives: what the stick asks for, or what becomes of it while an action drives."""
    ground = export.ground
    momentum = parts[0].playing.action.start["momentum"] if parts else "keep"
    drops = any(p.drive["kind"] == "none" for p in parts)
    x, up, z = f.velocity
    if stick > 0.0 and onward > 0.0:
        sx, sz = (0.0, 0.0) if f.down or f.stun else f.stick
        top = top_speed(f) * stick / max(hypot(sx, sz), 1.0)
        wx, wz = sx * top, sz * top
        slower = hypot(x, z) > CREEPS and wx * x + wz * z < (x * x + z * z) * SLOWER
        change = ((ground["braking"] or ground["acceleration"]) if slower else ground["acceleration"]) / export.rate
        change *= 1.0 if f.grounded else ground["air_control"]
        far = hypot(wx - x, wz - z)
        much = 1.0 if far <= change else change / far
        f.velocity = (x + (wx - x) * much, up, z + (wz - z) * much)
    elif stick == 0.0 and momentum == "fade" and not drops and (f.left < 0.0 or not f.grounded):
        # Without a floor nothing slows it; one that it lands on slows it by friction.
        f.left = IN_THE_AIR
        if f.grounded:
            f.velocity = slowed((x, 0.0, z), ground["friction"] / export.rate)
    elif stick == 0.0 and momentum != "keep":
        much = left / f.left if momentum == "fade" and f.left > 1e-9 else 0.0
        f.velocity, f.left = (x * much, up, z * much), left
    f.steered = stick > 0.0


def _root_step(f: Fighter, share: Share) -> tuple[Vector, float, bool]:
    """What the frame just left moves the body: the way, the turn (degrees), and whether it drives the height."""
    p = share.playing
    part, n = p.part, p.frame
    if p.last and n + 1 >= part.ticks:
        return NOWHERE, 0.0, False
    much = share.drive["scale"] * share.own
    (ax, ay, az), (bx, by, bz) = part.place[n], part.place[n + 1]
    x, y, z = bx - ax, by - ay, bz - az
    turn = radians(f.facing - part.turn[n])
    c, s = cos(turn), sin(turn)
    spin = 0.0 if share.drive["turn"] == "not" else (part.turn[n + 1] - part.turn[n]) * much
    return ((c * x + s * z) * much, y * much, (c * z - s * x) * much), spin, bool(part.cut(n).get("climbs"))


def _turn(export: Export, f: Fighter, parts: Sequence[Share], own: float, seen: Sequence[Seen], dt: float) -> None:
    """Turn a body with the stick or to its target, as locomotion and the drives say."""
    if not f.is_on("turn") or f.down or f.stun:
        return
    ground = export.ground
    spot = ground["spot_turn_rate"] > 0.0 and hypot(f.velocity[0], f.velocity[2]) < SLOW
    rate = ground["spot_turn_rate"] if spot else ground["turn_rate"]
    state = export.chart.states.get(f.steps[-1].state)
    turns = state["turns"] if state is not None else "stick"
    much = own * rate * _given_back(export, f) if f.grounded else 0.0
    with_stick, to_target = much if turns == "stick" else 0.0, much if turns == "target" else 0.0
    for part in parts:
        if part.drive["turn"] == "stick":
            with_stick += part.own * part.drive["turn_rate"]
        elif part.drive["turn"] == "target":
            to_target += part.own * part.drive["turn_rate"]
        elif part.drive["turn"] == "usual" and part.drive["kind"] == "stick" and f.grounded:
            with_stick += part.full * part.drive["scale"] * rate
    x, z = f.stick
    if with_stick > 0.0 and abs(x) + abs(z) >= 0.05:
        f.facing = _turned(f.facing, x, z, with_stick * dt)
    if to_target > 0.0 and seen:
        ways = [(o.position[0] - f.position[0], o.position[2] - f.position[2]) for o in seen]
        x, z = min(ways, key=lambda way: hypot(*way))
        if hypot(x, z) > 1e-6:
            f.facing = _turned(f.facing, x, z, to_target * dt)


def _given_back(export: Export, f: Fighter) -> float:
    """How much of the turning locomotion has back from actions that had the body and fade out."""
    left = 1.0
    for p, much in zip(f.playing, fades.shown(f)):
        layer = export.layers.get(p.layer)
        if p.ended and layer is not None:
            left -= left * min(much * layer.root, 1.0)
    return left


def _turned(facing: float, x: float, z: float, most: float) -> float:
    return facing + min(max(around(degrees(atan2(x, z)) - facing), -most), most)


def _slow_push(f: Fighter, friction: float) -> None:
    """A push slows: by friction, or over its own ticks."""
    if f.shove is None:
        f.knock = slowed(f.knock, friction)
        return
    f.shove = f.shove._replace(age=f.shove.age + 1)
    if f.shove.age >= f.shove.ticks:
        f.knock, f.shove = NOWHERE, None
    else:
        f.knock = f.shove.now()


def _carry(
    export: Export,
    f: Fighter,
    step: Vector,
    knock: tuple[float, float],
    others: Sequence[Fighter],
    stage: Stage,
    dt: float,
) -> None:
    """Sweep the body along its step, and take from its speeds what it was blocked of."""
    was = f.position
    discs: list[Disc] = []
    if not f.down and f.is_on("push"):
        radius, tall = export.figure.radius, export.figure.height
        far = hypot(step[0], step[2]) + 2.0 * radius + NEAR
        discs = stage.discs(tall)
        for o in others:
            x, y, z = o.position
            if abs(x - was[0]) <= far and abs(z - was[2]) <= far and not o.down and o.is_on("push"):
                discs.append(Disc(x, z, radius, y - tall, y + tall))
    f.position, walls, landed = stage.sweep(was, step, export.figure.radius, discs)
    if landed:
        f.grounded = True
        f.velocity = (f.velocity[0], 0.0, f.velocity[2])
    for x, z in walls:
        f.velocity, f.knock = _stopped(f.velocity, x, z), _stopped(f.knock, x, z)
    own = (f.knock[0], f.knock[1], f.knock[2]) if walls else (knock[0] / dt, 0.0, knock[1] / dt)
    f.went = (f.position[0] - was[0]) / dt - own[0], 0.0 - own[1], (f.position[2] - was[2]) / dt - own[2]
    f.blocked = bool(walls)


def _stopped(speed: Vector, x: float, z: float) -> Vector:
    """A velocity without what of it goes against a direction away from a wall."""
    into = min(speed[0] * x + speed[2] * z, 0.0)
    return speed[0] - into * x, speed[1], speed[2] - into * z


def ride(export: Export, f: Fighter, stage: Stage) -> None:
    """A floor that goes takes along who stands on it, with their feet, and pushes who is in its way."""
    f.carried = NOWHERE
    radius = export.figure.radius
    discs = stage.discs(export.figure.height) if not f.down and f.is_on("push") else []
    on = None
    if f.grounded:
        x, y, z = f.position
        there = (n for n, floor in enumerate(stage.before) if any(stage.going[n].goes) and floor.over(x, z)
                 and abs(floor.height_at(x, z) - y) <= EDGE)  # fmt: skip
        on = next(there, None)
    if on is not None:
        by = f.carried = stage.by[on]
        (px, _, pz), _, _ = stage.sweep(f.position, (by[0], 0.0, by[2]), radius, discs)
        went = px - f.position[0], by[1], pz - f.position[2]
        f.position = px, f.position[1] + by[1], pz
        for foot in f.feet:
            foot.at, foot.ball, foot.high = plus(foot.at, went), plus(foot.ball, went), foot.high + by[1]
        if f.feet_height is not None:
            f.feet_height += by[1]
    for n, by in enumerate(stage.by):
        if n != on and (by[0] or by[2] or (by[1] and not f.grounded)):
            # Seen from the floor it is the body that comes against it.
            up = 0.0 if f.grounded else by[1]
            back = -by[0], -up, -by[2]
            to, walls, landed = stage.sweep(f.position, back, radius, [], [stage.before[n]])
            if walls or landed:
                step = minus(plus(to, (by[0], up, by[2])), f.position)
                others = [floor for m, floor in enumerate(stage.floors) if m != n]
                f.position = stage.sweep(f.position, step, radius, discs, others)[0]


def settle(export: Export, f: Fighter, stage: Stage) -> bool:
    """Keep a body on the floor or let it fall, with the speed of the floor that it leaves; true when it was put back
    after it fell out of the stage."""
    x, y, z = f.position
    height = stage.height_under(x, y, z, STEP_UP)
    snap = STEP_UP if f.grounded and f.velocity[1] <= 0.0 else 0.0
    if not (f.jumping and f.velocity[1] > 0.0) and height is not None and y <= height + snap + EDGE:
        f.position = (x, height, z)
        f.velocity = (f.velocity[0], 0.0, f.velocity[2])
        f.grounded, f.off_floor = True, 0
    else:
        f.velocity = plus(f.velocity, times(f.carried, export.rate))
        f.grounded = False
        f.off_floor += 1
    y = f.position[1]
    f.above = y - (height if height is not None else stage.put_back_below)
    if y >= stage.put_back_below:
        return False
    f.position, f.facing, f.grounded = f.home, float(f.row["facing"]), True
    f.velocity = f.knock = f.went = NOWHERE
    f.shove, f.stun, f.reels, f.strung = None, 0, 0, 0
    f.worn, f.poise = 0.0, f.row["poise"]
    return True


def part(export: Export, everybody: Sequence[Fighter], stage: Stage) -> None:
    """Push bodies that stand in each other apart, half and half, and out of posts."""
    radius, tall = export.figure.radius, export.figure.height
    solid = [f for f in everybody if not f.down and f.is_on("push")]
    for n, a in enumerate(solid):
        for b in solid[n + 1 :]:
            if abs(a.position[1] - b.position[1]) < tall:
                x, z = _apart(a, b.position, 2.0 * radius)
                a.position = a.position[0] + x / 2.0, a.position[1], a.position[2] + z / 2.0
                b.position = b.position[0] - x / 2.0, b.position[1], b.position[2] - z / 2.0
    for f in solid:
        for post in stage.posts_left():
            if post.position[1] - tall < f.position[1] < post.position[1] + post.height:
                x, z = _apart(f, post.position, radius + post.radius)
                f.position = f.position[0] + x, f.position[1], f.position[2] + z


def _apart(f: Fighter, there: Vector, least: float) -> tuple[float, float]:
    x, z = f.position[0] - there[0], f.position[2] - there[2]
    far = hypot(x, z)
    if far >= least:
        return 0.0, 0.0
    if far < 1e-9:
        turn = radians(f.facing)
        return -sin(turn) * least, -cos(turn) * least
    return x / far * (least - far), z / far * (least - far)
