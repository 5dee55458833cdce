"""Steps 5 and 6 of the tick: root motion or drive, and the body against the stage."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import atan2, cos, degrees, hypot, isfinite, radians, sin

import numpy as np

from veergust.core.kinds import GRAVITY, PUSH, TURN, Vector, drive_kind
from veergust.core.model import Drive, Post
from veergust.core.motion import Array, ease
from veergust.core.play.body.collide import sweep
from veergust.core.play.body.floors import STEP_UP, height_under
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.compiled.trajectory import Given, go, slowed
from veergust.core.play.pose.speaking import layer_weight, weights_of
from veergust.core.play.state import NOWHERE, FighterState, Voice, go_on

Discs = tuple[tuple[float, float, float, float, float], ...]
"""Round things in the way: x, z, radius, from which height to which (m)."""
SLOW = 0.3 - 1e-6
"""Below this speed (m/s) a body turns on the spot. The usual first tick of a walk comes to 0.3 and is no longer below,
whatever the rounding."""


def drive_of(voice: Voice) -> Drive:
    """The drive on an action's frame: the last span that holds it, else the action's own, else root motion."""
    return voice.compiled.drive_at(voice.section, voice.frame)


@dataclass(frozen=True)
class Share:
    """An action's part in moving the body: by its layer's whole-body weight (``full``), and as far as it has faded in
    (``own``)."""

    voice: Voice
    drive: Drive
    full: float
    own: float


def shares(build: CompiledProject, fighter: FighterState, voices: Sequence[Voice]) -> tuple[list[Share], float, float]:
    """What each action has of the body, from the top layer down, and what all leave to locomotion by weight and now.

    A layer's share is its whole-body weight times what those above it left.
    """
    out: list[Share] = []
    full_left, left = 1.0, 1.0
    if not voices:
        return out, full_left, left
    for voice in reversed(voices):
        layer = build.layers.get(voice.layer)
        weight = layer.root * layer_weight(layer, fighter) if layer is not None and layer.root > 0.0 else 0.0
        if weight <= 0.0:
            continue
        shown = ease(voice.compiled.action.ease, (voice.age + 1) / (voice.blend + 1))
        full, own = weight * full_left, weight * shown * left
        out.append(Share(voice, drive_of(voice), full, own))
        full_left, left = full_left - full, left - own
    return out, max(full_left, 0.0), max(left, 0.0)


def move(
    build: CompiledProject,
    fighter: FighterState,
    before: tuple[Voice, ...],
    others: tuple[FighterState, ...],
    seen: tuple[FighterState, ...],
    posts: Discs,
    floors: Array,
) -> None:
    """Move the body for one tick over the ``floors`` (rows) and round the ``posts``. ``before`` are the actions as they
    stood on the last tick; the ``others`` are where they have come to, and as they are ``seen`` they were when the tick
    began."""
    locomotion = build.project.locomotion
    dt = 1.0 / build.project.settings.rate
    held = fighter.holding()
    parts, full_left, left = shares(build, fighter, before)
    stick = _stick(parts, full_left) if parts else full_left
    now, now_left, _ = shares(build, fighter, fighter.acting())
    onward = _stick(now, now_left) if now else now_left
    steers = stick > 0.0 and onward > 0.0
    if steers and not fighter.steered:
        go_on(fighter)
    flies = sum([p.own for p in parts if drive_kind(p.drive).flies])
    drops = any(drive_kind(p.drive).drops for p in parts)
    momentum = parts[0].voice.compiled.action.start.momentum if parts else "keep"
    want = _wanted(fighter, top_speed(build, fighter) * stick) if steers else (0.0, 0.0)
    x, z = go(fighter, Given(stick, onward, want, flies, left, momentum, drops), build.pace)
    y = 0.0
    turn, climbing = 0.0, False
    for part in parts:
        if drive_kind(part.drive).root:
            root, spin, up = _root_step(fighter, part)
            x, y, z = x + root[0], y + root[1], z + root[2]
            turn, climbing = turn + spin, climbing or up
    was = fighter.facing
    _turn_body(build, fighter, parts, full_left if steers else 0.0, held, seen, dt)
    knock = (fighter.knock[0] * dt, 0.0, fighter.knock[2] * dt)
    _slow(fighter, locomotion.friction * dt)
    x, z = x + knock[0], z + knock[2]
    if not fighter.grounded and not climbing and GRAVITY.on(held):
        falling = locomotion.falling if locomotion.falling > 0.0 and fighter.velocity[1] < 0.0 else locomotion.gravity
        down = fighter.velocity[1] - falling * dt
        fighter.velocity = (fighter.velocity[0], down, fighter.velocity[2])
        y += down * dt
    fighter.facing = (fighter.facing + turn + 180.0) % 360.0 - 180.0
    fighter.turning = ((fighter.facing - was + 180.0) % 360.0 - 180.0) / dt
    _carry(build, fighter, (x, y, z), knock, (others, posts), floors, dt)


def _slow(fighter: FighterState, friction: float) -> None:
    """A push slows: by the ground's friction (m/s a tick), or over its own ticks."""
    if fighter.shove is None:
        fighter.knock = slowed(fighter.knock, friction)
        return
    fighter.shove = fighter.shove._replace(age=fighter.shove.age + 1)
    over = fighter.shove.age >= fighter.shove.ticks
    fighter.knock = NOWHERE if over else fighter.shove.now()
    fighter.shove = None if over else fighter.shove


