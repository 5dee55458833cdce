"""Whether a moving hitbox touches a moving hurtbox within a tick, and when and where.

A hitbox goes along the arc of its joint, cut into pieces that turn by at most 5°, each taken as straight; hurtboxes go
straight. Two convex shapes cannot come nearer than the fastest of their points brings them: by steps of that a touch is
never passed over.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import product
from math import atan2, ceil, degrees, inf, sqrt, tan
from typing import NamedTuple

from player.figure import Placed, on
from player.turns import (
    NOWHERE,
    Turn,
    Vector,
    angle,
    back,
    cross,
    dot,
    minus,
    mixed,
    multiply,
    partly,
    plus,
    rotate,
    shorter,
    size,
    times,
    unit,
)

PIECE = 5.0
CLOSE = 1e-4
"""What is so near (m) touches."""
STEPS = 200
FINE = 1e-8
"""The moment of a touch is found to this part of the tick."""
BEND = 1e-3
"""What goes by a box that turns is cut so that it is off a straight way by no more (m)."""


class Shape(NamedTuple):
    """A capsule between two ends, or a box of half extents about ``a`` as it is turned."""

    a: Vector
    b: Vector
    radius: float
    half: Vector | None = None
    turn: Turn = (0.0, 0.0, 0.0, 1.0)


class Piece(NamedTuple):
    """A shape from one moment of the tick (0…1) to another."""

    begins: float
    ends: float
    first: Shape
    last: Shape


class Nearest(NamedTuple):
    """How far two things are apart, and the points that are nearest."""

    far: float
    mine: Vector
    theirs: Vector


def arc(before: Placed, now: Placed, was: Shape, shape: Shape) -> list[Piece]:
    """What a hitbox sweeps: its shape on its joint at the last tick and now, carried along the screw between the two
    (a turn about an axis and a slide along it)."""
    spin = shorter(multiply(now[0], back(before[0])))
    turns = 2.0 * atan2(sqrt(spin[0] ** 2 + spin[1] ** 2 + spin[2] ** 2), spin[3])
    axis = unit(spin[:3])
    gone = minus(now[1], before[1])
    along = times(axis, dot(gone, axis))
    across = minus(gone, along)
    half = 1.0 / tan(max(turns, 1e-9) / 2.0)
    centre = plus(before[1], times(plus(across, times(cross(axis, across), half)), 0.5))
    many = max(ceil(degrees(turns) / PIECE - 1e-9), 1)

    def at(t: float) -> Shape:
        part = partly(spin, t)
        place = plus(before[1], times(gone, t))
        if turns > 1e-4:
            place = plus(plus(centre, rotate(part, minus(before[1], centre))), times(along, t))
        frame = multiply(part, before[0]), place
        sized = None if shape.half is None or was.half is None else mixed(was.half, shape.half, t)
        ends = on(frame, mixed(was.a, shape.a, t)), on(frame, mixed(was.b, shape.b, t))
        return Shape(*ends, was.radius + (shape.radius - was.radius) * t, sized, multiply(frame[0], shape.turn))

    moments = [n / many for n in range(many + 1)]
    return [Piece(a, b, at(a), at(b)) for a, b in zip(moments, moments[1:])]


def ball(first: Shape, last: Shape) -> tuple[Vector, float]:
    """A ball about all that a shape sweeps."""
    ends = (first.a, first.b, last.a, last.b)
    middle = times(plus(plus(ends[0], ends[1]), plus(ends[2], ends[3])), 0.25)
    wide = max(first.radius, last.radius, size(first.half or NOWHERE), size(last.half or NOWHERE))
    return middle, max(size(minus(end, middle)) for end in ends) + wide


def meets(piece: Piece, was: Shape, now: Shape) -> tuple[float, Vector] | None:
    """When in the tick and where a piece of a hitbox touches a hurtbox that goes from one place to another."""
    if piece.first.half is None and was.half is None:
        found = _meet(piece.first, piece.last, _between(was, now, piece.begins), _between(was, now, piece.ends))
        return None if found is None else (piece.begins + found[0] * (piece.ends - piece.begins), found[1])
    parts = _parts(piece, was, now)
    for n in range(parts):
        low, high = n / parts, (n + 1) / parts
        begins, ends = (piece.begins + (piece.ends - piece.begins) * t for t in (low, high))
        mine = [_between(piece.first, piece.last, t) for t in (low, high)]
        theirs = [_between(was, now, t) for t in (begins, ends)]
        found = _meet(*mine, *theirs)
        if found is not None:
            return begins + found[0] * (ends - begins), found[1]
    return None


def _between(first: Shape, last: Shape, t: float) -> Shape:
    """A shape on its straight way; a box turns evenly."""
    half = None if first.half is None or last.half is None else mixed(first.half, last.half, t)
    turn = (
        first.turn if half is None else multiply(partly(shorter(multiply(last.turn, back(first.turn))), t), first.turn)
    )
    radius = first.radius + (last.radius - first.radius) * t
    return Shape(mixed(first.a, last.a, t), mixed(first.b, last.b, t), radius, half, turn)


def _parts(piece: Piece, was: Shape, now: Shape) -> int:
    """How many straight parts what goes by a box that turns is cut into."""
    there = [_between(was, now, t) for t in (piece.begins, piece.ends)]
    here = minus(there[0].a, piece.first.a)
    goes_by = minus(minus(there[1].a, there[0].a), minus(piece.last.a, piece.first.a))
    other = minus(minus(there[1].b, there[0].b), minus(piece.last.b, piece.first.b))
    goes = max(size(goes_by), size(other))
    far = max(size(here), size(plus(here, goes_by)))
    far += size(minus(there[0].b, there[0].a)) + size(minus(piece.first.b, piece.first.a))
    bends = 0.0
    for first, last in ((piece.first, piece.last), (there[0], there[1])):
        if first.half is not None:
            turns = angle(multiply(last.turn, back(first.turn)))
            bends += turns * (goes / 4.0 + turns * far / 8.0)
    return int(min(max(ceil(sqrt(bends / BEND)), 1), 64))


def _meet(first: Shape, last: Shape, was: Shape, now: Shape) -> tuple[float, Vector] | None:
    """When (0…1) and where two shapes meet that go straight."""
    if first.half is None and was.half is None:
        return _advance(*_capsules(first, last, was, now))
    if first.half is not None and was.half is not None:
        near, wide = _two_boxes(first, last, was, now)
    elif first.half is not None:
        near, wide = _box(first, last, was, now)
    else:
        near, wide = _box(was, now, first, last)
    return _advance(near, wide)


Near = Callable[[float], tuple[Nearest, float]]
"""At a moment how far two things are apart, and how fast at most they come nearer."""
Wide = Callable[[float], float]


def _advance(near: Near, wide: Wide) -> tuple[float, Vector] | None:
    """Step ahead as far as nothing can be passed over; then, between the steps before and after a touch, its moment."""
    t = low = 0.0
    high = 2.0
    for _ in range(STEPS):
        now, rate = near(t)
        gap = now.far - wide(t)
        if gap <= CLOSE:
            if t - low <= FINE:
                share = min(max(wide(t) / max(now.far, 1e-9), 0.0), 1.0) * 0.5
                return t, plus(now.mine, times(minus(now.theirs, now.mine), share))
            high = t
            t = (low + high) / 2.0
            continue
        low = t
        if high <= 1.0:
            t = high if high - low <= FINE else (low + high) / 2.0
        elif gap - rate * (1.0 - t) > CLOSE or t >= 1.0 or rate <= 1e-12:
            return None
        else:
            t = min(t + max(gap, CLOSE) / rate, 1.0)
    return None


def _capsules(first: Shape, last: Shape, was: Shape, now: Shape) -> tuple[Near, Wide]:
    da, db = minus(last.a, first.a), minus(last.b, first.b)
    dc, dd = minus(now.a, was.a), minus(now.b, was.b)
    grows = last.radius + now.radius - first.radius - was.radius

    def near(t: float) -> tuple[Nearest, float]:
        found = segments(
            plus(first.a, times(da, t)),
            plus(first.b, times(db, t)),
            plus(was.a, times(dc, t)),
            plus(was.b, times(dd, t)),
        )
        way = times(minus(found.theirs, found.mine), 1.0 / max(found.far, 1e-12))
        return found, max(dot(da, way), dot(db, way)) - min(dot(dc, way), dot(dd, way)) + grows

    return near, lambda t: first.radius + was.radius + grows * t


def segments(a: Vector, b: Vector, c: Vector, d: Vector) -> Nearest:
    """The nearest points of two segments (C. Ericson, *Real-Time Collision Detection*, 2005, 5.1.9)."""
    u, v, w = minus(b, a), minus(d, c), minus(a, c)
    uu, vv, uv, uw, vw = dot(u, u), dot(v, v), dot(u, v), dot(u, w), dot(v, w)
    whole = uu * vv - uv * uv
    parallel = whole <= 1e-12 * max(uu * vv, 1e-18)
    s = 0.0 if parallel else min(max((uv * vw - vv * uw) / whole, 0.0), 1.0)
    t = (uv * s + vw) / vv if vv > 1e-18 else 0.0
    inside = min(max(t, 0.0), 1.0)
    if t != inside or parallel or vv <= 1e-18:
        s = min(max((uv * inside - uw) / uu, 0.0), 1.0) if uu > 1e-18 else 0.0
    mine, theirs = plus(a, times(u, s)), plus(c, times(v, inside))
    return Nearest(size(minus(mine, theirs)), mine, theirs)


def off_box(half: Vector, c: Vector, d: Vector) -> Nearest:
    """The nearest points of a box at the origin and a segment: between two places at which the segment crosses a plane
    of the box, the square of the distance is a parabola."""
    along = minus(d, c)
    cuts = {0.0, 1.0}
    for k in range(3):
        if abs(along[k]) > 1e-15:
            cuts |= {t for side in (half[k], -half[k]) if 0.0 < (t := (side - c[k]) / along[k]) < 1.0}
    best = Nearest(inf, NOWHERE, NOWHERE)
    rows = sorted(cuts)
    for low, high in zip(rows, rows[1:]):
        middle = plus(c, times(along, (low + high) / 2.0))
        out = [k for k in range(3) if abs(middle[k]) > half[k]]
        square = sum(along[k] ** 2 for k in out)
        slope = sum(along[k] * (c[k] - (half[k] if middle[k] > 0.0 else -half[k])) for k in out)
        t = min(max(-slope / square, low), high) if square > 0.0 else low
        theirs = plus(c, times(along, t))
        mine = tuple(min(max(theirs[k], -half[k]), half[k]) for k in range(3))
        far = size(minus(theirs, mine))  # type: ignore[arg-type]
        if far < best.far - 1e-12:
            best = Nearest(far, mine, theirs)  # type: ignore[arg-type]
    return best


def _stood(box_first: Shape, box_last: Shape, t: float, at: Vector) -> Vector:
    """A place in a box's frame, in the world that it was in at a moment."""
    then = _between(box_first, box_last, t)
    return plus(then.a, rotate(then.turn, at))


