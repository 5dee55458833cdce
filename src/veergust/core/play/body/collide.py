"""The body's capsule swept over the stage: along a tick it meets walls, posts and bodies, and floors under it.

A capsule seen from above is a disc. A point against a shape grown by the disc's radius is the same as the disc
against the shape, and a point on a line meets a circle or a rectangle at a time that is worked out, so that nothing
is passed through at any speed (C. Ericson, *Real-Time Collision Detection*, 2005, sections 5.3 and 5.5).
"""

from __future__ import annotations

from dataclasses import dataclass
from math import hypot, inf, sqrt

import numpy as np

from veergust.core.model import Floor
from veergust.core.motion.quat import Array
from veergust.core.play.body.floors import STEP_UP, floor_at, height_at, inside

GAP = 1e-7
SLIDES = 5


@dataclass(frozen=True)
class Disc:
    """Something round in the way, seen from above, from ``low`` to ``high`` (m)."""

    x: float
    z: float
    radius: float
    low: float
    high: float


@dataclass(frozen=True, eq=False)
class Swept:
    """Where a body came to: its ``position``, the directions ``walls`` (x, z, away from them) that stopped it, and
    whether it ``landed`` on the way."""

    position: Array
    walls: tuple[tuple[float, float], ...]
    landed: bool


def sweep(position: Array, step: Array, radius: float, floors: tuple[Floor, ...], discs: tuple[Disc, ...]) -> Swept:
    """Move a body by ``step`` (m): it slides along what it meets and lands on the first floor it falls on."""
    x, y0, z = (float(v) for v in position)
    dx, dy, dz = (float(v) for v in step)
    at, walls = 0.0, []
    way = [(0.0, x, z)]
    for _ in range(SLIDES):
        if hypot(dx, dz) < 1e-12 or at >= 1.0:
            break
        rest = 1.0 - at
        first, normal = 1.0, None
        for hit, away in _hits(x, z, dx, dz, radius, floors, discs, y0 + dy * at, dy * rest):
            if hit < first:
                first, normal = hit, away
        x, z, at = x + dx * first, z + dz * first, at + rest * first
        way.append((at, x, z))
        if normal is None:
            break
        nx, nz = normal
        x, z = x + nx * GAP, z + nz * GAP
        dx, dz = dx * (1.0 - first), dz * (1.0 - first)
        into = min(dx * nx + dz * nz, 0.0)
        dx, dz = dx - into * nx, dz - into * nz
        walls.append(normal)
        # In a corner the way along one wall leads into the other: there it stops.
        if any(dx * a + dz * b < -1e-12 for a, b in walls):
            break
    if way[-1][0] < 1.0:
        way.append((1.0, x, z))
    height = _landing(way, y0, dy, floors)
    y = y0 + dy if height is None else height
    return Swept(np.array([x, y, z]), tuple(walls), height is not None)


def floor_under(floors: tuple[Floor, ...], position: Array) -> Floor | None:
    """The highest floor under a point, not counting floors more than a step above it."""
    x, y, z = (float(v) for v in position)
    return floor_at(floors, x, y, z)


def _landing(way: list[tuple[float, float, float]], y0: float, dy: float, floors: tuple[Floor, ...]) -> float | None:
    """The height of the first floor that a falling body meets on its way; None when it meets none."""
    best, height = inf, None
    if dy >= 0.0:
        return None
    for floor in floors:
        when = _meets(way, y0, dy, floor)
        if when is not None and when < best:
            best, height = when, height_at(floor, *_on_way(way, when))
    return height


def _meets(way: list[tuple[float, float, float]], y0: float, dy: float, floor: Floor) -> float | None:
    """When (0…1) a falling body meets a floor. One it stands on, or a little above its feet, is met at once."""
    for (a, ax, az), (b, bx, bz) in zip(way, way[1:]):
        over, under = height_at(floor, ax, az), height_at(floor, bx, bz)
        gap, later = y0 + dy * a - over, y0 + dy * b - under
        when = a if -STEP_UP <= gap <= 0.0 else a + (b - a) * gap / (gap - later) if gap > 0.0 >= later else None
        if when is not None and inside(floor, *_on_way(way, when)):
            return when
    return None


