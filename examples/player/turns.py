"""Vectors (x, y, z) and turns (unit quaternions x, y, z, w) as plain tuples."""

from __future__ import annotations

from math import acos, atan2, cos, radians, sin, sqrt

Vector = tuple[float, float, float]
Turn = tuple[float, float, float, float]
NOWHERE: Vector = (0.0, 0.0, 0.0)
STILL: Turn = (0.0, 0.0, 0.0, 1.0)


def plus(a: Vector, b: Vector) -> Vector:
    return a[0] + b[0], a[1] + b[1], a[2] + b[2]


def minus(a: Vector, b: Vector) -> Vector:
    return a[0] - b[0], a[1] - b[1], a[2] - b[2]


def times(a: Vector, by: float) -> Vector:
    return a[0] * by, a[1] * by, a[2] * by


def dot(a: Vector, b: Vector) -> float:
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def cross(a: Vector, b: Vector) -> Vector:
    return a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]


def size(a: Vector) -> float:
    return sqrt(a[0] * a[0] + a[1] * a[1] + a[2] * a[2])


def unit(a: Vector) -> Vector:
    """Its direction; nothing for nothing."""
    long = size(a)
    return (a[0] / long, a[1] / long, a[2] / long) if long > 1e-12 else NOWHERE


def mixed(a: Vector, b: Vector, share: float) -> Vector:
    """A share of the way from one to the other."""
    return a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share, a[2] + (b[2] - a[2]) * share


def multiply(a: Turn, b: Turn) -> Turn:
    """First b, then a."""
    ax, ay, az, aw = a
    bx, by, bz, bw = b
    return (
        aw * bx + ax * bw + ay * bz - az * by,
        aw * by - ax * bz + ay * bw + az * bx,
        aw * bz + ax * by - ay * bx + az * bw,
        aw * bw - ax * bx - ay * by - az * bz,
    )


def back(q: Turn) -> Turn:
    """The turn back."""
    return -q[0], -q[1], -q[2], q[3]


def other_sign(q: Turn) -> Turn:
    """The same turn, gone round the other way."""
    return -q[0], -q[1], -q[2], -q[3]


def alike(a: Turn, b: Turn) -> float:
    """Above 0 where the signs of two turns are near to one another."""
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2] + a[3] * b[3]


def normal(q: Turn) -> Turn:
    long = sqrt(q[0] * q[0] + q[1] * q[1] + q[2] * q[2] + q[3] * q[3])
    return (q[0] / long, q[1] / long, q[2] / long, q[3] / long) if long > 1e-12 else STILL


def rotate(q: Turn, v: Vector) -> Vector:
    """A vector turned."""
    x, y, z, w = q
    tx, ty, tz = 2.0 * (y * v[2] - z * v[1]), 2.0 * (z * v[0] - x * v[2]), 2.0 * (x * v[1] - y * v[0])
    return v[0] + w * tx + y * tz - z * ty, v[1] + w * ty + z * tx - x * tz, v[2] + w * tz + x * ty - y * tx


def partly(q: Turn, share: float) -> Turn:
    """A share of a turn, the way round its sign says."""
    whole = sqrt(q[0] * q[0] + q[1] * q[1] + q[2] * q[2])
    part = atan2(whole, q[3]) * share
    much = sin(part) / whole if whole > 1e-9 else share
    return q[0] * much, q[1] * much, q[2] * much, cos(part)


def between(a: Vector, b: Vector) -> Turn:
    """The shortest turn that brings one direction onto another."""
    a, b = unit(a), unit(b)
    w = 1.0 + dot(a, b)
    if w < 1e-9:
        x, y, z = unit(cross(a, (1.0, 0.0, 0.0) if abs(a[0]) < 0.9 else (0.0, 1.0, 0.0)))
        return x, y, z, 0.0
    x, y, z = cross(a, b)
    return normal((x, y, z, w))


def about_up(degrees: float) -> Turn:
    half = radians(degrees) / 2.0
    return 0.0, sin(half), 0.0, cos(half)


def shorter(q: Turn) -> Turn:
    """The turn by the shorter way round."""
    return other_sign(q) if q[3] < 0.0 else q


def angle(q: Turn) -> float:
    """By how much it turns (radians), the shorter way."""
    return 2.0 * acos(min(abs(q[3]), 1.0))


def of_rows(rows: list[list[float]]) -> Turn:
    """The turn of a matrix, by its largest component (S. W. Shepperd, 1978)."""
    (a, b, c), (d, e, f), (g, h, i) = (row[:3] for row in rows[:3])
    if a + e + i > 0.0:
        return normal((h - f, c - g, d - b, 1.0 + a + e + i))
    if a >= e and a >= i:
        return normal((1.0 + a - e - i, b + d, c + g, h - f))
    if e >= i:
        return normal((b + d, 1.0 - a + e - i, f + h, c - g))
    return normal((c + g, f + h, 1.0 - a - e + i, d - b))


def around(degrees: float) -> float:
    """An angle between −180 and 180 degrees."""
    return (degrees + 180.0) % 360.0 - 180.0


def ease(kind: str, t: float) -> float:
    """0…1 shaped: ``linear``, ``smooth``, ``in`` or ``out``."""
    t = min(max(t, 0.0), 1.0)
    if kind == "smooth":
        return t * t * (3.0 - 2.0 * t)
    if kind == "in":
        return t * t
    if kind == "out":
        return 1.0 - (1.0 - t) ** 2
    return t
