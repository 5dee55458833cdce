"""The from × to grid as a table: anywhere, states and groups down, states and groups across, and what leads from one to
the other in each cell."""

from __future__ import annotations

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt

from veergust.core.kinds import sentence
from veergust.core.model import ANYWHERE
from veergust.core.play import Chart
from veergust.core.scene import words_of
from veergust.desk.document.document import Document

Role = Qt.ItemDataRole
Index = QModelIndex | QPersistentModelIndex
NOWHERE = QModelIndex()


class GridModel(QAbstractTableModel):
    """What leads where; ``places`` are rows among the transitions of locomotion."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.starts: list[str] = []
        self.targets: list[str] = []
        self.cells: dict[tuple[str, str], list[int]] = {}
        self.lost: set[tuple[str, str]] = set()
        """From where to where nothing at all leads back."""
        self._chart: Chart | None = None

    @property
    def is_otherwise(self) -> bool:
        """Whether there are other states or groups by now, and so other rows."""
        chart = self.document.build.chart
        return self._chart is None or self.targets != [*chart.states, *chart.groups]

    def renew(self) -> None:
        """Have the rows and columns that there are now, and what is in them."""
        self.beginResetModel()
        chart = self.document.build.chart
        self.targets = [*chart.states, *chart.groups]
        self.starts = [ANYWHERE, *self.targets]
        self._fill(chart)
        self.endResetModel()

    def refill(self) -> None:
        """Have in the cells what there is now."""
        chart = self.document.build.chart
        if self._chart is not chart and self.targets:
            before = self._looks()
            self._fill(chart)
            after = self._looks()
            for start, to in (ends for ends in before.keys() | after.keys() if before.get(ends) != after.get(ends)):
                if start in self.starts and to in self.targets:
                    at = self.index(self.starts.index(start), self.targets.index(to))
                    self.dataChanged.emit(at, at)

    def _fill(self, chart: Chart) -> None:
        self._chart = chart
        self.cells = {}
        for i, t in enumerate(chart.locomotion.transitions):
            self.cells.setdefault((t.start, t.to), []).append(i)
        self.lost = _without_way_back(chart)

    def _looks(self) -> dict[tuple[str, str], object]:
        """What stands in the cells in which anything does; the transitions, for whatever is told of them."""
        there = self._chart.locomotion.transitions if self._chart is not None else ()
        return dict.fromkeys(self.lost, "lost") | {ends: [there[i] for i in at] for ends, at in self.cells.items()}

    def said(self, index: Index) -> tuple[str, str]:
        """What is written where a transition is: when it is taken; over how many ticks, and how many more there are."""
        places = self.places(index)
        first = self.document.project.locomotion.transitions[places[0]]
        more = f" +{len(places) - 1}" if len(places) > 1 else ""
        return words_of(first).removeprefix("from anywhere: "), f"· {first.ticks}{more}"

    def ends(self, index: Index) -> tuple[str, str]:
        """From where to where a cell is."""
        return self.starts[index.row()], self.targets[index.column()]

    def places(self, index: Index) -> list[int]:
        """The transitions in a cell."""
        return self.cells.get(self.ends(index), [])

    def rowCount(self, parent: Index = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self.starts)

    def columnCount(self, parent: Index = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self.targets)

    def headerData(self, section: int, way: Qt.Orientation, role: int = Role.DisplayRole) -> object:
        if role not in (Role.DisplayRole, Role.ToolTipRole):
            return None
        names = self.targets if way == Qt.Orientation.Horizontal else self.starts
        return _called(names[section])

    def data(self, index: Index, role: int = Role.DisplayRole) -> object:
        if role not in (Role.DisplayRole, Role.AccessibleTextRole, Role.ToolTipRole):
            return None
        start, to = self.ends(index)
        there = [self.document.project.locomotion.transitions[i] for i in self.places(index)]
        if role == Role.ToolTipRole:
            said = [f"{sentence(t.conditions) or 'at once'}, over {t.ticks} f" for t in there]
            return "\n".join([f"{_called(start)} → {to}", *(said or ["click to make a transition"])])
        words = "; ".join(sentence(t.conditions) or "always" for t in there) or "no transition"
        return words if role == Role.DisplayRole else f"{_called(start)} to {to}: {words}"


def _called(name: str) -> str:
    return "anywhere" if name == ANYWHERE else name


def _without_way_back(chart: Chart) -> set[tuple[str, str]]:
    """(from, to) where a transition leads from *to* to *from*, and nothing at all leads back."""
    there = [(t.start, t.to) for t in chart.locomotion.transitions if t.start in chart.states and t.to in chart.states]
    return {(to, start) for start, to in there if start != to and start not in chart.after[to]}
