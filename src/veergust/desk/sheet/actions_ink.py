"""How a row of the list of actions is drawn: its name, its frames, and a bar of its phases."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QStyledItemDelegate, QStyleOptionViewItem, QTreeView

from veergust.core.study import Outline
from veergust.desk.look.theme import Theme, elided
from veergust.desk.sheet.actions_model import GROUP_ROLE, ActionsModel

ROW, GROUP, GAP = 35, 26, 8
Index = QModelIndex | QPersistentModelIndex
MIDDLE = Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | MIDDLE


class ActionInk(QStyledItemDelegate):
    """Draws headings and actions; ``drawn`` is what each action said when it was drawn last."""

    def __init__(self, view: QTreeView, model: ActionsModel, theme: Theme) -> None:
        super().__init__(view)
        self.view, self.model, self.theme = view, model, theme
        self.drawn: dict[str, object] = {}
        self.drop: QPersistentModelIndex | None = None
        """The row before which what is dragged would go, or the heading under which."""

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        if index.parent().isValid():
            return QSize(120, ROW)
        return QSize(120, GROUP + (GAP if index.row() else 10))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        shown: Any = option
        rect = QRectF(shown.rect)
        if index.parent().isValid():
            self._action(painter, rect, str(index.data()))
        else:
            self._heading(painter, rect, index)
        if self.drop is not None and self.drop == index:
            y = rect.top() if index.parent().isValid() else rect.bottom()
            painter.fillRect(QRectF(8, y - 1, rect.width() - 16, 2), self.theme.colour("accent"))

    def _heading(self, p: QPainter, rect: QRectF, index: Index) -> None:
        theme, width = self.theme, rect.width()
        here = index == self.view.currentIndex() and self.view.hasFocus()
        line = QRectF(16, rect.bottom() - GROUP, width - 32, GROUP)
        if here:
            p.fillRect(QRectF(0, line.top(), 4, GROUP), theme.colour("accent"))
        p.setFont(theme.bold(12))
        p.setPen(theme.colour("ink_faint"))
        folded = not self.view.isExpanded(index)
        says = f"▸ {self.model.rowCount(index)}" if folded else ""
        p.drawText(
            line, MIDDLE, elided(str(index.data(GROUP_ROLE)), theme.bold(12), int(width) - (68 if folded else 32))
        )
        p.drawText(line, RIGHT, says)

    def _action(self, p: QPainter, rect: QRectF, name: str) -> None:
        theme, width, top = self.theme, rect.width(), rect.top()
        here = name == self.model.document.action
        said = self.model.says(name)
        self.drawn[name] = said
        if here:
            p.fillRect(rect, theme.colour("selected"))
            focus = "accent" if self.view.hasFocus() else "ink"
            p.fillRect(QRectF(0, top, 4, rect.height()), theme.colour(focus))
        font = theme.bold(14) if here else theme.font(14)
        p.setFont(font)
        p.setPen(theme.colour("ink"))
        p.drawText(QRectF(16, top + 3, width - 64, 20), MIDDLE, elided(name, font, int(width) - 64))
        if said is not None:
            p.setFont(theme.font(13))
            p.setPen(theme.colour("ink_soft"))
            p.drawText(QRectF(width - 56, top + 3, 40, 20), RIGHT, f"{said[0]}{'+' if said[1] else ''}")
            self._bar(p, said, top + 27, width)

    def _bar(self, p: QPainter, said: Outline, y: float, width: float) -> None:
        """Startup, active and recovery to one scale for the whole list."""
        lasts, _, ticks = said
        if not ticks:
            return
        scale = (width - 46) / self.model.longest
        p.fillRect(QRectF(16, y, lasts * scale, 3), self.theme.colour("hair_strong", 0.45))
        p.fillRect(QRectF(16 + ticks[0] * scale, y - 0.5, max((ticks[-1] + 1 - ticks[0]) * scale, 3), 4),
                   self.theme.colour("strike"))  # fmt: skip
