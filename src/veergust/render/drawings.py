"""Drawn figures in a scene: the cell that each shows, upright and turned to the camera, at its size."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from veergust.core.motion import Array, DrawnSheet, Mesh, shown_on
from veergust.core.scene import Body, Camera
from veergust.look import Palette, rgb

UNDER = 0.004
"""A shadow lies so high over its floor (m)."""
SLANT = np.array([0.32, 0.0, -0.22])
"""How far a shadow reaches to the side for each metre of height."""
MIXED = {"body": 0.0, "partner": 0.28, "ghost": 0.3}
"""How much of a drawing is the ink of its tone."""
Set = Callable[..., None]


def standing(sheet: DrawnSheet, cell: int, joints: Array, camera: Camera) -> tuple[Array, Array]:
    """The corners ``[4, 3]`` in the world of a cell that stands where a body does, two triangles as a strip, and where
    they are on the sheet ``[4, 2]`` (texels). It looks to the side of the picture to which the body does."""
    ahead = joints[0, :3, 2]
    side = camera.axes[0] if float(ahead @ camera.axes[0]) >= -1e-9 else -camera.axes[0]
    back, low, front, high = sheet.around(cell)
    x, y, wide, tall = (float(v) for v in sheet.rects[cell])
    behind, before = (x, x + wide) if sheet.right else (x + wide, x)
    rows = [(back, low, behind, y + tall), (front, low, before, y + tall), (back, high, behind, y),
            (front, high, before, y)]  # fmt: skip
    up = np.array([0.0, 1.0, 0.0])
    points = np.array([joints[0, :3, 3] + side * u + up * v for u, v, _, _ in rows])
    return points, np.array([row[2:] for row in rows])


class Drawings:
    """The sheets of one context, each taken up when it is first drawn."""

    def __init__(self, context: Any, program: Any, put: Set) -> None:
        self.context, self.program, self.put = context, program, put
        self._textures: dict[int, tuple[DrawnSheet, Any]] = {}

    def release(self) -> None:
        """Give back what was made in the context."""
        self.forget()
        self.program.release()

    def forget(self) -> None:
        """Give the sheets back."""
        for _, texture in self._textures.values():
            texture.release()
        self._textures.clear()

    def draw(
        self, mesh: Mesh, body: Body, camera: Camera, look: Palette, seen: Array, floor: float | None = None
    ) -> None:
        """A figure as it stands, or its shadow on a ``floor`` of that height (m)."""
        number, cell = shown_on(body.joints, 0, mesh.picture)
        sheet = mesh.sheets[number] if number < len(mesh.sheets) else None
        if sheet is None or cell >= len(sheet.rects):
            return
        points, texels = standing(sheet, cell, body.joints, camera)
        ink, mixed, opacity = rgb(getattr(look, body.tone)), MIXED[body.tone], body.opacity
        if floor is not None:
            over = np.maximum(points[:, 1] - floor, 0.0)
            points = points + SLANT * over[:, None]
            points[:, 1] = floor + UNDER
            ink, mixed, opacity = rgb(look.floor_line), 1.0, 1.0
        x, y, wide, tall = (float(v) for v in sheet.rects[cell])
        self._texture(sheet).use(0)
        self.put(
            self.program,
            sheet=0,
            seen=seen,
            cell=(x, y, x + wide, y + tall),
            crisp=float(sheet.crisp),
            opacity=opacity,
            ink=ink,
            flat_ink=mixed,
        )
        buffer = self.context.buffer(np.concatenate([points, texels], axis=1).astype("f4").tobytes())
        array = self.context.vertex_array(self.program, [(buffer, "3f 2f", "point", "texel")])
        array.render(5)  # a strip of triangles
        array.release()
        buffer.release()

    def _texture(self, sheet: DrawnSheet) -> Any:
        kept = self._textures.get(id(sheet))
        if kept is None:
            high, wide = sheet.pixels.shape[:2]
            made = self.context.texture((wide, high), 4, np.ascontiguousarray(sheet.pixels).tobytes())
            kept = self._textures[id(sheet)] = sheet, made
        return kept[1]
