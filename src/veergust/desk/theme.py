"""The look as Qt sees it: colours, hatch brushes, pens, fonts and the style sheet."""

from __future__ import annotations

from functools import cache, lru_cache
from importlib.resources import files

from PySide6.QtCore import QObject, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QFont, QFontDatabase, QFontMetricsF, QPainter, QPen, QPixmap

from veergust.look import DAY, THEMES, Look, Role

FAMILY = "Barlow Semi Condensed"
TILE = 12


def load_fonts() -> None:
    """Make the shipped typeface known to Qt."""
    for entry in sorted((files("veergust.desk") / "fonts").iterdir(), key=lambda e: e.name):
        if entry.name.endswith(".ttf"):
            QFontDatabase.addApplicationFontFromData(entry.read_bytes())


class Theme(QObject):
    """The look in use; ``changed`` is sent when the person turns from day to night."""

    changed = Signal()

    def __init__(self, look: Look = DAY) -> None:
        super().__init__()
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

    def style(self) -> str:
        """The style sheet of the window's plain parts."""
        k = self.look
        return f"""
        QWidget {{ background: {k.paper}; color: {k.ink}; font-family: "{FAMILY}"; font-size: 13px;
                   font-weight: 500; }}
        QLabel {{ background: transparent; }}
        QPushButton {{ background: transparent; border: none; color: {k.ink_soft}; padding: 2px 4px; }}
        QPushButton#project {{ text-align: left; }}
        QPushButton:hover {{ color: {k.ink}; }}
        QPushButton:checked {{ color: {k.ink}; font-weight: 700; }}
        QPushButton:focus {{ outline: none; border-bottom: 2px solid {k.accent}; }}
        QPushButton#strong {{ color: {k.accent}; font-weight: 700; }}
        QPushButton#warn {{ color: {k.warn}; }}
        QPushButton#switch {{ border: 1px solid {k.hair_strong}; padding: 2px 7px; }}
        QPushButton#switch:checked {{ background: {k.ink}; color: {k.paper_bright}; font-weight: 500; }}
        QPushButton#switch:focus {{ border: 1px solid {k.accent}; border-bottom: 2px solid {k.accent}; }}
        QPushButton#bench {{ font-size: 15px; padding: 10px 2px 9px 2px; border-bottom: 3px solid transparent; }}
        QPushButton#bench:checked {{ border-bottom: 3px solid {k.ink}; color: {k.ink}; }}
        QPushButton#bench:focus {{ border-bottom: 3px solid {k.accent}; }}
        QMenu {{ background: {k.paper_bright}; border: 1px solid {k.hair_strong}; padding: 4px; }}
        QMenu::item {{ padding: 5px 22px 5px 12px; }}
        QMenu::item:selected {{ background: {k.hair}; }}
        QMenu::item:disabled {{ color: {k.ink_faint}; }}
        QMenu::separator {{ height: 1px; background: {k.hair}; margin: 4px 8px; }}
        QToolTip {{ background: {k.paper_bright}; color: {k.ink}; border: 1px solid {k.hair_strong};
                    padding: 4px; }}
        QLineEdit, QPlainTextEdit {{ background: {k.paper_bright}; border: 1px solid {k.hair_strong}; padding: 4px;
                     selection-background-color: {k.accent}; selection-color: {k.paper_bright}; }}
        QLineEdit#in_form {{ padding: 2px 5px; min-height: 16px; }}
        QDoubleSpinBox, QComboBox {{ background: {k.paper_bright}; border: 1px solid {k.hair_strong};
                     padding: 2px 5px;
                     min-height: 16px; selection-background-color: {k.accent};
                     selection-color: {k.paper_bright}; }}
        QDoubleSpinBox:focus, QComboBox:focus, QLineEdit:focus {{ border: 1px solid {k.accent}; }}
        QDoubleSpinBox:disabled, QComboBox:disabled {{ color: {k.ink_faint}; border-color: {k.hair}; }}
        QComboBox::drop-down {{ border: none; width: 16px; }}
        QComboBox::down-arrow {{ image: none; }}
        QComboBox QAbstractItemView {{ background: {k.paper_bright}; border: 1px solid {k.hair_strong};
                     selection-background-color: {k.hair}; selection-color: {k.ink}; outline: none; }}
        QLabel#heading {{ font-weight: 700; color: {k.ink_soft}; padding-top: 6px; }}
        QLabel#field {{ color: {k.ink_soft}; }}
        QLabel#note {{ color: {k.ink_soft}; }}
        QTableWidget {{ background: {k.paper}; border: 1px solid {k.hair}; }}
        QTableWidget::item {{ padding: 1px 6px; }}
        QTableWidget::item:selected {{ background: {k.hair}; color: {k.ink}; }}
        QHeaderView::section {{ background: {k.paper_side}; color: {k.ink_soft}; border: none; padding: 3px 6px;
                     font-weight: 700; text-align: left; }}
        QTableCornerButton::section {{ background: {k.paper_side}; border: none; }}
        QLabel#stage_title {{ font-weight: 700; font-size: 15px; }}
        QListWidget::item {{ padding: 3px 6px; }}
        QListWidget::item:selected {{ background: {k.hair}; color: {k.ink}; }}
        QListWidget {{ background: {k.paper_side}; border: none; }}
        QScrollBar:vertical {{ background: transparent; width: 8px; margin: 0; }}
        QScrollBar::handle:vertical {{ background: {k.hair_strong}; border-radius: 3px; min-height: 24px;
                     margin: 1px; }}
        QScrollBar:horizontal {{ background: transparent; height: 8px; margin: 0; }}
        QScrollBar::handle:horizontal {{ background: {k.hair_strong}; border-radius: 3px; min-width: 24px;
                     margin: 1px; }}
        QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{
                     background: transparent; border: none; height: 0; width: 0; }}
        QDialog {{ background: {k.paper_bright}; }}
        """


