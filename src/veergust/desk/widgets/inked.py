"""Small inked poses: the figure's silhouette from its side, kept as pixmaps."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPixmap, QPolygonF

from veergust.core.motion.figure import Mesh
from veergust.core.motion.quat import Array


def silhouette(mesh: Mesh, joints: Array, scale: float) -> QPainterPath:
    """The outline's inside for joint matrices ``[J, 4, 4]`` in the body's frame, looking ahead to the right.

    ``scale`` is pixels a metre; the floor is at y = 0 and the body stands at x = 0.
    """
    skin = (joints @ mesh.inverse_bind).astype(np.float32)
    points = np.concatenate([mesh.points, np.ones((len(mesh.points), 1), np.float32)], axis=1)
    placed = np.zeros((len(points), 3), np.float32)
    for k in range(4):
        placed += mesh.weights[:, k, None] * np.einsum("vij,vj->vi", skin[mesh.joints[:, k], :3], points)
    flat = np.stack([placed[:, 2] * scale, -placed[:, 1] * scale], axis=-1)
    corner = flat[mesh.faces]
    a, b = corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]
    # Faces turned one way only, so that they all wind alike and fill as one shape.
    near = corner[(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]) > 0.02]
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.WindingFill)
    for (x0, y0), (x1, y1), (x2, y2) in near.tolist():
        path.addPolygon(QPolygonF([QPointF(x0, y0), QPointF(x1, y1), QPointF(x2, y2), QPointF(x0, y0)]))
    return path


def pose_pixmap(mesh: Mesh, joints: Array, width: int, height: int, ink: QColor, ratio: float) -> QPixmap:
    """A pose standing in the middle of a see-through pixmap of ``width`` × ``height`` points."""
    pixmap = QPixmap(round(width * ratio), round(height * ratio))
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(Qt.GlobalColor.transparent)
    p = QPainter(pixmap)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.translate(width * 0.42, height - 2)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(ink)
    p.drawPath(silhouette(mesh, joints, (height - 4) / 1.95))
    p.end()
    return pixmap