def _stick(parts: list[Share], full_left: float) -> float:
    """How much of its full speed the stick gives: what locomotion has of the body, and what stick drives give it."""
    return full_left + sum(s.full * s.drive.scale for s in parts if drive_kind(s.drive).stick)


def top_speed(build: CompiledProject, fighter: FighterState) -> float:
    """The speed (m/s) of the whole stick: the run's, or what the locomotion state says."""
    state = build.states.get(fighter.locomotion[-1].state)
    return state.most if state is not None and state.most > 0.0 else build.project.locomotion.run_speed


def _wanted(fighter: FighterState, top: float) -> tuple[float, float]:
    """The velocity (m/s: x, z) that the stick asks for."""
    x, y = (0.0, 0.0) if fighter.down or fighter.stun else fighter.stick
    size = max(hypot(x, y), 1.0)
    return x / size * top, y / size * top


def _turn_body(
    build: CompiledProject,
    fighter: FighterState,
    parts: list[Share],
    full_left: float,
    held: Mapping[str, float],
    others: tuple[FighterState, ...],
    dt: float,
) -> None:
    """Turn the body with the stick or towards the target, as locomotion and the drives say."""
    if not TURN.on(held) or fighter.down or fighter.stun:
        return
    locomotion = build.project.locomotion
    on_spot = locomotion.spot_turn_rate > 0.0 and hypot(fighter.velocity[0], fighter.velocity[2]) < SLOW
    locomotion_rate = locomotion.spot_turn_rate if on_spot else locomotion.turn_rate
    state = build.states.get(fighter.locomotion[-1].state)
    turns = state.turns if state is not None else "stick"
    own = full_left * locomotion_rate * _given_back(build, fighter) if fighter.grounded else 0.0
    with_stick = own if turns == "stick" else 0.0
    to_target = own if turns == "target" else 0.0
    for part in parts:
        if part.drive.turn == "stick":
            with_stick += part.own * part.drive.turn_rate
        elif part.drive.turn == "target":
            to_target += part.own * part.drive.turn_rate
        elif part.drive.turn == "usual" and drive_kind(part.drive).stick and fighter.grounded:
            with_stick += part.full * part.drive.scale * locomotion_rate
    x, z = fighter.stick
    if with_stick > 0.0 and abs(x) + abs(z) >= 0.05:
        fighter.facing = _turned(fighter.facing, x, z, with_stick * dt)
    target = min(others, key=lambda o: _gap(fighter, o), default=None) if to_target > 0.0 else None
    if target is not None and _gap(fighter, target) > 1e-6:
        x, _, z = (target.position - fighter.position).tolist()
        fighter.facing = _turned(fighter.facing, x, z, to_target * dt)


