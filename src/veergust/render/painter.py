"""Draws a scene into a framebuffer of an OpenGL 3.3 context."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from importlib.resources import files
from math import isfinite
from typing import Any

import moderngl
import numpy as np

from veergust.core.model import Floor
from veergust.core.motion import Array, Mesh
from veergust.core.play import height_of, height_under, rows_of
from veergust.core.scene import Body, Camera, Scene, down_to
from veergust.look import HATCHES, Palette, rgb
from veergust.render.drawings import Drawings
from veergust.render.strokes import scene_strokes

TONES = {"body": ("body", "body_light"), "partner": ("partner", "partner_light"), "ghost": ("ghost", "ghost")}


def _inks(body: Body, look: Palette) -> Array:
    """Ink and number of the hatch of each joint ``[J, 4]``: inks mixed by how much there is of each, and the hatch of
    whatever there is most of."""
    assert body.tints is not None
    shares = np.concatenate([np.clip(1.0 - body.tints.sum(axis=0), 0.0, 1.0)[None], body.tints])
    inks = np.array([rgb(getattr(look, TONES[body.tone][0])), *(rgb(look.role(r).ink) for r in body.roles)])
    number = np.array([0, *(HATCHES.index(look.role(r).hatch) for r in body.roles)])
    mixed = shares.T @ inks / np.maximum(shares.sum(axis=0), 1e-9)[:, None]
    return np.concatenate([mixed, number[np.argmax(shares, axis=0)][:, None]], axis=1)


def _program(context: Any, vertex: str, fragment: str | None = None) -> Any:
    shaders = files("veergust.render") / "shaders"
    return context.program(
        vertex_shader=(shaders / f"{vertex}.vert").read_text(),
        fragment_shader=(shaders / f"{fragment or vertex}.frag").read_text(),
    )


MOST_UPLOADS = 8
"""So many figures are kept in buffers."""


@dataclass(frozen=True, eq=False)
class Upload:
    """A mesh in buffers: its triangles (None where it has none), and where its joints are put."""

    mesh: Mesh
    array: Any = None
    joints: Any = None
    buffers: tuple[Any, ...] = ()

    @staticmethod
    def of(context: Any, program: Any, mesh: Mesh) -> Upload:
        """A mesh taken up."""
        if len(mesh.faces) == 0:
            return Upload(mesh)
        parts = [mesh.points, mesh.normals, mesh.joints.astype("f4"), mesh.weights]
        buffer = context.buffer(np.concatenate(parts, axis=1).astype("f4").tobytes())
        index = context.buffer(mesh.faces.astype("u4").tobytes())
        array = context.vertex_array(program, [(buffer, "3f 3f 4f 4f", "point", "normal", "riding", "weight")], index)
        return Upload(mesh, array, context.texture((5, len(mesh.inverse_bind)), 4, dtype="f4"), (buffer, index))

    def release(self) -> None:
        """Give it back."""
        for part in (self.array, self.joints, *self.buffers):
            if part is not None:
                part.release()


class Painter:
    """Holds the programs and buffers of one context. ``draw`` may be called for any scene."""

    def __init__(self, context: Any) -> None:
        self.context = context
        self.body_program = _program(context, "body")
        self.floor_program = _program(context, "floor")
        self.stroke_program = _program(context, "stroke")
        self.plain_program = _program(context, "plain")
        self.drawings = Drawings(context, _program(context, "drawing"), self._set)
        self.mesh: Mesh | None = None
        self._uploads: dict[int, Upload] = {}
        self.scale = 1.0
        self.corner = context.buffer(np.array([0, 0, 1, 0, 0, 1, 1, 1], "f4").tobytes())

    def release(self) -> None:
        """Give back what was made in the context."""
        self.use_mesh(None)
        self.corner.release()
        self.drawings.release()
        for program in (self.body_program, self.floor_program, self.stroke_program, self.plain_program):
            program.release()

    @property
    def software(self) -> bool:
        """Whether the driver draws on the processor, where many samples cost dearly."""
        return "llvmpipe" in str(self.context.info.get("GL_RENDERER", "")).lower() or "Mesa" in str(
            self.context.info.get("GL_RENDERER", "")
        )

    def use_mesh(self, mesh: Mesh | None) -> None:
        """Take a mesh up into buffers; one of the last few again costs nothing. None gives them all back."""
        self.mesh = mesh
        if mesh is None or (id(mesh) not in self._uploads and len(self._uploads) >= MOST_UPLOADS):
            for upload in self._uploads.values():
                upload.release()
            self._uploads.clear()
            self.drawings.forget()
        if mesh is not None and id(mesh) not in self._uploads:
            self._uploads[id(mesh)] = Upload.of(self.context, self.body_program, mesh)

    @property
    def mesh_array(self) -> Any:
        """The triangles of the mesh that is drawn; None where it has none."""
        return self._uploads[id(self.mesh)].array if self.mesh is not None else None

    def draw(
        self, target: Any, scene: Scene, camera: Camera, look: Palette, size: tuple[int, int], scale: float = 1.0
    ) -> None:
        """Draw ``scene`` into framebuffer ``target`` of ``size`` pixels; ``scale`` is pixels a point."""
        context, (width, height) = self.context, size
        self.scale = scale
        target.use()
        context.viewport = (0, 0, width, height)
        context.enable_only(moderngl.DEPTH_TEST | moderngl.BLEND)
        # The picture itself stays opaque whatever is laid over it.
        context.blend_func = (
            moderngl.SRC_ALPHA,
            moderngl.ONE_MINUS_SRC_ALPHA,
            moderngl.ONE,
            moderngl.ONE_MINUS_SRC_ALPHA,
        )
        context.clear(*rgb(look.sky), 1.0, depth=1.0)
        seen = camera.projection(width / max(height, 1)) @ camera.view()
        self._floors(scene.floors, camera, look, seen)
        whole = self.mesh
        for body in scene.bodies:
            self.use_mesh(body.mesh or whole)
            self._shadow(body, scene.floors, camera, look, seen)
        self.mesh = whole
        if scene.ghosts:
            for ghost in scene.ghosts:
                self._body(ghost, camera, look, seen)
            # Ghosts lie behind everything: forget their depth and lay the floor's again.
            self._far_depth()
            self._floors(scene.floors, camera, look, seen, opacity=0.0)
        self._posts(scene, look, seen)
        for body in scene.bodies:
            self.use_mesh(body.mesh or whole)
            self._body(body, camera, look, seen)
        self.mesh = whole
        self._ribbons(scene, look, seen)
        strokes = scene_strokes(scene, camera, look, width, height, scale)
        self._strokes(strokes, width, height)

    def cut_out(
        self, target: Any, bodies: Sequence[Body], camera: Camera, look: Palette, size: tuple[int, int]
    ) -> None:
        """Draw bodies alone, on nothing: what is not drawn is not covered."""
        context, (width, height) = self.context, size
        target.use()
        context.viewport = (0, 0, width, height)
        context.enable_only(moderngl.DEPTH_TEST)
        context.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
        seen = camera.projection(width / max(height, 1)) @ camera.view()
        for body in bodies:
            self._body(body, camera, look, seen)

    def _set(self, program: Any, **values: Any) -> None:
        for name, value in values.items():
            if name in program:
                if isinstance(value, np.ndarray) and value.shape == (4, 4):
                    program[name].write(value.T.astype("f4").tobytes())
                else:
                    program[name].value = value

    def _floors(
        self, floors: tuple[Floor, ...], camera: Camera, look: Palette, seen: Array, opacity: float = 1.0
    ) -> None:
        self._set(
            self.floor_program,
            seen=seen,
            near_paper=rgb(look.floor_near),
            far_paper=rgb(look.floor_far),
            line=rgb(look.floor_line),
            eye=tuple(float(v) for v in camera.eye),
            opacity=opacity,
        )
        for floor in sorted(floors, key=lambda f: f.height):
            (x0, z0), (x1, z1) = floor.low, floor.high
            row = rows_of((floor,))
            rim = {(x, z): (x, height_of(row, 0, x, z), z) for x in (x0, x1) for z in (z0, z1)}
            top = [rim[at] for at in ((x0, z0), (x1, z0), (x0, z1), (x1, z0), (x1, z1), (x0, z1))]
            deep = down_to(floor, floors)
            sides = []
            for (ax, az), (bx, bz) in (
                ((x0, z1), (x1, z1)), ((x1, z1), (x1, z0)), ((x1, z0), (x0, z0)), ((x0, z0), (x0, z1))
            ):  # fmt: skip
                a, b, low = rim[ax, az], rim[bx, bz], (ax, deep, az)
                sides += [a, b, low, b, (bx, deep, bz), low]
            self._triangles(self.floor_program, np.array(top, "f4"))
            self._wash(np.array(sides), (*rgb(look.floor_line), opacity), seen)

    def _far_depth(self) -> None:
        """Set all depth to the farthest and leave the colours as they are."""
        corners = np.array([[-1, -1, 1], [3, -1, 1], [-1, 3, 1]])
        self.context.depth_func = "1"
        self._wash(corners, (0.0, 0.0, 0.0, 0.0), np.eye(4))
        self.context.depth_func = "<"

    def _triangles(self, program: Any, points: Any) -> None:
        buffer = self.context.buffer(points.astype("f4").tobytes())
        array = self.context.vertex_array(program, [(buffer, "3f", "point")])
        array.render(moderngl.TRIANGLES)
        array.release()
        buffer.release()

    def _wash(self, points: Any, paint: Any, seen: Array) -> None:
        """Triangles ``[3T, 3]`` in one colour, or in one for each point ``[3T, 4]``."""
        self._set(self.plain_program, seen=seen)
        rows = np.concatenate([points, np.broadcast_to(paint, (len(points), 4))], axis=1).astype("f4")
        buffer = self.context.buffer(rows.tobytes())
        array = self.context.vertex_array(self.plain_program, [(buffer, "3f 4f", "point", "paint")])
        array.render(moderngl.TRIANGLES)
        array.release()
        buffer.release()

    def _posts(self, scene: Scene, look: Palette, seen: Array) -> None:
        around = np.linspace(0, 2 * np.pi, 25)
        for post in scene.posts:
            x, y, z = post.position
            ring = np.stack([np.cos(around) * post.radius + x, 0 * around, np.sin(around) * post.radius + z], -1)
            low, high = ring + np.array([0, y, 0]), ring + np.array([0, y + post.height, 0])
            centre = np.array([x, y + post.height, z])
            points, paints = [], []
            for i in range(24):
                lit = 0.72 + 0.28 * max(0.0, float(np.cos(around[i] - 0.9)))
                points += [low[i], low[i + 1], high[i], low[i + 1], high[i + 1], high[i]]
                paints += [(*(c * lit for c in rgb(look.post)), 1.0)] * 6
                points += [high[i], high[i + 1], centre]
                paints += [(*rgb(look.floor_line), 1.0)] * 3
            self._wash(np.array(points), np.array(paints), seen)

    def _ribbons(self, scene: Scene, look: Palette, seen: Array) -> None:
        for ribbon in scene.ribbons:
            low, high = ribbon.low, ribbon.high
            faces = [
                corner
                for i in range(len(low) - 1)
                for corner in (low[i], high[i], low[i + 1], high[i], high[i + 1], low[i + 1])
            ]
            if faces:
                self._wash(np.array(faces), (*rgb(look.role(ribbon.role).ink), 0.16), seen)

    def _joints(self, body: Body, look: Palette) -> None:
        assert self.mesh is not None
        skin = body.joints @ self.mesh.inverse_bind
        rows = np.zeros((len(skin), 5, 4), "f4")
        rows[:, :4] = skin.transpose(0, 2, 1)
        if body.tints is not None:
            rows[:, 4] = _inks(body, look)
        texture = self._uploads[id(self.mesh)].joints
        texture.write(rows.tobytes())
        texture.use(0)
        self._set(self.body_program, joints=0)

    def _body(self, body: Body, camera: Camera, look: Palette, seen: Array) -> None:
        if self.mesh is not None and self.mesh.sheets:
            self.drawings.draw(self.mesh, body, camera, look, seen)
        if self.mesh_array is None:
            return
        dark, light = TONES[body.tone]
        self._joints(body, look)
        self._set(
            self.body_program,
            seen=seen,
            tinted=0.0 if body.tints is None else 1.0,
            grain=self.scale,
            flatten=(0.0, 0.0, 0.0, 0.0),
            ink=rgb(getattr(look, dark)),
            light=rgb(getattr(look, light)),
            paper=rgb(look.sky),
            eye=tuple(float(v) for v in camera.eye),
            opacity=body.opacity,
            flat_ink=1.0 if body.tone == "ghost" else 0.0,
        )
        if body.opacity < 1.0:
            # Depth first, with nothing laid on, so that a see-through body is one even wash.
            self._set(self.body_program, opacity=0.0)
            self.mesh_array.render()
            self._set(self.body_program, opacity=body.opacity)
            self.context.depth_func = "<="
            self.mesh_array.render()
            self.context.depth_func = "<"
        else:
            self.mesh_array.render()

    def _shadow(self, body: Body, floors: tuple[Floor, ...], camera: Camera, look: Palette, seen: Array) -> None:
        drawn = self.mesh is not None and bool(self.mesh.sheets)
        if self.mesh_array is None and not drawn:
            return
        place = body.joints[0, :3, 3]
        x, y, z = (float(v) for v in place)
        under = height_under(rows_of(floors), x, y, z, 0.3)
        if not isfinite(under):
            return
        if self.mesh is not None and drawn:
            self.drawings.draw(self.mesh, body, camera, look, seen, under)
            return
        self._joints(body, look)
        self._set(
            self.body_program,
            seen=seen,
            tinted=0.0,
            flatten=(1.0, under, 0.0, 0.0),
            ink=rgb(look.floor_line),
            flat_ink=1.0,
            opacity=1.0,
        )
        self.mesh_array.render()

    def _strokes(self, rows: Any, width: int, height: int) -> None:
        if len(rows) == 0:
            return
        self.context.disable(moderngl.DEPTH_TEST)
        self._set(self.stroke_program, size=(float(width), float(height)))
        buffer = self.context.buffer(rows.astype("f4").tobytes())
        array = self.context.vertex_array(
            self.stroke_program,
            [(self.corner, "2f", "corner"), (buffer, "4f 2f 4f 4f/i", "ends", "radii", "paint", "style")],
        )
        array.render(moderngl.TRIANGLE_STRIP, vertices=4, instances=len(rows))
        array.release()
        buffer.release()
        self.context.enable(moderngl.DEPTH_TEST)
