"""Handles on the stage: every joint of the figure can be taken, turned about three rings, and hands and feet pulled.

A mount is moved by its own handle in the picture's plane.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen

from veergust.core.motion import Array, Pose, Skeleton, forward, hips_of, limb_ends, pull, turn_joint
from veergust.desk.look.theme import Theme
from veergust.desk.stage.view import StageView

RING, NEAR = 46.0, 9.0
AXES = ("x", "y", "z")
# Three inks of the press that are told apart by dash as well.
RING_LOOK = (("strike", Qt.PenStyle.SolidLine), ("drive", Qt.PenStyle.DashLine), ("shield", Qt.PenStyle.DotLine))


class PoseTool:
    """Turns and pulls the joints of one pose. ``pose`` gives it, ``show`` previews and ``settle`` keeps a new one."""

    def __init__(
        self,
        theme: Theme,
        frame: Array,
        pose: Callable[[], Pose | None],
        show: Callable[[Pose], None],
        settle: Callable[[Pose, str], None],
        selected: Callable[[int], None],
    ) -> None:
        self.theme = theme
        self.frame = frame
        self.pose, self.show, self.settle, self.selected = pose, show, settle, selected
        self.skeleton: Skeleton | None = None
        self.joint = -1
        self.local = True
        self._hold: tuple[str, int, QPointF, Pose, Array] | None = None
        self._made: Pose | None = None

    def _world(self, pose: Pose) -> Array:
        assert self.skeleton is not None
        return np.asarray(self.frame @ forward(self.skeleton, pose.rotation, pose.translation)[0])

    def _spot(self, view: StageView, at: Array) -> tuple[QPointF, float]:
        x, y, scale = view.camera.on_picture(at, view.width(), view.height())
        return QPointF(x, y), scale

    def joint_point(self, view: StageView, joint: int) -> QPointF:
        """Where a joint is on the picture."""
        pose = self.pose()
        assert pose is not None
        return self._spot(view, self._world(pose)[joint, :3, 3])[0]

    def ring(self, view: StageView, world: Array, joint: int, axis: int) -> list[QPointF]:
        """A ring's points on the picture, always as large on it."""
        _, scale = self._spot(view, world[joint, :3, 3])
        if scale <= 0:
            return []
        size = RING / scale
        frame = world[joint, :3, :3] if self.local else self.frame[:3, :3]
        u, v = frame[:, (axis + 1) % 3], frame[:, (axis + 2) % 3]
        turn = np.linspace(0, 2 * np.pi, 49)
        points = world[joint, :3, 3] + size * (np.cos(turn)[:, None] * u + np.sin(turn)[:, None] * v)
        return [self._spot(view, point)[0] for point in points]

    # The mouse

    def press(self, at: QPointF, view: StageView) -> bool:
        """Take a ring of the selected joint, a limb's end, or another joint."""
        pose = self.pose()
        if pose is None or self.skeleton is None:
            return False
        world = self._world(pose)
        if self.joint >= 0:
            for axis in range(3):
                ring = self.ring(view, world, self.joint, axis)
                for a, b in zip(ring, ring[1:]):
                    if _far(at, (a + b) / 2) < NEAR * 0.7:
                        way = np.array([(b - a).x(), (b - a).y()]) / (2 * np.pi / 48)
                        self._hold = (AXES[axis], self.joint, at, pose, way)
                        return True
        spots = [self._spot(view, world[j, :3, 3])[0] for j in range(len(self.skeleton))]
        near = sorted((j for j in range(len(spots)) if _far(at, spots[j]) < NEAR), key=lambda j: _far(at, spots[j]))
        if not near:
            return False
        ends = limb_ends(self.skeleton)
        joint = next((j for j in near if j in ends), near[0])
        self.joint = joint
        self.selected(joint)
        pulls = joint in ends or self.skeleton.parents[joint] < 0 or joint == hips_of(self.skeleton)
        self._hold = ("pull" if pulls else "take", joint, at, pose, world[joint, :3, 3])
        view.words.update()
        return True

    def drag(self, at: QPointF, view: StageView) -> None:
        """Turn or pull as far as the mouse has gone."""
        if self._hold is None or self.skeleton is None:
            return
        kind, joint, start, pose, way = self._hold
        if kind == "take":
            return
        if kind == "pull":
            target = view.camera.in_plane(at.x(), at.y(), view.width(), view.height(), way)
            inside = np.linalg.inv(self.frame) @ np.array([*target, 1.0])
            self._made = pull(self.skeleton, pose, joint, inside[:3])
        else:
            moved = np.array([at.x() - start.x(), at.y() - start.y()])
            degrees = float(np.degrees(moved @ way / max(float(way @ way), 25.0)))
            axis = np.eye(3)[AXES.index(kind)]
            self._made = turn_joint(self.skeleton, pose, joint, axis, degrees, local=self.local)
        self.show(self._made)

    def release(self, at: QPointF, view: StageView) -> None:
        """Keep what was made."""
        hold, made = self._hold, self._made
        self._hold = self._made = None
        if hold is not None and made is not None and self.skeleton is not None:
            name = self.skeleton.names[hold[1]]
            self.settle(made, f"{name} pulled" if hold[0] == "pull" else f"{name} turned about {hold[0]}")

    # Drawing

    def draw(self, p: QPainter, view: StageView) -> None:
        """Dots on joints, squares on what can be pulled, rings on the selected one."""
        pose = self.pose()
        if pose is None or self.skeleton is None:
            return
        theme, world = self.theme, self._world(pose)
        pulled = (*limb_ends(self.skeleton), hips_of(self.skeleton))
        for j in range(len(self.skeleton)):
            spot, scale = self._spot(view, world[j, :3, 3])
            if scale <= 0:
                continue
            chosen = j == self.joint
            p.setPen(QPen(theme.colour("paper_bright"), 1.2))
            p.setBrush(theme.colour("accent" if chosen else "ink_soft"))
            size = 6.0 if chosen else 4.0 if j in pulled else 2.6
            if j in pulled:
                p.drawRect(QRectF(spot.x() - size, spot.y() - size, 2 * size, 2 * size))
            else:
                p.drawEllipse(spot, size, size)
        if 0 <= self.joint < len(self.skeleton):
            for axis, (role, style) in enumerate(RING_LOOK):
                path = QPainterPath()
                ring = self.ring(view, world, self.joint, axis)
                if not ring:
                    continue
                path.moveTo(ring[0])
                for point in ring[1:]:
                    path.lineTo(point)
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.setPen(QPen(theme.colour("sky"), 4.0))
                p.drawPath(path)
                p.setPen(QPen(theme.colour(role), 2.0, style))
                p.drawPath(path)
                p.setFont(theme.bold(12))
                p.drawText(ring[6] + QPointF(4, -3), AXES[axis])