def _on_way(way: list[tuple[float, float, float]], when: float) -> tuple[float, float]:
    for (a, ax, az), (b, bx, bz) in zip(way, way[1:]):
        if when <= b:
            t = (when - a) / (b - a) if b > a else 1.0
            return ax + (bx - ax) * t, az + (bz - az) * t
    return way[-1][1], way[-1][2]


def _hits(
    x: float,
    z: float,
    dx: float,
    dz: float,
    radius: float,
    floors: tuple[Floor, ...],
    discs: tuple[Disc, ...],
    y: float,
    dy: float,
) -> list[tuple[float, tuple[float, float]]]:
    """When (0…1) a point going by (dx, dz) meets each thing, and the direction away from it there."""
    out = []
    for disc in discs:
        hit = _circle(x - disc.x, z - disc.z, dx, dz, disc.radius + radius)
        if hit is not None and disc.low < y + dy * hit[0] < disc.high:
            out.append(hit)
    for floor in floors:
        if max(floor.height, floor.height + floor.rise) <= min(y, y + dy) + STEP_UP:
            continue
        hit = _rectangle(x, z, dx, dz, floor, radius)
        # A ramp is a wall only where its side is higher than a step.
        if hit is not None and height_at(floor, x + dx * hit[0], z + dz * hit[0]) > y + dy * hit[0] + STEP_UP:
            out.append(hit)
    return out


def _circle(x: float, z: float, dx: float, dz: float, radius: float) -> tuple[float, tuple[float, float]] | None:
    """A point against a circle about the origin. One that is inside is stopped only from going deeper."""
    far = hypot(x, z)
    toward = x * dx + z * dz
    if toward >= 0.0:
        return None
    if far <= radius:
        return 0.0, ((x / far, z / far) if far > 1e-9 else (0.0, -1.0))
    a = dx * dx + dz * dz
    c = far * far - radius * radius
    root = toward * toward - a * c
    if root < 0.0:
        return None
    t = (-toward - sqrt(root)) / a
    if not 0.0 <= t <= 1.0:
        return None
    return t, ((x + dx * t) / radius, (z + dz * t) / radius)


def _rectangle(
    x: float, z: float, dx: float, dz: float, floor: Floor, radius: float
) -> tuple[float, tuple[float, float]] | None:
    """A point against a rectangle grown by a radius: two crossed rectangles and a circle on each corner."""
    (lx, lz), (hx, hz) = floor.low, floor.high
    nearest = min(max(x, lx), hx), min(max(z, lz), hz)
    away = x - nearest[0], z - nearest[1]
    gap = hypot(*away)
    if gap <= 1e-9:  # within it: out by the nearest side
        sides = ((x - lx, (-1.0, 0.0)), (hx - x, (1.0, 0.0)), (z - lz, (0.0, -1.0)), (hz - z, (0.0, 1.0)))
        normal = min(sides)[1]
        return (0.0, normal) if dx * normal[0] + dz * normal[1] < 0.0 else None
    if gap <= radius:
        normal = away[0] / gap, away[1] / gap
        return (0.0, normal) if dx * normal[0] + dz * normal[1] < 0.0 else None
    found = [
        _slabs(x, z, dx, dz, lx - radius, lz, hx + radius, hz),
        _slabs(x, z, dx, dz, lx, lz - radius, hx, hz + radius),
        *(_circle(x - cx, z - cz, dx, dz, radius) for cx in (lx, hx) for cz in (lz, hz)),
    ]
    return min((f for f in found if f is not None), default=None)


def _slabs(
    x: float, z: float, dx: float, dz: float, lx: float, lz: float, hx: float, hz: float
) -> tuple[float, tuple[float, float]] | None:
    near, far, normal = 0.0, 1.0, None
    for at, go, low, high, axis in ((x, dx, lx, hx, (1.0, 0.0)), (z, dz, lz, hz, (0.0, 1.0))):
        if abs(go) < 1e-15:
            if not low < at < high:
                return None
            continue
        a, b = (low - at) / go, (high - at) / go
        enter, leave = min(a, b), max(a, b)
        if enter > near:
            near, normal = enter, (axis if go < 0.0 else (-axis[0], -axis[1]))
        far = min(far, leave)
        if near > far:
            return None
    return (near, normal) if normal is not None else None
