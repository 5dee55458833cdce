"""The floor map put on paper: looked at from above, the attacker on the left, looking to the right."""

from __future__ import annotations

from math import cos, radians, sin

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPolygonF

from veergust.core.study import NEVER, FloorMap
from veergust.desk.look.theme import Theme, elided

LEGEND = 30.0
BODY = 0.16
"""The attacker's dot on the floor (m)."""
SHADES = 5
PALE, DEEP = 0.24, 0.96


class FloorInk:
    """Where a map lies in a rectangle, and how it is drawn there."""

    def __init__(self, found: FloorMap, rect: QRectF) -> None:
        self.map = found
        rows, columns = found.first.shape
        x, z, step = *found.origin, found.step
        # The start belongs to the picture, however far off everything is touched.
        self.left, self.right = max(x + (columns - 1) * step, 0.4) + step, min(x, -0.4) - step
        self.near, self.far = min(z, -0.4) - step, max(z + (rows - 1) * step, 1.0) + step
        self.scale = min(rect.width() / (self.far - self.near), rect.height() / (self.left - self.right))
        spare_x = rect.width() - (self.far - self.near) * self.scale
        spare_y = rect.height() - (self.left - self.right) * self.scale
        self.corner = rect.topLeft() + QPointF(spare_x / 2, spare_y / 2)

    def point(self, x: float, z: float) -> QPointF:
        """A place of the floor on the picture."""
        return self.corner + QPointF((z - self.near) * self.scale, (self.left - x) * self.scale)

    def place(self, point: QPointF) -> tuple[float, float]:
        """(x, z) on the floor of a point of the picture."""
        at = point - self.corner
        return self.left - at.y() / self.scale, self.near + at.x() / self.scale

    def cell(self, point: QPointF) -> tuple[int, int] | None:
        """(row, column) of the map's cell under a point."""
        x, z = self.place(point)
        row = round((z - self.map.origin[1]) / self.map.step)
        column = round((x - self.map.origin[0]) / self.map.step)
        rows, columns = self.map.first.shape
        return (row, column) if 0 <= row < rows and 0 <= column < columns else None

    def draw(self, p: QPainter, theme: Theme, frame: int, chosen: tuple[int, int] | None = None) -> None:
        """Draw the map; cells first touched on ``frame`` have a dot, and the ``chosen`` one a cross."""
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        found, side = self.map, max(self.map.step * self.scale - 1.0, 1.0)
        x, z = found.origin
        # All cells of one tint at once: there are thousands of them, and few tints.
        for tick in np.unique(found.first).tolist():
            rows, columns = np.nonzero(found.first == tick)
            middles = [
                self.point(x + column * found.step, z + row * found.step)
                for row, column in zip(rows.tolist(), columns.tolist())
            ]
            tint = theme.colour("hair", 0.45) if tick == NEVER else shade(theme, found, tick)
            _squares(p, middles, side, tint)
            if tick == frame and tick != NEVER:
                _squares(p, middles, max(side * 0.3, 1.0), theme.colour("ink"))
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.save()
        p.setClipRect(QRectF(self.point(self.left, self.near), self.point(self.right, self.far)))
        self._rings(p, theme)
        p.restore()
        self._attacker(p, theme)
        if chosen is not None:
            at = self.point(x + chosen[1] * found.step, z + chosen[0] * found.step)
            p.setPen(theme.pen("ink", 2.0))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawEllipse(at, 5.0, 5.0)

    def _rings(self, p: QPainter, theme: Theme) -> None:
        """Arcs as far as it reaches, and as far as the dead corner goes."""
        corner = self.map.corner
        for far in (self.map.reach, corner[0] if corner is not None else None):
            if far is None:
                continue
            way = QPainterPath()
            for n, angle in enumerate(range(-60, 61, 4)):
                at = self.point(far * sin(radians(angle)), far * cos(radians(angle)))
                way.moveTo(at) if n == 0 else way.lineTo(at)
            p.setPen(theme.pen("ink_soft", 1.0, Qt.PenStyle.DashLine))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPath(way)

    def _attacker(self, p: QPainter, theme: Theme) -> None:
        at, size = self.point(0.0, 0.0), min(max(BODY * self.scale, 4.0), 11.0)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colour("ink"))
        p.drawEllipse(at, size, size)
        nose = [QPointF(size * 1.25, -size * 0.6), QPointF(size * 2.1, 0.0), QPointF(size * 1.25, size * 0.6)]
        p.drawPolygon(QPolygonF([at + q for q in nose]))


