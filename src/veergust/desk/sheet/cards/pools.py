"""Pools: what an exit or a gate may pick from, with weights, and how often each would come up."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QWidget

from veergust.core.edit import Edit, add_pool, remove_pool, set_apart, set_commands, set_weight
from veergust.core.kinds import listed_commands
from veergust.core.model import Pool
from veergust.core.play import counts
from veergust.desk.document.document import Document
from veergust.desk.sheet.cards.page import Page
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, TextField, heading, note
from veergust.desk.widgets.label import PlainLabel
from veergust.desk.widgets.listed import ListedField
from veergust.desk.widgets.rows import buttons

PICKS = 400


class PoolsPage(Page):
    """One pool at a time: its items with their weights, and a trial of ``PICKS`` picks."""

    title = "Pools"

    def __init__(self, document: Document, parent: QWidget) -> None:
        super().__init__(document, parent)
        self.name = ""
        self.which = ChoiceField("Pool", self._choose, "The pool to look at")
        self.new = TextField("New pool", self._new, "Type a name, press Enter")
        self.new.setPlaceholderText("a new name, Enter")
        self.apart = NumberField("Apart", lambda v: self._do(lambda: set_apart(document.base, self.name, int(v))),
                                 unit="picks", low=0, high=7, tip="None of the last so many comes again")  # fmt: skip
        self.commands = ListedField("Starts on", self._start_on, "The commands that start one of its actions")
        self.add = ChoiceField("Add", lambda n: self._weigh(n, 1.0), "An action, or a section of the open one")
        form = Form(2)
        form.row("Pool", self.which)
        form.row("New", self.new)
        form.row("Apart", self.apart)
        form.row("Add", self.add)
        self.box.addWidget(form)
        form = Form()
        form.row("Starts on", self.commands)
        self.box.addWidget(form)
        self.box.addWidget(heading(f"Weights, and how often each comes up in {PICKS} picks"))
        self.items: dict[str, tuple[NumberField, PlainLabel]] = {}
        self.body: Form | None = None
        self.words = note()
        self.box.addWidget(self.words)
        gone = word_button("remove pool", "Take the pool away")
        gone.clicked.connect(lambda: self._do(lambda: remove_pool(document.base, self.name)))
        self.gone = gone
        self.box.addWidget(buttons(gone))
        self.box.addStretch(1)

    def _do(self, make: Callable[[], Edit]) -> None:
        self.attempt(make)

    def _choose(self, name: str) -> None:
        self.name = name
        self.renew()

    def _new(self, name: str) -> None:
        if name.strip() and self.attempt(lambda: add_pool(self.document.base, name)):
            self.name = name.strip()
            self.new.show_value("")
            self.new.clear()
            self.renew()

    def _start_on(self, commands: tuple[str, ...]) -> None:
        self._do(lambda: set_commands(self.document.base, self.name, commands))

    def _weigh(self, item: str, weight: float) -> None:
        if item:
            self.attempt(lambda: set_weight(self.document.base, self.name, item, weight))

    def _weigher(self, item: str) -> Callable[[float], None]:
        return lambda weight: self._weigh(item, weight)

    def pool(self) -> Pool | None:
        """The pool that is looked at."""
        return next((p for p in self.document.project.pools if p.name == self.name), None)

    def renew(self) -> None:
        project, action = self.document.project, self.action
        names = [p.name for p in project.pools]
        if self.name not in names:
            self.name = names[0] if names else ""
        self.which.show_choices([(n, n) for n in names], self.name)
        pool = self.pool()
        for field in (self.apart, self.add, self.gone, self.commands):
            field.setEnabled(pool is not None)
        self.commands.show_value(pool.commands if pool else (), listed_commands(project), again=False)
        sections = [s.name for s in action.sections] if action else []
        inside = {i.name for i in pool.items} if pool else set()
        offered = [(a.name, a.name) for a in project.actions] + [(f"section {n}", n) for n in sections]
        self.add.show_choices([("…", ""), *(o for o in offered if o[1] not in inside)], "")
        self._rows(pool)

    def _rows(self, pool: Pool | None) -> None:
        wanted = [i.name for i in pool.items] if pool else []
        if list(self.items) != wanted:
            if self.body is not None:
                self.body.hide()
                self.box.removeWidget(self.body)
                self.body.deleteLater()
            self.body, self.items = Form(), {}
            for name in wanted:
                weight = NumberField(f"Weight of {name}", self._weigher(name), low=0, high=1000, step=0.5, decimals=1,
                                     tip="0 takes it out")  # fmt: skip
                often = note()
                self.body.row(name, weight, often)
                self.items[name] = (weight, often)
            self.box.insertWidget(3, self.body)
            self.body.show()
        if pool is None:
            self.words.setText("No pool yet. Type a name above; then an exit can lead to it, or a gate.")
            return
        self.apart.show_value(pool.apart)
        found = counts(pool, PICKS)
        for item in pool.items:
            weight, often = self.items[item.name]
            weight.show_value(item.weight)
            often.setText(f"{found[item.name]} times")
        never = [name for name, many in found.items() if many == 0]
        self.words.setText(f"Never picked: {', '.join(never)}." if never else "" if pool.items else "It is empty.")
