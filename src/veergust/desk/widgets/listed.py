"""Several words chosen one after another, and pairs of a name and a value."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from veergust.core.play import read_pairs, write_pairs
from veergust.desk.keys.pressing import pressed
from veergust.desk.keys.table import on_key
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, TextField

IN_A_ROW = 4
BESIDE = 2
"""So many words stand beside the list to add from; more have rows of their own above it."""


class AddField(ChoiceField):
    """What can be added: the arrow keys open the list, for each word they went over would be added else."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if on_key("list", pressed(event)) == "open_list":
            self.showPopup()
        else:
            super().keyPressEvent(event)


class ListedField(QWidget):
    """Words in an order, each with a cross to take it away, and a list to add one from."""

    def __init__(self, label: str, settled: Callable[[tuple[str, ...]], None], tip: str = "") -> None:
        super().__init__()
        self.label, self.settled = label, settled
        self.value: tuple[str, ...] = ()
        self.box = QVBoxLayout(self)
        self.box.setContentsMargins(0, 0, 0, 0)
        self.box.setSpacing(2)
        self.add = AddField(label, self._add, tip)
        self.line = QHBoxLayout()
        self.line.setSpacing(4)
        self.line.addWidget(self.add)
        self.line.addStretch(1)
        self.box.addLayout(self.line)
        self.shown: list[QWidget] = []

    def show_value(self, value: tuple[str, ...], names: list[str], *, again: bool) -> None:
        """Show words chosen among ``names``, which may come ``again`` or not."""
        offered = [n for n in names if again or n not in value]
        self.add.show_choices([("+ one more" if value else "+ one", ""), *((n, n) for n in offered)], "")
        if value == self.value and len(self.shown) == -(-len(value) // IN_A_ROW):
            return
        self.value = value
        for row in self.shown:
            row.hide()
            self.box.removeWidget(row)
            self.line.removeWidget(row)
            row.deleteLater()
        self.shown = [self._row(at) for at in range(0, len(value), IN_A_ROW)]
        for i, row in enumerate(self.shown):
            if len(value) <= BESIDE:
                self.line.insertWidget(0, row)
            else:
                self.box.insertWidget(i, row)

    def _row(self, first: int) -> QWidget:
        row = QWidget()
        row.setObjectName("glass")
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(2)
        for at, word in list(enumerate(self.value))[first : first + IN_A_ROW]:
            button = word_button(f"{word} ×", f"Take {word} away")
            button.setAccessibleName(f"{self.label}: take {word} away")
            button.clicked.connect(self._remover(at))
            line.addWidget(button)
        line.addStretch(1)
        return row

    def _remover(self, at: int) -> Callable[[], None]:
        return lambda: self.settled(tuple(w for i, w in enumerate(self.value) if i != at))

    def _add(self, word: str) -> None:
        if word:
            self.settled((*self.value, word))


class PairsField(QWidget):
    """A payload as rows of a name and a value; one that is no such list is a line of text."""

    def __init__(self, label: str, settled: Callable[[str], None], tip: str = "") -> None:
        super().__init__()
        self.settled = settled
        self.payload: str | None = None
        self.suggested: tuple[str, ...] = ()
        self.box = QVBoxLayout(self)
        self.box.setContentsMargins(0, 0, 0, 0)
        self.box.setSpacing(4)
        self.text = TextField(label, settled, tip)
        self.text.setFixedWidth(2 * self.text.width() + 4)
        self.add = word_button("+ pair", "One more name with a value", strong=True)
        self.add.clicked.connect(self._add)
        self.rows: list[QWidget] = []
        self.box.addWidget(self.text)
        self.box.addWidget(self.add, 0, Qt.AlignmentFlag.AlignLeft)

    def show_value(self, payload: str, suggested: tuple[str, ...] = ()) -> None:
        """Show a payload; a new pair gets the first ``suggested`` name that is not there."""
        self.suggested = suggested
        if payload == self.payload:
            return
        self.payload = payload
        pairs = read_pairs(payload)
        for row in self.rows:
            row.hide()
            self.box.removeWidget(row)
            row.deleteLater()
        self.rows = [self._row(i, name, value) for i, (name, value) in enumerate(pairs or ())]
        for i, row in enumerate(self.rows):
            self.box.insertWidget(i, row)
        # An empty payload can become either.
        self.text.setVisible(not pairs)
        self.text.show_value(payload)
        self.add.setVisible(pairs is not None)

    def _row(self, index: int, name: str, value: str) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(4)
        for part, words, shown in ((0, "name", name), (1, "value", value)):
            field = TextField(f"Pair {index + 1} {words}", self._setter(index, part), "Without blanks or commas")
            field.show_value(shown)
            line.addWidget(field)
        gone = word_button("×", "Take this pair away")
        gone.setAccessibleName(f"Remove pair {index + 1}")
        gone.clicked.connect(lambda: self._change(index, None))
        line.addWidget(gone)
        line.addStretch(1)
        return row

    def _setter(self, index: int, part: int) -> Callable[[str], None]:
        def settle(text: str) -> None:
            pair = list((read_pairs(self.payload or "") or [])[index])
            pair[part] = text
            self._change(index, (pair[0], pair[1]))

        return settle

    def _change(self, index: int, pair: tuple[str, str] | None) -> None:
        pairs = list(read_pairs(self.payload or "") or [])
        pairs[index : index + 1] = [pair] if pair is not None else []
        self.settled(write_pairs(pairs))

    def _add(self) -> None:
        pairs = list(read_pairs(self.payload or "") or [])
        names = [name for name, _ in pairs]
        fresh = next((n for n in (*self.suggested, "name", "name2", "name3") if n not in names), "more")
        self.settled(write_pairs([*pairs, (fresh, "1")]))
