"""What a spawned event lets fly: how it flies, and what it does to whom it touches."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import QVBoxLayout, QWidget

from veergust.core.edit import Edit, SpanRef, make_thrown, remove_thrown, set_thrown
from veergust.core.kinds import GUARDS, TEAMS
from veergust.core.model import Event, Thrown
from veergust.desk.document.document import Document
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, TextField, Triple, heading, note
from veergust.desk.widgets.outcomes import OutcomesField
from veergust.desk.widgets.rows import buttons, switch

REELS = "as it reels"


class FlyingForm(QWidget):
    """The thing of one spawned event; events of one name let the same thing go."""

    def __init__(self, document: Document, attempt: Callable[[Callable[[], Edit]], bool]) -> None:
        super().__init__()
        self.document, self.attempt = document, attempt
        self.ref: SpanRef | None = None
        self.thing: Thrown | None = None
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(5)
        box.addWidget(heading("What flies"))
        self.words = note()
        box.addWidget(self.words)
        self.make = word_button(
            "let it fly", "What this event spawns flies and touches, in Spar and in play", strong=True
        )
        self.make.clicked.connect(self._make)
        self.gone = word_button("no more", "It flies no more, wherever it is spawned")
        self.gone.clicked.connect(self._remove)
        box.addWidget(buttons(self.make, self.gone))
        self.body = QWidget()
        box.addWidget(self.body)
        inner = QVBoxLayout(self.body)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.setSpacing(5)
        self.fields: dict[str, Any] = {}
        form = Form(2)
        self._number(form, "speed", "Speed", "m/s", 500, 0.5, "Over the floor, as it is let go")
        self._number(form, "up", "Upwards", "m/s", 500, 0.5, "As it is let go", low=-500)
        self._number(form, "gravity", "Falls", "m/s²", 100, 0.5, "How fast it is drawn down", low=-100)
        self._number(form, "turns", "Turns", "°/s", 3600, 15, "Towards the nearest other")
        self._choice(form, "aims", "Aims", ("ahead", "target"), "Ahead, or so that it comes down on the nearest other")
        self._number(form, "limit", "Within", "°", 180, 5, "It aims at what lies so far off ahead")
        self._number(form, "life", "Lives", "f", 3600, 1, "Then it is gone", low=1, whole=True)
        self._number(form, "radius", "Radius", "m", 5, 0.01, "How large it is for what it touches", low=0.005)
        self._number(form, "bounce", "Bounces", "×", 1, 0.05, "What it keeps of its speed; 0: it ends there")
        self._number(form, "pierce", "Goes through", "", 1000, 1, "So many victims; it ends with the next", whole=True)
        inner.addWidget(form)
        self.outlives = switch("flies on when its action ends", "Whatever becomes of who threw it",
                               lambda on: self._set(outlives=on))  # fmt: skip
        inner.addWidget(buttons(self.outlives))
        form = Form(2)
        self._number(form, "damage", "Damage", "", 1e4, 1, "Taken from health on a hit")
        self._number(form, "poise", "Poise", "", 1e4, 1, "How much armour it breaks")
        self._number(form, "stun", "Stun", "f", 600, 1, "The victim cannot act for so long", whole=True, nothing=REELS)
        self._number(form, "guard_stun", "Guard stun", "f", 600, 1, "Of one who guards", whole=True, nothing=REELS)
        self._choice(form, "guard", "Guard", tuple(GUARDS), "Which guard stops it")
        self._number(form, "hit_stop", "Hit stop", "f", 60, 1, "The victim stands still so long", whole=True)
        self.strength = TextField("Strength", lambda s: self._set(strength=s), "What the reaction table looks up")
        form.row("Strength", self.strength)
        self._choice(form, "team", "Whom", TEAMS, "Those not of its thrower's team, those who are, or everybody")
        inner.addWidget(form)
        inner.addWidget(note("Knockback"))
        self.knockback = Triple("Knockback", lambda v: self._set(knockback=v), "m/s", 0.5)
        inner.addWidget(self.knockback.row())
        inner.addWidget(note("Runs"))
        self.runs = OutcomesField("It runs", lambda r: self._set(runs=r), "What goes off as it touches")
        inner.addWidget(self.runs)

    def _number(self, form: Form, name: str, label: str, unit: str, high: float, step: float, tip: str, *,
                low: float = 0.0, whole: bool = False, nothing: str = "") -> None:  # fmt: skip
        least = low - step if nothing else low

        def settled(value: float) -> None:
            own = int(value) if whole else value
            self._set(**{name: None if nothing and value < low else own})

        field = NumberField(f"It: {label}", settled, unit=unit, low=least, high=high, step=step,
                            decimals=0 if whole else 2, tip=tip)  # fmt: skip
        field.setSpecialValueText(nothing)
        self.fields[name] = field
        form.row(label, field)

    def _choice(self, form: Form, name: str, label: str, given: tuple[str, ...], tip: str) -> None:
        field = ChoiceField(f"It: {label}", lambda value: self._set(**{name: value}), tip)
        field.show_choices([(g, g) for g in given], given[0])
        self.fields[name] = field
        form.row(label, field)

    def show_event(self, ref: SpanRef, event: Event) -> None:
        """Show what an event lets fly."""
        self.ref = ref
        self.setVisible(event.kind == "spawn")
        self.thing = thing = next((t for t in self.document.project.thrown if t.name == event.name), None)
        self.make.setVisible(thing is None)
        self.gone.setVisible(thing is not None)
        self.body.setVisible(thing is not None)
        if thing is None:
            self.words.setText("The game is told, and nothing flies here. Let it fly to try what it touches.")
            return
        events = (e for a in self.document.project.actions for s in a.sections for e in s.events)
        many = sum((e.kind, e.name) == ("spawn", thing.name) for e in events)
        self.words.setText(f"{thing.name}: as {many} events let it go." if many > 1 else f"{thing.name} flies.")
        for name, field in self.fields.items():
            value = getattr(thing, name, None) if name in thing.__struct_fields__ else getattr(thing.strike, name)
            if isinstance(field, ChoiceField):
                field.show_choices([(field.itemText(i), field.itemData(i)) for i in range(field.count())], str(value))
            else:
                field.show_value(-1 if value is None else value)
        self.fields["limit"].setEnabled(thing.aims == "target")
        self.outlives.setChecked(thing.outlives)
        self.strength.show_value(thing.strike.strength)
        self.knockback.show(thing.strike.knockback)
        self.runs.show_value(thing.strike.runs)

    def _make(self) -> None:
        ref = self.ref
        if ref is not None:
            self.attempt(lambda: make_thrown(self.document.base, ref))

    def _remove(self) -> None:
        thing = self.thing
        if thing is not None:
            self.attempt(lambda: remove_thrown(self.document.base, thing.name))

    def _set(self, **changes: Any) -> None:
        thing = self.thing
        if thing is not None:
            self.attempt(lambda: set_thrown(self.document.base, thing.name, **changes))
