"""The look as Qt sees it: colours, hatch brushes, pens and fonts. The style sheet is in ``style``."""

from __future__ import annotations

from functools import cache, lru_cache
from importlib.resources import files

from PySide6.QtCore import QLineF, QObject, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QBrush,
    QColor,
    QFont,
    QFontDatabase,
    QFontMetricsF,
    QPainter,
    QPen,
    QPixmap,
    QStaticText,
    QTransform,
)

from veergust.desk.look.style import FAMILY
from veergust.look import DAY, THEMES, WASH, Palette, Role

TILE = 12


def load_fonts() -> None:
    """Make the shipped typeface known to Qt."""
    for entry in sorted((files("veergust.desk") / "fonts").iterdir(), key=lambda e: e.name):
        if entry.name.endswith(".ttf"):
            QFontDatabase.addApplicationFontFromData(entry.read_bytes())


class Theme(QObject):
    """The look in use; ``changed`` is sent when the person turns from day to night."""

    changed = Signal()

    def __init__(self, look: Palette = DAY, owner: QObject | None = None) -> None:
        super().__init__(owner)
        self.look = look
        self._tiles: dict[tuple[str, str, float], QPixmap] = {}
        self._colours: dict[tuple[str, float], QColor] = {}
        self._pens: dict[tuple[str, float, Qt.PenStyle], QPen] = {}

    def use(self, name: str) -> None:
        """Use a theme by name."""
        self.look = THEMES.get(name, DAY)
        self._tiles.clear()
        self._colours.clear()
        self._pens.clear()
        self.changed.emit()

    def colour(self, name: str, opacity: float = 1.0) -> QColor:
        """A colour of the look by its field, or the ink of a role. It is shared: copy it before changing it."""
        kept = self._colours.get((name, opacity))
        if kept is None:
            value = getattr(self.look, name, None)
            kept = QColor(value if isinstance(value, str) else self.look.role(name).ink)
            kept.setAlphaF(opacity)
            self._colours[name, opacity] = kept
        return kept

    def font(self, size: float = 12.0, weight: int = QFont.Weight.Medium) -> QFont:
        """The shipped typeface in pixels, with figures of one width."""
        return _font(round(size), int(weight))

    def bold(self, size: float = 12.0) -> QFont:
        """The typeface's heavier cut."""
        return self.font(size, QFont.Weight.Bold)

    def pen(self, name: str, width: float = 1.0, style: Qt.PenStyle = Qt.PenStyle.SolidLine) -> QPen:
        """A pen in a colour of the look, shared like its colour."""
        kept = self._pens.get((name, width, style))
        if kept is None:
            kept = self._pens[name, width, style] = QPen(self.colour(name), width, style)
        return kept

    def edge_pen(self, role: Role, width: float = 1.6) -> QPen:
        """The pen of a role's edge."""
        styles = {"dash": Qt.PenStyle.DashLine, "dot": Qt.PenStyle.DotLine}
        pen = QPen(QColor(role.ink), width, styles.get(role.edge, Qt.PenStyle.SolidLine))
        if role.edge == "dash":
            pen.setDashPattern([4, 2])
        return pen

    def hatch(self, role: Role, ratio: float = 1.0) -> QBrush:
        """A brush with the role's hatch over a light wash of its ink, sharp at any screen scale."""
        key = (role.hatch, role.ink, ratio)
        if key not in self._tiles:
            self._tiles[key] = _tile(role, ratio)
        return QBrush(self._tiles[key])

    def draw_span(self, p: QPainter, rect: QRectF, role_name: str, chosen: bool = False) -> None:
        """A span's body: wash, hatch, and the edge of its role."""
        role = self.look.role(role_name)
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setBrush(self.hatch(role, p.device().devicePixelRatioF()))
        p.setBrushOrigin(rect.topLeft())
        pen = self.edge_pen(role, 2.4 if chosen else 1.5)
        p.setPen(pen)
        p.drawRoundedRect(rect, 2.5, 2.5)
        if role.edge == "double":
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(QColor(role.ink), 0.8))
            p.drawRoundedRect(rect.adjusted(3, 3, -3, -3), 1.5, 1.5)
        p.restore()


