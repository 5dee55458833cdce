"""Building conditions from parts, in place, and reading them as a sentence."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, get_args

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from veergust.core.kinds import CONDITIONS, listed_commands, sentence
from veergust.core.model import Condition, Op, Project
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, NumberField, note


class ConditionsField(QWidget):
    """A row for each condition, all of which must hold; ``settled`` is told of every change."""

    def __init__(self, settled: Callable[[tuple[Condition, ...]], None]) -> None:
        super().__init__()
        self.settled = settled
        self.project = Project()
        self.value: tuple[Condition, ...] = ()
        self.box = QVBoxLayout(self)
        self.box.setContentsMargins(0, 0, 0, 0)
        self.box.setSpacing(4)
        self.words = note()
        self.add_button = word_button("+ condition", "One more that must hold as well", strong=True)
        self.add_button.clicked.connect(self._add)
        self.rows: list[QWidget] = []
        self.box.addWidget(self.words)
        self.box.addWidget(self.add_button, 0, Qt.AlignmentFlag.AlignLeft)

    def show_value(self, value: tuple[Condition, ...], project: Project) -> None:
        """Show conditions; commands and parameters come from the project."""
        if value == self.value and project.commands == self.project.commands and (self.rows or not value):
            self.project = project
            self.words.setText(sentence(value) or "always")
            return
        self.value, self.project = value, project
        self.words.setText(sentence(value) or "always")
        for row in self.rows:
            row.hide()
            self.box.removeWidget(row)
            row.deleteLater()
        self.rows = [self._row(i, c) for i, c in enumerate(value)]
        for i, row in enumerate(self.rows):
            self.box.insertWidget(1 + i, row)

    def _row(self, index: int, condition: Condition) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(4)
        test = ChoiceField(f"Condition {index + 1}", lambda t: self._become(index, t), "What is asked")
        test.setFixedWidth(104)
        test.show_choices([(kind.label, key) for key, kind in CONDITIONS.items()], condition.test)
        line.addWidget(test)
        kind = CONDITIONS[condition.test]
        names = listed_commands(self.project) if kind.of == "command" else kind.names(self.project)
        if names is not None:
            name = ChoiceField(f"Condition {index + 1} of", lambda n: self._change(index, name=n), "Which one")
            name.setFixedWidth(96)
            name.show_choices([(n or "any", n) for n in names], condition.name)
            line.addWidget(name)
        if kind.truth:
            yes = ChoiceField(
                f"Condition {index + 1} is", lambda v: self._change(index, value=float(v)), "So, or not so"
            )
            yes.setFixedWidth(62)
            yes.show_choices([("so", "1"), ("not", "0")], "1" if condition.value else "0")
            line.addWidget(yes)
        else:
            op = ChoiceField(f"Condition {index + 1} compares", lambda o: self._change(index, op=o), "How it compares")
            op.setFixedWidth(54)
            op.show_choices([(o, o) for o in get_args(Op)], condition.op)
            line.addWidget(op)
            number = NumberField(f"Condition {index + 1} value", lambda v: self._change(index, value=v), low=-1e4,
                                 high=1e4, step=0.1, decimals=2)  # fmt: skip
            number.setFixedWidth(70)
            number.show_value(condition.value)
            line.addWidget(number)
        gone = word_button("×", "Take this condition away")
        gone.setAccessibleName(f"Remove condition {index + 1}")
        gone.clicked.connect(lambda: self._send(tuple(c for i, c in enumerate(self.value) if i != index)))
        line.addWidget(gone)
        line.addStretch(1)
        return row

    def _become(self, index: int, test: str) -> None:
        fresh = CONDITIONS[test].fresh(test, self.project)
        self._send(tuple(fresh if i == index else c for i, c in enumerate(self.value)))

    def _add(self) -> None:
        self._send((*self.value, CONDITIONS["held"].fresh("held", self.project)))

    def _change(self, index: int, **changes: Any) -> None:
        self._send(tuple(replace(c, **changes) if i == index else c for i, c in enumerate(self.value)))

    def _send(self, value: tuple[Condition, ...]) -> None:
        if value != self.value:
            self.settled(value)
