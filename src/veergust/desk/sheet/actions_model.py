"""The actions of a project as a tree of items: groups, and the actions in each."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtCore import QModelIndex, Qt
from PySide6.QtGui import QStandardItem, QStandardItemModel

from veergust.core.model import Project
from veergust.core.study import Outline, outline
from veergust.desk.document.document import Document

NONE = "Actions"
"""The heading of those in no group."""
GROUP_ROLE = Qt.ItemDataRole.UserRole
"""The name of a group, on its heading."""


class ActionsModel(QStandardItemModel):
    """Headings with the actions of a group under each, in the project's order; what a row says is asked as it is
    shown, so that nothing is compiled for a row that nobody sees."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.longest = 1
        """So many frames does the longest action last that was measured."""
        self._at: dict[str, QStandardItem] = {}
        self._made_of: tuple[tuple[str, str], ...] = ()

    @property
    def is_otherwise(self) -> bool:
        """Whether the project has other rows by now."""
        return _rows(self.document.project) != self._made_of

    def renew(self) -> None:
        """Have the rows that the project has now."""
        made_of = self._made_of = _rows(self.document.project)
        self.clear()
        self._at = {}
        headings: dict[str, QStandardItem] = {}
        for group, name in made_of:
            heading = headings.get(group)
            if heading is None:
                heading = headings[group] = QStandardItem()
                heading.setData(group, GROUP_ROLE)
                heading.setData(group, Qt.ItemDataRole.AccessibleTextRole)
                heading.setFlags(Qt.ItemFlag.ItemIsEnabled)
                self.appendRow(heading)
            row = self._at[name] = _Row(self, name)
            row.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemNeverHasChildren)
            heading.appendRow(row)

    def row_of(self, name: str) -> QModelIndex:
        """Where an action stands; nowhere when there is none of that name."""
        item = self._at.get(name)
        return item.index() if item is not None else QModelIndex()

    def says(self, name: str) -> Outline | None:
        """How many frames an action lasts, whether it goes on from there, and on which it strikes."""
        document = self.document
        # Of what can be compiled only when it is asked for, the project may have less than the rows by now.
        compiled = document.build.action(name)
        said = outline(document.build, compiled) if compiled is not None else None
        if said is not None:
            self.longest = max(self.longest, said[0])
        return said

    def measure(self) -> Iterator[None]:
        """Find the longest action, a step each."""
        longest = 1
        for name in list(self._at):
            said = self.says(name)
            longest = max(longest, said[0] if said is not None else 0)
            yield
        self.longest = longest


class _Row(QStandardItem):
    """An action's row, which tells who cannot see it how long it lasts."""

    def __init__(self, of: ActionsModel, name: str) -> None:
        super().__init__(name)
        self.of = of

    def data(self, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role == Qt.ItemDataRole.AccessibleDescriptionRole:
            said = self.of.says(self.text())
            return f"{said[0]} frames" if said is not None else ""
        return super().data(role)


def _rows(project: Project) -> tuple[tuple[str, str], ...]:
    """Group and name of every action."""
    return tuple([(action.group or NONE, action.name) for action in project.actions])
