"""The page that asks, for each part changed here and on disk, which of the two it is to be."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtWidgets import (
    QButtonGroup,
    QDialog,
    QDialogButtonBox,
    QGridLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from veergust.desk.widgets.label import PlainLabel

if TYPE_CHECKING:
    from veergust.core.changes import Difference, Key, Side


class Settling(QDialog):
    """A row for each difference, with both sides to choose from; what is here is chosen at first."""

    def __init__(self, parent: QWidget, differences: Sequence[Difference]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Changed here and on disk")
        self.differences = differences
        self.choices: dict[Key, QButtonGroup] = {}
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 16, 18, 14)
        box.setSpacing(12)
        words = PlainLabel(
            "Somebody else changed these parts of the project on disk since it was opened, and so did you. "
            "Choose for each which one stays. What you take from disk can be undone."
        )
        words.setWordWrap(True)
        box.addWidget(words)
        rows = QWidget()
        self.grid = QGridLayout(rows)
        self.grid.setContentsMargins(12, 10, 12, 10)
        self.grid.setHorizontalSpacing(10)
        self.grid.setColumnStretch(0, 1)
        for i, difference in enumerate(differences):
            self._row(i, difference)
        self.grid.setRowStretch(len(differences), 1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        scroll.setWidget(rows)
        box.addWidget(scroll, 1)
        buttons = QDialogButtonBox()
        buttons.addButton("Use these", QDialogButtonBox.ButtonRole.AcceptRole).setObjectName("strong")
        buttons.addButton("Not now", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        box.addWidget(buttons)
        self.resize(560, min(200 + 34 * len(differences), 560))

    def _row(self, i: int, difference: Difference) -> None:
        name = PlainLabel(difference.says[0].upper() + difference.says[1:])
        self.grid.addWidget(name, i, 0)
        group = QButtonGroup(self)
        group.setExclusive(True)
        sides: tuple[tuple[Side, str], ...] = (("ours", "mine"), ("theirs", "from disk"))
        for column, (side, words) in enumerate(sides):
            gone = ", removed" if difference.side(side) == "removed" else ""
            button = QPushButton(words + gone)
            button.setObjectName("switch")
            button.setCheckable(True)
            button.setChecked(side == "ours")
            button.setAccessibleName(f"{difference.says}: {words}")
            group.addButton(button, column)
            self.grid.addWidget(button, i, 1 + column)
        self.choices[difference.key] = group

    def sides(self) -> dict[Key, Side]:
        """The side chosen for each."""
        return {key: "theirs" if group.checkedId() == 1 else "ours" for key, group in self.choices.items()}