def _squares(p: QPainter, middles: list[QPointF], side: float, colour: QColor) -> None:
    half = QPointF(side / 2, side / 2)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(colour)
    p.drawRects([QRectF(at - half, QSizeF(side, side)) for at in middles])


def shade(theme: Theme, found: FloorMap, tick: int) -> QColor:
    """The tint of a first touch on a tick: the sooner the paler."""
    first, last = found.ticks or (0, 0)
    much = PALE + (DEEP - PALE) * ((tick - first) / max(last - first, 1))
    colour = QColor(theme.look.role("strike").ink)
    paper = theme.colour("paper")
    mine, other = (colour.red(), colour.green(), colour.blue()), (paper.red(), paper.green(), paper.blue())
    return QColor(*(round(a * much + b * (1 - much)) for a, b in zip(mine, other)))


def draw_legend(p: QPainter, theme: Theme, found: FloorMap, rect: QRectF) -> None:
    """The first and the last frame of first touches, and the tints between."""
    if found.ticks is None:
        return
    first, last = found.ticks
    p.setFont(theme.font(12))
    p.setPen(theme.colour("ink_soft"))
    words = f"frame {first}"
    p.drawText(rect, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words)
    left = rect.left() + p.fontMetrics().horizontalAdvance(words) + 8
    many = min(last - first + 1, SHADES)
    for n in range(many):
        tick = first + round(n * (last - first) / max(many - 1, 1))
        p.fillRect(QRectF(left + 13 * n, rect.center().y() - 6, 12, 12), shade(theme, found, tick))
    if last > first:
        p.drawText(
            QRectF(left + 13 * many + 6, rect.top(), 60, rect.height()),
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
            str(last),
        )


def draw_sentences(
    p: QPainter, theme: Theme, rows: list[tuple[str, str]], rect: QRectF, size: int, tall: float
) -> None:
    """Numbers and their words, one under another."""
    for n, (number, words) in enumerate(rows):
        line = QRectF(rect.left(), rect.top() + tall * n, rect.width(), tall)
        p.setFont(theme.bold(size))
        p.setPen(theme.colour("ink"))
        p.drawText(line, Qt.AlignmentFlag.AlignVCenter, number)
        used = p.fontMetrics().horizontalAdvance(number) + (6 if number else 0)
        p.setFont(theme.font(size))
        p.setPen(theme.colour("ink_soft"))
        said = elided(words, theme.font(size), rect.width() - used)
        p.drawText(line.adjusted(used, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, said)


def sentences(found: FloorMap) -> list[tuple[str, str]]:
    """What the map says, as number and words."""
    if found.ticks is None:
        return [("", "Nobody who stands is touched.")]
    out = [(f"{found.reach:.2f} m", "reach, straight ahead")] if found.reach is not None else []
    assert found.farthest is not None
    far, bearing = found.farthest
    if found.reach is None or far > found.reach + found.step:
        out.append((f"{far:.2f} m", f"farthest, {where(bearing)}"))
    out.append((f"{found.width:.0f}°", "wide"))
    if found.corner is not None:
        out.append((f"{found.corner[0]:.2f} m", f"dead corner, {where(found.corner[1])}"))
    return out


def where(bearing: float) -> str:
    """A bearing in words."""
    if abs(bearing) < 4.0:
        return "ahead"
    if abs(bearing) > 176.0:
        return "behind"
    return f"{abs(bearing):.0f}° {'left' if bearing > 0 else 'right'}"
