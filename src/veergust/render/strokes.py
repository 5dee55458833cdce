"""Volumes and lines of a scene as strokes in the picture: capsules with a fill, a hatch and an edge."""

from __future__ import annotations

import numpy as np

from veergust.core.motion.quat import Array
from veergust.core.scene.camera import Camera
from veergust.core.scene.things import Scene
from veergust.look import Look, rgb

HATCHES = {"none": 0.0, "slant": 1.0, "level": 2.0}
EDGES = {"solid": 1.0, "dash": 2.0, "dot": 3.0, "double": 1.0}


def scene_strokes(scene: Scene, camera: Camera, look: Look, width: int, height: int, scale: float) -> Array:
    """Rows of ends (4), radii (2), colour (4) and style (4), in pixels from the lower left, back to front."""
    rows: list[list[float]] = []

    def project(point: Array) -> tuple[float, float, float]:
        x, y, size = camera.on_picture(point, width, height)
        return x, height - y, size

    def stroke(a: Array, b: Array, radius: float, paint: tuple[float, ...], style: list[float]) -> None:
        ax, ay, sa = project(a)
        bx, by, sb = project(b)
        if sa > 0 and sb > 0:
            rows.append([ax, ay, bx, by, radius * sa, radius * sb, *paint, *style])

    def line(a: Array, b: Array, thick: float, paint: tuple[float, ...]) -> None:
        ax, ay, sa = project(a)
        bx, by, sb = project(b)
        if sa > 0 and sb > 0:
            half = thick * scale / 2
            rows.append([ax, ay, bx, by, half, half, *paint, 1.0, 0.0, 0.0, 0.0])

    for path in scene.paths:
        paint = (*rgb(look.role(path.role).ink), 1.0)
        for i in range(len(path.points) - 1):
            line(path.points[i], path.points[i + 1], 1.6, paint)
        if path.marks:
            for i, point in enumerate(path.points):
                tall = 0.05 if i % 5 == 0 else 0.025
                across = np.array([0.0, 0.0, tall])
                line(point - across, point + across, 1.2, paint)
    for ribbon in scene.ribbons:
        paint = (*rgb(look.role(ribbon.role).ink), 0.75)
        for edge in (ribbon.low, ribbon.high):
            for i in range(len(edge) - 1):
                if i % 2 == 0:
                    line(edge[i], edge[i + 1], 1.2, paint)
    for tube in sorted(scene.tubes, key=lambda t: t.filled):
        role = look.role(tube.role)
        style = [
            0.34 if tube.filled else 0.0,
            HATCHES.get(role.hatch, 0.0) if tube.filled else 0.0,
            EDGES[role.edge],
            1.4 * scale if tube.filled else 1.1 * scale,
        ]
        stroke(tube.a, tube.b, tube.radius, (*rgb(role.ink), 1.0), style)
    return np.array(rows, dtype=np.float64).reshape(-1, 14)
