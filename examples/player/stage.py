"""The stage: floors, posts, what bodies meet on their way."""

from __future__ import annotations

from collections.abc import Sequence
from math import hypot, inf, sqrt
from typing import Any, NamedTuple

from player.axes import Axes
from player.turns import Vector, minus, unit

Json = dict[str, Any]
STEP_UP = 0.25
"""A floor that is so much higher (m) is stepped on."""
EDGE = 1e-6
"""A floor that is higher or lower by less (m) than it may be is as it may be."""
GAP = 1e-7
"""A body that was stopped stands so far (m) off."""
TOUCHES = 1.05e-6
"""What is so near (m) touches: whoever leans on a thing is stopped by it at once."""
ALONG = 1e-12
"""What goes against a thing by less (m) goes along it."""
SLIDES = 5


class Floor(NamedTuple):
    """A rectangle of floor; a ramp rises from one of its sides to the other."""

    low_x: float
    low_z: float
    high_x: float
    high_z: float
    height: float
    rise: float
    along_x: bool

    def over(self, x: float, z: float) -> bool:
        """Whether a point lies over it."""
        return self.low_x <= x <= self.high_x and self.low_z <= z <= self.high_z

    def height_at(self, x: float, z: float) -> float:
        """Its height at a point; beyond its rim, that of the rim."""
        low, high, at = (self.low_x, self.high_x, x) if self.along_x else (self.low_z, self.high_z, z)
        if self.rise == 0.0 or high <= low:
            return self.height
        return self.height + self.rise * min(max((at - low) / (high - low), 0.0), 1.0)

    def up(self) -> Vector:
        """The direction straight up from it."""
        if self.rise == 0.0:
            return 0.0, 1.0, 0.0
        slope = self.rise / max(self.high_x - self.low_x if self.along_x else self.high_z - self.low_z, 1e-9)
        return unit((-slope, 1.0, 0.0) if self.along_x else (0.0, 1.0, -slope))


class Going(NamedTuple):
    """How a floor goes to and fro: how far (m), in how many ticks each way, and for how many it rests at either end."""

    floor: Floor
    goes: Vector
    takes: int
    rests: int

    def gone(self, tick: int) -> Vector:
        """How far it is from its place on a tick: it rests, goes softly, rests there and comes back."""
        at = max(tick, 0) % (2 * (self.takes + self.rests))
        there = self.rests + self.takes
        t = (min(max(at - self.rests, 0), self.takes) - max(at - there - self.rests, 0)) / self.takes
        much = t * t * (3.0 - 2.0 * t)
        return self.goes[0] * much, self.goes[1] * much, self.goes[2] * much

    def on(self, tick: int) -> Floor:
        """The floor as it is on a tick."""
        x, y, z = self.gone(tick)
        f = self.floor
        return Floor(f.low_x + x, f.low_z + z, f.high_x + x, f.high_z + z, f.height + y, f.rise, f.along_x)


class Post(NamedTuple):
    """A round post."""

    name: str
    position: Vector
    radius: float
    height: float
    health: float
    falls: str


class Disc(NamedTuple):
    """A round thing in the way of a body's foot, between two heights."""

    x: float
    z: float
    radius: float
    low: float
    high: float


class Hit(NamedTuple):
    """When (0…1) a point meets a thing, and the direction away from it."""

    when: float
    x: float
    z: float


NEVER = Hit(2.0, 0.0, 0.0)


