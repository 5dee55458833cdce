"""The rows of a mask's table: a joint each, or two of the two sides that are alike."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt, Signal

from veergust.core.motion import Skeleton

Role = Qt.ItemDataRole
Index = QModelIndex | QPersistentModelIndex
NOWHERE = QModelIndex()
COLUMNS = ("joint", "weight", "now moved by")
JOINT, WEIGHT, WHO = range(3)


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


class JointsModel(QAbstractTableModel):
    """Joint, weight, and who moves it now; ``live`` is whether weights can be set, ``typed`` is sent with joints and
    the weight that was."""

    typed = Signal(object, float)

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[JointRow] = []
        self.live = False

    def renew(self, rows: list[JointRow], live: bool) -> None:
        """Have other rows."""
        self.live = live
        if [row.joints for row in rows] != [row.joints for row in self.rows]:
            self.beginResetModel()
            self.rows = rows
            self.endResetModel()
            return
        before, self.rows = self.rows, rows
        for n, (old, new) in enumerate(zip(before, rows)):
            if old != new:
                self.dataChanged.emit(self.index(n, 0), self.index(n, len(COLUMNS) - 1))

    def row_of(self, joint: int) -> int:
        """The row a joint stands in, or −1."""
        return next((n for n, row in enumerate(self.rows) if joint in row.joints), -1)

    def rowCount(self, parent: Index = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index = NOWHERE) -> int:
        return 0 if parent.isValid() else len(COLUMNS)

    def flags(self, index: Index) -> Qt.ItemFlag:
        editable = self.live and index.column() == WEIGHT
        return super().flags(index) | (Qt.ItemFlag.ItemIsEditable if editable else Qt.ItemFlag.NoItemFlags)

    def headerData(self, section: int, way: Qt.Orientation, role: int = Role.DisplayRole) -> object:
        if role == Role.TextAlignmentRole:
            return Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        if role != Role.DisplayRole:
            return None
        return COLUMNS[section] if way == Qt.Orientation.Horizontal else self.rows[section].name

    def data(self, index: Index, role: int = Role.DisplayRole) -> object:
        row = self.rows[index.row()]
        return (row.name, f"{row.weight:.2f}", row.who)[index.column()] if role == Role.DisplayRole else None

    def setData(self, index: Index, value: object, role: int = Role.EditRole) -> bool:
        self.typed.emit(self.rows[index.row()].joints, value)
        return True
