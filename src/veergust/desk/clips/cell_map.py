"""A sheet of drawings with its cells: which are taken, in which order, and where the body stands in each."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from veergust.core.files import Draft, Flipbook
from veergust.desk.keys.pressing import pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme
from veergust.desk.widgets.accessible import ToldRow

MARGIN = 14.0
NEAR = 9.0
MOST_ZOOM = 6.0
CHECK = 8
"""What is nothing is shown by squares of so many points."""


class CellMap(QWidget):
    """The sheet, as large as there is room. A click chooses a cell, a second one leaves it out; the cross in the chosen
    one is dragged to where the body stands in all of them.

    ``chosen`` tells a cell, ``dropped`` that it is left out or taken again, ``moved`` by how much it goes on in the
    order, ``stood`` where the body stands (px).
    """

    chosen = Signal(int)
    dropped = Signal(int)
    moved = Signal(int)
    stood = Signal(float, float)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.said: Flipbook | None = None
        self.order: list[int] = []
        self.at = 0
        self._of: object = None
        self._image = QImage()
        self._shape = (1, 1)
        self._dragging = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The sheet and its cells")
        self.setToolTip("Click a cell to choose it, and again to leave it out; drag the cross to the feet")
        self.setMinimumSize(360, 260)
        theme.changed.connect(self.update)

    def show_draft(self, draft: Draft, order: list[int], at: int) -> None:
        """Show a sheet, the cells that are taken in their order, and the chosen one."""
        if draft.pixels is not self._of:
            self._of = draft.pixels
            high, wide = draft.pixels.shape[:2]
            data = np.ascontiguousarray(draft.pixels)
            self._image = QImage(data.data, wide, high, 4 * wide, QImage.Format.Format_RGBA8888).copy()
            self._shape = (high, wide)
        self.said, self.order, self.at = draft.said, list(order), at
        self.setAccessibleDescription(f"cell {at + 1} of {len(draft.said.cells)}")
        self.update()

    # Where things are

    @property
    def scale(self) -> float:
        """Points a pixel of the sheet."""
        high, wide = self._shape
        room = (self.width() - 2 * MARGIN) / wide, (self.height() - 2 * MARGIN) / high
        scale = min(*room, MOST_ZOOM)
        return float(np.floor(scale)) if scale >= 2.0 else max(scale, 1e-3)

    def cell_rect(self, index: int) -> QRectF:
        """Where a cell is on the widget."""
        assert self.said is not None
        cell = self.said.cells[index]
        wide, high = self.said.size_of(cell)
        s = self.scale
        return QRectF(MARGIN + cell.at[0] * s, MARGIN + cell.at[1] * s, wide * s, high * s)

    def feet_point(self, index: int) -> QPointF:
        """Where the body stands in a cell, on the widget."""
        assert self.said is not None
        x, y = self.said.feet_of(self.said.cells[index])
        return self.cell_rect(index).topLeft() + QPointF(x, y) * self.scale

    def _cell_at(self, at: QPointF) -> int | None:
        count = len(self.said.cells) if self.said is not None else 0
        return next((n for n in range(count) if self.cell_rect(n).contains(at)), None)

    def told(self) -> list[ToldRow]:
        """The cells, for who hears them."""
        out = []
        for n in range(len(self.said.cells) if self.said is not None else 0):
            says = f"number {self.order.index(n) + 1}" if n in self.order else "left out"
            out.append(ToldRow(f"cell {n + 1}", says, self.cell_rect(n), n == self.at))
        return out

    # Hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.said is None or event.button() != Qt.MouseButton.LeftButton:
            return
        self.setFocus()
        at = event.position()
        gap = at - self.feet_point(self.at)
        if abs(gap.x()) + abs(gap.y()) <= NEAR:
            self._dragging = True
            return
        cell = self._cell_at(at)
        if cell is None:
            return
        if cell == self.at:
            self.dropped.emit(cell)
        else:
            self.chosen.emit(cell)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragging:
            gap = (event.position() - self.cell_rect(self.at).topLeft()) / self.scale
            self.stood.emit(round(gap.x() * 2) / 2.0, round(gap.y() * 2) / 2.0)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._dragging = False

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = pressed(event)
        act = on_key("cells", keys)
        if self.said is None or act not in ("other_drawing", "move_cell", "drop_cell"):
            super().keyPressEvent(event)
            return
        step = -1 if keys.endswith("Left") else 1
        if act == "other_drawing":
            self.chosen.emit((self.at + step) % len(self.said.cells))
        elif act == "move_cell":
            self.moved.emit(step)
        else:
            self.dropped.emit(self.at)

    # Ink

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        theme = self.theme
        p.fillRect(self.rect(), theme.colour("paper"))
        if self.said is None:
            return
        s, (high, wide) = self.scale, self._shape
        sheet = QRectF(MARGIN, MARGIN, wide * s, high * s)
        self._nothing(p, sheet)
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, s < 2.0)
        p.drawImage(sheet, self._image)
        p.setFont(theme.font(12))
        for n in range(len(self.said.cells)):
            self._cell(p, n)
        self._feet(p)

    def _nothing(self, p: QPainter, sheet: QRectF) -> None:
        p.fillRect(sheet, self.theme.colour("paper_bright"))
        soft = self.theme.colour("hair", 0.55)
        p.save()
        p.setClipRect(sheet)
        for row in range(int(sheet.height() // CHECK) + 1):
            for column in range(row % 2, int(sheet.width() // CHECK) + 1, 2):
                p.fillRect(QRectF(sheet.x() + column * CHECK, sheet.y() + row * CHECK, CHECK, CHECK), soft)
        p.restore()

    def _cell(self, p: QPainter, n: int) -> None:
        rect, theme = self.cell_rect(n), self.theme
        if n not in self.order:
            p.fillRect(rect, theme.colour("paper", 0.78))
            p.setPen(QPen(theme.colour("ink_soft"), 1, Qt.PenStyle.DotLine))
            p.drawRect(rect)
            p.drawLine(rect.topLeft(), rect.bottomRight())
        else:
            p.setPen(QPen(theme.colour("ink_soft", 0.8), 1))
            p.drawRect(rect)
            self._number(p, rect, str(self.order.index(n) + 1))
        if n == self.at:
            p.setPen(QPen(theme.colour("accent"), 2))
            p.drawRect(rect.adjusted(-1, -1, 1, 1))

    def _number(self, p: QPainter, rect: QRectF, words: str) -> None:
        wide = p.fontMetrics().horizontalAdvance(words) + 6
        box = QRectF(rect.left(), rect.top(), wide, 15)
        p.fillRect(box, self.theme.colour("ink"))
        p.setPen(QColor(self.theme.colour("paper_bright")))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _feet(self, p: QPainter) -> None:
        """The cross where the body stands: strong in the chosen cell, faint in the others."""
        for n in self.order:
            at, strong = self.feet_point(n), n == self.at
            size = 8.0 if strong else 4.0
            p.setPen(QPen(self.theme.colour("accent", 1.0 if strong else 0.6), 2 if strong else 1))
            p.drawLine(at + QPointF(-size, 0), at + QPointF(size, 0))
            p.drawLine(at + QPointF(0, -size), at + QPointF(0, size))