class Stage:
    """A stage, and what its posts have left."""

    def __init__(self, row: Json, axes: Axes) -> None:
        self.going = [
            Going(_floor([axes.place(c) for c in f["corners"]]), axes.place(f["goes"]), f["takes"], f["rests"])
            for f in row["floors"]
        ]
        self.floors = [one.floor for one in self.going]
        self.before = self.floors
        """As they were on the tick before."""
        self.by: list[Vector] = []
        """How far each has gone since."""
        self.posts = [
            Post(
                p["name"],
                axes.place(p["position"]),
                p["radius"] / axes.scale,
                p["height"] / axes.scale,
                p["health"],
                p["falls"],
            )
            for p in row["posts"]
        ]
        self.left = {p.name: p.health for p in self.posts if p.health > 0.0}
        self.put_back_below: float = row["put_back_below"] / axes.scale

    def go_on(self, tick: int) -> None:
        """Floors that go are where they are on a tick."""
        self.before = [one.on(tick - 1) for one in self.going]
        self.floors = [one.on(tick) for one in self.going]
        self.by = [minus(one.gone(tick), one.gone(tick - 1)) for one in self.going]

    def posts_left(self) -> list[Post]:
        """The posts that still stand."""
        return [p for p in self.posts if self.left.get(p.name, 1.0) > 0.0]

    def discs(self, tall: float) -> list[Disc]:
        """The posts that still stand, in the way of bodies so tall."""
        return [Disc(p.position[0], p.position[2], p.radius, p.position[1] - tall, p.position[1] + p.height)
                for p in self.posts_left()]  # fmt: skip

    def floor_at(self, x: float, y: float, z: float, above: float) -> Floor | None:
        """The highest floor under a point, not counting those more than ``above`` it."""
        best, found = -1e9, None
        for floor in self.floors:
            if floor.over(x, z) and best < floor.height_at(x, z) <= y + above + EDGE:
                best, found = floor.height_at(x, z), floor
        return found

    def height_under(self, x: float, y: float, z: float, above: float) -> float | None:
        floor = self.floor_at(x, y, z, above)
        return None if floor is None else floor.height_at(x, z)

    def sweep(
        self, at: Vector, step: Vector, radius: float, discs: Sequence[Disc], floors: Sequence[Floor] | None = None
    ) -> tuple[Vector, list[tuple[float, float]], bool]:
        """Where a body comes to, the directions away from what stopped it, and whether it landed.

        From above it is a point, and what is in its way is grown by its radius: it goes to what it meets first, slides
        along that, and stops where that leads into something else it has met.
        """
        floors = self.floors if floors is None else floors
        x, y, z = at
        dx, dy, dz = step
        walls: list[tuple[float, float]] = []
        way = [(0.0, x, z)]
        now = 0.0
        for _ in range(SLIDES):
            if hypot(dx, dz) < 1e-12 or now >= 1.0:
                break
            rest = 1.0 - now
            hit = _soonest((x, z), (dx, dz), radius, discs, floors, y + dy * now, dy * rest)
            share = min(hit.when, 1.0)
            x, z, now = x + dx * share, z + dz * share, now + rest * share
            way.append((now, x, z))
            if hit.when >= 1.0:
                break
            x, z = x + hit.x * GAP, z + hit.z * GAP
            dx, dz = dx * (1.0 - hit.when), dz * (1.0 - hit.when)
            into = min(dx * hit.x + dz * hit.z, 0.0)
            dx, dz = dx - into * hit.x, dz - into * hit.z
            walls.append((hit.x, hit.z))
            if any(dx * a + dz * b < -ALONG for a, b in walls):
                break
        if way[-1][0] < 1.0:
            way.append((1.0, x, z))
        height = _landing(way, y, dy, floors)
        return (x, y + dy if height is None else height, z), walls, height is not None


def _landing(way: Sequence[tuple[float, float, float]], y: float, dy: float, floors: Sequence[Floor]) -> float | None:
    """The height of the first floor a falling body meets on its way."""
    if dy >= 0.0:
        return None
    best, height = inf, None
    for floor in floors:
        when = _meets(way, y, dy, floor)
        if when is not None and when < best:
            best, height = when, floor.height_at(*_on_way(way, when))
    return height


def _meets(way: Sequence[tuple[float, float, float]], y: float, dy: float, floor: Floor) -> float | None:
    """When a falling body meets a floor; one that it stands on, or that is a little above its feet, at once."""
    for (a, ax, az), (b, bx, bz) in zip(way, way[1:]):
        gap = y + dy * a - floor.height_at(ax, az)
        later = y + dy * b - floor.height_at(bx, bz)
        if -STEP_UP - EDGE <= gap <= 0.0:
            when = a
        elif gap > 0.0 >= later:
            when = a + (b - a) * gap / (gap - later)
        else:
            continue
        if floor.over(*_on_way(way, when)):
            return when
    return None


