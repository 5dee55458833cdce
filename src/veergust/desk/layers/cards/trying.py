"""Try: a state of locomotion and a speed, an action on each layer, and a take of Spar instead."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QWidget

from veergust.core.edit import set_layer
from veergust.core.play import FighterState
from veergust.core.study import Trying, speed_of
from veergust.desk.document.document import Document
from veergust.desk.frame.page import FieldPage
from veergust.desk.layers.selection import LayerSelection
from veergust.desk.layers.try_stage import TryStage
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, note
from veergust.desk.widgets.rows import buttons

NOTHING = ("nothing", "")
WIDE = 190
LONGEST = 14
"""Of a longer name so many letters stand before its field, which has it whole."""


class TryPage(FieldPage):
    """What is tried."""

    title = "Try"

    def __init__(self, document: Document, selection: LayerSelection, stage: TryStage, parent: QWidget) -> None:
        super().__init__(document, parent)
        self.selection, self.stage = selection, stage
        self.takes: Callable[[], list[FighterState]] = list
        self.state = ChoiceField("Locomotion", self._state, "The state the figure stays in")
        self.state.setFixedWidth(118)
        self.speed = NumberField("Speed", self._speed, unit="m/s", low=0, high=20, step=0.2, decimals=2,
                                 tip="How fast the body goes")  # fmt: skip
        self.speed.setFixedWidth(68)
        self.lines: Form | None = None
        self.fields: dict[str, ChoiceField] = {}
        self.notes: dict[str, QWidget] = {}
        self._made: tuple[str, ...] | None = None
        self.space = {
            "joint": word_button("joint by joint", "Its first joint is turned in its parent", checkable=True),
            "body": word_button("keep the aim", "Its first joint is turned about the body, so that what hangs on it "
                                "aims where it aimed", checkable=True),
        }  # fmt: skip
        for space, button in self.space.items():
            button.setObjectName("switch")
            button.clicked.connect(partial(self._mix, space))
        self.words = note()
        self.read = word_button("read the take of Spar", "Who spoke in it, tick by tick", strong=True)
        self.read.clicked.connect(self._read)
        self.box.addWidget(buttons(*self.space.values(), self.read))
        self.box.addWidget(self.words)
        self.box.addStretch(1)
        stage.changed.connect(self.renew)
        selection.changed.connect(self.renew)

    def _state(self, name: str) -> None:
        there = self.document.build.states.get(name)
        speed = speed_of(self.document.build, there) if there is not None else 0.0
        self.stage.try_out(Trying(name, speed, self.stage.trying.actions))

    def _speed(self, speed: float) -> None:
        self.stage.try_out(Trying(self.stage.trying.state, speed, self.stage.trying.actions))

    def _mix(self, space: str, _: bool = False) -> None:
        layer = self.selection.layer
        if layer is not None:
            says = {"joint": "mixed joint by joint", "body": "mixed in body space"}[space]
            self.attempt(lambda: set_layer(self.document.base, layer.name, says, space=space))
        self.renew()

    def _read(self) -> None:
        ticks = self.takes()
        if ticks:
            self.stage.read_take(ticks)
        else:
            self.document.said.emit("There is no take yet: play on Spar (Ctrl+6) first.", False)

    def _rows(self) -> None:
        """A row for each layer, the top one first."""
        names = tuple(y.name for y in reversed(self.document.project.layers))
        if names == self._made:
            return
        self._made = names
        if self.lines is not None:
            self.lines.hide()
            self.box.removeWidget(self.lines)
            self.lines.deleteLater()
        self.lines = Form()
        self.lines.row("Locomotion", self.state, self.speed)
        self.fields, self.notes = {}, {}
        for name in names:
            field = ChoiceField(f"Action on {name}", partial(self.stage.put, name), f"What plays on {name}")
            field.setFixedWidth(WIDE)
            said = note()
            self.lines.row(name if len(name) <= LONGEST else f"{name[: LONGEST - 1]}…", field, said)
            self.fields[name], self.notes[name] = field, said
        self.box.insertWidget(0, self.lines)

    def renew(self) -> None:
        self._rows()
        project, build, trying = self.document.project, self.document.build, self.stage.trying
        self.state.show_choices([(s, s) for s in build.states] or [("the figure at rest", "")], trying.state)
        self.speed.show_value(trying.speed)
        chosen = dict(trying.actions)
        for name, field in self.fields.items():
            there = [(a.name, a.name) for a in project.actions if a.layer == name]
            field.show_choices([NOTHING, *there], chosen.get(name, ""))
            layer = build.layers.get(name)
            rule = layer.rule(trying.state) if layer is not None else "may"
            said = self.notes[name]
            said.setText(f"{rule} in {trying.state}" if rule != "may" and chosen.get(name) else "")  # type: ignore[attr-defined]
        layer_ = self.selection.layer
        for space, button in self.space.items():
            button.setEnabled(layer_ is not None)
            button.setChecked(layer_ is not None and layer_.space == space)
        self.words.setText(f"How {layer_.name} is mixed: B shows both." if layer_ is not None else "")
