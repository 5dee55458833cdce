"""State: what it plays, over what it is blended, how the body turns and how fast it goes; and how its feet stand."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtWidgets import QWidget

from veergust.core.edit import put_in, rename, set_state, with_locomotion
from veergust.core.kinds import MEASURES
from veergust.core.model import BlendPoint, State
from veergust.core.study import slides_of
from veergust.desk.document.document import Document
from veergust.desk.ground.cards.page import GroundPage
from veergust.desk.ground.feet_strip import FeetStrip
from veergust.desk.ground.selection import GroundSelection
from veergust.desk.look.theme import Theme
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, TextField, heading, note
from veergust.desk.widgets.rows import buttons

PLAYS = [("as the clip", "clip"), ("in a loop", "loop"), ("once", "once"), ("its last pose", "hold")]
BANDS = [("on the floor", "floor"), ("on guard", "guard"), ("in the air", "air")]
TURNS = [("with the stick", "stick"), ("to the target", "target"), ("not", "not")]
NONE = ("none", "")


class StatePage(GroundPage):
    """The state that is chosen."""

    title = "State"

    def __init__(self, document: Document, selection: GroundSelection, theme: Theme, parent: QWidget) -> None:
        super().__init__(document, selection, parent)
        self.name = TextField("Name", self._rename, "What it is called; all that names it follows")
        self.group = ChoiceField("Group", self._put, "The group it stands in")
        self.band = ChoiceField("Band", lambda v: self.change("band", band=v), "Where its tag lies")
        self.clip = ChoiceField("Clip", self._clip, "The clip it plays")
        self.plays = ChoiceField("Plays", lambda v: self.change(f"plays {v}", plays=v), "How the clip goes on")
        self.matched = NumberField("Feet stand at", lambda v: self.change(f"feet stand at {v:g} m/s", matched=v),
                                   unit="m/s", low=0, high=100, step=0.1, decimals=2,
                                   tip="The clip is played as fast as the body goes; 0: at its own rate")  # fmt: skip
        self.action = ChoiceField("Action", lambda v: self.change(f"runs {v or 'no action'}", action=v),
                                  "An action it runs while it is the present state")  # fmt: skip
        self.turns = ChoiceField("Body turns", lambda v: self.change(f"turns {v}", turns=v), "What the body turns to")
        self.posture = ChoiceField("Stands", lambda v: self.change(f"stands {v}", posture=v), "How the body stands "
                                   "here for what touches it: its hurtboxes, and who answers")  # fmt: skip
        self.most = NumberField("Fastest", lambda v: self.change(f"at most {v:g} m/s", most=v), unit="m/s", low=0,
                                high=100, step=0.1, decimals=2, tip="With the whole stick; 0: the run's")  # fmt: skip
        form = Form(2)
        for label, field in (("Name", self.name), ("Group", self.group), ("Clip", self.clip), ("Plays", self.plays),
                             ("Feet stand at", self.matched), ("Band", self.band), ("Body turns", self.turns),
                             ("Fastest", self.most), ("Runs", self.action), ("Stands", self.posture)):  # fmt: skip
            form.row(label, field)
        self.box.addWidget(form)
        self.box.addWidget(heading("Blend"))
        self.over = (
            ChoiceField("Blend over", lambda v: self._over(0, v), "What it is blended over"),
            ChoiceField("and over", lambda v: self._over(1, v), "A second number, or none"),
        )
        self.add = ChoiceField("Add a clip", self._add, "One clip more in the blend")
        over = Form(2)
        over.row("Over", self.over[0])
        over.row("and", self.over[1])
        over.row("Add", self.add)
        self.box.addWidget(over)
        self.points: Form | None = None
        self._shown: tuple[Any, ...] = ()
        self.feet_title = heading("Feet")
        self.box.addWidget(self.feet_title)
        self.feet = FeetStrip(theme)
        self.box.addWidget(self.feet)
        self.feet_words = note()
        self.box.addWidget(self.feet_words)
        begins = word_button("begins here", "Everybody begins in this state")
        begins.clicked.connect(self._begin)
        self.begins = begins
        self.box.addWidget(buttons(begins))
        self.box.addStretch(1)

    def change(self, words: str, **fields: Any) -> None:
        """Set fields of the state."""
        name = self.selection.name
        self.attempt(lambda: set_state(self.document.base, name, words, **fields))

    def _rename(self, name: str) -> None:
        old = self.selection.name
        if self.attempt(lambda: rename(self.document.base, old, name)):
            self.selection.choose(name.strip())

    def _put(self, group: str) -> None:
        name = self.selection.name
        self.attempt(lambda: put_in(self.document.base, (name,), group))

    def _begin(self) -> None:
        name = self.selection.name
        self.attempt(lambda: with_locomotion(self.document.base, f"Begins in {name}", entry=name))

    def _clip(self, name: str) -> None:
        self.change(f"plays {name}" if name else "no clip", clip=name)

    def _over(self, index: int, name: str) -> None:
        state = self.selection.state
        if state is None:
            return
        over = list(state.over)
        over[index : index + 1] = [name] if name else []
        over = over or ["speed"]
        points = tuple(replace(p, at=tuple((*p.at, 0.0, 0.0)[: len(over)])) for p in state.blend)
        self.change(f"blended over {' and '.join(over)}", over=tuple(over), blend=points)

    def _add(self, name: str) -> None:
        state = self.selection.state
        if state is None or not name:
            return
        left, ahead = self.document.build.locomotion_clip(name).pace
        known = {"speed": (left**2 + ahead**2) ** 0.5, "ahead": ahead, "left": left}
        at = tuple(round(known.get(o, 0.0), 2) for o in state.over)
        self.change(f"{name} in the blend", blend=(*state.blend, BlendPoint(clip=name, at=at)))

    def _move(self, index: int, axis: int, value: float) -> None:
        state = self.selection.state
        if state is None:
            return
        at = list((*state.blend[index].at, 0.0, 0.0)[: len(state.over)])
        at[axis] = value
        self._points(state, index, replace(state.blend[index], at=tuple(at)))

    def _points(self, state: State, index: int, made: BlendPoint | None) -> None:
        kept = [made if i == index else p for i, p in enumerate(state.blend)]
        words = f"{state.blend[index].clip} at {', '.join(f'{v:g}' for v in made.at)}" if made else "a clip less"
        self.change(words, blend=tuple(p for p in kept if p is not None))

    def _taker(self, index: int) -> Any:
        def take() -> None:
            if self.selection.state is not None:
                self._points(self.selection.state, index, None)

        return take

    def _mover(self, index: int, axis: int) -> Any:
        return lambda value: self._move(index, axis, value)

    def renew(self) -> None:
        state = self.selection.state
        self.page.setEnabled(state is not None)
        if state is None:
            self.name.show_value("")
            return
        project, chart = self.document.project, self.document.build.chart
        clips = [NONE, *((c.name, c.name) for c in project.clips)]
        self.name.show_value(state.name)
        self.group.show_choices([NONE, *((g, g) for g in chart.groups)], state.group)
        self.band.show_choices(BANDS, state.band)
        self.clip.show_choices(clips, state.clip)
        self.plays.show_choices(PLAYS, state.plays)
        self.matched.show_value(state.matched)
        self.action.show_choices([NONE, *((a.name, a.name) for a in project.actions)], state.action)
        self.turns.show_choices(TURNS, state.turns)
        self.most.show_value(state.most)
        self.posture.show_choices([("standing", "standing"), ("ducking", "ducking"), ("lying", "down")], state.posture)
        bare = not state.blend
        for field in (self.plays, self.matched):
            field.setEnabled(bare)
        names = [(m.label, key) for key, m in MEASURES.items()]
        names += [(p.name, p.name) for p in project.locomotion.parameters if p.kind in ("number", "whole")]
        self.over[0].show_choices(names, state.over[0] if state.over else "speed")
        self.over[1].show_choices([("nothing else", ""), *names], state.over[1] if len(state.over) > 1 else "")
        self.add.show_choices([("+ a clip", ""), *clips[1:]], "")
        self.begins.setEnabled(project.locomotion.entry != state.name)
        self._show_points(state)
        self._show_feet(state)

    def _show_points(self, state: State) -> None:
        key = (state.name, state.over, tuple(p.clip for p in state.blend))
        if key != self._shown:
            self._shown = key
            if self.points is not None:
                self.points.hide()
                self.box.removeWidget(self.points)
                self.points.deleteLater()
            self.points = Form()
            self._fields: list[list[NumberField]] = []
            for i, point in enumerate(state.blend):
                row = [self._number(name, i, axis) for axis, name in enumerate(state.over[:2])]
                gone = word_button("×", f"Take {point.clip} out of the blend")
                gone.setAccessibleName(f"Take {point.clip} out")
                gone.clicked.connect(self._taker(i))
                self.points.row(point.clip, *row, gone)
                self._fields.append(row)
            self.box.insertWidget(3, self.points)
        for row, point in zip(self._fields, state.blend):
            for field, value in zip(row, point.at):
                field.show_value(value)

    def _number(self, name: str, index: int, axis: int) -> NumberField:
        measure = MEASURES.get(name)
        label, unit = (measure.label, measure.unit) if measure is not None else (name, "")
        return NumberField(f"{label} of clip {index + 1}", self._mover(index, axis), unit=unit, low=-1e4, high=1e4,
                           step=0.1, decimals=2, tip=label)  # fmt: skip

    def _show_feet(self, state: State) -> None:
        found = slides_of(self.document.build, state)
        for widget in (self.feet_title, self.feet, self.feet_words):
            widget.setVisible(bool(found))
        if not found:
            return
        self.feet.show_slides(found)
        worst = max(found, key=lambda s: s.slides)
        corrected = self.locomotion.feet.weight > 0.0
        words = f"By its clips alone a standing foot slides up to {worst.slides * 100:.1f} cm, at {worst.value:.2f} m/s"
        self.feet_words.setText(f"{words}; feet to the floor {'holds it' if corrected else 'is off'}.")