def _box(box: Shape, box_last: Shape, other: Shape, other_last: Shape) -> tuple[Near, Wide]:
    """A box, in its own frame, and a capsule."""
    half, grown = box.half or NOWHERE, minus(box_last.half or NOWHERE, box.half or NOWHERE)
    c, d = (rotate(back(box.turn), minus(end, box.a)) for end in (other.a, other.b))
    c1, d1 = (rotate(back(box_last.turn), minus(end, box_last.a)) for end in (other_last.a, other_last.b))
    dc, dd = minus(c1, c), minus(d1, d)
    grows = other_last.radius - other.radius

    def near(t: float) -> tuple[Nearest, float]:
        found = off_box(plus(half, times(grown, t)), plus(c, times(dc, t)), plus(d, times(dd, t)))
        way = times(minus(found.theirs, found.mine), 1.0 / max(found.far, 1e-12))
        rate = _widens(grown, way) - min(dot(dc, way), dot(dd, way)) + grows
        return found._replace(
            mine=_stood(box, box_last, t, found.mine), theirs=_stood(box, box_last, t, found.theirs)
        ), rate

    return near, lambda t: other.radius + grows * t


def _widens(grows: Vector, way: Vector) -> float:
    return abs(way[0]) * grows[0] + abs(way[1]) * grows[1] + abs(way[2]) * grows[2]


