"""The figure from the front and from the side, on which a mask is painted joint by joint, whatever creature it is."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QToolTip, QWidget

from veergust.core.motion import Array, Skeleton
from veergust.desk.keys.pressing import BACK, pressed
from veergust.desk.keys.table import on_key
from veergust.desk.layers.figure_ink import FRONT, SIDE, draw_figure, joint_near, laid_out, ring, standing
from veergust.desk.look.theme import Theme
from veergust.desk.widgets.accessible import ToldRow

NEAR = 14.0


class MaskMap(QWidget):
    """Joints are chosen and painted by a click or by keys. ``painted`` is sent with a joint and whether it is to be
    added or taken away."""

    painted = Signal(int, bool)
    chosen = Signal(int)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.bones: Skeleton | None = None
        self.places: Array = np.zeros((0, 3))
        self.weights: list[float] = []
        self.ink = "combo"
        self.joint = -1
        self.under = -1
        self.live = False
        self.setMinimumSize(240, 150)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Mask on the figure")
        theme.changed.connect(self.update)

    def show_mask(self, bones: Skeleton, weights: Array, ink: str, joint: int, live: bool) -> None:
        """Show how much of each joint ``[J]`` a mask speaks for; ``live`` is whether it can be painted."""
        if bones is not self.bones:
            self.places = standing(bones)
        self.bones, self.weights, self.ink, self.joint, self.live = bones, [float(w) for w in weights], ink, joint, live
        if 0 <= joint < len(bones):
            self.setAccessibleDescription(f"{bones.names[joint]}, {self.weights[joint]:.2f}")
        self.update()

    def _boxes(self) -> tuple[QRectF, QRectF]:
        wide, high = self.width(), self.height()
        return QRectF(22, 14, wide * 0.62 - 36, high - 44), QRectF(wide * 0.62 + 14, 14, wide * 0.38 - 40, high - 44)

    def points(self) -> tuple[list[QPointF], list[QPointF]]:
        """Where the joints are, from the front and from the side."""
        if self.bones is None or not len(self.bones):
            return [], []
        front, side = self._boxes()
        return laid_out(self.places, front, FRONT), laid_out(self.places, side, SIDE)

    def told(self) -> list[ToldRow]:
        """The joints and how much of each the mask speaks for, for who hears it."""
        names = self.bones.names if self.bones is not None else ()
        front, _ = self.points()
        out = []
        for j, name in enumerate(names):
            spot = QRectF(front[j].x() - NEAR, front[j].y() - NEAR, 2 * NEAR, 2 * NEAR)
            out.append(ToldRow(name, f"{self.weights[j]:.2f}", spot, j == self.joint))
        return out

    def joint_at(self, at: QPointF) -> int:
        """The joint under a point, or −1."""
        front, side = self.points()
        found = joint_near(front, at, NEAR)
        return found if found >= 0 else joint_near(side, at, NEAR)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        joint = self.joint_at(event.position())
        if joint < 0:
            return
        self.chosen.emit(joint)
        right = event.button() == Qt.MouseButton.RightButton
        away = right or bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        self.painted.emit(joint, not away)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        joint = self.joint_at(event.position())
        if joint == self.under:
            return
        self.under = joint
        if joint >= 0 and self.bones is not None:
            words = f"{self.bones.names[joint]} {self.weights[joint]:.2f}"
            tip = f"{words}\nclick to add, right-click to take away" if self.live else words
            QToolTip.showText(event.globalPosition().toPoint(), tip, self)
        else:
            QToolTip.hideText()
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = pressed(event)
        if self.bones is None or not len(self.bones):
            super().keyPressEvent(event)
        elif (does := on_key("mask", keys)) == "other_joint":
            step = -1 if keys in BACK else 1
            self.chosen.emit((self.joint + step) % len(self.bones) if self.joint >= 0 else 0)
        elif does in ("paint_joint", "clear_joint") and self.joint >= 0:
            self.painted.emit(self.joint, does == "paint_joint")
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        p, theme = QPainter(self), self.theme
        p.fillRect(self.rect(), theme.colour("paper"))
        front, side = self.points()
        if self.bones is None or not front:
            p.setFont(theme.font(13))
            p.setPen(theme.colour("ink_soft"))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "No figure yet. Drop one on the window.")
            return
        boxes = self._boxes()
        for points, box, words in ((front, boxes[0], "front"), (side, boxes[1], "side")):
            draw_figure(p, theme, self.bones, points, self.weights, self.ink, dot=5.5, line=6.0)
            p.setFont(theme.font(12))
            p.setPen(theme.colour("ink_soft"))
            below = QRectF(box.left(), self.height() - 22, box.width(), 18)
            p.drawText(below, Qt.AlignmentFlag.AlignCenter, words)
        if 0 <= self.joint < len(front):
            ring(p, theme, side[self.joint], "", self.width())
            ring(p, theme, front[self.joint], self.bones.names[self.joint], self.width() * 0.62)
        elif 0 <= self.under < len(front):
            ring(p, theme, front[self.under], self.bones.names[self.under], self.width() * 0.62)
        p.end()
