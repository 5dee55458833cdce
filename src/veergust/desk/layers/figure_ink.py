"""A figure drawn as bones and joints, as it stands in rest, shaded by how much of each joint a mask speaks for."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from veergust.core.motion import Array, Skeleton, over_body, parts_of
from veergust.desk.look.theme import Theme

FRONT, SIDE = (0, 1), (2, 1)
"""Which of a place's numbers go across and up, seen from the front and from the side."""


SPREAD = 50.0
"""Arms that hang are drawn so far (degrees) off the body, so that their joints can be told apart."""


def standing(bones: Skeleton) -> Array:
    """Where the joints are drawn ``[J, 3]`` (m): in rest, with hanging arms held off the body."""
    places = bones.rest_world[:, :3, 3].copy()
    for j, part in enumerate(parts_of(bones)):
        if part.kind != "upper_arm" or bones.parents.count(j) == 0:
            continue
        below = [int(i) for i in bones.below((j,)) if i != j]
        way = places[below].mean(axis=0) - places[j]
        if -way[1] < 2.0 * abs(way[0]):
            continue
        turn = np.radians(SPREAD) * (1.0 if part.side == "left" else -1.0)
        c, s = np.cos(turn), np.sin(turn)
        arm = places[below] - places[j]
        places[below, 0] = places[j, 0] + c * arm[:, 0] - s * arm[:, 1]
        places[below, 1] = places[j, 1] + s * arm[:, 0] + c * arm[:, 1]
    return places


def laid_out(places: Array, rect: QRectF, axes: tuple[int, int] = FRONT) -> list[QPointF]:
    """Joints ``[J, 3]`` (m) fitted into a rectangle. From the front the figure's left is on the right, as when it is
    looked in the face."""
    if not len(places):
        return []
    across, up = places[:, axes[0]], places[:, axes[1]]
    wide, high = max(float(np.ptp(across)), 1e-6), max(float(np.ptp(up)), 1e-6)
    scale = min(rect.width() / wide, rect.height() / high)
    middle, top = (across.max() + across.min()) / 2, up.max()
    spare = (rect.height() - high * scale) / 2
    return [
        QPointF(rect.center().x() + float(x - middle) * scale, rect.top() + spare + float(top - y) * scale)
        for x, y in zip(across, up)
    ]


def sizes(points: list[QPointF], bones: Skeleton, most: float) -> list[float]:
    """How large each joint's dot may be: fingers and toes lie close together."""
    out = [most] * len(points)
    for j, parent in enumerate(bones.parents):
        if parent >= 0:
            far = float(np.hypot(points[j].x() - points[parent].x(), points[j].y() - points[parent].y()))
            out[j] = min(out[j], max(0.45 * far, 0.3 * most))
    return out


def shade(theme: Theme, ink: str, weight: float) -> QColor:
    """An ink laid over the colour of bones nobody speaks for."""
    bare, full = theme.colour("floor_line"), theme.colour(ink)
    parts = [a + (b - a) * weight for a, b in zip(bare.getRgbF()[:3], full.getRgbF()[:3])]  # type: ignore[index]
    return QColor.fromRgbF(*parts)


def draw_figure(
    p: QPainter,
    theme: Theme,
    bones: Skeleton,
    points: list[QPointF],
    weights: Sequence[float],
    ink: str,
    *,
    dot: float,
    line: float,
) -> None:
    """Bones and joints; a joint is filled as far as its weight goes."""
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    over = over_body(bones)
    for j, parent in enumerate(bones.parents):
        if parent >= 0 and parent not in over:
            colour = shade(theme, ink, min(weights[j], weights[parent]))
            p.setPen(QPen(colour, line, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            p.drawLine(points[parent], points[j])
    large = sizes(points, bones, dot)
    rim = QPen(theme.colour("ink"), 1.0 if dot > 3 else 0.8)
    for point, weight, r in zip(points, weights, large):
        p.setPen(rim)
        p.setBrush(theme.colour("paper_bright"))
        p.drawEllipse(point, r, r)
        if weight >= 1.0:
            p.setBrush(theme.colour(ink))
            p.drawEllipse(point, r, r)
        elif weight > 0.0:
            p.setBrush(theme.colour(ink))
            p.drawPie(QRectF(point.x() - r, point.y() - r, 2 * r, 2 * r), 90 * 16, -round(weight * 360 * 16))


def joint_near(points: list[QPointF], at: QPointF, within: float) -> int:
    """The joint under a point, or −1."""
    if not points:
        return -1
    far = [float(np.hypot(at.x() - q.x(), at.y() - q.y())) for q in points]
    best = int(np.argmin(far))
    return best if far[best] <= within else -1


def ring(p: QPainter, theme: Theme, point: QPointF, name: str, right: float) -> None:
    """A ring round a joint that is chosen, with its name beside it."""
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(theme.colour("accent"), 2.4))
    p.drawEllipse(point, 10, 10)
    if not name:
        return
    font = theme.bold(13)
    p.setFont(font)
    wide = p.fontMetrics().horizontalAdvance(name)
    path = QPainterPath()
    path.addText(QPointF(min(point.x() + 13, right - wide - 6), point.y() - 9), font, name)
    p.strokePath(path, QPen(theme.colour("paper"), 4.0))
    p.fillPath(path, theme.colour("accent"))
