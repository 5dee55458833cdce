"""Volumes and lines of a scene as strokes in the picture: capsules with a fill, a hatch and an edge."""

from __future__ import annotations

import numpy as np

from veergust.core.motion import Array
from veergust.core.scene import Camera, Path, Ribbon, Scene, Tube
from veergust.look import Palette, Role, rgb

HATCHES = {"none": 0.0, "slant": 1.0, "level": 2.0}
EDGES = {"solid": 1.0, "dash": 2.0, "dot": 3.0, "double": 1.0}
PLAIN = [1.0, 0.0, 0.0, 0.0]


def scene_strokes(scene: Scene, camera: Camera, look: Palette, width: int, height: int, scale: float) -> Array:
    """Rows of ends (4), radii (2), colour (4) and style (4), in pixels from the lower left, back to front."""

    def strokes(a: Array, b: Array, radii: Array, ink: Role, opacity: float, style: list[float]) -> Array:
        """``[N, 14]`` from ends ``[N, 3]``; ``radii`` in metres, below 0 in pixels."""
        (pa, sa), (pb, sb) = camera.on_pictures(a, width, height), camera.on_pictures(b, width, height)
        ends = np.concatenate([pa, pb], axis=1)
        ends[:, [1, 3]] = height - ends[:, [1, 3]]
        thick = np.stack([np.where(radii < 0.0, -radii, radii * s) for s in (sa, sb)], axis=1)
        rest = np.broadcast_to([*rgb(ink.ink), opacity, *style], (len(a), 8))
        return np.concatenate([ends, thick, rest], axis=1)[(sa > 0) & (sb > 0)]

    def lines(a: Array, b: Array, wide: float, ink: Role, opacity: float) -> Array:
        return strokes(a, b, np.full(len(a), -wide * scale / 2), ink, opacity, PLAIN)

    def path(thing: Path) -> list[Array]:
        ink, points = look.role(thing.role), thing.points
        tall = np.where(np.arange(len(points)) % 5 == 0, 0.05, 0.025)
        across = tall[:, None] * np.array([0.0, 0.0, 1.0])
        ways = [lines(points[:-1], points[1:], 1.6, ink, 1.0)]
        return [*ways, lines(points - across, points + across, 1.2, ink, 1.0)] if thing.marks else ways

    def ribbon(thing: Ribbon) -> list[Array]:
        return [lines(e[:-1:2], e[1::2], 1.2, look.role(thing.role), 0.75) for e in (thing.low, thing.high)]

    def tube(thing: Tube) -> Array:
        ink = look.role(thing.role)
        filled = thing.filled
        hatch = HATCHES.get(ink.hatch, 0.0) if filled else 0.0
        style = [0.34 if filled else 0.0, hatch, EDGES[ink.edge], (1.4 if filled else 1.1) * scale]
        return strokes(thing.a[None], thing.b[None], np.array([thing.radius]), ink, 1.0, style)

    out = [np.zeros((0, 14))]
    for one in scene.paths:
        out += path(one)
    for sweep in scene.ribbons:
        out += ribbon(sweep)
    out += [tube(one) for one in sorted(scene.tubes, key=lambda t: t.filled)]
    return np.concatenate(out)
