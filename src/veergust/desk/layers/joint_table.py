"""Every joint with how much a mask speaks for it, as a bar and a number, and who moves it now."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QAbstractItemView, QFrame, QHeaderView, QTableView

from veergust.desk.keys.pressing import BACK, pressed
from veergust.desk.keys.table import on_key
from veergust.desk.layers.joint_ink import BAR, NUMBER, WHO, JointInk, WeightField, bar_in
from veergust.desk.layers.joint_rows import JOINT, WEIGHT, JointRow, JointsModel
from veergust.desk.look.theme import Theme
from veergust.desk.widgets.scrolled import scrolled_as_it_was

ROW, HEAD = 24, 26
Trigger = QAbstractItemView.EditTrigger


class JointTable(QTableView):
    """The rows. ``weighed`` is sent with joints, their weight and whether it is settled, ``chosen`` with a joint."""

    weighed = Signal(object, float, bool)
    chosen = Signal(int)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.table = JointsModel()
        self.ink = JointInk(self, self.table, theme)
        self._slid: tuple[tuple[int, ...], float] | None = None
        self.setObjectName("joints")
        self.setModel(self.table)
        self.setItemDelegate(self.ink)
        over = self.horizontalHeader()
        over.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        over.setMinimumSectionSize(1)
        over.setFixedHeight(HEAD)
        over.setHighlightSections(False)
        over.setStretchLastSection(True)
        over.resizeSection(JOINT, BAR)
        over.resizeSection(WEIGHT, WHO - BAR)
        self.verticalHeader().hide()
        self.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.verticalHeader().setMinimumSectionSize(1)
        self.verticalHeader().setDefaultSectionSize(ROW)
        self.setShowGrid(False)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setEditTriggers(Trigger.NoEditTriggers)  # what opens a field is said by the table of keys
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setTabKeyNavigation(False)
        self.setAccessibleName("Joints and their weights")
        self.setToolTip("Click a bar to set it, type a number, Up and Down")
        self.table.typed.connect(self._weigh)
        theme.changed.connect(self.viewport().update)

    @property
    def rows(self) -> list[JointRow]:
        """The rows as they are shown."""
        return self.table.rows

    def sizeHint(self) -> QSize:
        return QSize(360, HEAD + ROW * len(self.rows))

    def show_rows(self, rows: list[JointRow], ink: str, joint: int, live: bool) -> None:
        """Show rows; ``live`` is whether weights can be set."""
        moved = joint != self.ink.joint
        if not moved and (rows, ink, live) == (self.rows, self.ink.ink, self.table.live):
            return
        self.ink.ink, self.ink.joint = ink, joint
        with scrolled_as_it_was(self):
            self.table.renew(rows, live)
            here = self.table.index(self.table.row_of(joint), WEIGHT)
            if here != self.currentIndex():
                self.setCurrentIndex(here)
        if moved and here.isValid():
            self.scrollTo(here)
        self.viewport().update()

    def bar(self, row: int) -> QRectF:
        """Where the bar of a row stands, in the viewport."""
        return bar_in(QRectF(self.visualRect(self.table.index(row, WEIGHT))))

    # Mouse

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        at = self.indexAt(event.position().toPoint())
        if at.isValid():
            row = at.row()
            self.chosen.emit(self.rows[row].joints[0])
            self._slide(row, event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        row = self.table.row_of(self.ink.joint)
        if row >= 0 and event.buttons() & Qt.MouseButton.LeftButton:
            self._slide(row, event.position())

    def _slide(self, row: int, at: QPointF) -> None:
        bar = self.bar(row)
        if self.table.live and bar.left() - 8 <= at.x() <= bar.right() + 8:
            share = round(min(max((at.x() - bar.left()) / bar.width(), 0.0), 1.0) * 20) / 20
            joints = self._slid[0] if self._slid is not None else self.rows[row].joints
            self._slid = joints, share
            self.weighed.emit(joints, share, False)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._slid is not None:
            (joints, weight), self._slid = self._slid, None
            self.weighed.emit(joints, weight, True)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        at = self.indexAt(event.position().toPoint())
        if at.isValid() and event.position().x() > NUMBER - 6:
            self._type(at.row(), "")

    def _weigh(self, joints: tuple[int, ...], weight: float) -> None:
        row = self.table.row_of(joints[0]) if joints else -1
        if row >= 0 and abs(self.rows[row].weight - weight) > 1e-9:
            self.weighed.emit(joints, weight, True)

    # Keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys, row = pressed(event), self.table.row_of(self.ink.joint)
        does = on_key("mask", keys)
        if does == "other_joint" and self.rows:
            row = min(max(row + (-1 if keys in BACK else 1), 0), len(self.rows) - 1)
            self.chosen.emit(self.rows[row].joints[0])
        elif self.table.live and row >= 0 and does == "paint_joint":
            self._type(row, "")
        elif self.table.live and row >= 0 and event.text()[:1] in tuple("0123456789.,"):
            self._type(row, event.text())
        elif self.table.live and row >= 0 and does == "weigh_joint":
            weight = self.rows[row].weight + (0.1 if keys == "+" else -0.1)
            self._weigh(self.rows[row].joints, round(min(max(weight, 0.0), 1.0), 3))
        else:
            event.ignore()  # whoever is around it may know it

    def _type(self, row: int, text: str) -> None:
        """A field over the row's number, beginning with what was typed."""
        self.edit(self.table.index(row, WEIGHT))
        field = self.findChild(WeightField)
        if text and field is not None:
            field.lineEdit().setText(text.replace(",", "."))
            field.lineEdit().setModified(True)
