"""Every joint with how much a mask speaks for it, as a bar and a number, and who moves it now."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QScrollArea, QWidget

from veergust.core.motion.skeleton import Skeleton
from veergust.desk.keys.pressing import BACK, pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme, elided
from veergust.desk.widgets.accessible import ToldCell, ToldRow
from veergust.desk.widgets.fields import NumberField

ROW, HEAD = 24.0, 26.0
BAR, NUMBER, WHO = 128.0, 204.0, 246.0
"""Where the columns begin, from the left."""


@dataclass(frozen=True)
class JointRow:
    """A joint, or two of the two sides that are alike in all that is shown."""

    joints: tuple[int, ...]
    name: str
    weight: float
    who: str


def joint_rows(bones: Skeleton, weights: list[float], who: list[str]) -> list[JointRow]:
    """The rows, in the figure's order; left and right together where they are alike."""
    out: list[JointRow] = []
    done: set[int] = set()
    for j, name in enumerate(bones.names):
        if j in done:
            continue
        other = bones.mirrored[j]
        alike = other != j and weights[other] == weights[j] and who[other] == who[j]
        joints = (j, other) if alike else (j,)
        done |= set(joints)
        out.append(JointRow(joints, _both(name, bones.names[other]) if alike else name, weights[j], who[j]))
    return out


def _both(one: str, two: str) -> str:
    """A name for both sides: the part they share, and L / R."""
    same = [a for a, b in zip(one.replace("_", " ").split(), two.replace("_", " ").split()) if a == b]
    return f"{' '.join(same)} L / R" if same else f"{one} / {two}"