def _tile(role: Role, ratio: float) -> QPixmap:
    pixmap = QPixmap(round(TILE * ratio), round(TILE * ratio))
    pixmap.setDevicePixelRatio(ratio)
    ink = QColor(role.ink)
    wash = QColor(ink)
    wash.setAlphaF(0.13)
    pixmap.fill(Qt.GlobalColor.transparent)
    p = QPainter(pixmap)
    p.fillRect(QRectF(0, 0, TILE, TILE), wash)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    ink.setAlphaF(0.42)
    p.setPen(QPen(ink, 1.0))
    t = float(TILE)
    match role.hatch:
        case "slant":
            for k in (-t, -t / 2, 0.0, t / 2, t):
                p.drawLine(QPointF(k, t), QPointF(k + t, 0))
        case "cross":
            for k in (-t, 0.0, t):
                p.drawLine(QPointF(k, t), QPointF(k + t, 0))
                p.drawLine(QPointF(k, 0), QPointF(k + t, t))
        case "upright":
            for x in (2.0, 6.0, 10.0):
                p.drawLine(QPointF(x, 0), QPointF(x, t))
        case "level":
            for y in (2.0, 5.0, 8.0, 11.0):
                p.drawLine(QPointF(0, y), QPointF(t, y))
        case "dots":
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(ink)
            for x, y in ((2, 2), (8, 2), (5, 5), (11, 5), (2, 8), (8, 8), (5, 11), (11, 11)):
                p.drawEllipse(QPointF(x, y), 0.8, 0.8)
        case "weave":
            for k in (1.5, 7.5):
                p.drawLine(QPointF(0, k), QPointF(4, k))
                p.drawLine(QPointF(k + 3, k + 1.5), QPointF(k + 3, k + 5))
        case _:
            pass
    p.end()
    return pixmap


@cache
def _font(size: int, weight: int) -> QFont:
    font = QFont(FAMILY)
    font.setPixelSize(size)
    font.setWeight(QFont.Weight(weight))
    font.setFeature(QFont.Tag("tnum"), 1)
    return font


def elided(text: str, font: QFont, width: float) -> str:
    """``text`` cut to ``width`` pixels with an ellipsis."""
    if font.pixelSize() <= 0 or font.family() != FAMILY:
        return QFontMetricsF(font).elidedText(text, Qt.TextElideMode.ElideRight, width)
    return _elided(text, font.pixelSize(), font.weight(), width)


@lru_cache(maxsize=4096)
def _elided(text: str, size: int, weight: int, width: float) -> str:
    return QFontMetricsF(_font(size, weight)).elidedText(text, Qt.TextElideMode.ElideRight, width)
