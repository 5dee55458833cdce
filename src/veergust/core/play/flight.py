"""How thrown things fly: let go, aimed, drawn down, turned to their target, off floors and walls."""

from __future__ import annotations

from collections.abc import Sequence
from math import atan2, cos, degrees, hypot, inf, radians, sin

import numpy as np
from msgspec.structs import replace

from veergust.core.kinds import Vector
from veergust.core.model import Thrown
from veergust.core.motion import Array
from veergust.core.play.body.floors import height_under
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact.contact import Contact
from veergust.core.play.fired import Fired
from veergust.core.play.gazing import CHEST
from veergust.core.play.pose.aiming import aimed_at, raised
from veergust.core.play.state import FighterState
from veergust.core.play.take.payload import read_numbers
from veergust.core.play.world import MOST_FLYING, Flying, World


def aimed(thing: Thrown, payload: str) -> Thrown:
    """A thing as an event's payload has it: ``speed``, ``up`` and ``gravity`` may be said there."""
    said = read_numbers(payload)
    given = {name: said[name] for name in ("speed", "up", "gravity") if name in said}
    return replace(thing, **given) if given else thing


def launch(thing: Thrown, facing: float, start: Vector, target: Vector | None) -> Vector:
    """The velocity (m/s) with which a thing is let go.

    At its target it is aimed so that it would come down on it, drawn by gravity, were both to go on as they are.
    """
    turn = radians(facing)
    x, y, z = sin(turn) * thing.speed, thing.up, cos(turn) * thing.speed
    if thing.aims == "ahead" or target is None or thing.speed <= 0.0:
        return x, y, z
    gap = tuple(b - a for a, b in zip(start, target))
    way = degrees(atan2(gap[0], gap[2]))
    far = hypot(gap[0], gap[2])
    if abs((way - facing + 180.0) % 360.0 - 180.0) > thing.limit or far < 1e-6:
        return x, y, z
    time = far / thing.speed
    return gap[0] / time, gap[1] / time + thing.gravity * time / 2.0, gap[2] / time


def middle(build: CompiledProject, fighter: FighterState) -> Vector:
    """Where a thing is aimed at on a body."""
    x, y, z = fighter.position.tolist()
    return x, y + CHEST * build.of(fighter.setup).project.rig.capsule.height, z


def nearest(
    build: CompiledProject, fighters: Sequence[FighterState], owner: str, place: Vector
) -> tuple[float, float, float] | None:
    """The middle of the nearest body that is not the owner's, nor of its team."""
    mine = next((f.setup.team for f in fighters if f.name == owner), "")
    best, found = inf, None
    for f in fighters:
        if f.name == owner or f.down or (mine and f.setup.team == mine):
            continue
        there = middle(build, f)
        far = sum((a - b) ** 2 for a, b in zip(there, place))
        if far < best:
            best, found = far, there
    return found


def let_go(build: CompiledProject, world: World, fighters: Sequence[FighterState], fired: Sequence[Fired]) -> World:
    """The world with what the events of a tick let go."""
    owners = {f.name: build.of(f.setup) for f in fighters} if build.guests else {}
    for event in fired:
        its = owners.get(event.fighter, build)
        thing = its.thrown.get(event.name) if event.kind == "spawn" else None
        if thing is None or len(world.things) >= MOST_FLYING:
            continue
        thing = aimed(thing, event.payload)
        x, y, z = event.position.tolist()
        facing, thing = _pointed(its, fighters, event, thing)
        target = nearest(build, fighters, event.fighter, (x, y, z)) if thing.aims == "target" else None
        velocity = launch(thing, facing, (x, y, z), target)
        made = Flying(world.let_go + 1, thing, event.fighter, event.serial, (x, y, z), (x, y, z), velocity)
        world = world._replace(things=(*world.things, made), let_go=world.let_go + 1)
    return world


def _pointed(
    build: CompiledProject, fighters: Sequence[FighterState], event: Fired, thing: Thrown
) -> tuple[float, Thrown]:
    """Which way a thing is let go, and how fast and how much upwards: where its thrower aims, if anywhere."""
    owner = next((f for f in fighters if f.name == event.fighter), None)
    side, up = aimed_at(build, owner) if owner is not None and build.aims else (0.0, 0.0)
    if not side and not up:
        return event.facing, thing
    speed, rises = raised(thing.speed, up)
    return event.facing + side, replace(thing, speed=speed, up=thing.up + rises)


