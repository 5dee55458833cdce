"""What is thrown: let go, aimed, drawn down, turned to its target, off floors and walls."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from math import acos, atan2, ceil, cos, degrees, hypot, radians, sin
from typing import TYPE_CHECKING, Any

from player.gaze import CHEST
from player.turns import Vector, around, dot, minus, plus, size, times

if TYPE_CHECKING:
    from player.export import Export, Strike
    from player.fighter import Fighter
    from player.stage import Stage
    from player.strikes import Contact

Json = dict[str, Any]
MOST = 128
"""No more fly at once; what would be one more is not let go."""
_PAIR = re.compile(r"\s*([^\s=:,;]+)\s*[=:]\s*([^\s=:,;]+)\s*[,;]?")
_NUMBER = re.compile(r"-?\d+(\.\d+)?")


@dataclass
class Thing:
    """A thing that flies."""

    number: int
    row: Json
    strike: Strike
    owner: str
    serial: int
    position: Vector
    before: Vector
    velocity: Vector
    age: int = 0
    touched: list[str] = field(default_factory=list)
    evaded: list[str] = field(default_factory=list)

    @property
    def label(self) -> str:
        return f"thrown {self.row['name']} {self.number}"


def numbers_in(payload: str) -> dict[str, float]:
    """The pairs of a payload such as ``speed=9, up=2`` whose values are numbers; none where it says anything else."""
    out: dict[str, float] = {}
    at = 0
    while payload[at:].strip():
        found = _PAIR.match(payload, at)
        if found is None:
            return {}
        if _NUMBER.fullmatch(found[2]):
            out[found[1]] = float(found[2])
        at = found.end()
    return out


def nearest(export: Export, everybody: Sequence[Fighter], owner: str, place: Vector) -> Vector | None:
    """The middle of the nearest body that is not the owner's, nor of its team."""
    team = next((f.row["team"] for f in everybody if f.name == owner), "")
    middles = [
        (f.position[0], f.position[1] + CHEST * export.figure.height, f.position[2])
        for f in everybody
        if f.name != owner and not f.down and not (team and f.row["team"] == team)
    ]
    return min(middles, key=lambda m: sum((a - b) ** 2 for a, b in zip(m, place)), default=None)


def let_go(export: Export, things: list[Thing], many: int, everybody: Sequence[Fighter], events: Sequence[Json]) -> int:
    """Let go what the events of a tick spawn; how many were ever let go."""
    for event in events:
        row = export.thrown.get(event["name"]) if event["kind"] == "spawn" else None
        if row is None or len(things) >= MOST:
            continue
        said = numbers_in(event["payload"])
        row = {**row, **{name: said[name] for name in ("speed", "up", "gravity") if name in said}}
        owner = next((f for f in everybody if f.name == event["fighter"]), None)
        facing, place = event["facing"], event["position"]
        aims = list(owner.aims.values()) if owner is not None else []
        best = max(aims, key=lambda g: g.weight, default=None)
        if best is not None and (best.side * best.weight or best.up * best.weight):
            turn = radians(best.up * best.weight)
            facing += best.side * best.weight
            row = {**row, "speed": row["speed"] * cos(turn), "up": row["up"] + row["speed"] * sin(turn)}
        target = nearest(export, everybody, event["fighter"], place) if row["aims"] == "target" else None
        many += 1
        velocity = _launch(row, facing, place, target)
        strike = export.thrown_strikes[event["name"]]
        things.append(Thing(many, row, strike, event["fighter"], event["serial"], place, place, velocity))
    return many


def _launch(row: Json, facing: float, start: Vector, target: Vector | None) -> Vector:
    """The velocity with which a thing is let go; at its target so that it comes down on it."""
    turn, speed = radians(facing), row["speed"]
    ahead = sin(turn) * speed, row["up"], cos(turn) * speed
    if row["aims"] == "ahead" or target is None or speed <= 0.0:
        return ahead
    x, y, z = minus(target, start)
    far = hypot(x, z)
    if abs(around(degrees(atan2(x, z)) - facing)) > row["limit"] or far < 1e-6:
        return ahead
    time = far / speed
    return x / time, y / time + row["gravity"] * time / 2.0, z / time


