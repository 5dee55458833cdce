"""Points in a plane joined to triangles: no other point lies in the circle through the corners of one.

Of a blend there are few, so every three of them are tried (B. Delaunay, *Sur la sphère vide*, 1934). It is done here
because a package that does it takes a second to load, which would fall into the first step that somebody takes.
"""

from __future__ import annotations

from itertools import combinations

import numpy as np

from veergust.core.motion.quat import Array

APART = 1e-7
"""Points are moved by this share of their extent, each its own way, so that no four lie on one circle."""
FLAT = 1e-5
"""Three points whose area is a smaller share of the extent squared lie on a line."""


def triangulated(points: Array) -> list[tuple[int, int, int]]:
    """The corners of the triangles over ``points`` ``[N, 2]``, counted against the clock; none where all lie on a line
    or in one place. Of points in one place only the first is a corner."""
    extent = float(np.ptp(points, axis=0).max(initial=0.0)) if len(points) else 0.0
    if extent <= 0.0:
        return []
    first = [i for i in range(len(points)) if not any(np.array_equal(points[i], points[j]) for j in range(i))]
    if len(first) < 3:
        return []
    order = np.arange(1.0, len(points) + 1.0)
    moved = points / extent + APART * np.stack([np.sin(order * 12.9898), np.cos(order * 78.233)], axis=-1)
    corners = np.array(list(combinations(first, 3)))
    a, b, c = (moved[corners[:, i]] for i in range(3))
    area = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    turned = area < 0.0
    corners[turned] = corners[turned][:, [0, 2, 1]]
    corners = corners[np.abs(area) > FLAT]
    if not len(corners):
        return []
    # The circle through three points holds a fourth where this determinant of places about it is above 0.
    gap = moved[corners][:, None] - moved[first][None, :, None]
    square = np.sum(gap * gap, axis=-1)
    x, y = gap[..., 0], gap[..., 1]
    inside = (
        x[..., 0] * (y[..., 1] * square[..., 2] - y[..., 2] * square[..., 1])
        - y[..., 0] * (x[..., 1] * square[..., 2] - x[..., 2] * square[..., 1])
        + square[..., 0] * (x[..., 1] * y[..., 2] - x[..., 2] * y[..., 1])
    )
    own = (corners[:, :, None] == np.array(first)).any(axis=1)
    empty = ~((inside > 0.0) & ~own).any(axis=1)
    return [(int(i), int(j), int(k)) for i, j, k in corners[empty]]


def rim_of(triangles: list[tuple[int, int, int]]) -> list[tuple[int, int]]:
    """The edges that only one triangle has."""
    edges = [tuple(sorted(e)) for i, j, k in triangles for e in ((i, j), (j, k), (k, i))]
    return [(i, j) for i, j in dict.fromkeys(edges) if edges.count((i, j)) == 1]
