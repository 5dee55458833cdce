"""The section under the playhead, and the cut under it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import QPushButton, QWidget

from veergust.core.edit import Edit, cuts, sections
from veergust.core.play import POSTURES
from veergust.desk.document.document import Document
from veergust.desk.sheet.cards.page import Page
from veergust.desk.sheet.cards.reactions import SAID
from veergust.desk.widgets.asking import accepted
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.choose import Chooser
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, TextField, heading, note
from veergust.desk.widgets.rows import buttons, switch
from veergust.look import MARKS


class SectionPage(Page):
    """Name, what it goes on to, order; and of the cut its trim, rate, mirror, crossfade."""

    title = "Section"

    def __init__(self, document: Document, parent: QWidget) -> None:
        super().__init__(document, parent)
        self.name = TextField("Section name", lambda n: self._do(sections.rename_section, n))
        self.then = ChoiceField(
            "Then",
            lambda t: self._do(sections.set_then, t),
            "Where it goes on to; make a pool to pick one of several",
        )
        self.mark = ChoiceField("Mark", lambda m: self._do(sections.set_mark, m), "An ink to find it by on the sheet")
        self.posture = ChoiceField("Stands", lambda p: self._do(sections.set_posture, p),
                                   "How the body stands for what touches it: which hurtboxes are there, which "
                                   "reactions answer")  # fmt: skip
        form = Form(2)
        form.row("Name", self.name)
        form.row("Then", self.then)
        form.row("Mark", self.mark)
        form.row("Stands", self.posture)
        self.box.addWidget(form)
        self.entry = switch("starts the action", "The action starts with this section", self._entry)
        self.box.addWidget(buttons(self.entry))
        self.box.addWidget(
            buttons(
                self._button("+ section…", "A new section behind this one, of a clip (Insert)", self.add, True),
                self._button("duplicate", "This section once more", lambda: self._do(sections.duplicate_section)),
                self._button("remove", "Take the section away", lambda: self._do(sections.remove_section)),
            )
        )
        self.box.addWidget(
            buttons(
                self._button("◂ earlier", "Move it before the one above", lambda: self._move(-1)),
                self._button("later ▸", "Move it behind the one below", lambda: self._move(1)),
                self._button("split here", "In two at the playhead (Shift+X)", self.split),
                self._button("join", "With the one behind it", self._join),
            )
        )
        self.box.addWidget(heading("Cut under the playhead"))
        self.cut_words = note()
        self.box.addWidget(self.cut_words)
        self.start = NumberField("Cut in", lambda v: self._cut(start=v), unit="s", low=0, high=3600, step=1 / 60,
                                 decimals=3, tip="Where it begins in its source; or drag its top edge")  # fmt: skip
        self.end = NumberField("Cut out", lambda v: self._cut(end=v), unit="s", low=0, high=3600, step=1 / 60,
                               decimals=3, tip="Where it ends in its source; or drag its lower edge")  # fmt: skip
        self.length = NumberField("Cut length", self._retime, unit="f", low=1, high=10000,
                                  tip="Played in so many frames (R; or Ctrl-drag its lower edge)")  # fmt: skip
        self.rate = NumberField("Cut rate", lambda v: self._cut(rate=v), unit="×", low=0.01, high=100, step=0.05,
                                decimals=3)  # fmt: skip
        self.blend = NumberField("Crossfade", lambda v: self._cut(blend=int(v)), unit="f", low=0, high=120,
                                 tip="Faded in over so many frames from what came before")  # fmt: skip
        form = Form(2)
        for label, field in (("In", self.start), ("Out", self.end), ("Frames", self.length), ("Rate", self.rate),
                             ("Crossfade", self.blend)):  # fmt: skip
            form.row(label, field)
        self.box.addWidget(form)
        self.mirror = switch("mirrored", "Left and right change places (M)", lambda on: self._cut(mirror=on))
        self.box.addWidget(buttons(self.mirror))
        self.box.addWidget(
            buttons(
                self._button("+ cut…", "Another clip behind this cut", self.add_cut, True),
                self._button("split", "In two at the playhead (X)", self.split_cut),
                self._button("join", "With the next one", lambda: self._cut_do(cuts.join_cuts)),
                self._button("twice", "Once more", lambda: self._cut_do(cuts.duplicate_cut)),
                self._button("remove", "Take the cut out", lambda: self._cut_do(cuts.remove_cut)),
            )
        )
        self.box.addStretch(1)

    def _button(self, words: str, tip: str, act: Callable[[], object], strong: bool = False) -> QPushButton:
        button = word_button(words, tip, strong=strong)
        button.clicked.connect(lambda: act())
        return button

    @property
    def cut(self) -> int | None:
        """The place of the cut under the playhead in its section."""
        part, (_, tick) = self.part, self.place
        if part is None or not part.cuts:
            return None
        return next((i for i, c in reversed(list(enumerate(part.cuts))) if c.first <= tick), 0)

    def _do(self, act: Callable[..., Edit], *values: object) -> None:
        action = self.action
        if action is not None and action.sections:
            self.attempt(lambda: act(self.document.base, action.name, self.place[0], *values))

    def _entry(self, on: bool) -> None:
        self._do(sections.set_entry)

    def _move(self, by: int) -> None:
        action, (index, _) = self.action, self.place
        if action is None or not action.sections:
            return
        name = action.sections[index].name
        self._do(sections.move_section, index + by)
        self._go_to(name)

    def _go_to(self, name: str) -> None:
        compiled = self.document.compiled
        if compiled is not None and name in compiled.index:
            self.document.move_to(compiled.start_of(compiled.index[name]))

    def _join(self) -> None:
        action, assets, (index, _) = self.action, self.document.build.assets, self.place
        if action is not None:
            self.attempt(lambda: sections.join_sections(self.document.base, assets, action.name, index))

    def split(self) -> None:
        """The section in two at the playhead."""
        action, assets, (index, tick) = self.action, self.document.build.assets, self.place
        if action is not None:
            self.attempt(lambda: sections.split_section(self.document.base, assets, action.name, index, tick))

    def split_cut(self) -> None:
        """The cut in two at the playhead."""
        action, assets, (index, tick) = self.action, self.document.build.assets, self.place
        if action is not None:
            self.attempt(lambda: cuts.split_cut(self.document.base, assets, action.name, index, tick))

    def _ask_clip(self, title: str) -> str:
        dialog = Chooser(self, title, [c.name for c in self.document.project.clips], "Type a part of the clip's name")
        return dialog.chosen() if accepted(dialog) else ""

    def add(self) -> None:
        """A new section of a clip the person chooses, behind this one."""
        action, assets, (index, _) = self.action, self.document.build.assets, self.place
        clip = self._ask_clip("New section from a clip") if action is not None else ""
        if action is not None and clip:
            after = index if action.sections else None
            made = self.attempt(lambda: sections.add_section(self.document.base, assets, action.name, clip, after))
            now = self.action
            if made and now is not None:
                self._go_to(now.sections[index + 1 if action.sections else 0].name)

    def add_cut(self) -> None:
        """Another clip behind this cut."""
        action, assets, (index, _), at = self.action, self.document.build.assets, self.place, self.cut
        clip = self._ask_clip("New cut from a clip") if action is not None and action.sections else ""
        if action is None or not clip:
            return
        place = 0 if at is None else at + 1
        base = self.document.base
        self.attempt(
            lambda: cuts.insert_cut(base, assets, action.name, index, place, sections.whole_cut(base, assets, clip))
        )

    def _cut(self, **fields: Any) -> None:
        action, assets, (index, _), at = self.action, self.document.build.assets, self.place, self.cut
        if action is not None and at is not None:
            self.attempt(lambda: cuts.change_cut(self.document.base, assets, action.name, index, at, **fields))

    def _cut_do(self, act: Callable[..., Edit]) -> None:
        action, assets, (index, _), at = self.action, self.document.build.assets, self.place, self.cut
        if action is not None and at is not None:
            self.attempt(lambda: act(self.document.base, assets, action.name, index, at))

    def _retime(self, ticks: float) -> None:
        self.retime(int(ticks))

    def retime(self, ticks: int) -> None:
        """Play the cut under the playhead in as many frames."""
        action, assets, (index, _), at = self.action, self.document.build.assets, self.place, self.cut
        if action is not None and at is not None:
            self.attempt(lambda: cuts.retime_cut(self.document.base, assets, action.name, index, at, ticks))

    def turn_mirror(self) -> None:
        """Mirror the cut, or no longer."""
        part, at = self.part, self.cut
        if part is not None and at is not None:
            self._cut(mirror=not part.cuts[at].cut.mirror)

    def renew(self) -> None:
        action, part, at = self.action, self.part, self.cut
        self.page.setEnabled(action is not None)
        if action is None or part is None:
            return
        section = part.section
        self.name.show_value(section.name)
        rows = [("end", "end"), *((f"{s.name} (loops)" if s is section else s.name, s.name) for s in action.sections)]
        names = {s.name for s in action.sections}
        pools = [
            p.name for p in self.document.project.pools if names & {i.name for i in p.items} and p.name not in names
        ]
        rows += [(f"one of {pool}", pool) for pool in pools]
        self.then.show_choices(rows, section.then)
        self.mark.show_choices([("none", ""), *((m, m) for m in MARKS)], section.mark)
        stands = [("as usual", ""), *((SAID[p], p) for p in POSTURES)]
        self.posture.show_choices(stands, section.posture)
        compiled = self.document.compiled
        self.entry.setChecked(compiled is not None and compiled.sections[compiled.entry] is part)
        for field in (self.start, self.end, self.length, self.rate, self.blend, self.mirror):
            field.setEnabled(at is not None)
        if at is None:
            self.cut_words.setText("The section has no cut yet.")
            return
        cut = part.cuts[at]
        self.cut_words.setText(f"{cut.cut.clip}, {at + 1} of {len(part.cuts)}")
        self.start.show_value(min(cut.start, cut.end))
        self.end.show_value(max(cut.start, cut.end))
        self.length.show_value(cut.ticks)
        self.rate.show_value(cut.cut.rate)
        self.blend.show_value(cut.cut.blend)
        self.mirror.setChecked(cut.cut.mirror)
