"""How the stack of layers and the grid beside it are drawn."""

from __future__ import annotations

from typing import Protocol

from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from veergust.core.model import Layer, Rule
from veergust.core.motion import Array
from veergust.core.play import CompiledLayer
from veergust.desk.document.document import Document
from veergust.desk.layers.columns import StateColumn, rule_in
from veergust.desk.layers.figure_ink import draw_figure, laid_out
from veergust.desk.layers.selection import LayerSelection, role_of
from veergust.desk.look.theme import Theme, elided

HEAD, SHEET, LEAN = 34.0, 80.0, 32.0
GRID = 408.0
"""Where the grid begins."""
NARROW, WIDE, CELL_HIGH = 62.0, 104.0, 34.0
"""A cell is as wide as there is room for, between these."""
FIGURE = 56.0
RULES_INK: dict[Rule, str] = {"may": "drive", "fades": "hold", "finishes": "shield"}
"""The role whose hatch and ink a rule has; what keeps out has none."""


def body_of(layer: CompiledLayer) -> str:
    """What a layer speaks for and how it mixes, in words."""
    y = layer.layer
    mode = "override" if y.mode == "override" else "additive"
    return f"{y.mask or 'whole body'} · {mode}{' in body space' if y.space == 'body' else ''}"


def more_of(layer: CompiledLayer) -> str:
    """What else is to be known of a layer at a glance."""
    y = layer.layer
    said: list[str] = []
    if y.mode == "additive":
        clip = f"from {y.reference or 'no clip'}"
        said.append({"frame": clip, "alongside": f"{clip} alongside", "start": "from the pose at its start"}[y.adds])
    if layer.root > 0.0:
        said.append("moves the root")
    if y.by:
        said.append(f"weight by {y.by}")
    elif y.weight < 1.0:
        said.append(f"weight {y.weight:.2f}")
    return " · ".join(said)


class StackShown(Protocol):
    """A stack, as its ink sees it."""

    document: Document
    theme: Theme
    selection: LayerSelection
    column: int
    plays: dict[str, str]
    present: str

    def rect(self) -> QRect: ...
    def width(self) -> int: ...
    def height(self) -> int: ...
    def hasFocus(self) -> bool: ...
    @property
    def names(self) -> list[str]:
        """The layers from the top down."""

    @property
    def columns(self) -> list[StateColumn]:
        """The columns of the grid."""

    @property
    def places(self) -> Array:
        """Where the figure's joints are drawn."""

    def sheet(self, row: int) -> QRectF:
        """Where a sheet lies."""

    def cell(self, row: int, column: int) -> QRectF:
        """Where a cell stands."""

    def head(self, column: int) -> QRectF:
        """Where the name of a column stands."""


