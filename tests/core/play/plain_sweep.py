"""Swept contact in NumPy, a step of all pairs at a time: what the compiled one is held against."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from veergust.core.motion.quat import Array

Rows = NDArray[np.intp]
Distance = Callable[[Array, Rows], tuple[Array, Array, Array, Array]]
"""How far apart pairs are, the nearest point on each, and how fast the one may close in on the other along that."""
CLOSE = 1e-4
STEPS = 200
FINE = 1e-8


def segment_distance(a: Array, b: Array, c: Array, d: Array) -> tuple[Array, Array, Array]:
    """Distance ``[N]`` between segments a–b and c–d (``[N, 3]`` each), and the closest point on each."""
    u, v, w = b - a, d - c, a - c
    uu, vv, uv = np.sum(u * u, -1), np.sum(v * v, -1), np.sum(u * v, -1)
    uw, vw = np.sum(u * w, -1), np.sum(v * w, -1)
    safe_uu, safe_vv = np.maximum(uu, 1e-18), np.maximum(vv, 1e-18)
    cross = uu * vv - uv * uv
    parallel = cross <= 1e-12 * np.maximum(uu * vv, 1e-18)
    s = np.where(parallel, 0.0, np.clip((uv * vw - vv * uw) / np.where(parallel, 1.0, cross), 0, 1))
    t = np.where(vv > 1e-18, (uv * s + vw) / safe_vv, 0.0)
    t_in = np.clip(t, 0.0, 1.0)
    again = (t != t_in) | parallel | (vv <= 1e-18)
    s = np.where(again, np.where(uu > 1e-18, np.clip((uv * t_in - uw) / safe_uu, 0, 1), 0.0), s)
    p, q = a + u * s[..., None], c + v * t_in[..., None]
    return np.linalg.norm(p - q, axis=-1), p, q


def box_distance(half: Array, c: Array, d: Array) -> tuple[Array, Array, Array]:
    """Distance ``[N]`` from boxes of half extents ``half`` at the origin to segments c–d, and the points.

    The distance along a segment is convex, so a golden-section search finds its least value.
    """
    low, high = np.zeros(len(c)), np.ones(len(c))
    ratio = (np.sqrt(5.0) - 1.0) / 2.0

    def at(t: Array) -> Array:
        point = c + (d - c) * t[:, None]
        return np.asarray(np.linalg.norm(point - np.clip(point, -half, half), axis=-1))

    for _ in range(40):
        m1, m2 = high - ratio * (high - low), low + ratio * (high - low)
        left = at(m1) <= at(m2)
        high, low = np.where(left, m2, high), np.where(left, low, m1)
    t = (low + high) / 2
    ends = np.stack([at(np.zeros(len(c))), at(np.ones(len(c))), at(t)])
    best = np.argmin(ends, axis=0)
    t = np.where(best == 0, 0.0, np.where(best == 1, 1.0, t))
    point = c + (d - c) * t[:, None]
    near = np.clip(point, -half, half)
    return np.min(ends, axis=0), near, point


def plain_touch(
    hit: tuple[Array, Array, Array, Array],
    hurt: tuple[Array, Array, Array, Array],
    radius: Array,
    radius_end: Array,
) -> tuple[Array, Array]:
    """Capsules: when they touch (inf: never) and where; ``radius`` is the sum of both, going evenly."""
    moves = [(start, end - start) for start, end in zip((*hit[:2], *hurt[:2]), (*hit[2:], *hurt[2:]))]

    def at(t: Array, rows: Rows) -> tuple[Array, Array, Array, Array]:
        distance, p, q = segment_distance(*(start[rows] + step[rows] * t[:, None] for start, step in moves))
        along = [_along(step[rows], _way(distance, p, q)) for _, step in moves]
        return distance, p, q, np.maximum(*along[:2]) - np.minimum(*along[2:])

    return _advance(at, radius, radius_end)


def plain_touch_box(
    half: Array, half_end: Array, hurt: tuple[Array, Array, Array, Array], radius: Array
) -> tuple[Array, Array]:
    """As ``plain_touch`` for boxes of half extents ``[N, 3]`` at the origin, and capsules in their frames."""
    c0, d0, c1, d1 = hurt

    def at(t: Array, rows: Rows) -> tuple[Array, Array, Array, Array]:
        k = t[:, None]
        size = half[rows] + (half_end - half)[rows] * k
        distance, p, q = box_distance(size, c0[rows] + (c1 - c0)[rows] * k, d0[rows] + (d1 - d0)[rows] * k)
        way = _way(distance, p, q)
        out = _along((half_end - half)[rows], np.abs(way))
        return distance, p, q, out - np.minimum(_along((c1 - c0)[rows], way), _along((d1 - d0)[rows], way))

    return _advance(at, radius, radius)


def _way(distance: Array, p: Array, q: Array) -> Array:
    return np.asarray((q - p) * (1.0 / np.maximum(distance, 1e-12))[:, None])


def _along(step: Array, way: Array) -> Array:
    return np.asarray(step[:, 0] * way[:, 0] + step[:, 1] * way[:, 1] + step[:, 2] * way[:, 2])


def _advance(at: Distance, radius: Array, radius_end: Array) -> tuple[Array, Array]:
    time, low = np.zeros(len(radius)), np.zeros(len(radius))
    high = np.full(len(radius), 2.0)
    touched = np.full(len(radius), np.inf)
    place = np.zeros((len(radius), 3))
    rows = np.arange(len(radius))
    grows = radius_end - radius
    for _step in range(STEPS):
        now = time[rows]
        distance, p, q, closes = at(now, rows)
        rate = closes + grows[rows]
        wide = radius[rows] + grows[rows] * now
        gap = distance - wide
        near = gap <= CLOSE
        # A touch is looked for between the last step before it and the first after, until its moment is known.
        here = near & (now - low[rows] <= FINE)
        touched[rows[here]] = now[here]
        reach = np.clip(wide / np.maximum(distance, 1e-9), 0.0, 1.0)[:, None] * 0.5
        place[rows[here]] = (p + (q - p) * reach)[here]
        back, between = near & ~here, ~near & (high[rows] <= 1.0)
        high[rows[back]], low[rows[~near]] = now[back], now[~near]
        middle = (low[rows] + high[rows]) / 2.0
        # Only what has neither touched nor come to the end of the tick, and may touch before that, goes on.
        steps = ~near & ~between & (now < 1.0) & (rate > 1e-12) & (gap - rate * (1.0 - now) <= CLOSE)
        with np.errstate(divide="ignore", invalid="ignore"):
            ahead = np.minimum(now + np.maximum(gap, CLOSE) / rate, 1.0)
        found = np.where(high[rows] - low[rows] <= FINE, high[rows], middle)
        time[rows] = np.where(back, middle, np.where(between, found, np.where(steps, ahead, now)))
        rows = rows[back | between | steps]
        if len(rows) == 0:
            break
    return touched, place