def fly(build: CompiledProject, world: World, fighters: Sequence[FighterState], floors: Array) -> World:
    """All things a tick on over the ``floors`` (rows); what is over is gone."""
    out = []
    for one in world.things:
        owner = next((f for f in fighters if f.name == one.owner), None)
        if one.age + 1 >= one.thing.life or (not one.thing.outlives and not _plays(owner, one.serial)):
            continue
        target = nearest(build, fighters, one.owner, one.position) if one.thing.turns > 0.0 else None
        moved = step(floors, one, target, 1.0 / build.project.settings.rate)
        if moved is not None:
            out.append(moved)
    return world._replace(things=tuple(out))


def _plays(owner: FighterState | None, serial: int) -> bool:
    return owner is not None and any(v.serial == serial and v.ended is None for v in owner.voices)


def step(floors: Array, one: Flying, target: Vector | None, dt: float) -> Flying | None:
    """A thing a tick on; None where it ends on a floor or wall.

    It is looked at in pieces no longer than its radius.
    """
    thing = one.thing
    velocity = _turned(one.velocity, one.position, target, radians(thing.turns) * dt) if target else one.velocity
    vx, vy, vz = velocity[0], velocity[1] - thing.gravity * dt, velocity[2]
    pieces = max(int(np.ceil(hypot(vx, vy, vz) * dt / max(thing.radius, 0.02))), 1)
    x, y, z = one.position
    for _ in range(pieces):
        piece = dt / pieces
        nx, ny, nz = x + vx * piece, y + vy * piece, z + vz * piece
        under = height_under(floors, nx, y, nz, 1e9)
        if under > ny - thing.radius:
            if thing.bounce <= 0.0:
                return None
            if under <= y:  # it comes down on it
                vx, vy, vz = vx * thing.bounce, abs(vy) * thing.bounce, vz * thing.bounce
                ny = max(under + thing.radius, ny)
            else:  # it comes against its side
                if height_under(floors, nx, y, z, 1e9) > y:
                    vx, nx = -vx * thing.bounce, x
                if height_under(floors, x, y, nz, 1e9) > y:
                    vz, nz = -vz * thing.bounce, z
        x, y, z = nx, ny, nz
    return one._replace(position=(x, y, z), before=one.position, velocity=(vx, vy, vz), age=one.age + 1)


def _turned(velocity: Vector, place: Vector, target: Vector, most: float) -> Vector:
    """A velocity turned towards a target by at most so much (radians), as fast as it was."""
    v, to = np.array(velocity), np.array(target) - np.array(place)
    speed, far = float(np.linalg.norm(v)), float(np.linalg.norm(to))
    if speed < 1e-9 or far < 1e-9:
        return velocity
    v, to = v / speed, to / far
    angle = float(np.arccos(np.clip(v @ to, -1.0, 1.0)))
    if angle <= most:
        v = to
    else:
        across = to - v * (v @ to)
        size = float(np.linalg.norm(across))
        if size < 1e-9:  # straight away from it: it turns over its left
            across, size = np.array([v[2], 0.0, -v[0]]), max(hypot(v[0], v[2]), 1e-9)
        v = v * cos(most) + across / size * sin(most)
    x, y, z = (v * speed).tolist()
    return x, y, z


def touch(world: World, contacts: Sequence[Contact]) -> World:
    """The world after its touches: what has touched enough is gone, what was deflected flies back, the deflector's."""
    out = []
    for one in world.things:
        mine = [c for c in contacts if c.thing == one.number]
        stopped = [c.victim for c in mine if c.result not in ("evaded", "deflected")]
        back = next((c.victim for c in mine if c.result == "deflected"), None)
        touched = (*one.touched, *stopped)
        if len(touched) > one.thing.pierce and stopped:
            continue
        if back is not None:
            x, y, z = one.velocity
            out.append(one._replace(owner=back, serial=0, velocity=(-x, -y, -z), touched=(), evaded=()))
            continue
        evaded = tuple(c.victim for c in mine if c.result == "evaded")
        out.append(one._replace(touched=touched, evaded=(*one.evaded, *evaded)) if mine else one)
    return world._replace(things=tuple(out))


def tell_things(before: World, after: World) -> list[Fired]:
    """What ended and what began to fly between two worlds, where each was seen last."""
    old, new = {f.number: f for f in before.things}, {f.number: f for f in after.things}
    gone = [f for n, f in old.items() if n not in new]
    made = [f for n, f in new.items() if n not in old]
    return [Fired(f.owner, f.label, "end", "", np.array(f.position)) for f in gone] + [
        Fired(f.owner, f.label, "begin", "", np.array(f.position)) for f in made
    ]
