"""The weights of the points of a blend: over one number, or over two."""

from __future__ import annotations

from collections.abc import Sequence
from math import cos, inf, radians, sin
from typing import Any

Weights = list[tuple[int, float]]
Place = tuple[float, ...]


class Blend:
    """Points over one or two measures; over two, joined to triangles as the export says."""

    def __init__(self, over: Sequence[str], points: Sequence[Sequence[float]], mesh: dict[str, Any]) -> None:
        self.over = list(over)[:2]
        # Direction and speed are laid out as a plane about standing still.
        self.polar = set(self.over) == {"direction", "speed"}
        self.points = [self.place(p) for p in points]
        self.triangles: list[list[int]] = mesh["triangles"]
        self.rim: list[list[int]] = mesh["rim"]
        self.along: list[float] = mesh["along"]
        self.line: list[tuple[float, int]] = []
        if len(self.over) < 2:
            self.line = sorted((p[0], n) for n, p in enumerate(self.points))
        elif self.along:
            self.line = sorted((self._at(p), n) for n, p in enumerate(self.points))

    def place(self, values: Sequence[float]) -> Place:
        """Where values lie."""
        at = [*values, 0.0, 0.0][: max(len(self.over), 1)]
        if not self.polar:
            return tuple(at)
        said = dict(zip(self.over, at))
        turn = radians(said["direction"])
        return said["speed"] * sin(turn), said["speed"] * cos(turn)

    def nearer(self, place: Place, values: Sequence[float], share: float) -> Place:
        """A share of the way from a place to that of values; over a direction alone the shorter way round."""
        to = self.place(values)
        if self.over == ["direction"]:
            return (place[0] + ((to[0] - place[0] + 180.0) % 360.0 - 180.0) * share,)
        return tuple(a + (b - a) * share for a, b in zip(place, to))

    def _at(self, place: Sequence[float]) -> float:
        return sum(a * b for a, b in zip(place, self.along)) if self.along else place[0]

    def weights(self, place: Place) -> Weights:
        """The points that show at a place, with their weights, which sum to 1."""
        if self.line:
            if self.over != ["direction"]:
                return _between(self.line, self._at(place))
            low = self.line[0][0]
            return _between([*self.line, (low + 360.0, self.line[0][1])], (place[0] - low) % 360.0 + low)
        for i, j, k in self.triangles:
            u, v = self._areas(i, j, k, place)
            if u >= -1e-12 and v >= -1e-12 and u + v <= 1.0 + 1e-12:
                return _whole([(i, 1.0 - u - v), (j, u), (k, v)])
        return self._on_rim(place) if self.rim else [(0, 1.0)] if self.points else []

    def _areas(self, i: int, j: int, k: int, place: Place) -> tuple[float, float]:
        """The shares of a triangle's second and third corner at a place."""
        (ax, ay), (bx, by), (cx, cy) = self.points[i], self.points[j], self.points[k]
        px, py, qx, qy, x, y = bx - ax, by - ay, cx - ax, cy - ay, place[0] - ax, place[1] - ay
        whole = px * qy - py * qx
        return (x * qy - y * qx) / whole, (px * y - py * x) / whole

    def _on_rim(self, place: Place) -> Weights:
        """The weights of the nearest place on the rim."""
        best, out = inf, (0, 0, 0.0)
        for i, j in self.rim:
            (ax, ay), (bx, by) = self.points[i], self.points[j]
            sx, sy = bx - ax, by - ay
            t = min(max(((place[0] - ax) * sx + (place[1] - ay) * sy) / (sx * sx + sy * sy), 0.0), 1.0)
            far = (ax + sx * t - place[0]) ** 2 + (ay + sy * t - place[1]) ** 2
            if far < best - 1e-24:
                best, out = far, (i, j, t)
        i, j, t = out
        return _whole([(i, 1.0 - t), (j, t)])


def _whole(rows: Weights) -> Weights:
    kept = [(n, w) for n, w in rows if w > 0.0]
    total = sum(w for _, w in kept)
    return [(n, w / total) for n, w in kept]


def _between(line: list[tuple[float, int]], at: float) -> Weights:
    if at <= line[0][0]:
        return [(line[0][1], 1.0)]
    for (a, i), (b, j) in zip(line, line[1:]):
        if at <= b:
            t = (at - a) / (b - a) if b > a else 1.0
            return [(n, w) for n, w in ((i, 1.0 - t), (j, t)) if w > 0.0]
    return [(line[-1][1], 1.0)]