def _given_back(build: CompiledProject, fighter: FighterState) -> float:
    """How much of the turning locomotion has back from the actions that had the body and fade out: it comes with what
    shows of it, for at once it would turn a figure that still shows the action."""
    left = 1.0
    for voice, much in zip(fighter.voices, weights_of(build, fighter) if fighter.voices else ()):
        layer = build.layers.get(voice.layer)
        if voice.ended is not None and layer is not None:
            left -= left * min(much * layer.root, 1.0)
    return left


def _gap(a: FighterState, b: FighterState) -> float:
    return hypot(float(a.position[0] - b.position[0]), float(a.position[2] - b.position[2]))


def _turned(facing: float, x: float, z: float, most: float) -> float:
    gap = (degrees(atan2(x, z)) - facing + 180.0) % 360.0 - 180.0
    return facing + min(max(gap, -most), most)


def _root_step(fighter: FighterState, share: Share) -> tuple[Vector, float, bool]:
    """What the frame just left moves the body: place (world), turn (degrees), whether it drives the height."""
    old, part, f = share.voice, share.voice.part, share.voice.frame
    if old.last and f + 1 >= part.ticks:
        return NOWHERE, 0.0, False
    much = share.drive.scale * share.own
    x, y, z = (part.place[f + 1] - part.place[f]).tolist()
    was = float(part.yaw[f])
    turn = radians(fighter.facing) - was
    c, s = cos(turn), sin(turn)
    cut = part.cut_at(f)
    world = ((c * x + s * z) * much, y * much, (c * z - s * x) * much)
    spin = 0.0 if share.drive.turn == "not" else degrees(float(part.yaw[f + 1]) - was) * much
    return world, spin, cut is not None and cut.climbs


def _carry(
    build: CompiledProject,
    fighter: FighterState,
    step: Vector,
    knock: Vector,
    round_it: tuple[tuple[FighterState, ...], Discs],
    floors: Array,
    dt: float,
) -> None:
    """Sweep the body along its step, and take from its speeds what it was blocked of."""
    was = fighter.position
    radius = build.project.rig.capsule.radius
    place, walls, landed = sweep(was, np.array(step), radius, floors, _discs(build, fighter, step, *round_it))
    fighter.position = np.array(place)
    if landed:
        fighter.grounded = True
        fighter.velocity = (fighter.velocity[0], 0.0, fighter.velocity[2])
    for x, z in walls:
        fighter.velocity = _stopped(fighter.velocity, x, z)
        fighter.knock = _stopped(fighter.knock, x, z)
    gone = (place[0] - float(was[0])) / dt, (place[2] - float(was[2])) / dt
    own = fighter.knock if walls else (knock[0] / dt, 0.0, knock[2] / dt)
    fighter.went = (gone[0] - own[0], 0.0 - own[1], gone[1] - own[2])
    fighter.blocked = bool(walls)


def _stopped(speed: Vector, x: float, z: float) -> Vector:
    """A velocity without what of it goes against (x, z), the direction away from a wall."""
    into = min(speed[0] * x + speed[2] * z, 0.0)
    return speed[0] - into * x, speed[1], speed[2] - into * z


EDGE = 1e-6
"""A floor that is so much (m) farther below than it may be is as it may be."""
NEAR = 0.01
"""So much (m) farther than it can come it looks for bodies."""
NOTHING_ROUND = np.zeros((0, 5))


