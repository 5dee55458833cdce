"""Who stands where: the fighters and posts of the stage, set by fields while they are seen there."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import QWidget

from veergust.core.edit import (
    MADE,
    Edit,
    FloorKind,
    add_fighter,
    add_floors,
    add_post,
    remove_fighter,
    remove_floor,
    remove_post,
    set_scaling,
)
from veergust.core.files import ENDING, beside
from veergust.core.kinds import listed_commands
from veergust.core.model import Fighter, Floor, Post
from veergust.core.play import ANSWERING
from veergust.desk.document.document import Document
from veergust.desk.frame.page import FieldPage
from veergust.desk.look.theme import Theme
from veergust.desk.spar.moving import FIGHTERS, FLOORS, POSTS, Standing, StandingTool, change, standing
from veergust.desk.spar.which_stage import WhichStage
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, TextField, heading
from veergust.desk.widgets.rows import buttons

PLAYS = [
    ("from the keys", "keys"),
    ("by a second player", "second"),
    ("only stands", "stands"),
    ("strikes back", "strikes back"),
    ("guards", "guards"),
    ("guards once touched", "guards once touched"),
    ("presses again and again", "presses"),
    ("hits back at once", "hits back"),
    ("walks in", "walks in"),
    ("walks away", "walks away"),
    ("acts once it is up", "once up"),
    ("by chance", "random"),
    ("replays a drill", "replays"),
]
TIMED, NEARED = ("presses", "walks in", "random"), ("walks in", "walks away")
SIDES = {"x from": ("low", 0), "x to": ("high", 0), "z from": ("low", 1), "z to": ("high", 1)}


GOES = ("goes x", "goes y", "goes z")


class StandingPage(FieldPage):
    """The stage, one of those who stand there at a time, and what the touches of a string come to."""

    title = "Who and where"

    def __init__(self, document: Document, theme: Theme, parent: QWidget) -> None:
        super().__init__(document, parent)
        self.setFixedWidth(276)
        self.tool = StandingTool(document, theme, self._choose)
        self.fields: dict[str, Any] = {}
        self.stages = WhichStage(document, self.attempt)
        self.box.addWidget(heading("Stage"))
        self.box.addWidget(self.stages)
        self.box.addWidget(heading("Who and where"))
        self.which = ChoiceField("Who", self._choose, "Whose fields are shown")
        top = Form()
        top.row("Who", self.which)
        self.name = TextField("Their name", lambda n: self._rename(n), "What they are called; drills follow")
        top.row("Name", self.name)
        self.box.addWidget(top)
        where = Form()
        for name, label, low, high, step in (
            ("x", "x", -1000.0, 1000.0, 0.1), ("z", "z", -1000.0, 1000.0, 0.1), ("y", "Height", -100.0, 100.0, 0.1),
        ):  # fmt: skip
            self._number(where, name, label, "m", low, high, step, "Where they begin")
        self._number(where, "facing", "Facing", "°", -180, 180, 5, "About the upright axis; 0 looks along z")
        self.where = where
        self.box.addWidget(where)
        self.of_fighter, self.of_post, self.of_floor = Form(), Form(), Form()
        for side in SIDES:
            self._number(self.of_floor, side, side, "m", -1000, 1000, 0.1, "A side of the rectangle")
        self._number(self.of_floor, "height", "Height", "m", -100, 100, 0.1, "Its top", key="floor height")
        self._number(self.of_floor, "rise", "Rises", "m", -100, 100, 0.1, "So much higher at its far end: a ramp")
        self.along = ChoiceField("It rises along", lambda a: self._set(along=a), "Which way a ramp goes up")
        self.of_floor.row("Along", self.along)
        for axis in "xyz":
            tip = "So far and back again: a platform, which takes along who stands on it"
            self._number(self.of_floor, f"goes {axis}", f"Goes {axis}", "m", -1000, 1000, 0.1, tip)
        self._number(self.of_floor, "takes", "Takes", "f", 1, 36000, 10, "So long for its way there", whole=True)
        self._number(self.of_floor, "rests", "Rests", "f", 0, 10000, 10, "So long at either end, first where it stands",
                     key="floor rests", whole=True)  # fmt: skip
        self.plays = ChoiceField("Played", lambda p: self._set(plays=p), "Who gives the commands")
        self.answer = ChoiceField("It presses", lambda c: self._set(answer=c), "The command that it presses, or holds")
        self.replay = ChoiceField("It replays", lambda d: self._set(replay=d), "The drill whose inputs it is given")
        self.project = ChoiceField("Comes from", lambda p: self._set(project=p),
                                   "Whose figure and moves it has: a project's that lies beside this one")  # fmt: skip
        self.team = TextField("Team", lambda t: self._set(team=t.strip()), "Those of one team do not strike each other")
        for label, field in (
            ("Played", self.plays),
            ("Presses", self.answer),
            ("Replays", self.replay),
            ("Comes from", self.project),
            ("Team", self.team),
        ):
            self.of_fighter.row(label, field)
        self._number(self.of_fighter, "every", "Every", "f", 1, 3600, 5, "It presses so often", whole=True)
        self._number(self.of_fighter, "near", "Nears", "m", 0, 100, 0.1, "Up to so far from the nearest other")
        self._number(self.of_fighter, "health", "Health", "", 0, 1e6, 10, "What it has when it begins")
        self._number(self.of_fighter, "poise", "Poise", "", 0, 1e6, 5, "What it takes before it reels; 0: nothing")
        self._number(self.of_fighter, "recovers", "Recovers", "/s", 0, 1e6, 5, "So much poise, and guard, comes back")
        self._number(
            self.of_fighter, "rests", "Rests", "f", 0, 10000, 10, "Once it was left alone for so long", whole=True
        )
        self._number(self.of_post, "radius", "Radius", "m", 0.01, 50, 0.05, "Of the post", key="post radius")
        self._number(self.of_post, "height", "Tall", "m", 0.01, 50, 0.1, "Of the post", key="post height")
        self._number(self.of_post, "health", "Health", "", 0, 1e6, 10, "0: it stands for ever", key="post health")
        self.falls = TextField("Falls", lambda t: self._set(falls=t.strip()), "The effect of its last hit")
        self.of_post.row("Falls", self.falls)
        self.box.addWidget(self.of_fighter)
        self.box.addWidget(self.of_post)
        self.box.addWidget(self.of_floor)
        more = word_button("+ target", "One more, who only stands, beside this one", strong=True)
        more.clicked.connect(self.add_target)
        post = word_button("+ post", "A post, or a barrel that breaks", strong=True)
        post.clicked.connect(self.add_post)
        gone = word_button("remove", "Take them off the stage")
        gone.clicked.connect(self.remove)
        self.box.addWidget(buttons(more, post, gone))
        floors = [word_button(f"+ {kind}", f"A {kind} more on the stage", strong=True) for kind in MADE]
        for kind, button in zip(MADE, floors):
            button.clicked.connect(lambda _=False, k=kind: self.add_floors(k))
        self.box.addWidget(buttons(*floors[:3]))
        self.box.addWidget(buttons(*floors[3:]))
        self.box.addWidget(heading("A further touch of a string counts"))
        strings = Form()
        tips = {"damage": "Of the damage of the one before", "stun": "Of the stun of the one before",
                "least": "It never counts less than this"}  # fmt: skip
        self.scaling = {
            name: NumberField(f"String {name}", self._scales(name), unit="×", low=0, high=1, step=0.05, decimals=2,
                              tip=tip)
            for name, tip in tips.items()
        }  # fmt: skip
        for label, name in (("Damage", "damage"), ("Stun", "stun"), ("At least", "least")):
            strings.row(label, self.scaling[name])
        self.box.addWidget(strings)
        self.box.addStretch(1)

    def _number(self, form: Form, name: str, label: str, unit: str, low: float, high: float, step: float, tip: str, *,
                key: str = "", whole: bool = False) -> None:  # fmt: skip
        def settled(value: float) -> None:
            if name in ("x", "y", "z"):
                one = self._found()
                place = dict(zip("xyz", one.position if not isinstance(one, Floor) else ())) | {name: value}
                self._set(position=(place["x"], place["y"], place["z"]))
            elif name in GOES:
                one = self._found()
                goes = one.goes if isinstance(one, Floor) else (0.0, 0.0, 0.0)
                way = [value if field == name else far for field, far in zip(GOES, goes)]
                self._set(goes=tuple(way))
            elif name in SIDES:
                field, at = SIDES[name]
                corner = list(getattr(self._found(), field))
                corner[at] = value
                self._set(**{field: tuple(corner)})
            else:
                self._set(**{name: int(value) if whole else value})

        made = NumberField(f"Their {label.lower()}", settled, unit=unit, low=low, high=high, step=step,
                           decimals=0 if whole else 2, tip=tip)  # fmt: skip
        self.fields[key or name] = made
        form.row(label, made)

    def _scales(self, name: str) -> Callable[[float], None]:
        return lambda value: (self.attempt(lambda: set_scaling(self.document.base, **{name: value})), None)[1]

    @property
    def chosen(self) -> str:
        """Whose fields are shown."""
        return self.tool.chosen

    def _found(self) -> Standing:
        return standing(self.document.project)[self.chosen]

    def renew(self) -> None:
        self.stages.renew()
        there = standing(self.document.project)
        if self.chosen not in there:
            self.tool.chosen = next(iter(there), "")
        names = [(one.name, key) for key, one in there.items()]
        self.which.show_choices(names or [("nobody yet", "")], self.chosen)
        scaling = self.document.project.settings.scaling
        for name, field in self.scaling.items():
            field.show_value(getattr(scaling, name))
        for widget in (self.name, self.fields["x"], self.fields["y"], self.fields["z"]):
            widget.setEnabled(bool(there))
        if not there:
            return
        one = self._found()
        fights = isinstance(one, Fighter)
        self.of_fighter.setVisible(fights)
        self.of_post.setVisible(isinstance(one, Post))
        self.of_floor.setVisible(isinstance(one, Floor))
        self.where.setVisible(not isinstance(one, Floor))
        self.fields["facing"].setEnabled(fights)
        self.name.show_value(one.name)
        if isinstance(one, Floor):
            self._show_floor(one)
            return
        for axis, value in zip("xyz", one.position):
            self.fields[axis].show_value(value)
        if isinstance(one, Fighter):
            for name in ("facing", "health", "poise", "recovers", "rests", "every", "near"):
                self.fields[name].show_value(getattr(one, name))
            self.plays.show_choices(PLAYS, one.plays)
            its = self.document.build.of(one).project
            commands = [("nothing", ""), *((c, c) for c in listed_commands(its))]
            self.answer.show_choices(commands, one.answer)
            self.answer.setEnabled(one.plays in ANSWERING)
            self.fields["every"].setEnabled(one.plays in TIMED)
            self.fields["near"].setEnabled(one.plays in NEARED)
            drills = [("nothing", ""), *((d.name, d.name) for d in self.document.project.drills)]
            self.replay.show_choices(drills, one.replay)
            self.replay.setEnabled(one.plays == "replays")
            folder = self.document.folder
            others = dict.fromkeys([*(beside(folder) if folder is not None else ()), one.project])
            guests = [("this project", ""), *((name.removesuffix(ENDING), name) for name in others if name)]
            self.project.show_choices(guests, one.project)
            self.team.show_value(one.team)
            return
        for name in ("radius", "height", "health"):
            self.fields[f"post {name}"].show_value(getattr(one, name))
        self.falls.show_value(one.falls)

    def _show_floor(self, one: Floor) -> None:
        for side, (corner, at) in SIDES.items():
            self.fields[side].show_value(getattr(one, corner)[at])
        self.fields["floor height"].show_value(one.height)
        self.fields["rise"].show_value(one.rise)
        self.along.show_choices([("x", "x"), ("z", "z")], one.along)
        for name, far in zip(GOES, one.goes):
            self.fields[name].show_value(far)
        self.fields["takes"].show_value(one.takes)
        self.fields["floor rests"].show_value(one.rests)
        for name in ("takes", "floor rests"):
            self.fields[name].setEnabled(any(one.goes))

    def _choose(self, key: str) -> None:
        self.tool.chosen = key
        self.renew()

    def _set(self, **changes: Any) -> None:
        # A list may still be open when another is chosen, who has no such field.
        if all(hasattr(self._found(), name) for name in changes):
            self.attempt(lambda: change(self.document.base, self._found(), **changes))

    def _rename(self, new: str) -> None:
        one = self._found()
        kind = self.chosen.removesuffix(one.name)
        if self.attempt(lambda: change(self.document.base, one, name=new)):
            self._choose(kind + new.strip())

    def add_target(self) -> None:
        """One more who only stands."""
        like = self.chosen.removeprefix(FIGHTERS) if self.chosen.startswith(FIGHTERS) else ""
        self._add(FIGHTERS, lambda: add_fighter(self.document.base, like))

    def add_floors(self, kind: FloorKind) -> None:
        """A floor, a ramp, stairs, a wall or a platform more."""
        self._add(FLOORS, lambda: add_floors(self.document.base, kind))

    def add_post(self) -> None:
        """One more post."""
        self._add(POSTS, lambda: add_post(self.document.base))

    def _add(self, kind: str, make: Callable[[], tuple[Edit, str]]) -> None:
        def made() -> Edit:
            edit, name = make()
            self.tool.chosen = kind + name
            return edit

        self.attempt(made)

    def remove(self) -> None:
        """Take the chosen one off the stage."""
        if not self.chosen:
            return
        one = self._found()
        away = remove_fighter if isinstance(one, Fighter) else remove_post if isinstance(one, Post) else remove_floor
        self.attempt(lambda: away(self.document.base, one.name))
