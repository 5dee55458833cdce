"""Usual set: which clip is what, proposed, and locomotion made of them in one step."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QWidget

from veergust.core.edit import usual_set
from veergust.core.study import PARTS, proposed
from veergust.desk.document.document import Document
from veergust.desk.ground.cards.page import GroundPage
from veergust.desk.ground.selection import GroundSelection
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, heading, note
from veergust.desk.widgets.rows import buttons


class UsualPage(GroundPage):
    """The parts of a usual locomotion and the clips that take them."""

    title = "Usual set"

    def __init__(self, document: Document, selection: GroundSelection, parent: QWidget) -> None:
        super().__init__(document, selection, parent)
        self.clips: dict[str, str] = {}
        self.box.addWidget(heading("Which clip is what?"))
        self.words = note("Proposed by names and by how the clips move. Only one that stands is needed.")
        self.box.addWidget(self.words)
        form = Form(2)
        self.fields: dict[str, ChoiceField] = {}
        for part in PARTS:
            field = ChoiceField(part.name, partial(self._choose, part.name), f"The clip that {part.says}")
            form.row(part.name, field)
            self.fields[part.name] = field
        self.box.addWidget(form)
        self.make = word_button("make it", "States, transitions and speeds of these clips, in one step", strong=True)
        self.make.clicked.connect(self._make)
        again = word_button("propose again", "By names and movement")
        again.clicked.connect(self.propose)
        self.box.addWidget(buttons(self.make, again))
        self.box.addWidget(note("It takes the place of the states and transitions there are; Ctrl+Z brings them back."))
        self.box.addStretch(1)

    def propose(self) -> None:
        """Propose a clip for every part."""
        self.clips = proposed(self.document.build)
        self.renew()

    def _choose(self, part: str, clip: str) -> None:
        self.clips[part] = clip
        self.renew()

    def _make(self) -> None:
        there = {c.name for c in self.document.project.clips}
        clips = {part: clip for part, clip in self.clips.items() if clip in there}
        if self.attempt(lambda: usual_set(self.document.build, clips)):
            self.selection.choose("idle")

    def renew(self) -> None:
        names = [("none", ""), *((c.name, c.name) for c in self.document.project.clips)]
        for part, field in self.fields.items():
            field.show_choices(names, self.clips.get(part, ""))
        self.make.setEnabled(bool(self.clips.get("idle")))
