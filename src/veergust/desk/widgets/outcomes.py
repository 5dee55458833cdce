"""What a strike runs: a row for each thing that goes off, and when."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, get_args, get_type_hints

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from veergust.core.model import Outcome
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, TextField

WHENS = {"opens": "as it opens", "hit": "on a hit", "guarded": "guarded", "deflected": "deflected", "missed": "missed"}
NOBODYS = ("opens", "missed")
"""When there is no victim."""
WHOSE = {"attacker": "on itself", "victim": "on the victim"}


class OutcomesField(QWidget):
    """Rows of when, on whom, what and its name; ``settled`` is told of every change."""

    def __init__(self, label: str, settled: Callable[[tuple[Outcome, ...]], None], tip: str = "") -> None:
        super().__init__()
        self.label, self.settled = label, settled
        self.value: tuple[Outcome, ...] = ()
        self.box = QVBoxLayout(self)
        self.box.setContentsMargins(0, 0, 0, 0)
        self.box.setSpacing(4)
        self.add = word_button("+ something", tip, strong=True)
        self.add.clicked.connect(lambda: self._send((*self.value, Outcome())))
        self.rows: list[QWidget] = []
        self.box.addWidget(self.add, 0, Qt.AlignmentFlag.AlignLeft)

    def show_value(self, value: tuple[Outcome, ...]) -> None:
        """Show what is run."""
        if value == self.value and len(self.rows) == len(value):
            return
        self.value = value
        for row in self.rows:
            row.hide()
            self.box.removeWidget(row)
            row.deleteLater()
        self.rows = [self._row(i, outcome) for i, outcome in enumerate(value)]
        for i, row in enumerate(self.rows):
            self.box.insertWidget(i, row)

    def _row(self, index: int, outcome: Outcome) -> QWidget:
        row = QWidget()
        lines = QVBoxLayout(row)
        lines.setContentsMargins(0, 0, 0, 0)
        lines.setSpacing(2)
        first, second = QHBoxLayout(), QHBoxLayout()
        number = index + 1
        for name, label, words, tip in (
            ("when", "when", WHENS, "When it goes off"),
            ("whose", "on whom", WHOSE, "On which side: whose event it is, or whose parameter is set"),
            ("kind", "what", {k: k for k in get_args(get_type_hints(Outcome)["kind"])}, "What goes off"),
        ):
            field = ChoiceField(f"{self.label} {number}: {label}", self._setter(index, name), tip)
            field.show_choices([(said, key) for key, said in words.items()], getattr(outcome, name))
            field.setEnabled(name != "whose" or outcome.when not in NOBODYS)
            first.addWidget(field, 1)
        called = TextField(
            f"{self.label} {number}: name",
            lambda text: self._change(index, **read(text)),
            "Its name; a parameter is set to 1, or to the number after =",
        )
        called.show_value(written(outcome))
        gone = word_button("×", "Take this away")
        gone.setAccessibleName(f"{self.label}: take {number} away")
        gone.clicked.connect(lambda: self._send(tuple(o for i, o in enumerate(self.value) if i != index)))
        second.addWidget(called)
        second.addWidget(gone)
        second.addStretch(1)
        for line in (first, second):
            line.setSpacing(4)
            lines.addLayout(line)
        return row

    def _setter(self, index: int, name: str) -> Callable[[str], None]:
        return lambda value: self._change(index, **{name: value})

    def _change(self, index: int, **changes: Any) -> None:
        self._send(tuple(replace(o, **changes) if i == index else o for i, o in enumerate(self.value)))

    def _send(self, value: tuple[Outcome, ...]) -> None:
        if value != self.value:
            self.settled(value)


def written(outcome: Outcome) -> str:
    """The name of what goes off, and its payload after =."""
    return f"{outcome.name} = {outcome.payload}" if outcome.payload else outcome.name


def read(text: str) -> dict[str, str]:
    """Name and payload as ``written`` writes them."""
    name, _, payload = text.partition("=")
    return {"name": name.strip(), "payload": payload.strip()}