class MountTool:
    """Moves one mount in the picture's plane."""

    def __init__(
        self,
        theme: Theme,
        spots: Callable[[], list[tuple[str, Array]]],
        move: Callable[[str, Array, bool], None],
        selected: Callable[[str], None],
    ) -> None:
        self.theme = theme
        self.spots, self.move, self.selected = spots, move, selected
        self.chosen = ""
        self._hold: tuple[str, Array, QPointF] | None = None

    def point(self, view: StageView, name: str) -> QPointF:
        """Where a mount is on the picture."""
        at = next(at for n, at in self.spots() if n == name)
        x, y, _ = view.camera.on_picture(at, view.width(), view.height())
        return QPointF(x, y)

    def press(self, at: QPointF, view: StageView) -> bool:
        """Take the nearest mount."""
        near = sorted(((_far(at, self.point(view, n)), n, spot) for n, spot in self.spots()), key=lambda row: row[0])
        if not near or near[0][0] > NEAR + 2:
            return False
        self.chosen = near[0][1]
        self.selected(self.chosen)
        self._hold = (self.chosen, near[0][2], at)
        return True

    def _target(self, at: QPointF, view: StageView) -> Array:
        assert self._hold is not None
        return view.camera.in_plane(at.x(), at.y(), view.width(), view.height(), self._hold[1])

    def drag(self, at: QPointF, view: StageView) -> None:
        """Show it under the mouse."""
        if self._hold is not None and _far(at, self._hold[2]) > 2:
            self.move(self._hold[0], self._target(at, view), False)

    def release(self, at: QPointF, view: StageView) -> None:
        """Leave it there."""
        if self._hold is not None and _far(at, self._hold[2]) > 2:
            self.move(self._hold[0], self._target(at, view), True)
        self._hold = None

    def draw(self, p: QPainter, view: StageView) -> None:
        """A cross and a name for each mount."""
        theme = self.theme
        for name, at in self.spots():
            x, y, scale = view.camera.on_picture(at, view.width(), view.height())
            if scale <= 0:
                continue
            chosen = name == self.chosen
            for role, wide in (("sky", 4.5), ("accent" if chosen else "ink", 2.0)):
                p.setPen(QPen(theme.colour(role), wide))
                size = 8 if chosen else 5
                p.drawLine(QPointF(x - size, y), QPointF(x + size, y))
                p.drawLine(QPointF(x, y - size), QPointF(x, y + size))
            path = QPainterPath()
            path.addText(QPointF(x + 9, y - 5), theme.bold(12) if chosen else theme.font(12), name)
            p.strokePath(path, QPen(theme.colour("sky"), 4.0))
            p.fillPath(path, theme.colour("accent" if chosen else "ink"))


def _far(a: QPointF, b: QPointF) -> float:
    return float(np.hypot(a.x() - b.x(), a.y() - b.y()))
