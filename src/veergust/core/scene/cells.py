"""A clip or an action as cells of a flipbook: how its ticks are shared out, and where what is on it lies in a cell."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from veergust.core.model import Clip
from veergust.core.motion import Array, Mesh, carried, ends, forward, quat, seconds, times
from veergust.core.play import CompiledAction, CompiledProject, box_frame, shape_at
from veergust.core.scene.camera import Camera
from veergust.core.trouble import Trouble

Side = Literal["left", "right", "front"]
YAWS: dict[Side, float] = {"left": 90.0, "right": -90.0, "front": 0.0}
"""From where each side of a body that looks along +Z is seen."""
MOST_CELLS = 5000
AROUND = 0.02
"""Room (m) around all that is drawn."""
Json = dict[str, Any]


@dataclass(frozen=True, eq=False)
class Ticks:
    """What is shown on each of ``N`` ticks: joints ``[N, J, 4, 4]`` over a body that stands at the origin, turned as it
    goes, and where the body has gone ``[N, 3]`` (m). An action strikes."""

    joints: Array
    travel: Array
    action: CompiledAction | None = None


def ticks_of_clip(build: CompiledProject, clip: Clip) -> Ticks:
    """A prepared clip, tick by tick."""
    count = max(1, round(seconds(build.assets, clip) * build.project.settings.rate))
    at = times(*ends(build.assets, clip), count, clip.reverse)
    way, pose = carried(build.assets, clip, at, build.roots)
    joints = forward(build.assets.skeleton, pose.rotation, pose.translation)
    return Ticks(_turned(joints, way.yaw)[:count], way.place[:count])


def ticks_of_action(compiled: CompiledAction) -> Ticks:
    """An action along its path, tick by tick."""
    worlds = [compiled.world_of(i)[: compiled.sections[i].ticks] for i in compiled.path]
    place, yaw = compiled.way
    total = compiled.total
    return Ticks(_turned(np.concatenate(worlds), yaw[:total]), place[:total], compiled)


def _turned(joints: Array, yaw: Array) -> Array:
    turn = np.zeros((len(yaw), 4, 4))
    turn[:, :3, :3], turn[:, 3, 3] = quat.to_matrix(quat.from_yaw(yaw)), 1.0
    return np.asarray(turn[:, None] @ joints[: len(yaw)])


def shared_out(ticks: int, cells: int | None, every: int) -> list[int]:
    """For how many ticks each cell is held: so many ``cells`` as even as may be, or one for ``every`` so many ticks.

    Together they are the ``ticks``, and no cell has none.
    """
    if cells is not None:
        cells = min(max(cells, 1), ticks)
        edges = [round(n * ticks / cells) for n in range(cells + 1)]
    else:
        edges = [*range(0, ticks, max(every, 1)), ticks]
    return [b - a for a, b in zip(edges, edges[1:])]


@dataclass(frozen=True, eq=False)
class Cells:
    """Cells that are all of one ``size`` (px), seen from one side by a camera for which all bodies stand alike."""

    shown: Ticks
    holds: list[int]
    camera: Camera
    size: tuple[int, int]

    @property
    def pixels(self) -> float:
        """Pixels a metre."""
        return self.size[1] / self.camera.flat

    @property
    def firsts(self) -> list[int]:
        """The tick that each cell shows: the first of those for which it is held."""
        return [sum(self.holds[:n]) for n in range(len(self.holds))]

    def on(self, points: Array) -> Array:
        """Where points ``[N, 3]`` about the body lie in a cell ``[N, 2]`` (px, down from its upper left corner)."""
        return self.camera.on_pictures(np.asarray(points, dtype=float).reshape(-1, 3), *self.size)[0]


def cells_of(
    shown: Ticks, mesh: Mesh | None, holds: Sequence[int], side: Side, height: int, points: Array | None = None
) -> Cells:
    """Cells so many pixels high that hold all that is drawn on any of them, and ``points`` ``[N, 3]`` as well.

    Raises:
        Trouble: there would be more cells than a flipbook may have.
    """
    if len(holds) > MOST_CELLS:
        raise Trouble(f"would have {len(holds)} cells, and may have {MOST_CELLS}", do="hold each for longer (--every)")
    firsts = np.cumsum([0, *holds[:-1]])
    drawn = [np.zeros((1, 3)), *(skinned(mesh, shown.joints[n]) for n in firsts)]
    camera = Camera(yaw=YAWS[side], pitch=0.0)
    flat = np.concatenate([*drawn, *([points] if points is not None else [])]) @ camera.axes.T
    low, high = flat.min(axis=0) - AROUND, flat.max(axis=0) + AROUND
    tall = float(high[1] - low[1])
    wide = max(round((high[0] - low[0]) / tall * height), 1)
    # A pixel is as wide as it is high: what is missing to a whole one is room at the side.
    middle = camera.axes.T @ ((low + high) / 2.0)
    target = (float(middle[0]), float(middle[1]), float(middle[2]))
    return Cells(shown, list(holds), Camera(target, YAWS[side], 0.0, 20.0, flat=tall), (wide, height))


def skinned(mesh: Mesh | None, joints: Array) -> Array:
    """Where the points of a mesh ``[V, 3]`` are on joints ``[J, 4, 4]``; the joints themselves without one."""
    if mesh is None:
        return np.asarray(joints[:, :3, 3])
    riding = joints @ mesh.inverse_bind
    whole = np.concatenate([mesh.points, np.ones((len(mesh.points), 1))], axis=1)
    out = np.zeros((len(whole), 3))
    for k in range(mesh.joints.shape[1]):
        moved = (riding[mesh.joints[:, k]] @ whole[:, :, None])[:, :3, 0]
        out += moved * mesh.weights[:, k, None]
    return out


def document(
    build: CompiledProject, cells: Cells, image: str, name: str, side: Side, at: Sequence[tuple[int, int]]
) -> Json:
    """What is said beside a sheet: where each cell lies ``at``, how long it is held, and what is on it."""
    rows = []
    for n, (first, hold) in enumerate(zip(cells.firsts, cells.holds)):
        joints = cells.shown.joints[first]
        points = {m.name: _mount(build, cells, m.name, joints) for m in build.project.rig.mounts}
        hit = _hit(build, cells, range(first, first + hold))
        rows.append(
            {
                "at": list(at[n]),
                "hold": hold,
                "feet": _place(cells.on(np.zeros(3))[0]),
                "travel": [round(float(v), 6) + 0.0 for v in cells.shown.travel[first]],
                "points": {name: _place(point) for name, point in points.items() if point is not None},
                "boxes": [*_hurt(build, cells, joints), *hit, _body(build, cells)],
            }
        )
    return {
        "image": image,
        "name": name,
        "cell": list(cells.size),
        "pixels_per_metre": round(cells.pixels, 6),
        "rate": build.project.settings.rate,
        "side": side,
        "cells": rows,
    }


def _place(at: Array) -> list[float]:
    return [round(float(v), 3) + 0.0 for v in at]


def _mount(build: CompiledProject, cells: Cells, name: str, joints: Array) -> Array | None:
    mount = build.mount(name)
    return None if mount is None else cells.on((joints[mount[0]] @ mount[1])[:3, 3])[0]


def _rect(cells: Cells, points: Array, radius: float, kind: str, name: str) -> Json:
    """The rectangle about points, with a radius (m) around."""
    flat, much = cells.on(points), radius * cells.pixels
    low, high = flat.min(axis=0) - much, flat.max(axis=0) + much
    return {"kind": kind, "name": name, "rect": [*_place(low), *_place(high - low)]}


def _hurt(build: CompiledProject, cells: Cells, joints: Array) -> Iterator[Json]:
    shapes = build.hurt_shapes["standing"]
    for n, name in enumerate(shapes.names):
        frame = joints[shapes.joints[n]]
        if shapes.boxes[n]:
            corners = _corners(shapes.half[n]) @ shapes.turn[n].T + shapes.a[n]
            yield _rect(cells, corners @ frame[:3, :3].T + frame[:3, 3], 0.0, "hurt", name)
        else:
            ends_ = np.stack([shapes.a[n], shapes.b[n]])
            yield _rect(cells, ends_ @ frame[:3, :3].T + frame[:3, 3], float(shapes.radius[n]), "hurt", name)


def _hit(build: CompiledProject, cells: Cells, held: range) -> Iterator[Json]:
    """The hitboxes that are open on any tick for which a cell is held, each about where it is on all of those."""
    compiled = cells.shown.action
    if compiled is None:
        return
    open_: dict[tuple[int, int, int], list[tuple[Array, float, str]]] = {}
    for tick in held:
        i, frame = compiled.locate(tick)
        part = compiled.sections[i]
        for n, strike in enumerate(part.section.strikes):
            for k, box in enumerate(strike.boxes if strike.start <= frame < strike.end else ()):
                mirrored = part.mirrored(frame)
                at = box_frame(build, box, cells.shown.joints[tick], mirrored)
                if at is not None:
                    shape = shape_at(box, frame, mirrored)
                    local = np.stack([shape.a, shape.b]) if shape.half is None else _corners(shape.half) + shape.a
                    radius = shape.radius if shape.half is None else 0.0
                    row = local @ at[:3, :3].T + at[:3, 3], radius, box.name or strike.name
                    open_.setdefault((i, n, k), []).append(row)
    for rows in open_.values():
        points = np.concatenate([points for points, _, _ in rows])
        yield _rect(cells, points, max(radius for _, radius, _ in rows), "hit", rows[0][2])


def _body(build: CompiledProject, cells: Cells) -> Json:
    """The body's capsule, which stands over the feet."""
    capsule = build.project.rig.capsule
    (x, y), much = cells.on(np.zeros(3))[0], cells.pixels
    rect = [x - capsule.radius * much, y - capsule.height * much, 2 * capsule.radius * much, capsule.height * much]
    return {"kind": "body", "name": "body", "rect": _place(np.array(rect))}


def _corners(half: Array) -> Array:
    signs = np.array([(x, y, z) for x in (-1.0, 1.0) for y in (-1.0, 1.0) for z in (-1.0, 1.0)])
    return np.asarray(signs * half)
