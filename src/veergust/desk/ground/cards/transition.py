"""Transition: from where to where, on which conditions, faded over how long, and where the entered clip begins."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QWidget

from veergust.core.edit import ask_sooner, remove_transition, set_transition
from veergust.core.model import ANYWHERE
from veergust.desk.document.document import Document
from veergust.desk.ground.cards.page import GroundPage
from veergust.desk.ground.selection import GroundSelection
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.conditions import ConditionsField
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, heading, note
from veergust.desk.widgets.rows import buttons

EASES = [(e, e) for e in ("smooth", "linear", "in", "out")]
ENTERS = [("as usual", "usual"), ("at its start", "start"), ("in the same phase", "phase"), ("foot to foot", "foot")]


class TransitionPage(GroundPage):
    """The transition that is chosen."""

    title = "Transition"

    def __init__(self, document: Document, selection: GroundSelection, parent: QWidget) -> None:
        super().__init__(document, selection, parent)
        self.start = ChoiceField("From", lambda v: self.change(f"from {v}", start=v), "A state, a group, or anywhere")
        self.to = ChoiceField("To", lambda v: self.change(f"to {v}", to=v), "A state, or a group as it is entered")
        self.ticks = NumberField("Crossfade", lambda v: self.change(f"over {v:.0f} f", ticks=int(v)), unit="f", low=0,
                                 high=600)  # fmt: skip
        self.ease = ChoiceField("Ease", lambda v: self.change(f"ease {v}", ease=v), "How the crossfade comes in")
        self.enters = ChoiceField("Begins", lambda v: self.change(f"begins {v}", enters=v),
                                  "Where the entered clip begins")  # fmt: skip
        form = Form(2)
        form.row("From", self.start)
        form.row("To", self.to)
        form.row("Crossfade", self.ticks)
        form.row("Ease", self.ease)
        form.row("Begins", self.enters)
        self.box.addWidget(form)
        self.box.addWidget(heading("When"))
        self.conditions = ConditionsField(lambda value: self.change("conditions", conditions=value))
        self.box.addWidget(self.conditions)
        self.order = note()
        self.box.addWidget(self.order)
        self.sooner = word_button("ask sooner", "Ask it before the one before it (Alt+Up)")
        self.sooner.clicked.connect(lambda: self.ask(1))
        self.later = word_button("ask later", "Ask it after the one behind it (Alt+Down)")
        self.later.clicked.connect(lambda: self.ask(-1))
        gone = word_button("remove", "Take the transition away (Delete)")
        gone.clicked.connect(self.remove)
        self.box.addWidget(buttons(self.sooner, self.later, gone))
        self.box.addStretch(1)

    def change(self, words: str, **fields: Any) -> None:
        """Set fields of the transition."""
        place = self.selection.place
        if place is not None:
            self.attempt(lambda: set_transition(self.document.base, place, words, **fields))

    def ask(self, by: int) -> None:
        """Have it asked sooner, or later."""
        place = self.selection.place
        if place is None or self.selection.transition is None:
            return
        edit, to = ask_sooner(self.document.base, place, by)
        if self.document.apply(edit):
            self.selection.choose_transition(to)

    def remove(self) -> None:
        """Take it away."""
        place = self.selection.place
        if place is not None and self.attempt(lambda: remove_transition(self.document.base, place)):
            self.selection.choose_transition(None)

    def renew(self) -> None:
        t, place = self.selection.transition, self.selection.place
        self.page.setEnabled(t is not None)
        if t is None or place is None:
            self.order.setText("Draw from tag to tag, or click an empty cell of the grid.")
            return
        chart = self.document.build.chart
        names = [(n, n) for n in (*chart.groups, *chart.states)]
        self.start.show_choices([("anywhere", ANYWHERE), *names], t.start)
        self.to.show_choices(names, t.to)
        self.ticks.show_value(t.ticks)
        self.ease.show_choices(EASES, t.ease)
        self.enters.show_choices(ENTERS, t.enters)
        self.conditions.show_value(t.conditions, self.document.project)
        own = [i for i, other in enumerate(self.locomotion.transitions) if other.start == t.start]
        at = own.index(place)
        start = "anywhere" if t.start == ANYWHERE else t.start
        self.order.setText(f"Asked as number {at + 1} of the {len(own)} from {start}; the first that holds is taken.")
        self.sooner.setEnabled(at > 0)
        self.later.setEnabled(at + 1 < len(own))