def _corners(box: Shape, of: Shape) -> list[Vector]:
    """The corners of a box in the frame of another."""
    half = box.half or NOWHERE
    signs = [(x, y, z) for z, y, x in product((-1.0, 1.0), repeat=3)]
    ways = [(x * half[0], y * half[1], z * half[2]) for x, y, z in signs]
    return [rotate(back(of.turn), plus(minus(box.a, of.a), rotate(box.turn, way))) for way in ways]


EDGES = [(n, n | 1 << k) for n in range(8) for k in range(3) if not n & 1 << k]


def _two_boxes(first: Shape, last: Shape, was: Shape, now: Shape) -> tuple[Near, Wide]:
    """Two boxes are as near as the edges of each are to the other."""
    sides = ((first, last, was, now), (was, now, first, last))
    starts = [_corners(a, b) for b, _, a, _ in sides]
    steps = [[minus(q, p) for p, q in zip(start, _corners(a, b))] for start, (_, b, _, a) in zip(starts, sides)]

    def near(t: float) -> tuple[Nearest, float]:
        found: list[tuple[Nearest, float]] = []
        for (box, box_last, _, _), start, step in zip(sides, starts, steps):
            half, grown = box.half or NOWHERE, minus(box_last.half or NOWHERE, box.half or NOWHERE)
            at = [plus(p, times(s, t)) for p, s in zip(start, step)]
            best = _nearest_edge(plus(half, times(grown, t)), at)
            way = times(minus(best.theirs, best.mine), 1.0 / max(best.far, 1e-12))
            rate = max(-dot(s, way) for s in step) + _widens(grown, way)
            ends = (_stood(box, box_last, t, p) for p in (best.mine, best.theirs))
            found.append((Nearest(best.far, *ends), rate))
        return found[1] if found[1][0].far < found[0][0].far else found[0]

    return near, lambda t: 0.0


def _nearest_edge(half: Vector, corners: Sequence[Vector]) -> Nearest:
    return min((off_box(half, corners[a], corners[b]) for a, b in EDGES), key=lambda n: n.far)
