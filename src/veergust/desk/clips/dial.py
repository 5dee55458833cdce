"""The dial on the stage: where the body's ahead lies in a clip, turned by hand."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen

from veergust.core.motion import Array
from veergust.core.scene import Camera
from veergust.desk.look.theme import Theme
from veergust.desk.stage.view import StageView

FAR, NEAR = 0.9, 14.0


class FacingTool:
    """A ring on the floor about the body with an arrow ahead; dragging the arrow says where ahead is.

    ``body`` gives the body's frame ``[4, 4]`` on the stage, ``turned`` takes the degrees about +Y it was turned by.
    """

    def __init__(self, theme: Theme, body: Callable[[], Array | None], turned: Callable[[float], None]) -> None:
        self.theme = theme
        self.body = body
        self.turned = turned
        self.by: float | None = None

    def _spot(self, view: StageView, body: Array, degrees: float, far: float = FAR) -> QPointF:
        a = np.radians(degrees)
        x, y, _ = view.camera.on_picture(
            (body @ np.array([far * np.sin(a), 0.0, far * np.cos(a), 1.0]))[:3], view.width(), view.height()
        )
        return QPointF(x, y)

    def arrow(self, view: StageView) -> QPointF:
        """Where the arrow's head is on the picture."""
        body = self.body()
        return self._spot(view, body, self.by or 0.0) if body is not None else QPointF(-99, -99)

    def press(self, at: QPointF, view: StageView) -> bool:
        """Take the arrow."""
        head = self.arrow(view)
        taken = float(np.hypot(head.x() - at.x(), head.y() - at.y())) < NEAR
        self.by = 0.0 if taken else None
        return taken

    def drag(self, at: QPointF, view: StageView) -> None:
        """Point it at where the mouse is on the floor."""
        body = self.body()
        point = floor_point(view.camera, at.x(), at.y(), view.width(), view.height())
        if body is not None and point is not None:
            inside = np.linalg.inv(body) @ np.array([*point, 1.0])
            self.by = float(np.degrees(np.arctan2(inside[0], inside[2])))
            view.words.update()

    def release(self, at: QPointF, view: StageView) -> None:
        """That way is ahead from now on."""
        by, self.by = self.by, None
        if by is not None and abs(by) > 0.5:
            self.turned(by)
        view.words.update()

    def draw(self, p: QPainter, view: StageView) -> None:
        """The ring with its marks, the arrow, and how far it is turned."""
        body = self.body()
        if body is None:
            return
        theme = self.theme
        ring = QPainterPath(self._spot(view, body, 0.0))
        for degrees in range(6, 361, 6):
            ring.lineTo(self._spot(view, body, degrees))
        for degrees in range(0, 360, 45):
            ring.moveTo(self._spot(view, body, degrees, FAR - 0.06))
            ring.lineTo(self._spot(view, body, degrees))
        by = self.by or 0.0
        head = QPainterPath(self._spot(view, body, by, 0.12))
        head.lineTo(self._spot(view, body, by))
        tip = QPainterPath(self._spot(view, body, by, FAR + 0.14))
        for off, far in ((7.0, FAR - 0.04), (-7.0, FAR - 0.04)):
            tip.lineTo(self._spot(view, body, by + off, far))
        tip.closeSubpath()
        p.setBrush(Qt.BrushStyle.NoBrush)
        for role, wide in (("sky", 4.0), ("drive", 1.6)):
            p.setPen(QPen(theme.colour(role), wide))
            p.drawPath(ring)
            p.drawPath(head)
        p.setBrush(theme.colour("drive"))
        p.drawPath(tip)
        words = f"ahead {by:+.0f}°" if self.by is not None else "ahead"
        path = QPainterPath()
        path.addText(self._spot(view, body, by, FAR + 0.2) + QPointF(6, 4), theme.bold(13), words)
        p.strokePath(path, QPen(theme.colour("sky"), 4.0))
        p.fillPath(path, theme.colour("drive"))


def floor_point(camera: Camera, x: float, y: float, width: float, height: float) -> Array | None:
    """The point of the floor ``[3]`` under a pixel; None above the horizon."""
    f = height / 2 / np.tan(np.radians(camera.lens) / 2)
    way = np.array([(x - width / 2) / f, (height / 2 - y) / f, -1.0]) @ camera.axes
    if way[1] > -1e-6:
        return None
    return np.asarray(camera.eye - way * (camera.eye[1] / way[1]))
