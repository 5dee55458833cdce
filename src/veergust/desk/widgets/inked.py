"""Small inked poses: the figure's silhouette from its side, or its drawing, kept as pixmaps."""

from __future__ import annotations

from typing import TYPE_CHECKING
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QByteArray, QDataStream, QIODevice, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPixmap

from veergust import core

if TYPE_CHECKING:
    from veergust.core.motion import Array, DrawnSheet, Mesh


def draw_pose(p: QPainter, mesh: Mesh, joints: Array, scale: float, opacity: float = 1.0) -> None:
    """A pose with its feet at the painter's origin, ``scale`` pixels a metre, looking ahead to the right.

    Its silhouette in the painter's brush, or of a figure that is drawn its drawing by ``opacity``."""
    if not mesh.sheets:
        p.drawPath(silhouette(mesh, joints, scale))
        return
    number, cell = core.motion.shown_on(joints, 0, mesh.picture)
    sheet = mesh.sheets[number] if number < len(mesh.sheets) else None
    if sheet is None or cell >= len(sheet.rects):
        return
    back, low, ahead, high = sheet.around(cell)
    image = cell_image(sheet, cell)
    p.save()
    p.setOpacity(p.opacity() * opacity)
    p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    p.drawImage(QRectF(back * scale, -high * scale, (ahead - back) * scale, (high - low) * scale), image)
    p.restore()


def cell_image(sheet: DrawnSheet, cell: int) -> QImage:
    """A cell as a picture that looks to the right."""
    pixels = sheet.cell(cell)
    high, wide = pixels.shape[:2]
    data = np.ascontiguousarray(pixels if sheet.right else pixels[:, ::-1])
    # The picture only points at its bytes: it keeps a copy of them.
    return QImage(data.data, wide, high, 4 * wide, QImage.Format.Format_RGBA8888).copy()


def silhouette(mesh: Mesh, joints: Array, scale: float) -> QPainterPath:
    """The outline's inside for joint matrices ``[J, 4, 4]`` in the body's frame, looking ahead to the right.

    ``scale`` is pixels a metre; the floor is at y = 0 and the body stands at x = 0.
    """
    skin = (joints @ mesh.inverse_bind).astype(np.float32)
    # Ahead and down, as they are seen from the side.
    seen: Floats = skin[:, [2, 1]] * np.array([scale, -scale], np.float32)[:, None]
    corner = _placed(mesh, seen)[mesh.faces]
    a, b = corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]
    # Faces turned one way only, so that they all wind alike and fill as one shape.
    near = corner[(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]) > 0.02]
    ring = near[:, [0, 1, 2, 0]].reshape(-1, 2).astype(np.float64)
    return rings_path(ring, 4)


Floats = NDArray[np.float32]
_SHARES: WeakKeyDictionary[Mesh, Floats] = WeakKeyDictionary()
MOST_SHARES = 4_000_000
"""A mesh with more numbers than this has no table of its own of what each joint does to each point."""


def _placed(mesh: Mesh, seen: Floats) -> Floats:
    """Where the skin's points are ``[V, 2]`` under two rows of each joint's matrix ``[J, 2, 4]``."""
    points = np.concatenate([mesh.points, np.ones((len(mesh.points), 1), np.float32)], axis=1)
    if len(points) * len(seen) * 4 > MOST_SHARES:
        out = np.zeros((len(points), 2), np.float32)
        for k in range(4):
            out += mesh.weights[:, k, None] * np.einsum("vij,vj->vi", seen[mesh.joints[:, k]], points)
        return out
    shares = _SHARES.get(mesh)
    if shares is None:
        # One product of matrices is a third of the work of four sums over the points.
        shares = np.zeros((len(points), len(seen), 4), np.float32)
        for k in range(4):
            shares[np.arange(len(points)), mesh.joints[:, k]] += mesh.weights[:, k, None] * points
        shares = _SHARES[mesh] = shares.reshape(len(points), -1)
    return np.asarray(shares @ seen.transpose(0, 2, 1).reshape(-1, 2))


ELEMENT = np.dtype([("kind", ">i4"), ("x", ">f8"), ("y", ">f8")])


def rings_path(points: Array, count: int) -> QPainterPath:
    """Rings of ``count`` points each, ``[N · count, 2]``, as one path that fills where they wind alike.

    It is read from the form Qt writes paths in, since adding thousands of points one by one takes far longer.
    """
    if not len(points):
        return QPainterPath()
    elements = np.zeros(len(points), ELEMENT)
    elements["kind"] = np.arange(len(points)) % count != 0
    elements["x"], elements["y"] = points[:, 0], points[:, 1]
    size, ends = np.array([len(points)], ">i4"), np.array([0, 1], ">i4")
    # The stream only points at its bytes: they have to stay until it has been read.
    data = QByteArray(size.tobytes() + elements.tobytes() + ends.tobytes())
    stream = QDataStream(data, QIODevice.OpenModeFlag.ReadOnly)
    path = QPainterPath()
    stream >> path
    path.setFillRule(Qt.FillRule.WindingFill)
    return path


TALL = 1.95
"""A pose is drawn as if so high (m), so that all of somebody upright is seen."""


def _tall(mesh: Mesh) -> float:
    """How high (m) what is shown of a figure may be: of one that is drawn as high as any drawing reaches."""
    return max(float(mesh.points[:, 1].max()) * 1.02, 0.05) if mesh.sheets else TALL


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
    draw_pose(p, mesh, joints, (height - 4) / _tall(mesh), ink.alphaF())
    p.end()
    return pixmap
