"""Handles on the stage for the hitboxes of a strike: its ends, its middle, its edge or its sides."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPainterPath, QPen

from veergust.core.edit import Edit, SpanRef, brought, change_box, grasped, span_of
from veergust.core.model import Hitbox, Strike
from veergust.core.motion import Array
from veergust.core.play import Shape, box_frame, shape_at
from veergust.core.scene import joints_at
from veergust.desk.document.document import Document
from veergust.desk.look.theme import Theme
from veergust.desk.sheet.deeds import strike_here
from veergust.desk.stage.view import StageView

NEAR, FIRM = 10.0, 2.0
"""A handle is taken from so near (px), and moves once the mouse has gone so far."""
SMALL, LARGE = 3.6, 6.0


@dataclass(frozen=True, eq=False)
class HeldBox:
    """A hitbox on the stage: which it is, its mount's frame ``[4, 4]``, its shape about that, and on which tick."""

    ref: SpanRef
    at: int
    box: Hitbox
    frame: Array
    shape: Shape
    tick: int
    mirrored: bool

    def world(self, inside: Array) -> Array:
        """A place about the mount in the world."""
        return np.asarray(self.frame[:3, :3] @ inside + self.frame[:3, 3])

    def inside(self, world: Array) -> Array:
        """A place in the world about the mount."""
        return np.asarray((np.linalg.inv(self.frame) @ [*world, 1.0])[:3])


class HitTool:
    """Takes the hitboxes of the selected strike, or of the one that is open; ``chose`` is told which one."""

    def __init__(self, document: Document, theme: Theme, chose: Callable[[int], None]) -> None:
        self.document, self.theme, self.chose = document, theme, chose
        self.at = 0
        self._hold: tuple[str, HeldBox, Array, QPointF] | None = None
        self._far = False

    def held(self) -> list[HeldBox]:
        """The hitboxes that can be taken on the frame under the playhead."""
        document = self.document
        compiled, ref = document.compiled, strike_here(document)
        if compiled is None or ref is None or not compiled.path:
            return []
        section, tick = compiled.locate(document.frame)
        strike = span_of(document.project, ref)
        if section != ref.section or not isinstance(strike, Strike) or not strike.start <= tick < strike.end:
            return []
        mirrored = compiled.sections[section].mirrored(tick)
        joints = joints_at(compiled, document.frame)
        out = []
        for n, box in enumerate(strike.boxes):
            frame = box_frame(document.build, box, joints, mirrored)
            if frame is not None:
                out.append(HeldBox(ref, n, box, frame, shape_at(box, tick, mirrored), tick, mirrored))
        return out

    def handles(self, view: StageView, held: HeldBox) -> Iterator[tuple[str, Array, QPointF]]:
        """(part, place in the world, point of the picture) of each handle in sight."""
        places = {part: held.world(at) for part, at in grasped(held.box, held.shape).items()}
        if held.shape.half is None:
            places["edge"] = self._edge(view, held, places["middle"])
        for part, at in places.items():
            x, y, scale = view.camera.on_picture(at, view.width(), view.height())
            if scale > 0.0:
                yield part, at, QPointF(x, y)

    def _edge(self, view: StageView, held: HeldBox, middle: Array) -> Array:
        """Where the edge is drawn: square to the hitbox as it is seen, above it."""
        along = held.world(held.shape.b) - held.world(held.shape.a)
        _, up, back = view.camera.axes
        across = np.cross(back, along)
        length = float(np.linalg.norm(across))
        across = across / length if length > 1e-6 else up
        return np.asarray(middle + (across if across @ up >= 0.0 else -across) * held.shape.radius)

    def point(self, view: StageView, at: int, part: str) -> QPointF:
        """Where a handle of a hitbox is on the picture."""
        held = next(h for h in self.held() if h.at == at)
        return next(spot for name, _, spot in self.handles(view, held) if name == part)

    def press(self, at: QPointF, view: StageView) -> bool:
        """Take the nearest handle, of the chosen hitbox first."""
        found = [
            (held.at != self.at, _far(at, spot), part, held, place, spot)
            for held in self.held()
            for part, place, spot in self.handles(view, held)
            if _far(at, spot) <= NEAR
        ]
        if not found:
            return False
        _, _, part, held, place, _ = min(found, key=lambda row: row[:2])
        self._hold, self._far = (part, held, place, at), False
        if held.at != self.at:
            self.at = held.at
            self.chose(held.at)
        view.words.update()
        return True

    def drag(self, at: QPointF, view: StageView) -> None:
        """Show the hitbox as it would be."""
        if self._hold is not None:
            self._far |= _far(at, self._hold[3]) > FIRM
            if self._far:
                self.document.preview(self._edit(at, view).project)

    def release(self, at: QPointF, view: StageView) -> None:
        """Keep it so."""
        if self._hold is not None and self._far:
            self.document.apply(self._edit(at, view))
        self._hold = None
        view.words.update()

    def _edit(self, at: QPointF, view: StageView) -> Edit:
        assert self._hold is not None
        part, held, place, start = self._hold
        camera, wide, high = view.camera, view.width(), view.height()
        # By as much as the mouse has gone, wherever in the handle it was taken.
        first, last = (camera.in_plane(point.x(), point.y(), wide, high, place) for point in (start, at))
        values = brought(held.box, held.shape, part, held.inside(place + last - first), held.mirrored)
        return change_box(self.document.base, held.ref, held.at, held.tick, **values)

    def draw(self, p: QPainter, view: StageView) -> None:
        """Circles on ends and middle, squares on edge and sides; what is held is named with its size."""
        if view.moving and self._hold is None:
            return
        theme, every = self.theme, self.held()
        self.at = min(self.at, max(len(every) - 1, 0))
        for held in every:
            chosen = held.at == self.at
            size = LARGE if chosen else SMALL
            for part, _, spot in self.handles(view, held):
                p.setPen(QPen(theme.colour("strike"), 2.0))
                p.setBrush(theme.colour("paper_bright"))
                if part == "edge" or part.startswith("side"):
                    p.drawRect(QRectF(spot.x() - size * 0.8, spot.y() - size * 0.8, 1.6 * size, 1.6 * size))
                elif part == "middle" and held.box.shape == "capsule":
                    p.drawEllipse(spot, size * 0.7, size * 0.7)
                else:
                    p.drawEllipse(spot, size, size)
            if chosen and self._hold is not None:
                top = min((spot for _, _, spot in self.handles(view, held)), key=lambda s: s.y())
                path = QPainterPath()
                path.addText(top + QPointF(-30.0, -14.0), theme.bold(13), _size(held))
                p.strokePath(path, QPen(theme.colour("sky"), 4.0))
                p.fillPath(path, theme.colour("strike"))


def _size(held: HeldBox) -> str:
    """A hitbox in words: what it rides on, and how large it is."""
    if held.shape.half is not None:
        return f"{held.box.mount} " + " × ".join(f"{2 * v:.2f}" for v in held.shape.half) + " m"
    long = float(np.linalg.norm(held.shape.b - held.shape.a))
    return f"{held.box.mount} {held.shape.radius:.2f} m" + (f", {long:.2f} m long" if long > 0.005 else "")


def _far(a: QPointF, b: QPointF) -> float:
    return float(np.hypot(a.x() - b.x(), a.y() - b.y()))
