"""A blend's weights over what it is blended over: one number, or two.

They are continuous, sum to 1 and are exact at the points. Over two, the points are joined to triangles and a place
within one is weighed by its three areas; outside, by the nearest place on the rim.
Direction and speed are laid out as a plane about standing still, so that all ways round meet.
"""

from __future__ import annotations

from collections.abc import Sequence
from math import cos, inf, radians, sin

import numpy as np

from veergust.core.model import State
from veergust.core.motion import Array, rim_of, triangulated

Weights = list[tuple[int, float]]
"""(place among the points, weight), of those above 0."""
ROUND = 360.0
FLAT = ("direction", "speed")


class CompiledBlend:
    """The weights of a state's blend."""

    def __init__(self, state: State) -> None:
        self.over = state.over[:2]
        self.polar = set(self.over) == set(FLAT)
        points = [self.place(p.at) for p in state.blend]
        self._round = self.over == ("direction",)
        self._way = np.ones(1)
        self._line: list[tuple[float, int]] = []
        self._triangles: list[tuple[tuple[int, int, int], tuple[float, ...]]] = []
        self._rim: list[tuple[int, int, float, float, float, float, float]] = []
        self._points = np.array(points, dtype=float).reshape(-1, max(len(self.over), 1))
        if len(self.over) < 2:
            self._line = sorted((float(p[0]), i) for i, p in enumerate(self._points))
        elif len(points) > 1:
            self._lay(self._points)

    def place(self, at: Sequence[float]) -> tuple[float, ...]:
        """Where a value of what is blended over lies: direction and speed as a place in the plane."""
        values = [*at, 0.0, 0.0][: max(len(self.over), 1)]
        if not self.polar:
            return tuple(values)
        named = dict(zip(self.over, values))
        turn = radians(named["direction"])
        return named["speed"] * sin(turn), named["speed"] * cos(turn)

    def nearer(self, place: tuple[float, ...], values: Sequence[float], share: float) -> tuple[float, ...]:
        """A share of the way from a place to that of ``values``; round the shorter way where there is one."""
        to = self.place(values)
        if self._round:
            return (place[0] + ((to[0] - place[0] + ROUND / 2) % ROUND - ROUND / 2) * share,)
        return tuple(a + (b - a) * share for a, b in zip(place, to))

    def _lay(self, points: Array) -> None:
        triangles = triangulated(points)
        if not triangles:
            # All on one line: they are blended along it.
            along = points - points.mean(axis=0)
            way = np.linalg.svd(along)[2][0]
            self._line = sorted((float(p @ way), i) for i, p in enumerate(points))
            self._way = way
            return
        for i, j, k in triangles:
            a, b, c = points[[i, j, k]]
            inverse = np.linalg.inv(np.array([b - a, c - a]).T)
            self._triangles.append(((i, j, k), (*a.tolist(), *inverse.ravel().tolist())))
        for i, j in rim_of(triangles):
            (ax, ay), (sx, sy) = points[i].tolist(), (points[j] - points[i]).tolist()
            self._rim.append((i, j, ax, ay, sx, sy, sx * sx + sy * sy))

    @property
    def triangles(self) -> list[tuple[int, int, int]]:
        """The points that are the corners of each triangle, of a blend over two."""
        return [corners for corners, _ in self._triangles]

    @property
    def rim(self) -> list[tuple[int, int]]:
        """The points at the ends of each edge of the rim."""
        return [(i, j) for i, j, *_ in self._rim]

    @property
    def along(self) -> list[float]:
        """The direction of the line on which all points of a blend over two lie; nothing where they lie otherwise."""
        return self._way.tolist() if self._line and len(self.over) == 2 else []

    def weights(self, values: Sequence[float]) -> Weights:
        """The weights at the values of what is blended over."""
        return self.weights_at(self.place(values))

    def weights_at(self, place: tuple[float, ...]) -> Weights:
        """The weights at a place, as ``place`` gives it."""
        if not len(self._points):
            return []
        if self._line:
            at = float(np.dot(place, self._way)) if len(self.over) == 2 else place[0]
            return _on_circle(self._line, at) if self._round else _on_line(self._line, at)
        if not self._triangles:
            return [(0, 1.0)]
        x, y = place
        for (i, j, k), (ax, ay, xx, xy, yx, yy) in self._triangles:
            dx, dy = x - ax, y - ay
            u, v = xx * dx + xy * dy, yx * dx + yy * dy
            if u >= -1e-12 and v >= -1e-12 and u + v <= 1.0 + 1e-12:
                return _kept(((i, 1.0 - u - v), (j, u), (k, v)))
        return self._nearest(x, y)

    def _nearest(self, x: float, y: float) -> Weights:
        """The weights of the nearest place on the rim."""
        best, out = inf, (0, 0, 0.0)
        for i, j, ax, ay, sx, sy, size in self._rim:
            t = min(max(((x - ax) * sx + (y - ay) * sy) / size, 0.0), 1.0)
            far = (ax + sx * t - x) ** 2 + (ay + sy * t - y) ** 2
            if far < best - 1e-24:
                best, out = far, (i, j, t)
        i, j, t = out
        return _kept(((i, 1.0 - t), (j, t)))


def _kept(weights: tuple[tuple[int, float], ...]) -> Weights:
    rows = [(i, w) for i, w in weights if w > 0.0]
    whole = sum(w for _, w in rows)
    return [(i, w / whole) for i, w in rows]


def _on_line(points: list[tuple[float, int]], at: float) -> Weights:
    if at <= points[0][0]:
        return [(points[0][1], 1.0)]
    for (a, i), (b, j) in zip(points, points[1:]):
        if at <= b:
            t = (at - a) / (b - a) if b > a else 1.0
            return [(k, w) for k, w in ((i, 1.0 - t), (j, t)) if w > 0.0]
    return [(points[-1][1], 1.0)]


def _on_circle(points: list[tuple[float, int]], at: float) -> Weights:
    """As on a line that ends where it begins."""
    low = points[0][0]
    at = (at - low) % ROUND + low
    return _on_line([*points, (low + ROUND, points[0][1])], at)