T = float(TILE)
HATCHES: dict[str, list[tuple[float, float, float, float]]] = {
    "slant": [(k, T, k + T, 0.0) for k in (-T, -T / 2, 0.0, T / 2, T)],
    "cross": [line for k in (-T, 0.0, T) for line in ((k, T, k + T, 0.0), (k, 0.0, k + T, T))],
    "upright": [(x, 0.0, x, T) for x in (2.0, 6.0, 10.0)],
    "level": [(0.0, y, T, y) for y in (2.0, 5.0, 8.0, 11.0)],
    "back": [(k, 0.0, k + T, T) for k in (-T, 0.0, T)],
    "zigzag": [line for y in (1.0, 7.0) for line in ((0.0, y, T / 2, y + 4), (T / 2, y + 4, T, y))],
    "plus": [line for x, y in ((3.0, 3.0), (9.0, 9.0)) for line in ((x - 2, y, x + 2, y), (x, y - 2, x, y + 2))],
    "bricks": [(0.0, 0.5, T, 0.5), (0.0, 6.5, T, 6.5), (3.0, 0.5, 3.0, 6.5), (9.0, 6.5, 9.0, T)],
    "weave": [line for k in (1.5, 7.5) for line in ((0.0, k, 4.0, k), (k + 3, k + 1.5, k + 3, k + 5))],
}
"""The lines of each hatch on its tile: from x, y to x, y."""
DOTS = ((2, 2), (8, 2), (5, 5), (11, 5), (2, 8), (8, 8), (5, 11), (11, 11))


def _tile(role: Role, ratio: float) -> QPixmap:
    pixmap = QPixmap(round(TILE * ratio), round(TILE * ratio))
    pixmap.setDevicePixelRatio(ratio)
    ink = QColor(role.ink)
    wash = QColor(ink)
    wash.setAlphaF(WASH)
    pixmap.fill(Qt.GlobalColor.transparent)
    p = QPainter(pixmap)
    p.fillRect(QRectF(0, 0, TILE, TILE), wash)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    ink.setAlphaF(0.42)
    p.setPen(QPen(ink, 1.0))
    if role.hatch == "dots":
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(ink)
        for x, y in DOTS:
            p.drawEllipse(QPointF(x, y), 0.8, 0.8)
    if role.hatch == "rings":
        p.setBrush(Qt.BrushStyle.NoBrush)
        for x, y in ((3, 3), (9, 9)):
            p.drawEllipse(QPointF(x, y), 2.0, 2.0)
    for line in HATCHES.get(role.hatch, ()):
        p.drawLine(QLineF(*line))
    p.end()
    return pixmap


_CUTS: dict[int, tuple[int, int]] = {}
"""The size and weight of each font of the theme, which are slow to ask of the font itself."""


@cache
def _font(size: int, weight: int) -> QFont:
    font = QFont(FAMILY)
    font.setPixelSize(size)
    font.setWeight(QFont.Weight(weight))
    font.setFeature(QFont.Tag("tnum"), 1)
    _CUTS[id(font)] = size, weight
    return font


def wide(text: str, font: QFont) -> float:
    """How many pixels wide ``text`` is in one of the theme's fonts."""
    return _wide(text, *_CUTS[id(font)])


@lru_cache(maxsize=4096)
def _wide(text: str, size: int, weight: int) -> float:
    return QFontMetricsF(_font(size, weight)).horizontalAdvance(text)


def put_words(p: QPainter, rect: QRectF, text: str, font: QFont, *, share: float = 0.0) -> None:
    """Write ``text`` in one of the theme's fonts half way up a rectangle, in the pen that is set: from its left, with
    the ``share`` of the room that is left over before it (0.5: in its middle, 1: up to its right). For what is written
    over and over: it is laid out once."""
    laid, across, down = _laid(text, *_CUTS[id(font)])
    left = rect.left() + (rect.width() - across) * share
    p.setFont(font)
    p.drawStaticText(QPointF(left, rect.center().y() - down / 2.0), laid)


@lru_cache(maxsize=4096)
def _laid(text: str, size: int, weight: int) -> tuple[QStaticText, float, float]:
    laid = QStaticText(text)
    laid.setTextFormat(Qt.TextFormat.PlainText)
    laid.setPerformanceHint(QStaticText.PerformanceHint.AggressiveCaching)
    laid.prepare(QTransform(), _font(size, weight))
    return laid, laid.size().width(), laid.size().height()


def elided(text: str, font: QFont, width: float) -> str:
    """``text`` cut to ``width`` pixels with an ellipsis."""
    cut = _CUTS.get(id(font))
    if cut is None:
        return QFontMetricsF(font).elidedText(text, Qt.TextElideMode.ElideRight, width)
    return _elided(text, *cut, width)


@lru_cache(maxsize=4096)
def _elided(text: str, size: int, weight: int, width: float) -> str:
    return QFontMetricsF(_font(size, weight)).elidedText(text, Qt.TextElideMode.ElideRight, width)
