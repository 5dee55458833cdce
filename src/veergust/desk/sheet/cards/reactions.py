"""Who answers a hit: the reaction table as a dial, a situation at a time."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from veergust.core.edit import react_all_round, set_reaction
from veergust.core.play import SITUATIONS
from veergust.core.study import sides_of, strengths
from veergust.desk.document.document import Document
from veergust.desk.look.theme import Theme
from veergust.desk.sheet.cards.asking import AskingRows, answering
from veergust.desk.sheet.cards.page import Page
from veergust.desk.sheet.dial_view import DialView
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.choose import choose_clips
from veergust.desk.widgets.fields import ChoiceField, Form, heading, note

SAID = {
    "standing": "standing",
    "ducking": "ducking",
    "down": "lying",
    "air": "in the air",
    "guarding": "guarding",
    "guard broken": "its guard breaks",
    "deflecting": "it deflects",
    "deflected": "its own, deflected",
    "last": "the last hit",
}


class ReactionsPage(Page):
    """The dial, and of the cell that is looked at what answers there."""

    title = "Reactions"
    draws = True

    def __init__(self, document: Document, theme: Theme, parent: QWidget) -> None:
        super().__init__(document, parent)
        self.dial = DialView(theme)
        self.dial.chose.connect(lambda *_: self.renew())
        self.dial.cleared.connect(lambda: self._set("", ""))
        self.dial.opened.connect(self.open_action)
        self.situation = ChoiceField("Situation", self._situate, "How the victim stands when it is hit")
        self.head = heading("")
        self.action_field = ChoiceField("Answers", lambda a: self._set(a, ""), "The action that answers such a hit")
        self.section = ChoiceField("From", lambda s: self._set(self.action_field.currentData(), s), "Where it begins")
        self.words = note()
        self.open_button = word_button("open it", "Open the action that answers (double click)", strong=True)
        self.open_button.clicked.connect(self.open_action)
        self.round_button = word_button("from clips…", "Reactions for many sides, from clips that name or show theirs")
        self.round_button.clicked.connect(self.all_round)
        row, beside = QHBoxLayout(), QVBoxLayout()
        row.setSpacing(12)
        beside.setSpacing(5)
        form = Form()
        for label, field in (("Situation", self.situation), ("Answers", self.action_field), ("From", self.section)):
            form.row(label, field)
        beside.addWidget(self.head)
        beside.addWidget(form)
        beside.addWidget(self.words)
        beside.addStretch(1)
        beside.addWidget(self.open_button, 0, Qt.AlignmentFlag.AlignLeft)
        beside.addWidget(self.round_button, 0, Qt.AlignmentFlag.AlignLeft)
        row.addWidget(self.dial, 1)
        row.addLayout(beside)
        self.box.addLayout(row, 1)
        self.asking = AskingRows(document, self.attempt, self.dial.hit)
        self.box.addWidget(self.asking)

    def renew(self) -> None:
        project = self.document.project
        self.dial.show_table(project.reactions, strengths(project), self.dial.situation)
        self.situation.show_choices([(SAID[s], s) for s in SITUATIONS], self.dial.situation)
        found, hit = self.dial.answer(), self.dial.hit()
        self.head.setText(f"{hit.side} · {hit.strength}")
        own = found.row.action if found is not None and found.own else ""
        self.action_field.show_choices([("no row of its own", ""), *answering(self.document)], own)
        target = next((a for a in project.actions if a.name == own), None)
        begins = [("its start", ""), *((s.name, s.name) for s in (target.sections if target is not None else ()))]
        self.section.show_choices(begins, found.row.section if found is not None and found.own else "")
        self.section.setEnabled(bool(own))
        self.open_button.setEnabled(found is not None)
        if found is None:
            self.words.setText("Nothing answers: the victim stands as it stood.")
        elif not found.own:
            self.words.setText(f"{found.row.action} answers, by row {found.index + 1} of the table.")
        else:
            compiled = self.document.build.action(found.row.action)
            pool = any(p.name == found.row.action for p in project.pools)
            away = "One of its actions." if pool else "It is not there."
            self.words.setText(f"{compiled.total} frames." if compiled is not None else away)
        self.asking.renew()

    def _situate(self, situation: str) -> None:
        self.dial.situation = situation
        self.renew()

    def _set(self, action: str, section: str) -> None:
        self.attempt(lambda: set_reaction(self.document.base, self.dial.hit(), action, section))

    def open_action(self) -> None:
        """Open the action that answers."""
        found = self.dial.answer()
        if found is not None:
            self.document.choose_action(found.row.action)

    def all_round(self) -> None:
        """Reactions for many sides, from the clips that the person chooses."""
        document = self.document
        chosen = choose_clips(self, [c.name for c in document.project.clips])
        if chosen:
            sides = sides_of(document.build, chosen)
            self.attempt(lambda: react_all_round(document.base, document.build.assets, sides, self.dial.hit()))