def _discs(
    build: CompiledProject, fighter: FighterState, step: Vector, others: tuple[FighterState, ...], posts: Discs
) -> Array:
    """Posts, and other bodies that a step may come to, ``[n, 5]``: x, z, radius, from which height to which (m)."""
    body = build.project.rig.capsule
    if fighter.down or not PUSH.on(fighter.holding()):
        return NOTHING_ROUND
    out = list(posts)
    fx, _, fz = fighter.position.tolist()
    # It slides along what it meets, so that it may go its whole length any way.
    far = hypot(step[0], step[2]) + body.radius + build.host.widest + NEAR
    for other in others:
        x, y, z = other.position.tolist()
        if abs(x - fx) > far or abs(z - fz) > far:
            continue
        if not other.down and PUSH.on(other.holding()):
            its = build.host.of(other.setup).project.rig.capsule
            out.append((x, z, its.radius, y - body.height, y + its.height))
    return np.array(out) if out else NOTHING_ROUND


def settle(build: CompiledProject, fighter: FighterState, floors: Array, carried: Vector = NOWHERE) -> bool:
    """Keep the body on the ``floors`` (rows) or let it fall, with the speed of a platform that ``carried`` it (m)
    on this tick; true when it was put back after falling out of the stage."""
    stage = build.project.stage
    x, y, z = fighter.position.tolist()
    height = height_under(floors, x, y, z)
    snap = STEP_UP if fighter.grounded and fighter.velocity[1] <= 0.0 else 0.0
    rises = fighter.jumping and fighter.velocity[1] > 0.0
    if not rises and y <= height + snap + EDGE:
        fighter.position = np.array([x, height, z])
        fighter.velocity = (fighter.velocity[0], 0.0, fighter.velocity[2])
        fighter.grounded = True
        fighter.off_floor = 0
    else:
        if carried != NOWHERE:
            vx, vy, vz = fighter.velocity
            rate = build.project.settings.rate
            fighter.velocity = (vx + carried[0] * rate, vy + carried[1] * rate, vz + carried[2] * rate)
        fighter.grounded = False
        fighter.off_floor += 1
    y = float(fighter.position[1])
    fighter.above = y - height if isfinite(height) else y - stage.put_back_below
    if y < stage.put_back_below:
        fighter.position = np.array(fighter.setup.position, dtype=float)
        fighter.velocity = fighter.knock = fighter.went = NOWHERE
        fighter.shove, fighter.stun, fighter.reels, fighter.strung = None, 0, 0, 0
        fighter.worn, fighter.poise = 0.0, fighter.setup.poise
        fighter.facing, fighter.grounded = fighter.setup.facing, True
        return True
    return False


def part_bodies(build: CompiledProject, fighters: list[FighterState], posts: tuple[Post, ...]) -> None:
    """Push bodies that stand in each other apart, half and half, and out of posts, in the order they stand."""
    solid = [f for f in fighters if not f.down and PUSH.on(f.holding())]
    bodies = [build.of(f.setup).project.rig.capsule for f in solid]
    places = [f.position.tolist() for f in solid]
    for i, (a, one) in enumerate(zip(solid, bodies)):
        for j in range(i + 1, len(solid)):
            two, (ax, ay, _), (bx, by, _) = bodies[j], places[i], places[j]
            room = one.radius + two.radius
            if abs(ax - bx) < room and -two.height < by - ay < one.height:
                b = solid[j]
                away = _apart(a.position, b.position, room, a.facing)
                if away is not None:
                    a.position = a.position + away / 2
                    b.position = b.position - away / 2
                    places[i], places[j] = a.position.tolist(), b.position.tolist()
    for f, body in zip(solid, bodies):
        for post in posts:
            at = np.array(post.position, dtype=float)
            if at[1] - body.height < f.position[1] < at[1] + post.height:
                away = _apart(f.position, at, body.radius + post.radius, f.facing)
                if away is not None:
                    f.position = f.position + away


def _apart(a: Array, b: Array, least: float, facing: float) -> Array | None:
    x, z = float(a[0] - b[0]), float(a[2] - b[2])
    far = hypot(x, z)
    if far >= least:
        return None
    if far < 1e-9:
        turn = radians(facing)
        return np.array([-sin(turn), 0.0, -cos(turn)]) * least
    return np.array([x, 0.0, z]) / far * (least - far)
