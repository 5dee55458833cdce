"""A map of a rig: its own joints and bones as they stand in rest, seen from the front, whatever creature it is."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from veergust.core.motion import Array, Skeleton
from veergust.desk.keys.pressing import BACK, pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme
from veergust.desk.widgets.accessible import ToldRow

MARGIN, NEAR = 34, 12.0


class RigMap(QWidget):
    """Joints as dots: filled where something answers to them. A click or the arrow keys choose one."""

    chosen = Signal(int)

    def __init__(self, theme: Theme, title: str) -> None:
        super().__init__()
        self.theme = theme
        self.title = title
        self.skeleton: Skeleton | None = None
        self.places = np.zeros((0, 3))
        self.matched: set[int] = set()
        self.selected = -1
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(title)
        self.setToolTip("Click a joint")
        self.setMinimumSize(220, 260)
        theme.changed.connect(self.update)

    def show_rig(self, skeleton: Skeleton, places: Array) -> None:
        """Show a skeleton whose joints stand at ``places`` ``[J, 3]``, +Y up, looking along +Z."""
        self.skeleton, self.places = skeleton, places
        self.selected = -1
        self.update()

    def show_state(self, matched: set[int], selected: int) -> None:
        """Which joints are answered to, and which one is chosen."""
        self.matched, self.selected = matched, selected
        if self.skeleton is not None and selected >= 0:
            self.setAccessibleDescription(self.skeleton.names[selected])
        self.update()

    def point(self, joint: int) -> QPointF:
        """Where a joint is on the map. The figure's left is on the right, as when it is looked in the face."""
        low, high = self.places.min(axis=0), self.places.max(axis=0)
        span = np.maximum(high - low, 1e-6)
        scale = min((self.width() - 2 * MARGIN) / span[0], (self.height() - 2 * MARGIN - 16) / span[1])
        middle = (low[0] + high[0]) / 2
        x = self.width() / 2 + (self.places[joint, 0] - middle) * scale
        spare = (self.height() - 2 * MARGIN - 16 - span[1] * scale) / 2
        y = MARGIN + 16 + spare + (high[1] - self.places[joint, 1]) * scale
        # Joints that hide one another from the front are drawn a little apart by how far ahead they are.
        return QPointF(float(x + self.places[joint, 2] * scale * 0.25), float(y))

    def told(self) -> list[ToldRow]:
        """The joints and whether something answers to them, for who hears it."""
        out = []
        for j, name in enumerate(self.skeleton.names if self.skeleton is not None else ()):
            at = self.point(j)
            says = "answered to" if j in self.matched else "nothing answers"
            out.append(ToldRow(name, says, QRectF(at.x() - 6, at.y() - 6, 12, 12), j == self.selected))
        return out

    def joint_at(self, at: QPointF) -> int:
        """The joint under a point, or −1."""
        if self.skeleton is None or not len(self.places):
            return -1
        far = [np.hypot(at.x() - p.x(), at.y() - p.y()) for p in map(self.point, range(len(self.places)))]
        best = int(np.argmin(far))
        return best if far[best] < NEAR else -1

    def mousePressEvent(self, event: QMouseEvent) -> None:
        joint = self.joint_at(event.position())
        if joint >= 0:
            self.chosen.emit(joint)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = pressed(event)
        if on_key("mapping", keys) != "other_pair" or self.skeleton is None or not len(self.skeleton):
            super().keyPressEvent(event)
            return
        self.chosen.emit((max(self.selected, 0) + (-1 if keys in BACK else 1)) % len(self.skeleton))

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.theme
        p.fillRect(self.rect(), theme.colour("sky"))
        p.setFont(theme.bold(13))
        p.setPen(theme.colour("ink"))
        p.drawText(QRectF(14, 8, self.width() - 28, 20), Qt.AlignmentFlag.AlignVCenter, self.title)
        if self.skeleton is None or not len(self.places):
            return
        points = [self.point(j) for j in range(len(self.places))]
        p.setPen(QPen(theme.colour("ink_faint"), 5.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        for j, parent in enumerate(self.skeleton.parents):
            if parent >= 0:
                p.drawLine(points[parent], points[j])
        for j, point in enumerate(points):
            answered = j in self.matched
            p.setPen(QPen(theme.colour("ink" if answered else "warn"), 1.6))
            p.setBrush(theme.colour("ink" if answered else "sky"))
            p.drawEllipse(point, 4.5, 4.5)
        if 0 <= self.selected < len(points):
            point = points[self.selected]
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(theme.colour("accent"), 2.6))
            p.drawEllipse(point, 9, 9)
            path = QPainterPath()
            name = self.skeleton.names[self.selected]
            wide = p.fontMetrics().horizontalAdvance(name)
            left = min(point.x() + 13, self.width() - wide - 8)
            path.addText(QPointF(left, point.y() + 4), theme.bold(13), name)
            p.strokePath(path, QPen(theme.colour("sky"), 5.0))
            p.fillPath(path, theme.colour("accent"))