def fly(export: Export, things: list[Thing], everybody: Sequence[Fighter], stage: Stage) -> None:
    """All things a tick on; what is over is gone."""
    kept = []
    for one in things:
        owner = next((f for f in everybody if f.name == one.owner), None)
        plays = owner is not None and any(p.serial == one.serial and not p.ended for p in owner.playing)
        if one.age + 1 >= one.row["life"] or (not one.row["outlives"] and not plays):
            continue
        if _step(export, one, everybody, stage):
            kept.append(one)
    things[:] = kept


def _step(export: Export, one: Thing, everybody: Sequence[Fighter], stage: Stage) -> bool:
    """A thing a tick on, in pieces no longer than its radius; false where it ends on a floor or a wall."""
    row, dt = one.row, 1.0 / export.rate
    target = nearest(export, everybody, one.owner, one.position) if row["turns"] > 0.0 else None
    vx, vy, vz = one.velocity if target is None else _turned(one, target, radians(row["turns"]) * dt)
    vy -= row["gravity"] * dt
    pieces = max(ceil(hypot(vx, vy, vz) * dt / max(row["radius"], 0.02)), 1)
    piece, bounce = dt / pieces, row["bounce"]
    x, y, z = one.position

    def high(px: float, pz: float) -> float:
        found = stage.height_under(px, y, pz, 1e9)
        return -1e30 if found is None else found

    for _ in range(pieces):
        nx, ny, nz = x + vx * piece, y + vy * piece, z + vz * piece
        under = high(nx, nz)
        if under > ny - row["radius"]:
            if bounce <= 0.0:
                return False
            if under <= y:  # it comes down on it
                vx, vy, vz = vx * bounce, abs(vy) * bounce, vz * bounce
                ny = max(under + row["radius"], ny)
            else:  # it comes against its side
                if high(nx, z) > y:
                    vx, nx = -vx * bounce, x
                if high(x, nz) > y:
                    vz, nz = -vz * bounce, z
        x, y, z = nx, ny, nz
    one.before, one.position, one.velocity, one.age = one.position, (x, y, z), (vx, vy, vz), one.age + 1
    return True


def _turned(one: Thing, target: Vector, most: float) -> Vector:
    """A velocity turned towards a target by at most so much (radians)."""
    velocity, to = one.velocity, minus(target, one.position)
    speed, far = size(velocity), size(to)
    if speed < 1e-9 or far < 1e-9:
        return velocity
    v, to = times(velocity, 1.0 / speed), times(to, 1.0 / far)
    if acos(min(max(dot(v, to), -1.0), 1.0)) <= most:
        return times(to, speed)
    across = minus(to, times(v, dot(v, to)))
    if size(across) < 1e-9:  # straight away from it: it turns over its left
        across = times((v[2], 0.0, -v[0]), 1.0 / max(hypot(v[0], v[2]), 1e-9))
    else:
        across = times(across, 1.0 / size(across))
    return times(plus(times(v, cos(most)), times(across, sin(most))), speed)


def touch(things: list[Thing], contacts: Sequence[Contact]) -> None:
    """What has touched enough is gone; what was deflected flies back, the deflector's."""
    kept = []
    for one in things:
        mine = [c for c in contacts if c.thing == one.number]
        stopped = [c.victim for c in mine if c.result not in ("evaded", "deflected")]
        deflected = next((c.victim for c in mine if c.result == "deflected"), None)
        one.touched = [*one.touched, *stopped]
        if len(one.touched) > one.row["pierce"] and stopped:
            continue
        if deflected is not None:
            one.owner, one.serial, one.touched, one.evaded = deflected, 0, [], []
            one.velocity = times(one.velocity, -1.0)
        else:
            one.evaded += [c.victim for c in mine if c.result == "evaded"]
        kept.append(one)
    things[:] = kept
