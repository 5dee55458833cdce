"""The commands: the keys they are on, taken by pressing, and what the hands do for each."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal

from PySide6.QtWidgets import QWidget

from veergust.core.edit import (
    add_command,
    bind,
    change_gesture,
    free,
    remove_command,
    rename_command,
    set_command,
    set_gesture,
    unbind,
    who_has,
)
from veergust.core.kinds import listed_commands
from veergust.core.model import Command, Gesture
from veergust.core.play import WAYS
from veergust.desk.document.document import Document
from veergust.desk.frame.driving import Driver
from veergust.desk.frame.page import FieldPage
from veergust.desk.look.theme import Theme
from veergust.desk.spar.which_pads import WhichPads
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, TextField, heading, note
from veergust.desk.widgets.key_field import KeyField
from veergust.desk.widgets.listed import ListedField
from veergust.desk.widgets.rows import buttons

MADE = [
    ("by a press", ""),
    ("held for a while", "held"),
    ("let go after a while", "let go"),
    ("pressed twice", "double"),
    ("pressed together", "together"),
    ("by the stick", "motion"),
]
ABOUT = [("the body", "body"), ("its target", "target")]
MEETS = [("only themselves", ""), ("those beside too", "wide")]
PASSES = [("any others", ""), ("no others", "strict")]


class CommandsPage(FieldPage):
    """One command at a time."""

    title = "Commands"

    def __init__(self, document: Document, driver: Driver, theme: Theme, parent: QWidget) -> None:
        super().__init__(document, parent)
        self.setFixedWidth(312)
        self.chosen = ""
        self.box.addWidget(heading("Commands"))
        self.which = ChoiceField("Command", self.choose, "Whose fields are shown")
        self.name = TextField("Name of the command", self._rename, "What it is called; all that asks for it goes along")
        self.player = ChoiceField("Player", lambda _: self.renew(), "Whose keys are shown; pads are bound for both")
        self.player.show_choices([("the first player", "keys"), ("the second player", "second")], "keys")
        self.keys = ListedField("Keys", self._keys, "The keys it is on, and buttons of mouse and pad")
        self.key = KeyField("One more key", "Press the key, or the button of mouse or pad, that it is to be on as well",
                            self._pressed)  # fmt: skip
        self.wanted = ""
        self.told = note()
        self.over = word_button("take it over", "The command that has the key loses it")
        self.over.clicked.connect(self._take_over)
        self.buffer = NumberField("Remembered", self._buffer, unit="f", low=-1, high=600, step=1, decimals=0,
                                  tip="For so many frames a press is remembered; below 0: as all are")  # fmt: skip
        self.buffer.setSpecialValueText("as all")
        self.made = ChoiceField("Made", self._remake,
                                "What the hands do for it")  # fmt: skip
        top = Form()
        for label, field in (("Command", self.which), ("Name", self.name), ("Remembered", self.buffer),
                             ("Made", self.made)):  # fmt: skip
            top.row(label, field)
        self.box.addWidget(top)
        self.on_keys = Form()
        self.on_keys.row("Of", self.player)
        self.on_keys.row("Keys", self.keys)
        self.on_keys.row("Press one", self.key)
        self.box.addWidget(self.on_keys)
        self.box.addWidget(self.told)
        self.box.addWidget(self.over)
        self._gestures()
        new = word_button("+ command", "One more", strong=True)
        new.clicked.connect(self.add)
        gone = word_button("remove", "Take it away; nothing may ask for it any more")
        gone.clicked.connect(lambda: self._do(lambda: remove_command(document.base, self.chosen)))
        self.new_button, self.gone_button = new, gone
        self.box.addWidget(buttons(new, gone))
        self.which_pads = WhichPads(driver, theme)
        self.box.addWidget(self.which_pads)
        self.box.addStretch(1)

    def _gestures(self) -> None:
        self.of = ListedField("Made of", self._made_of, "The commands it is made of")
        self.ticks = self._frames("For", "ticks", "It is held for so long, or longer", low=0)
        self.within = self._frames("Within", "within", "From one part to the next, so many frames at most", low=1)
        self.ways = ListedField("Ways", lambda ways: self._change("ways", ways=ways), "Where the stick goes, in turn")
        for listed in (self.of, self.ways):
            listed.add.setFixedWidth(92)
        self.about = ChoiceField("Counted from", lambda a: self._change("counted", about=a), "What forward means")
        self.meets = ChoiceField("A way is met by", lambda w: self._change("ways", wide=w == "wide"), "How exact it is")
        self.passes = ChoiceField("Between them come", lambda w: self._change("ways", strict=w == "strict"),
                                  "Whether the stick may pass other ways")  # fmt: skip
        self.sets = ChoiceField("Tells how long", lambda name: self._change("levels", sets=name),
                                "A parameter that becomes how many of the levels were reached")  # fmt: skip
        self.levels = TextField("Levels", self._levels, "Frames it has to be held for each level, as 20 40 60")
        self.forms: dict[str, tuple[Form, frozenset[str]]] = {}
        for label, field, kinds in (
            ("Of", self.of, "held/let go/double/together/motion"), ("For", self.ticks, "held/let go"),
            ("Within", self.within, "double/together/motion"), ("Ways", self.ways, "motion"),
            ("From", self.about, "motion"), ("Met by", self.meets, "motion"), ("Between", self.passes, "motion"),
            ("Tells", self.sets, "held/let go"), ("Levels", self.levels, "held/let go"),
        ):  # fmt: skip
            form = Form()
            form.row(label, field)
            self.forms[label] = form, frozenset(kinds.split("/"))
            self.box.addWidget(form)

    def _frames(self, label: str, name: str, tip: str, low: int) -> NumberField:
        def settled(value: float) -> None:
            self._change(label.lower(), **{name: int(value)})

        return NumberField(f"{label} frames", settled, unit="f", low=low, high=600, step=1, decimals=0, tip=tip)

    # Making edits

    def _do(self, make: Callable[[], Any]) -> bool:
        done = self.attempt(make)
        self.renew()
        return done

    def _change(self, words: str, **fields: Any) -> None:
        self._do(lambda: change_gesture(self.document.base, self.chosen, words, **fields))

    def _remake(self, kind: str) -> None:
        self._do(lambda: set_gesture(self.document.base, self.chosen, kind))

    def _made_of(self, names: tuple[str, ...]) -> None:
        """Of one command, the one that was chosen last, or together of several."""
        command = self._found()
        several = command is not None and command.gesture is not None and command.gesture.kind == "together"
        self._change("made of", of=names if several else names[-1:])

    def _levels(self, text: str) -> None:
        said = text.replace(",", " ").split()
        if all(word.isdigit() and int(word) <= 10_000 for word in said):
            self._change("levels", levels=tuple(sorted(int(word) for word in said)))
        else:
            self.document.said.emit("levels: type frames, as 20 40 60", True)
            self.renew()

    def _buffer(self, value: float) -> None:
        ticks = None if value < 0 else int(value)
        self._do(lambda: set_command(self.document.base, self.chosen, "remembered", buffer=ticks))

    def _rename(self, name: str) -> None:
        old = self.chosen
        if self.attempt(lambda: rename_command(self.document.base, old, name)):
            self.chosen = name.strip()
        self.renew()

    def _keys(self, keys: tuple[str, ...]) -> None:
        command = self._found()
        for key in getattr(command, self._whose) if command is not None else ():
            if key not in keys:
                self._do(lambda key=key: unbind(self.document.base, self.chosen, key))  # type: ignore[misc]

    @property
    def _whose(self) -> Literal["keys", "second"]:
        return "second" if self.player.currentData() == "second" else "keys"

    def _pressed(self, key: str) -> None:
        """A key was pressed to be bound."""
        self.wanted = key
        has = who_has(self.document.project, key)
        found = self._found()
        if has and (found is None or key not in getattr(found, self._whose)):
            self.told.setText(f"{key} is the key of {has}.")
            self.told.show()
            self.over.show()
            return
        self._do(lambda: bind(self.document.base, self.chosen, key, player=self._whose))
        self._clear()

    def _take_over(self) -> None:
        key = self.wanted
        self._do(lambda: bind(self.document.base, self.chosen, key, take_over=True, player=self._whose))
        self._clear()

    def _clear(self) -> None:
        self.key.empty()
        self.told.hide()
        self.over.hide()

    def add(self) -> None:
        """One more command, which is open then."""
        name = free("new command", {c.name for c in self.document.project.commands})
        if self.attempt(lambda: add_command(self.document.base, name)):
            self.chosen = name
        self.renew()

    def choose(self, name: str) -> None:
        """Show a command."""
        self.chosen = name
        self._clear()
        self.renew()

    # Showing

    def _found(self) -> Command | None:
        return next((c for c in self.document.project.commands if c.name == self.chosen), None)

    def renew(self) -> None:
        project = self.document.project
        names = listed_commands(project)
        if self.chosen not in names:
            self.chosen = names[0] if names else ""
            self._clear()
        self.which.show_choices([(n, n) for n in names] or [("none yet", "")], self.chosen)
        found = self._found()
        for widget in (self.name, self.buffer, self.made, self.key, self.gone_button):
            widget.setEnabled(found is not None)
        gesture = found.gesture if found is not None else None
        self.on_keys.setVisible(gesture is None)
        self.name.show_value(self.chosen)
        self.buffer.show_value(-1 if found is None or found.buffer is None else found.buffer)
        self.made.show_choices(MADE, gesture.kind if gesture is not None else "")
        self.keys.show_value(getattr(found, self._whose) if found is not None else (), [], again=False)
        self.which_pads.renew()
        self.keys.add.hide()
        for form, kinds in self.forms.values():
            form.setVisible(gesture is not None and gesture.kind in kinds)
        if gesture is not None:
            self._show(gesture)

    def _show(self, gesture: Gesture) -> None:
        project = self.document.project
        plain = [c.name for c in project.commands if c.gesture is None]
        self.of.show_value(gesture.of, plain, again=False)
        self.ticks.show_value(gesture.ticks)
        self.within.show_value(gesture.within)
        self.ways.show_value(gesture.ways, [*WAYS, "centre"], again=True)
        self.about.show_choices(ABOUT, gesture.about)
        self.meets.show_choices(MEETS, "wide" if gesture.wide else "")
        self.passes.show_choices(PASSES, "strict" if gesture.strict else "")
        parameters = [("nobody", ""), *((p.name, p.name) for p in project.locomotion.parameters)]
        self.sets.show_choices(parameters, gesture.sets)
        self.levels.show_value(" ".join(str(n) for n in gesture.levels))
