"""Parameters: their kinds and ranges, who sets them and who asks for them."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QWidget

from veergust.core.edit import add_parameter, remove_parameter, rename_parameter, set_parameter
from veergust.core.model import Parameter
from veergust.core.study import uses_of
from veergust.desk.document.document import Document
from veergust.desk.ground.cards.page import GroundPage
from veergust.desk.ground.selection import GroundSelection
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, TextField, heading, note
from veergust.desk.widgets.rows import buttons

KINDS = [(k, k) for k in ("number", "whole", "yes or no", "momentary")]
NONE_YET = "None yet. Actions' starts and endings, events and the tester set parameters; transitions ask for them."


class ParametersPage(GroundPage):
    """One parameter at a time."""

    title = "Parameters"

    def __init__(self, document: Document, selection: GroundSelection, parent: QWidget) -> None:
        super().__init__(document, selection, parent)
        self.chosen = ""
        self.which = ChoiceField("Parameter", self._choose, "The parameter to look at")
        self.new = TextField("New parameter", self._new, "Type a name, press Enter")
        self.new.setPlaceholderText("a new name, Enter")
        self.name = TextField("Name", self._rename, "Renamed wherever it is set or asked for")
        self.kind = ChoiceField(
            "Kind", lambda v: self.change(f"is {v}", kind=v), "A momentary one is true for one look"
        )
        self.low, self.high, self.default = (
            NumberField(label, self._setter(field), low=-1e6, high=1e6, step=0.1, decimals=2)
            for label, field in (("From", "low"), ("To", "high"), ("Begins at", "default"))
        )
        form = Form(2)
        for label, field in (("Parameter", self.which), ("New", self.new), ("Name", self.name), ("Kind", self.kind),
                             ("From", self.low), ("To", self.high), ("Begins at", self.default)):  # fmt: skip
            form.row(label, field)
        self.box.addWidget(form)
        self.box.addWidget(heading("Set by"))
        self.sets = note()
        self.box.addWidget(self.sets)
        self.box.addWidget(heading("Asked for by"))
        self.asks = note()
        self.box.addWidget(self.asks)
        gone = word_button("remove parameter", "Take it away, once nothing uses it")
        gone.clicked.connect(lambda: self.attempt(lambda: remove_parameter(self.document.base, self.chosen)))
        self.gone = gone
        self.box.addWidget(buttons(gone))
        self.box.addStretch(1)

    def _setter(self, field: str) -> Any:
        return lambda value: self.change(f"{field} {value:g}", **{field: value})

    def change(self, words: str, **fields: Any) -> None:
        """Set fields of the parameter."""
        self.attempt(lambda: set_parameter(self.document.base, self.chosen, words, **fields))

    def _choose(self, name: str) -> None:
        self.chosen = name
        self.renew()

    def _new(self, name: str) -> None:
        if name.strip() and self.attempt(lambda: add_parameter(self.document.base, Parameter(name=name.strip()))):
            self.chosen = name.strip()
            self.new.show_value("")
            self.new.clear()
            self.renew()

    def _rename(self, name: str) -> None:
        old = self.chosen
        self.chosen = name.strip()
        if not self.attempt(lambda: rename_parameter(self.document.base, old, name)):
            self.chosen = old
            self.renew()

    def renew(self) -> None:
        there = {p.name: p for p in self.locomotion.parameters}
        if self.chosen not in there:
            self.chosen = next(iter(there), "")
        self.which.show_choices([(n, n) for n in there], self.chosen)
        p = there.get(self.chosen)
        for field in (self.name, self.kind, self.low, self.high, self.default, self.gone):
            field.setEnabled(p is not None)
        if p is None:
            self.name.show_value("")
            self.sets.setText(NONE_YET)
            self.asks.setText("")
            return
        self.name.show_value(p.name)
        self.kind.show_choices(KINDS, p.kind)
        ranged = p.kind in ("number", "whole")
        for field, value in ((self.low, p.low), (self.high, p.high), (self.default, p.default)):
            field.show_value(value)
        self.low.setEnabled(ranged)
        self.high.setEnabled(ranged)
        uses = uses_of(self.document.project, p.name)
        self.sets.setText("\n".join(uses.sets) or "nobody but the tester, on the page Live")
        self.asks.setText("\n".join(uses.asks) or "nobody")