def _soonest(
    at: tuple[float, float],
    go: tuple[float, float],
    radius: float,
    discs: Sequence[Disc],
    floors: Sequence[Floor],
    y: float,
    dy: float,
) -> Hit:
    """What a point meets first."""
    out = Hit(1.0, 0.0, 0.0)
    for disc in discs:
        hit = _circle(at[0] - disc.x, at[1] - disc.z, *go, disc.radius + radius)
        if hit.when < out.when and disc.low < y + dy * hit.when < disc.high:
            out = hit
    for floor in floors:
        if max(floor.height, floor.height + floor.rise) <= min(y, y + dy) + STEP_UP + EDGE:
            continue
        hit = _rectangle(*at, *go, floor, radius)
        # A ramp is a wall only where its side is higher than a step.
        if hit.when < out.when:
            high = floor.height_at(at[0] + go[0] * hit.when, at[1] + go[1] * hit.when)
            if high > y + dy * hit.when + STEP_UP + EDGE:
                out = hit
    return out


def _floor(corners: Sequence[Vector]) -> Floor:
    (x0, y0, z0), (x1, y1, _), (_, y2, z1) = corners[0], corners[1], corners[2]
    along_x = y1 != y0 or y2 == y0
    return Floor(x0, z0, x1, z1, y0, y2 - y0, along_x)


def _on_way(way: Sequence[tuple[float, float, float]], when: float) -> tuple[float, float]:
    for (a, ax, az), (b, bx, bz) in zip(way, way[1:]):
        if when <= b:
            t = (when - a) / (b - a) if b > a else 1.0
            return ax + (bx - ax) * t, az + (bz - az) * t
    return way[-1][1], way[-1][2]


def _circle(x: float, z: float, dx: float, dz: float, radius: float) -> Hit:
    """A point against a circle about the origin. One that is inside is stopped only from going deeper."""
    far, toward = hypot(x, z), x * dx + z * dz
    if toward >= -ALONG:
        return NEVER
    if far <= radius + TOUCHES:
        return Hit(0.0, x / far, z / far) if far > 1e-9 else Hit(0.0, 0.0, -1.0)
    a = dx * dx + dz * dz
    root = toward * toward - a * (far * far - radius * radius)
    if root < 0.0:
        return NEVER
    t = (-toward - sqrt(root)) / a
    return Hit(t, (x + dx * t) / radius, (z + dz * t) / radius) if 0.0 <= t <= 1.0 else NEVER


def _rectangle(x: float, z: float, dx: float, dz: float, floor: Floor, radius: float) -> Hit:
    """A point against a rectangle grown by a radius: two crossed rectangles, and a circle on each corner."""
    lx, lz, hx, hz = floor.low_x, floor.low_z, floor.high_x, floor.high_z
    ax, az = x - min(max(x, lx), hx), z - min(max(z, lz), hz)
    gap = hypot(ax, az)
    if gap <= 1e-9:  # within it: out by the nearest side
        side = min(Hit(x - lx, -1.0, 0.0), Hit(hx - x, 1.0, 0.0), Hit(z - lz, 0.0, -1.0), Hit(hz - z, 0.0, 1.0))
        return Hit(0.0, side.x, side.z) if dx * side.x + dz * side.z < -ALONG else NEVER
    if gap <= radius + TOUCHES:
        ax, az = ax / gap, az / gap
        return Hit(0.0, ax, az) if dx * ax + dz * az < -ALONG else NEVER
    return min(
        _slabs(x, z, dx, dz, lx - radius, lz, hx + radius, hz),
        _slabs(x, z, dx, dz, lx, lz - radius, hx, hz + radius),
        *(_circle(x - cx, z - cz, dx, dz, radius) for cx in (lx, hx) for cz in (lz, hz)),
    )


def _slabs(x: float, z: float, dx: float, dz: float, lx: float, lz: float, hx: float, hz: float) -> Hit:
    """A point against a rectangle: it is in it while it is between both pairs of sides."""
    near, far, met = 0.0, 1.0, ""
    for axis, at, go, low, high in (("x", x, dx, lx, hx), ("z", z, dz, lz, hz)):
        if abs(go) < 1e-15:
            if not low < at < high:
                return NEVER
            continue
        a, b = (low - at) / go, (high - at) / go
        if min(a, b) > near:
            near, met = min(a, b), axis
        far = min(far, max(a, b))
        if near > far:
            return NEVER
    if not met:
        return NEVER
    return Hit(near, 1.0 if dx < 0.0 else -1.0, 0.0) if met == "x" else Hit(near, 0.0, 1.0 if dz < 0.0 else -1.0)
