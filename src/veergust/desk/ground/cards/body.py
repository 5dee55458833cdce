"""Body: how the stick moves it, how it jumps and falls, and what is corrected over locomotion."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtWidgets import QWidget

from veergust.core.kinds import listed_commands
from veergust.core.model import JointShare
from veergust.desk.document.document import Document
from veergust.desk.ground.cards.page import GroundPage
from veergust.desk.ground.selection import GroundSelection
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, heading, note
from veergust.desk.widgets.listed import ListedField

STICK = (
    ("walk_speed", "Walks at", "m/s", 100, 0.1, "The stick of a key without Shift"),
    ("run_speed", "Runs at", "m/s", 100, 0.1, "The whole stick"),
    ("acceleration", "Comes up by", "m/s²", 1000, 1, "How fast the speed rises"),
    ("braking", "Brakes by", "m/s²", 1000, 1, "How fast it falls; 0: as it rises"),
    ("turn_rate", "Turns by", "°/s", 5000, 10, "While it goes"),
    ("spot_turn_rate", "On the spot", "°/s", 5000, 10, "While it stands; 0: as while it goes"),
    ("air_control", "Air control", "", 1, 0.05, "How much of it the stick has without a floor"),
    ("friction", "Friction", "m/s²", 1000, 1, "What slows a body that flies on over the floor"),
    ("gravity", "Gravity", "m/s²", 1000, 0.1, "While it rises"),
    ("falling", "Falling", "m/s²", 1000, 0.1, "While it falls; 0: as while it rises"),
)
JUMP = (
    ("height", "Held, it goes", "m", 20, 0.05, "How high a press goes that is held"),
    ("tap", "Tapped, it goes", "m", 20, 0.05, "How high after the press is let go"),
    ("held", "May be held", "f", 600, 1, "For so many frames"),
    ("late", "After an edge", "f", 600, 1, "It still counts for so many frames"),
    ("early", "Before landing", "f", 600, 1, "It counts already for so many frames"),
)
FEET = (
    ("weight", "Weight", "", 1, 0.05, "How much feet are laid on the floor; 0: not"),
    ("ticks", "Comes in over", "f", 600, 1, "And goes, where an action holds it off"),
    ("raises", "Foot up to", "m", 2, 0.01, "A foot is raised so far at the most"),
    ("drops", "Pelvis down to", "m", 2, 0.01, "The pelvis is lowered so far at the most"),
    ("turns", "Foot tilts to", "°", 90, 1, "A foot is turned to the floor so far at the most"),
)
LOOK = (
    ("weight", "Weight", "", 1, 0.05, "How much it looks at the target; 0: not"),
    ("ticks", "Comes in over", "f", 600, 1, "And goes, where an action holds it off"),
    ("side", "To a side", "°", 180, 5, "So far at the most"),
    ("up", "Up and down", "°", 90, 5, "So far at the most"),
    ("rate", "Turns by", "°/s", 5000, 10, "No faster"),
)
WHOLE = {"held", "late", "early", "ticks"}


class BodyPage(GroundPage):
    """The numbers of the body."""

    title = "Body"

    def __init__(self, document: Document, selection: GroundSelection, parent: QWidget) -> None:
        super().__init__(document, selection, parent)
        self.fields: dict[tuple[str, str], NumberField] = {}
        self.jump = ChoiceField("Jumps on", lambda v: self._inner("jump", "command", v), "The command that jumps")
        self.states: dict[str, ListedField] = {}
        self._part("The stick", "", STICK)
        self._part("Jump", "jump", JUMP, ("Jumps on", self.jump))
        self._part("Feet to the floor", "feet", FEET)
        self._where("feet")
        self._part("Look at the target", "look", LOOK)
        self.joints = ListedField("Joint", self._joints, "The joints that turn, from the trunk up")
        self.box.addWidget(self.joints)
        self._where("look")
        self.drawn = note("This figure is drawn: feet and look need joints, and do nothing here.")
        self.box.addWidget(self.drawn)
        said = note("An action takes either off by a hold of feet or aim; every ending gives it back.")
        self.box.addWidget(said)
        self.box.addStretch(1)

    def _part(self, title: str, inner: str, rows: tuple[Any, ...], *first: tuple[str, ChoiceField]) -> None:
        self.box.addWidget(heading(title))
        form = Form(2)
        for label, choice in first:
            form.row(label, choice)
        for name, label, unit, high, step, tip in rows:
            field = NumberField(f"{title}: {label.lower()}", self._setter(inner, name), unit=unit, low=0, high=high,
                                step=step, decimals=0 if name in WHOLE else 2, tip=tip)  # fmt: skip
            form.row(label, field)
            self.fields[inner, name] = field
        self.box.addWidget(form)

    def _where(self, inner: str) -> None:
        field = ListedField("In", lambda names: self._inner(inner, "states", names), "In which states; none: in all")
        self.states[inner] = field
        self.box.addWidget(field)

    def _setter(self, inner: str, name: str) -> Any:
        return lambda value: self._inner(inner, name, int(value) if name in WHOLE else value)

    def _inner(self, inner: str, name: str, value: Any) -> None:
        said = f"{value:g}" if isinstance(value, float | int) else value if isinstance(value, str) else f"{len(value)}"
        words = f"{inner or 'body'}: {name.replace('_', ' ')} {said or 'none'}"
        if inner:
            self.set_locomotion(
                words, **{inner: replace(getattr(self.document.base.locomotion, inner), **{name: value})}
            )
        else:
            self.set_locomotion(words, **{name: value})

    def _joints(self, names: tuple[str, ...]) -> None:
        had = {s.joint: s for s in self.locomotion.look.joints}
        share = round(1.0 / max(len(names), 1), 2)
        self._inner("look", "joints", tuple(had.get(n, JointShare(joint=n, share=share)) for n in names))

    def renew(self) -> None:
        there = self.locomotion
        drawn = self.document.build.assets.skeleton.picture >= 0
        self.drawn.setVisible(drawn)
        for (inner, _), field in self.fields.items():
            field.setEnabled(not drawn or inner not in ("feet", "look"))
        for (inner, name), field in self.fields.items():
            field.show_value(float(getattr(getattr(there, inner) if inner else there, name)))
        commands = [(name, name) for name in listed_commands(self.document.project)]
        self.jump.show_choices([("nobody jumps", ""), *commands], there.jump.command)
        chart = self.document.build.chart
        names = [*chart.groups, *chart.states]
        for inner, listed in self.states.items():
            listed.show_value(getattr(there, inner).states, names, again=False)
        joints = list(self.document.build.assets.skeleton.names)
        self.joints.show_value(tuple(s.joint for s in there.look.joints), joints, again=False)
