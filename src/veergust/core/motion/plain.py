"""Vectors and unit quaternions (x, y, z, w) as plain numbers: a few of them are worked out faster so than as arrays."""

from __future__ import annotations

from math import sqrt

from veergust.core.motion.quat import Array

Vector = tuple[float, float, float]
Quaternion = tuple[float, float, float, float]
UP: Vector = (0.0, 1.0, 0.0)
NOWHERE: Vector = (0.0, 0.0, 0.0)


def vector(row: Array) -> Vector:
    """A row of three as plain numbers."""
    x, y, z = row.tolist()
    return x, y, z


def plus(a: Vector, b: Vector) -> Vector:
    """a + b."""
    return a[0] + b[0], a[1] + b[1], a[2] + b[2]


def minus(a: Vector, b: Vector) -> Vector:
    """a − b."""
    return a[0] - b[0], a[1] - b[1], a[2] - b[2]


def times(a: Vector, by: float) -> Vector:
    """a · by."""
    return a[0] * by, a[1] * by, a[2] * by


def dot(a: Vector, b: Vector) -> float:
    """The scalar product."""
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def cross(a: Vector, b: Vector) -> Vector:
    """The vector product."""
    return a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]


def size(a: Vector) -> float:
    """Its length."""
    return sqrt(a[0] * a[0] + a[1] * a[1] + a[2] * a[2])


def unit(a: Vector) -> Vector:
    """Its direction; nothing for nothing."""
    long = size(a)
    return times(a, 1.0 / long) if long > 1e-12 else NOWHERE


def multiply(a: Quaternion, b: Quaternion) -> Quaternion:
    """First b, then a."""
    ax, ay, az, aw = a
    bx, by, bz, bw = b
    return (
        aw * bx + ax * bw + ay * bz - az * by,
        aw * by - ax * bz + ay * bw + az * bx,
        aw * bz + ax * by - ay * bx + az * bw,
        aw * bw - ax * bx - ay * by - az * bz,
    )


def conjugate(q: Quaternion) -> Quaternion:
    """The turn back."""
    return -q[0], -q[1], -q[2], q[3]


def rotate(q: Quaternion, v: Vector) -> Vector:
    """v turned by q."""
    u = (q[0], q[1], q[2])
    t = times(cross(u, v), 2.0)
    return plus(plus(v, times(t, q[3])), cross(u, t))


def between(a: Vector, b: Vector) -> Quaternion:
    """The shortest turn that brings direction a onto b."""
    a, b = unit(a), unit(b)
    w = 1.0 + dot(a, b)
    if w < 1e-9:
        x, y, z = unit(cross(a, (1.0, 0.0, 0.0) if abs(a[0]) < 0.9 else UP))
        return x, y, z, 0.0
    x, y, z = cross(a, b)
    long = sqrt(x * x + y * y + z * z + w * w)
    return x / long, y / long, z / long, w / long


def eased(q: Quaternion, share: float) -> Quaternion:
    """A share of a small turn (normalised linear)."""
    x, y, z, w = q if q[3] >= 0.0 else (-q[0], -q[1], -q[2], -q[3])
    x, y, z, w = x * share, y * share, z * share, 1.0 + (w - 1.0) * share
    long = sqrt(x * x + y * y + z * z + w * w)
    return x / long, y / long, z / long, w / long
