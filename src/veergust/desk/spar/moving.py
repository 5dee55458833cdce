"""Handles on the stage for who and what stands there: taken at the foot, and moved over the floor."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter

from veergust.core.edit import Edit, set_fighter, set_floor, set_post
from veergust.core.model import Fighter, Floor, Post, Project
from veergust.core.motion import Array
from veergust.desk.document.document import Document
from veergust.desk.look.theme import Theme
from veergust.desk.stage.view import StageView

NEAR = 12.0
"""A handle is taken from so near (px)."""
TIDY = 2
"""Places are told to so many digits of a metre."""
FIGHTERS, POSTS, FLOORS = "fighter ", "post ", "floor "
Standing = Fighter | Post | Floor


def key_of(one: Standing) -> str:
    """How one that stands on the stage is told from all others."""
    kind = FIGHTERS if isinstance(one, Fighter) else POSTS if isinstance(one, Post) else FLOORS
    return kind + one.name


def standing(project: Project) -> dict[str, Standing]:
    """All that stands on the stage, by ``key_of``."""
    stage = project.stage
    every: tuple[Standing, ...] = (*stage.fighters, *stage.posts, *stage.floors)
    return {key_of(one): one for one in every}


def change(project: Project, one: Standing, /, **changes: object) -> Edit:
    """One that stands there with other fields. Raises ``Trouble`` as the edits do."""
    if isinstance(one, Floor):
        return set_floor(project, one.name, **changes)
    return (set_fighter if isinstance(one, Fighter) else set_post)(project, one.name, **changes)


def place_of(one: Standing) -> Array:
    """Where one stands ``[3]``; a floor stands in its middle."""
    if not isinstance(one, Floor):
        return np.array(one.position, dtype=float)
    (a, b), (c, d) = one.low, one.high
    return np.array([(a + c) / 2, one.height + one.rise / 2, (b + d) / 2])


def moved(project: Project, one: Standing, x: float, z: float) -> Edit:
    """One that stands at (x, z) instead."""
    if not isinstance(one, Floor):
        return change(project, one, position=(x, one.position[1], z))
    here = place_of(one)
    dx, dz = x - float(here[0]), z - float(here[2])
    (a, b), (c, d) = one.low, one.high
    low, high = (round(a + dx, 3), round(b + dz, 3)), (round(c + dx, 3), round(d + dz, 3))
    return change(project, one, low=low, high=high)


@dataclass
class _Hold:
    """What is held, how far from its place it was taken (m: x, z), and the edit so far."""

    one: Standing
    off: tuple[float, float]
    edit: Edit | None = None


class StandingTool:
    """Moves who and what stands on the stage; ``chose`` is told which one was taken."""

    def __init__(self, document: Document, theme: Theme, chose: Callable[[str], None]) -> None:
        self.document, self.theme, self.chose = document, theme, chose
        self.chosen = ""
        self._hold: _Hold | None = None

    @property
    def holds(self) -> bool:
        """Whether one is held: the camera stays meanwhile."""
        return self._hold is not None

    def handles(self, view: StageView) -> Iterator[tuple[str, Standing, QPointF]]:
        """Each that can be taken, and where (px)."""
        for key, one in standing(self.document.project).items():
            if (point := _seen(view, place_of(one))) is not None:
                yield key, one, point

    def press(self, at: QPointF, view: StageView) -> bool:
        """Take the nearest one, if it is near; a floor only where nobody is."""
        near = [
            (isinstance(one, Floor), _far(at, point), key) for key, one, point in self.handles(view)
            if _far(at, point) <= NEAR
        ]  # fmt: skip
        if not near:
            return False
        key = min(near)[2]
        one = standing(self.document.project)[key]
        on, here = self._on_floor(at, view, one), place_of(one)
        if on is None:
            return False
        self._hold = _Hold(one, (float(here[0]) - on[0], float(here[2]) - on[1]))
        self.chosen = key
        self.chose(key)
        return True

    def drag(self, at: QPointF, view: StageView) -> None:
        """Show it where it would stand."""
        hold = self._hold
        on = self._on_floor(at, view, hold.one) if hold is not None else None
        if hold is not None and on is not None:
            x, z = (round(a + b, TIDY) for a, b in zip(on, hold.off))
            hold.edit = moved(self.document.base, hold.one, x, z)
            self.document.preview(hold.edit.project)

    def release(self, at: QPointF, view: StageView) -> None:
        """Let it stand there."""
        hold, self._hold = self._hold, None
        if hold is not None and hold.edit is not None:
            self.document.apply(Edit(hold.edit.project, f"{hold.one.name} moved"))

    def draw(self, p: QPainter, view: StageView) -> None:
        """A ring under each, a full one under the chosen, and the ways of platforms."""
        for key, one, point in self.handles(view):
            p.setPen(self.theme.pen("accent" if key == self.chosen else "ink_soft", 2.0))
            p.setBrush(self.theme.colour("accent" if key == self.chosen else "paper"))
            if isinstance(one, Floor):
                if any(one.goes) and (to := _seen(view, place_of(one) + one.goes)) is not None:
                    p.drawLine(point, to)
                p.drawRect(int(point.x()) - 4, int(point.y()) - 4, 8, 8)
            else:
                p.drawEllipse(point, 5.0, 5.0)

    def _on_floor(self, at: QPointF, view: StageView, one: Standing) -> tuple[float, float] | None:
        """Where the mouse is at the height of one (m: x, z); None above the horizon."""
        camera, height = view.camera, float(place_of(one)[1])
        far = camera.in_plane(at.x(), at.y(), view.width(), view.height(), np.array(camera.target))
        way = far - camera.eye
        down = float(way[1])
        reach = (height - float(camera.eye[1])) / down if abs(down) > 1e-6 else -1.0
        if reach <= 0.0:
            return None
        there = camera.eye + way * reach
        return float(there[0]), float(there[2])


def _seen(view: StageView, place: Array) -> QPointF | None:
    """Where a place is in the picture (px); None behind the camera."""
    x, y, size = view.camera.on_picture(place, view.width(), view.height())
    return QPointF(x, y) if size > 0 else None


def _far(a: QPointF, b: QPointF) -> float:
    return float(np.hypot(a.x() - b.x(), a.y() - b.y()))
