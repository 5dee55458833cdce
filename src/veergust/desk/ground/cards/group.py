"""Group: what stands in it, and how it is entered."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtWidgets import QWidget

from veergust.core.edit import put_in, rename, set_group
from veergust.core.model import Choice, Group
from veergust.desk.document.document import Document
from veergust.desk.ground.cards.page import GroundPage
from veergust.desk.ground.selection import GroundSelection
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, TextField, heading, note
from veergust.desk.widgets.listed import ListedField

ENTERS = [
    ("at its default", "default"),
    ("where it was left", "last"),
    ("by a parameter", "parameter"),
    ("from a pool", "pool"),
]


class GroupPage(GroundPage):
    """The group that is chosen."""

    title = "Group"

    def __init__(self, document: Document, selection: GroundSelection, parent: QWidget) -> None:
        super().__init__(document, selection, parent)
        self.name = TextField("Name", self._rename, "What it is called; all that names it follows")
        self.around = ChoiceField("Stands in", self._put, "A group around it")
        self.enters = ChoiceField("Is entered", self._enter, "Which of its states is entered")
        self.default = ChoiceField("Default", lambda v: self.change(f"default {v or 'the first'}", default=v),
                                   "The state that is entered where nothing else says")  # fmt: skip
        self.parameter = ChoiceField("Parameter", lambda v: self.change(f"by {v}", parameter=v), "Whose value chooses")
        self.apart = NumberField("Apart", lambda v: self.change(f"none of the last {v:.0f} again", apart=int(v)),
                                 unit="picks", low=0, high=7)  # fmt: skip
        form = Form(2)
        form.row("Name", self.name)
        form.row("Stands in", self.around)
        form.row("Is entered", self.enters)
        form.row("Default", self.default)
        form.row("Parameter", self.parameter)
        form.row("Apart", self.apart)
        self.box.addWidget(form)
        self.box.addWidget(heading("Members"))
        self.members = ListedField("Member", self._members, "A state or group that stands in it")
        self.box.addWidget(self.members)
        self.says = note()
        self.box.addWidget(self.says)
        self.choices: Form | None = None
        self._shown: tuple[Any, ...] = ()
        self.fields: list[NumberField] = []
        self.box.addStretch(1)

    def change(self, words: str, **fields: Any) -> None:
        """Set fields of the group."""
        name = self.selection.name
        self.attempt(lambda: set_group(self.document.base, name, words, **fields))

    def _rename(self, name: str) -> None:
        old = self.selection.name
        if self.attempt(lambda: rename(self.document.base, old, name)):
            self.selection.choose(name.strip())

    def _put(self, group: str) -> None:
        name = self.selection.name
        self.attempt(lambda: put_in(self.document.base, (name,), group))

    def _enter(self, how: str) -> None:
        group = self.selection.group
        if group is None:
            return
        choices = group.choices
        if how in ("parameter", "pool") and not choices:
            there = self.document.build.chart.members[group.name]
            choices = tuple(Choice(state=m, value=float(i)) for i, m in enumerate(there))
        parameters = [p.name for p in self.locomotion.parameters]
        parameter = group.parameter or (parameters[0] if parameters and how == "parameter" else "")
        words = next(said for said, value in ENTERS if value == how)
        self.change(f"entered {words}", enters=how, choices=choices, parameter=parameter)

    def _members(self, names: tuple[str, ...]) -> None:
        group = self.selection.group
        if group is None:
            return
        there = self.document.build.chart.members[group.name]
        gone = tuple(n for n in there if n not in names)
        new = tuple(n for n in names if n not in there)
        if gone:
            self.attempt(lambda: put_in(self.document.base, gone, group.group))
        if new:
            self.attempt(lambda: put_in(self.document.base, new, group.name))

    def _choice(self, index: int, field: str, value: float) -> None:
        group = self.selection.group
        if group is not None:
            made = tuple(replace(c, **{field: value}) if i == index else c for i, c in enumerate(group.choices))
            self.change(f"{group.choices[index].state} {field} {value:g}", choices=made)

    def renew(self) -> None:
        group = self.selection.group
        self.page.setEnabled(group is not None)
        if group is None:
            return
        chart = self.document.build.chart
        there = chart.members[group.name]
        inside = [n for n in chart.around if chart.within(n, group.name)]
        self.name.show_value(group.name)
        others = [g for g in chart.groups if g not in inside]
        self.around.show_choices([("none", ""), *((g, g) for g in others)], group.group)
        self.enters.show_choices(ENTERS, group.enters)
        self.default.show_choices([("its first", ""), *((m, m) for m in there)], group.default)
        names = [p.name for p in self.locomotion.parameters]
        self.parameter.show_choices([("none", ""), *((n, n) for n in names)], group.parameter)
        self.parameter.setEnabled(group.enters == "parameter")
        self.apart.show_value(group.apart)
        self.apart.setEnabled(group.enters == "pool")
        free = [n for n in chart.around if n not in inside and n not in chart.around[group.name]]
        self.members.show_value(tuple(there), [*there, *free], again=False)
        self._show_choices(group)

    def _show_choices(self, group: Group) -> None:
        field = {"parameter": "value", "pool": "weight"}.get(group.enters, "")
        key = (group.name, field, tuple(c.state for c in group.choices))
        self.says.setText({"value": "Entered at the value:", "weight": "Entered by weight:"}.get(field, ""))
        if key != self._shown:
            self._shown = key
            if self.choices is not None:
                self.choices.hide()
                self.box.removeWidget(self.choices)
                self.choices.deleteLater()
            self.choices, self.fields = Form(), []
            for i, choice in enumerate(group.choices if field else ()):
                number = NumberField(f"{choice.state} {field}", self._setter(i, field), low=-1e4, high=1e4,
                                     step=1.0 if field == "value" else 0.1, decimals=2)  # fmt: skip
                self.choices.row(choice.state, number)
                self.fields.append(number)
            self.box.insertWidget(4, self.choices)
        for number, choice in zip(self.fields, group.choices):
            number.show_value(choice.value if field == "value" else choice.weight)

    def _setter(self, index: int, field: str) -> Any:
        return lambda value: self._choice(index, field, value)
