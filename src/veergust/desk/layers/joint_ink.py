"""How the rows of a mask's table are drawn, and the field that a weight is typed in."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QAbstractItemModel, QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QPainter
from PySide6.QtWidgets import QStyledItemDelegate, QStyleOptionViewItem, QTableView, QWidget

from veergust.desk.layers.joint_rows import JOINT, WEIGHT, Index, JointsModel
from veergust.desk.look.theme import Theme, elided
from veergust.desk.widgets.fields import NumberField

BAR, NUMBER, WHO = 128, 204, 246
"""Where bar, number and last column begin, from the left."""
MIDDLE = Qt.AlignmentFlag.AlignVCenter


def bar_in(rect: QRectF) -> QRectF:
    """The bar in the cell of a weight."""
    return QRectF(rect.left(), rect.center().y() - 4, NUMBER - BAR - 12, 8)


class WeightField(NumberField):
    """A number over its row, which keeps the keys it is typed with to itself."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        super().keyPressEvent(event)
        event.accept()


class JointInk(QStyledItemDelegate):
    """Draws joint, bar and number, and who moves it; types a weight."""

    def __init__(self, view: QTableView, model: JointsModel, theme: Theme) -> None:
        super().__init__(view)
        self.view, self.model, self.theme = view, model, theme
        self.ink = "combo"
        """The role in whose colour the bars are."""
        self.joint = -1

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        p, theme = painter, self.theme
        shown: Any = option
        rect, row = QRectF(shown.rect), self.model.rows[index.row()]
        chosen = self.joint in row.joints
        p.save()
        p.setClipRect(rect)
        if chosen:
            p.fillRect(rect, theme.colour("selected"))
        if index.column() == JOINT:
            font = theme.bold(13) if chosen else theme.font(13)
            self._words(p, rect.adjusted(2, 0, 0, 0), elided(row.name, font, BAR - 10), font, "ink")
        elif index.column() == WEIGHT:
            self._weight(p, rect, row.weight)
        else:
            self._words(p, rect, elided(row.who, theme.font(12), rect.width() - 4), theme.font(12), "ink_soft")
        whole = QRectF(0, rect.top(), self.view.viewport().width(), rect.height())
        if chosen and self.view.hasFocus():
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(theme.pen("accent", 1.4))
            p.drawRect(whole.adjusted(0.5, 0.5, -1.5, -1.5))
        p.setPen(theme.pen("hair"))
        p.drawLine(QPointF(0, rect.bottom() - 1), QPointF(whole.right(), rect.bottom() - 1))
        p.restore()

    def _words(self, p: QPainter, rect: QRectF, words: str, font: Any, ink: str) -> None:
        p.setFont(font)
        p.setPen(self.theme.colour(ink))
        p.drawText(rect, MIDDLE, words)

    def _weight(self, p: QPainter, rect: QRectF, weight: float) -> None:
        bar = bar_in(rect)
        p.fillRect(bar, self.theme.colour("floor_near"))
        p.fillRect(QRectF(bar.left(), bar.top(), bar.width() * weight, bar.height()), self.theme.colour(self.ink))
        p.setFont(self.theme.font(13))
        p.setPen(self.theme.colour("ink"))
        number = QRectF(rect.left() + NUMBER - BAR - 8, rect.top(), 34, rect.height())
        p.drawText(number, MIDDLE | Qt.AlignmentFlag.AlignRight, f"{weight:.2f}")

    # A weight is typed

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        field = WeightField("Weight", lambda _: None, low=0.0, high=1.0, step=0.05, decimals=2)
        field.setParent(parent)
        field.setFixedWidth(54)
        return field

    def setEditorData(self, editor: QWidget, index: Index) -> None:
        assert isinstance(editor, WeightField)
        editor.show_value(self.model.rows[index.row()].weight)
        editor.selectAll()

    def setModelData(self, editor: QWidget, model: QAbstractItemModel, index: Index) -> None:
        assert isinstance(editor, WeightField)
        editor.interpretText()
        model.setData(index, editor.value())

    def updateEditorGeometry(self, editor: QWidget, option: QStyleOptionViewItem, index: Index) -> None:
        shown: Any = option
        editor.setGeometry(shown.rect.left() + NUMBER - BAR - 14, shown.rect.top(), 54, shown.rect.height())