class WeightField(NumberField):
    """A number over its row, which keeps the keys it is typed with to itself."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        super().keyPressEvent(event)
        event.accept()


class JointTable(QWidget):
    """The rows. ``weighed`` is sent with joints, their weight and whether it is settled, ``chosen`` with a joint."""

    weighed = Signal(object, float, bool)
    chosen = Signal(int)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.rows: list[JointRow] = []
        self.ink = "combo"
        self.joint = -1
        self.live = False
        self.typing: tuple[int, ...] = ()
        self._slid: tuple[tuple[int, ...], float] | None = None
        self.field = WeightField("Weight", self._typed, low=0.0, high=1.0, step=0.05, decimals=2)
        self.field.setParent(self)
        self.field.setFixedWidth(54)
        self.field.editingFinished.connect(self._close)
        self.field.hide()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Joints and their weights")
        self.setToolTip("Click a bar to set it, type a number, Up and Down")
        theme.changed.connect(self.update)

    def show_rows(self, rows: list[JointRow], ink: str, joint: int, live: bool) -> None:
        """Show rows; ``live`` is whether weights can be set."""
        if (rows, ink, joint, live) == (self.rows, self.ink, self.joint, self.live):
            return
        self.rows, self.ink, self.live = rows, ink, live
        moved, self.joint = joint != self.joint, joint
        self.setMinimumHeight(int(HEAD + ROW * len(rows)))
        if moved:
            self._into_view()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(360, int(HEAD + ROW * len(self.rows)))

    def told(self) -> list[ToldRow]:
        """Its rows, for who hears them: joint, weight, and who moves it now."""
        out = []
        for n, row in enumerate(self.rows):
            weight = ToldCell("weight", f"{row.weight:.2f}", self._bar(n))
            cells = (ToldCell("joint", row.name), weight, ToldCell("moved by", row.who))
            out.append(ToldRow(row.name, rect=self.place(n), chosen=self.joint in row.joints, cells=cells))
        return out

    def row_of(self, joint: int) -> int:
        """The row a joint stands in, or −1."""
        return next((n for n, row in enumerate(self.rows) if joint in row.joints), -1)

    def place(self, row: int) -> QRectF:
        """Where a row stands."""
        return QRectF(0, HEAD + row * ROW, self.width(), ROW)

    def _bar(self, row: int) -> QRectF:
        rect = self.place(row)
        return QRectF(BAR, rect.center().y() - 4, NUMBER - BAR - 12, 8)

    def _into_view(self) -> None:
        row, scroll = self.row_of(self.joint), self.parentWidget()
        while scroll is not None and not isinstance(scroll, QScrollArea):
            scroll = scroll.parentWidget()
        if row >= 0 and isinstance(scroll, QScrollArea):
            scroll.ensureVisible(20, int(self.place(row).center().y()), 10, 30)

    # Mouse and keys

    def _row_at(self, at: QPointF) -> int:
        row = int((at.y() - HEAD) // ROW)
        return row if at.y() >= HEAD and 0 <= row < len(self.rows) else -1

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        row = self._row_at(event.position())
        if row >= 0:
            self.chosen.emit(self.rows[row].joints[0])
            self._slide(row, event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        row = self.row_of(self.joint)
        if row >= 0 and event.buttons() & Qt.MouseButton.LeftButton:
            self._slide(row, event.position().x())

    def _slide(self, row: int, x: float) -> None:
        bar = self._bar(row)
        if self.live and bar.left() - 8 <= x <= bar.right() + 8:
            share = round(min(max((x - bar.left()) / bar.width(), 0.0), 1.0) * 20) / 20
            joints = self._slid[0] if self._slid is not None else self.rows[row].joints
            self._slid = joints, share
            self.weighed.emit(joints, share, False)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._slid is not None:
            (joints, weight), self._slid = self._slid, None
            self.weighed.emit(joints, weight, True)

    def _weigh(self, joints: tuple[int, ...], weight: float) -> None:
        row = self.row_of(joints[0]) if joints else -1
        if row >= 0 and abs(self.rows[row].weight - weight) > 1e-9:
            self.weighed.emit(joints, weight, True)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        row = self._row_at(event.position())
        if row >= 0 and event.position().x() > NUMBER - 6:
            self._open(row, "")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys, row = pressed(event), self.row_of(self.joint)
        does = on_key("mask", keys)
        if does == "other_joint" and self.rows:
            row = min(max(row + (-1 if keys in BACK else 1), 0), len(self.rows) - 1)
            self.chosen.emit(self.rows[row].joints[0])
        elif self.live and row >= 0 and (does == "paint_joint" or event.text()[:1] in tuple("0123456789.,")):
            self._open(row, "" if does == "paint_joint" else event.text())
        elif self.live and row >= 0 and does == "weigh_joint":
            weight = self.rows[row].weight + (0.1 if keys == "+" else -0.1)
            self._weigh(self.rows[row].joints, round(min(max(weight, 0.0), 1.0), 3))
        else:
            super().keyPressEvent(event)

    def _open(self, row: int, text: str) -> None:
        """A field over the row's number, beginning with what was typed."""
        if not self.live:
            return
        rect = self.place(row)
        self.typing = self.rows[row].joints
        self.field.show_value(self.rows[row].weight)
        self.field.move(int(NUMBER) - 14, int(rect.top()))
        self.field.show()
        self.field.setFocus()
        self.field.selectAll()
        if text:
            self.field.lineEdit().setText(text.replace(",", "."))
            self.field.lineEdit().setModified(True)

    def _typed(self, weight: float) -> None:
        self._weigh(self.typing, weight)

    def _close(self) -> None:
        if self.field.isVisible():
            self.field.hide()
            self.setFocus()

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        p, theme = QPainter(self), self.theme
        p.fillRect(event.rect(), theme.colour("paper"))
        p.setFont(theme.bold(12))
        p.setPen(theme.colour("ink_soft"))
        for x, words in ((0.0, "joint"), (BAR, "weight"), (WHO, "now moved by")):
            p.drawText(QRectF(x, 0, 160, HEAD - 4), Qt.AlignmentFlag.AlignVCenter, words)
        first = max(int((event.rect().top() - HEAD) // ROW), 0)
        last = min(int((event.rect().bottom() - HEAD) // ROW) + 1, len(self.rows))
        for n in range(first, last):
            self._paint_row(p, n)
        p.end()

    def _paint_row(self, p: QPainter, n: int) -> None:
        theme, row, rect = self.theme, self.rows[n], self.place(n)
        if self.joint in row.joints:
            p.fillRect(rect, theme.colour("selected"))
            if self.hasFocus():
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.setPen(theme.pen("accent", 1.4))
                p.drawRect(rect.adjusted(0.5, 0.5, -1.5, -1.5))
        font = theme.bold(13) if self.joint in row.joints else theme.font(13)
        p.setFont(font)
        p.setPen(theme.colour("ink"))
        p.drawText(rect.adjusted(2, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, elided(row.name, font, BAR - 10))
        bar = self._bar(n)
        p.fillRect(bar, theme.colour("floor_near"))
        p.fillRect(QRectF(bar.left(), bar.top(), bar.width() * row.weight, bar.height()), theme.colour(self.ink))
        p.setFont(theme.font(13))
        p.setPen(theme.colour("ink"))
        p.drawText(QRectF(NUMBER - 8, rect.top(), 34, ROW), Qt.AlignmentFlag.AlignVCenter
                   | Qt.AlignmentFlag.AlignRight, f"{row.weight:.2f}")  # fmt: skip
        p.setFont(theme.font(12))
        p.setPen(theme.colour("ink_soft"))
        who = elided(row.who, theme.font(12), self.width() - WHO - 4)
        p.drawText(QRectF(WHO, rect.top(), self.width() - WHO, ROW), Qt.AlignmentFlag.AlignVCenter, who)
        p.setPen(theme.pen("hair"))
        p.drawLine(rect.bottomLeft(), rect.bottomRight())