class StackInk:
    """The painting of a stack."""

    def __init__(self, view: StackShown) -> None:
        self.view = view
        self.theme = view.theme

    def paint(self, p: QPainter, drop: int | None) -> None:
        """Paint it all; ``drop`` is where a sheet that is dragged would go."""
        view, theme = self.view, self.theme
        p.fillRect(view.rect(), theme.colour("paper"))
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        layers = view.document.build.layers
        for row, name in enumerate(view.names):
            self._sheet(p, row, layers[name])
        self._locomotion(p, len(view.names))
        p.setPen(theme.pen("hair", 1.4))
        p.drawLine(QPointF(GRID - 2, 0), QPointF(GRID - 2, view.height()))
        p.save()
        p.setClipRect(QRectF(GRID, 0, view.width() - GRID, view.height()))
        self._heads(p)
        for row, name in enumerate(view.names):
            self._cells(p, row, layers[name])
        p.restore()
        if not view.names:
            p.setFont(theme.font(13))
            p.setPen(theme.colour("ink_soft"))
            words = "No layer yet, so no action is seen. Press N, or “+ layer”."
            p.drawText(QRectF(20, 4, 380, HEAD), Qt.AlignmentFlag.AlignVCenter, words)
        if drop is not None:
            y = HEAD + drop * SHEET - 5
            p.setPen(theme.pen("accent", 3.0))
            p.drawLine(QPointF(14, y), QPointF(GRID - 14, y))

    def _paper(self, p: QPainter, rect: QRectF, chosen: bool, keys: bool = False) -> None:
        corners = [QPointF(rect.left() + LEAN, rect.top()), rect.topRight(),
                   QPointF(rect.right() - LEAN, rect.bottom()), rect.bottomLeft()]  # fmt: skip
        p.setBrush(self.theme.colour("selected"))
        p.setPen(QPen(self.theme.colour("accent" if keys else "ink"), 2.4 if chosen else 1.0))
        p.drawPolygon(QPolygonF(corners))

    def _sheet(self, p: QPainter, row: int, layer: CompiledLayer) -> None:
        view, theme = self.view, self.theme
        rect, y = view.sheet(row), layer.layer
        chosen = y.name == view.selection.name
        self._paper(p, rect, chosen, keys=chosen and view.hasFocus() and view.column < 0)
        ink = role_of(view.document, y.name)
        self._figure(p, rect, layer, ink)
        left, right = rect.left() + 106, rect.right() - 44
        plays = view.plays.get(y.name, "")
        font = theme.bold(12)
        wide = min(p.fontMetrics().horizontalAdvance(plays) + 60, 130) if plays else 0
        name_font = theme.bold(15)
        p.setFont(name_font)
        p.setPen(theme.colour("ink"))
        room = right - left - wide
        p.drawText(
            QRectF(left, rect.top() + 8, room, 20), Qt.AlignmentFlag.AlignVCenter, elided(y.name, name_font, room)
        )
        if plays:
            p.setFont(font)
            p.setPen(theme.colour(ink))
            box = QRectF(right - wide, rect.top() + 8, wide + 26, 20)
            p.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, elided(plays, font, wide + 26))
        p.setFont(theme.font(12))
        p.setPen(theme.colour("ink_soft"))
        for n, words in enumerate((body_of(layer), self._last(y, layer))):
            said = elided(words, theme.font(12), right - left - 10 * n)
            p.drawText(QRectF(left, rect.top() + 28 + 17 * n, right - left, 17), Qt.AlignmentFlag.AlignVCenter, said)

    def _last(self, y: Layer, layer: CompiledLayer) -> str:
        users = sum(a.layer == y.name for a in self.view.document.project.actions)
        count = "no action" if not users else f"{users} action{'s' if users > 1 else ''}"
        return " · ".join(part for part in (more_of(layer), count) if part)

    def _figure(self, p: QPainter, rect: QRectF, layer: CompiledLayer, ink: str) -> None:
        bones = self.view.document.build.assets.skeleton
        if not len(bones):
            return
        places = self.view.places
        box = QRectF(rect.left() + 40, rect.center().y() - FIGURE / 2, 58, FIGURE)
        weights = [min(float(w) * layer.layer.weight, 1.0) for w in layer.mask]
        draw_figure(p, self.theme, bones, laid_out(places, box), weights, ink, dot=2.0, line=2.0)

    def _locomotion(self, p: QPainter, row: int) -> None:
        view, theme = self.view, self.theme
        rect = view.sheet(row)
        self._paper(p, rect, False)
        p.setFont(theme.bold(15))
        p.setPen(theme.colour("ink"))
        box = QRectF(rect.left() + 106, rect.top() + 8, 150, 20)
        p.drawText(box, Qt.AlignmentFlag.AlignVCenter, "Locomotion")
        p.setFont(theme.bold(12))
        right = QRectF(rect.right() - 170, rect.top() + 8, 152, 20)
        p.drawText(right, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                   elided(view.present, theme.bold(12), 150))  # fmt: skip
        count = len(view.document.project.locomotion.states)
        p.setFont(theme.font(12))
        p.setPen(theme.colour("ink_soft"))
        words = f"{count} state{'' if count == 1 else 's'}" if count else "none yet: the figure stands at rest"
        p.drawText(QRectF(rect.left() + 106, rect.top() + 28, 220, 17), Qt.AlignmentFlag.AlignVCenter, words)

    def _heads(self, p: QPainter) -> None:
        view, theme = self.view, self.theme
        for i, column in enumerate(view.columns):
            rect = view.head(i)
            sign = ("▾ " if column.open else "▸ ") if column.group else ""
            font = theme.bold(12) if column.deep == 0 else theme.font(12)
            p.setFont(font)
            p.setPen(theme.colour("ink"))
            p.drawText(rect, Qt.AlignmentFlag.AlignVCenter, elided(f"{sign}{column.name}", font, rect.width() + 4))
        hidden = [c for i, c in enumerate(view.columns) if view.cell(0, i).right() > view.width() + 2]
        if hidden:
            edge = QRectF(view.width() - 70, 4, 68, HEAD - 8)
            p.fillRect(edge, theme.colour("paper"))
            p.setFont(theme.bold(12))
            p.setPen(theme.colour("accent"))
            p.drawText(edge, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, f"{len(hidden)} more ›")

    def _cells(self, p: QPainter, row: int, layer: CompiledLayer) -> None:
        view, theme = self.view, self.theme
        chart = view.document.build.chart
        for i, column in enumerate(view.columns):
            rect = view.cell(row, i)
            rule = rule_in(chart, layer, column)
            if rule in RULES_INK:
                theme.draw_span(p, rect, RULES_INK[rule])
                words, font, ink = str(rule), theme.bold(12), RULES_INK[rule]
                # A strip of paper under the word keeps it readable over its hatch.
                p.setFont(font)
                wide = p.fontMetrics().horizontalAdvance(words)
                p.fillRect(QRectF(rect.left() + 4, rect.center().y() - 8, wide + 4, 16), theme.colour("paper", 0.82))
            else:
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.setPen(theme.pen("hair", 1.2))
                p.drawRoundedRect(rect, 2.5, 2.5)
                words = "mixed" if rule is None else str(rule)
                font, ink = theme.font(12), "ink_soft"
            p.setFont(font)
            p.setPen(theme.colour(ink))
            p.drawText(rect.adjusted(6, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)
            if view.hasFocus() and i == view.column and view.names[row] == view.selection.name:
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.setPen(theme.pen("accent", 2.0))
                p.drawRect(rect.adjusted(-3, -3, 3, 3))
