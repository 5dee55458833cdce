"""The whole action: layer, commands, blends, speed, and what runs at its start and endings."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QWidget

from veergust.core.edit import (
    ANSWERS,
    ENDINGS,
    answers,
    answers_in_words,
    put_on,
    set_action,
    set_answers,
    set_ending,
    set_speed,
    set_start,
    write_settings,
)
from veergust.core.kinds import all_listed, sentence
from veergust.core.wording import listed
from veergust.desk.document.document import Document
from veergust.desk.sheet.cards.page import Page
from veergust.desk.sheet.making import make_command
from veergust.desk.sheet.new_command import NEW as NEW_COMMAND
from veergust.desk.widgets.conditions import ConditionsField
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, TextField, heading, note
from veergust.desk.widgets.listed import ListedField

MOMENTA = {"fade": "fades out", "stop": "stops at once", "keep": "is kept"}
EASES = ("linear", "smooth", "in", "out")


class ActionPage(Page):
    """Fields of the open action."""

    title = "Action"

    def __init__(self, document: Document, parent: QWidget) -> None:
        super().__init__(document, parent)
        self.group = TextField("Group", lambda g: self._set(f"group {g}", group=g), "Its heading in the list")
        self.layer = ChoiceField(
            "Layer", self._layer, "Where it plays; it takes the layer's fades where it had those of its old one"
        )
        self.commands = ListedField("Starts on", self._commands, "The commands that start it from locomotion")
        self.states = ListedField("In states", self._states, "Where it starts: anywhere, if none is named")
        self.conditions = ConditionsField(lambda v: self._start(f"if {sentence(v) or 'always'}", conditions=v))
        self.memory = NumberField(
            "String memory", lambda v: self._start(f"string memory {v:g} f", string_memory=int(v)), unit="f", low=0,
            high=36000, tip="For how long after it has ended a press still goes on with the next of its string",
        )  # fmt: skip
        self.answers = ChoiceField("Answers", self._answers, "Which hits this is the reaction to")
        self.momentum = ChoiceField("Momentum", lambda v: self._start(f"momentum {MOMENTA[v]}", momentum=v),
                                    "What becomes of the speed the body had when it starts on the run")  # fmt: skip
        self.cooldown = NumberField("Cooldown", lambda v: self._start(f"cooldown {v:g} f", cooldown=int(v)), unit="f",
                                    low=0, high=36000, tip="How soon it may be used again")  # fmt: skip
        self.speed = NumberField("Speed", self._speed, unit="×", low=0.05, high=20, step=0.05, decimals=2,
                                 tip="All of it faster or slower")  # fmt: skip
        self.blend_in = NumberField("Blend in", lambda v: self._set(f"blend in {v:g} f", blend_in=int(v)), unit="f",
                                    low=0, high=120)  # fmt: skip
        self.blend_out = NumberField("Blend out", lambda v: self._set(f"blend out {v:g} f", blend_out=int(v)),
                                     unit="f", low=0, high=120)  # fmt: skip
        self.ease = ChoiceField("Ease", lambda v: self._set(f"ease {v}", ease=v))
        form = Form()
        form.row("Starts on", self.commands)
        form.row("In states", self.states)
        self.box.addWidget(form)
        self.box.addWidget(self.conditions)
        form = Form(2)
        form.row("Cooldown", self.cooldown)
        form.row("Memory", self.memory)
        form.row("Momentum", self.momentum)
        self.box.addWidget(form)
        self.box.addWidget(heading("How it plays"))
        form = Form(2)
        for label, field in (("Group", self.group), ("Layer", self.layer), ("Speed", self.speed),
                             ("Ease", self.ease), ("Blend in", self.blend_in), ("Blend out", self.blend_out),
                             ("Answers", self.answers)):  # fmt: skip
            form.row(label, field)
        self.box.addWidget(form)
        self.box.addWidget(heading("What runs"))
        self.box.addWidget(note("Parameters as name = number, with commas; and a message to the game."))
        self.endings: dict[str, tuple[TextField, TextField]] = {}
        form = Form()
        for which, words in ENDINGS.items():
            parameters = TextField(f"{words}: parameters", partial(self._ending, which))
            message = TextField(f"{words}: message", partial(self._ending, which))
            parameters.setFixedWidth(150)
            message.setFixedWidth(130)
            message.setPlaceholderText("message")
            parameters.setPlaceholderText("name = number")
            form.row(words, parameters, message)
            self.endings[which] = (parameters, message)
        self.box.addWidget(form)
        self.box.addStretch(1)

    def _set(self, words: str, **fields: object) -> None:
        action = self.action
        if action is not None:
            self.attempt(lambda: set_action(self.document.base, action.name, words, **fields))

    def _layer(self, layer: str) -> None:
        action = self.action
        if action is not None:
            self.attempt(lambda: put_on(self.document.base, action.name, layer))

    def _start(self, words: str, **fields: object) -> None:
        action = self.action
        if action is not None:
            self.attempt(lambda: set_start(self.document.base, action.name, words, **fields))

    def _states(self, names: tuple[str, ...]) -> None:
        self._start(f"in {listed(list(names)) or 'any state'}", states=names)

    def _commands(self, names: tuple[str, ...]) -> None:
        if NEW_COMMAND in names:
            made = make_command(self.document, self)
            names = tuple(n for n in names if n != NEW_COMMAND) + ((made,) if made else ())
        action = self.action
        if action is not None and names != action.start.commands:
            self._start(f"starts on {listed(list(names)) or 'nothing'}", commands=names)
        else:
            self.renew()

    def _answers(self, when: str) -> None:
        action = self.action
        if action is not None:
            self.attempt(lambda: set_answers(self.document.base, action.name, when))

    def _speed(self, speed: float) -> None:
        action, assets = self.action, self.document.build.assets
        if action is not None:
            self.attempt(lambda: set_speed(self.document.base, assets, action.name, speed))

    def _ending(self, which: str, _: str) -> None:
        action = self.action
        if action is not None:
            parameters, message = (field.text() for field in self.endings[which])
            self.attempt(lambda: set_ending(self.document.base, action.name, which, parameters, message))

    def renew(self) -> None:
        action, project = self.action, self.document.project
        self.page.setEnabled(action is not None)
        if action is None:
            return
        self.group.show_value(action.group)
        self.layer.show_choices([(y.name, y.name) for y in project.layers], action.layer)
        start = action.start
        self.commands.show_value(start.commands, [*self.document.build.ask(all_listed), NEW_COMMAND], again=False)
        ground = project.locomotion
        self.states.show_value(start.states, [*(s.name for s in ground.states), *(g.name for g in ground.groups)],
                               again=False)  # fmt: skip
        self.conditions.show_value(start.conditions, project)
        self.cooldown.show_value(start.cooldown)
        self.memory.show_value(start.string_memory)
        self.speed.show_value(action.speed)
        self.blend_in.show_value(action.blend_in)
        self.blend_out.show_value(action.blend_out)
        self.ease.show_choices([(e, e) for e in EASES], action.ease)
        when = answers(project, action.name)
        if when is None:
            # What several rows say is told, and not taken away by a choice that cannot say it.
            rows = sum(r.action == action.name for r in project.reactions)
            self.answers.show_choices([(f"{rows} row{'s' * (rows != 1)} of the table", "")], "")
        else:
            self.answers.show_choices([(words, key) for key, words in ANSWERS.items()], when)
        self.answers.setEnabled(when is not None)
        self.answers.setToolTip(f"Answers {answers_in_words(project, action.name)}")
        self.momentum.show_choices([(words, m) for m, words in MOMENTA.items()], action.start.momentum)
        for which, (parameters, message) in self.endings.items():
            ending = getattr(action, which)
            parameters.show_value(write_settings(ending.parameters))
            message.show_value(ending.message)
