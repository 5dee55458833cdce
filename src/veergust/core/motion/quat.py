"""Unit quaternions ``[..., 4]`` as x, y, z, w."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

Array = NDArray[np.float64]
Indices = NDArray[np.intp]

IDENTITY: Array = np.array([0.0, 0.0, 0.0, 1.0])


def multiply(a: Array, b: Array) -> Array:
    """Hamilton product ``a b`` (first ``b``, then ``a``), broadcasting over leading axes."""
    ax, ay, az, aw = a[..., 0], a[..., 1], a[..., 2], a[..., 3]
    bx, by, bz, bw = b[..., 0], b[..., 1], b[..., 2], b[..., 3]
    out = np.empty(np.broadcast_shapes(a.shape, b.shape))
    out[..., 0] = aw * bx + ax * bw + ay * bz - az * by
    out[..., 1] = aw * by - ax * bz + ay * bw + az * bx
    out[..., 2] = aw * bz + ax * by - ay * bx + az * bw
    out[..., 3] = aw * bw - ax * bx - ay * by - az * bz
    return out


def conjugate(q: Array) -> Array:
    """The inverse of unit quaternions."""
    return np.asarray(q * np.array([-1.0, -1.0, -1.0, 1.0]))


def normalize(q: Array) -> Array:
    """Scaled to length one; a zero quaternion becomes the identity."""
    length = np.linalg.norm(q, axis=-1, keepdims=True)
    return np.where(length > 1e-12, q / np.maximum(length, 1e-12), IDENTITY)


def rotate(q: Array, v: Array) -> Array:
    """Vectors ``[..., 3]`` turned by ``q``."""
    x, y, z, w = q[..., 0], q[..., 1], q[..., 2], q[..., 3]
    vx, vy, vz = v[..., 0], v[..., 1], v[..., 2]
    tx, ty, tz = 2 * (y * vz - z * vy), 2 * (z * vx - x * vz), 2 * (x * vy - y * vx)
    return np.stack(
        [
            vx + w * tx + y * tz - z * ty,
            vy + w * ty + z * tx - x * tz,
            vz + w * tz + x * ty - y * tx,
        ],
        axis=-1,
    )


def slerp(a: Array, b: Array, t: ArrayLike) -> Array:
    """Constant-speed interpolation on the shortest arc; ``t`` broadcasts against the leading axes."""
    weight = np.asarray(t, dtype=np.float64)[..., None]
    dot = np.sum(a * b, axis=-1, keepdims=True)
    b = np.where(dot < 0.0, -b, b)
    dot = np.clip(np.abs(dot), 0.0, 1.0)
    angle = np.arccos(dot)
    sine = np.sin(angle)
    close = sine < 1e-6
    safe = np.where(close, 1.0, sine)
    wa = np.where(close, 1.0 - weight, np.sin((1.0 - weight) * angle) / safe)
    wb = np.where(close, weight, np.sin(weight * angle) / safe)
    return normalize(wa * a + wb * b)


def from_axis_angle(axis: ArrayLike, degrees: ArrayLike) -> Array:
    """Turn by ``degrees`` about unit ``axis`` ``[..., 3]``."""
    half = np.radians(np.asarray(degrees, dtype=np.float64))[..., None] / 2.0
    return np.concatenate([np.asarray(axis, dtype=np.float64) * np.sin(half), np.cos(half)], axis=-1)


def from_euler(degrees: ArrayLike) -> Array:
    """Angles ``[..., 3]`` about x, y and z, applied in the order x, then y, then z about fixed axes."""
    d = np.asarray(degrees, dtype=np.float64)
    x = from_axis_angle([1.0, 0.0, 0.0], d[..., 0])
    y = from_axis_angle([0.0, 1.0, 0.0], d[..., 1])
    z = from_axis_angle([0.0, 0.0, 1.0], d[..., 2])
    return multiply(z, multiply(y, x))


def yaw(q: Array) -> Array:
    """Heading in radians about +Y: where ``q`` turns the +Z axis, seen from above."""
    x, y, z, w = q[..., 0], q[..., 1], q[..., 2], q[..., 3]
    return np.asarray(np.arctan2(2.0 * (x * z + w * y), 1.0 - 2.0 * (x * x + y * y)))


def yaw_of(m: Array) -> Array:
    """Heading in radians of rotation matrices ``[..., 3, 3]``: where they turn the +Z axis, seen from above."""
    return np.asarray(np.arctan2(m[..., 0, 2], m[..., 2, 2]))


def from_yaw(radians: ArrayLike) -> Array:
    """Turn about +Y."""
    half = np.asarray(radians, dtype=np.float64) / 2.0
    zero = np.zeros_like(half)
    return np.stack([zero, np.sin(half), zero, np.cos(half)], axis=-1)


def between(a: Array, b: Array) -> Array:
    """The shortest turn that brings direction ``a`` ``[..., 3]`` onto ``b`` (need not be unit length)."""
    a = a / np.maximum(np.linalg.norm(a, axis=-1, keepdims=True), 1e-12)
    b = b / np.maximum(np.linalg.norm(b, axis=-1, keepdims=True), 1e-12)
    w = 1.0 + np.sum(a * b, axis=-1, keepdims=True)
    side = np.where(np.abs(a[..., :1]) < 0.9, np.array([1.0, 0.0, 0.0]), np.array([0.0, 1.0, 0.0]))
    opposite = np.concatenate([np.cross(a, side), np.zeros_like(w)], axis=-1)
    return normalize(np.where(w < 1e-9, opposite, np.concatenate([np.cross(a, b), w], axis=-1)))


def to_matrix(q: Array) -> Array:
    """Rotation matrices ``[..., 3, 3]``."""
    x, y, z, w = q[..., 0], q[..., 1], q[..., 2], q[..., 3]
    m = np.empty((*q.shape[:-1], 3, 3))
    m[..., 0, 0] = 1 - 2 * (y * y + z * z)
    m[..., 0, 1] = 2 * (x * y - z * w)
    m[..., 0, 2] = 2 * (x * z + y * w)
    m[..., 1, 0] = 2 * (x * y + z * w)
    m[..., 1, 1] = 1 - 2 * (x * x + z * z)
    m[..., 1, 2] = 2 * (y * z - x * w)
    m[..., 2, 0] = 2 * (x * z - y * w)
    m[..., 2, 1] = 2 * (y * z + x * w)
    m[..., 2, 2] = 1 - 2 * (x * x + y * y)
    return m


def from_matrix(m: Array) -> Array:
    """Unit quaternions of rotation matrices ``[..., 3, 3]``."""
    # Loaded where it is used, here and elsewhere: it takes 50 MB, and whoever only plays and edits needs none of it.
    from scipy.spatial.transform import Rotation

    flat = Rotation.from_matrix(m.reshape(-1, 3, 3)).as_quat()
    return np.asarray(flat).reshape(*m.shape[:-2], 4)


def angle_between(a: Array, b: Array) -> Array:
    """Degrees of the turn from ``a`` to ``b`` on the shortest arc."""
    delta = multiply(conjugate(a), b)
    sine = np.linalg.norm(delta[..., :3], axis=-1)
    return np.asarray(np.degrees(2.0 * np.arctan2(sine, np.abs(delta[..., 3]))))
