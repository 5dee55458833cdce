"""Live: what plays and how far its crossfade has come, the last transitions and why, and what is held by hand."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QVBoxLayout, QWidget

from veergust.core.kinds import MEASURES, measured, sentence
from veergust.core.motion import ease
from veergust.core.play import FighterState, Input, parts_of
from veergust.desk.document.document import Document
from veergust.desk.ground.cards.page import GroundPage
from veergust.desk.ground.live import LiveStage
from veergust.desk.ground.selection import GroundSelection
from veergust.desk.ground.slider import Slider
from veergust.desk.look.theme import Theme
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import heading, note
from veergust.desk.widgets.label import PlainLabel
from veergust.desk.widgets.rows import buttons

SHOWN = ("speed", "direction", "turn rate", "rising", "above the floor")


class LivePage(GroundPage):
    """What plays."""

    title = "Live"

    def __init__(
        self, document: Document, selection: GroundSelection, live: LiveStage, theme: Theme, parent: QWidget
    ) -> None:
        super().__init__(document, selection, parent)
        self.live, self.theme = live, theme
        self.state = PlainLabel()
        self.state.setObjectName("big")
        self.state.setIndent(0)
        self.mixed = note()
        self.box.addWidget(self.state)
        self.box.addWidget(self.mixed)
        self.sliders: dict[str, Slider] = {}
        self.panel = QWidget()
        self.lines = QVBoxLayout(self.panel)
        self.lines.setContentsMargins(0, 4, 0, 4)
        self.lines.setSpacing(2)
        self.box.addWidget(self.panel)
        self.floor = note()
        self.box.addWidget(self.floor)
        let_go = word_button("let all go", "No measure and no parameter is held by hand any more")
        let_go.clicked.connect(self._let_go)
        self.box.addWidget(buttons(let_go))
        self.box.addWidget(heading("Last transitions"))
        self.log = note()
        self.box.addWidget(self.log)
        self.box.addStretch(1)
        self._made: tuple[object, ...] = ()
        live.shown.connect(self.moved)

    def _hold(self, name: str, value: float | None) -> None:
        self.live.session.give(Input(self.live.session.fighter, by_hand=name, number=value))
        if not self.live.running:
            self.live.session.tick()

    def _pulse(self, name: str) -> None:
        self.live.session.give(Input(self.live.session.fighter, parameter=name, number=1.0))
        if not self.live.running:
            self.live.session.tick()

    def _let_go(self) -> None:
        fighter = self.live.fighter
        for name, _ in fighter.by_hand if fighter is not None else ():
            self.live.session.give(Input(self.live.session.fighter, by_hand=name, number=None))
        if not self.live.running:
            self.live.session.tick()

    def renew(self) -> None:
        parameters = self.locomotion.parameters
        if self._made != (parameters,):
            self._made = (parameters,)
            while self.lines.count():
                item = self.lines.takeAt(0)
                widget = item.widget() if item is not None else None
                if widget is not None:
                    widget.hide()
                    widget.deleteLater()
            self.sliders = {}
            for name in SHOWN:
                m = MEASURES[name]
                self._line(name, Slider(self.theme, m.label, m.unit, m.low, m.high, partial(self._hold, name)))
            for p in parameters:
                if p.kind == "momentary":
                    button = word_button(f"set {p.name}", "True for one look", strong=True)
                    button.clicked.connect(partial(self._pulse, p.name))
                    self.lines.addWidget(buttons(button))
                else:
                    high = max(p.high, p.low + 1.0)
                    self._line(p.name, Slider(self.theme, p.name, "", p.low, high, partial(self._hold, p.name)))
        self.moved()

    def _line(self, name: str, slider: Slider) -> None:
        self.sliders[name] = slider
        self.lines.addWidget(slider)

    def moved(self) -> None:
        """Show the tick that is looked at."""
        fighter = self.live.fighter
        if fighter is None or not self.isVisible():
            return
        held = dict(fighter.by_hand)
        for name, slider in self.sliders.items():
            slider.show_value(measured(fighter, name), name in held)
        now = fighter.locomotion[-1]
        self.state.setText(now.state)
        self.mixed.setText(self._mix(fighter))
        jumped = ", jumped" if fighter.jumping else ""
        held_ = ", ".join(fighter.held) or "nothing"
        plays = ", ".join(fighter.playing()) or "no action"
        self.floor.setText(
            f"{'on the floor' if fighter.grounded else f'in the air{jumped}'} · held: {held_} · plays {plays}"
        )
        there = self.locomotion.transitions
        rows = []
        for taken in reversed(fighter.taken):
            why = sentence(there[taken.place].conditions) if taken.place < len(there) else "it is gone since"
            rows.append(f"{taken.tick}  {taken.start} → {taken.to}: {why or 'at once'}")
        self.log.setText("\n".join(rows) or "none yet: drive it with the arrows")

    def _mix(self, fighter: FighterState) -> str:
        """How far the crossfade has come, and what its blend is made of."""
        now = fighter.locomotion[-1]
        out = []
        if len(fighter.locomotion) > 1:
            share = ease(now.ease, now.age / (now.blend + 1))
            out.append(
                f"{now.age} of {now.blend} f into a crossfade from {fighter.locomotion[-2].state} · {share * 100:.0f} %"
            )
        build = self.document.build
        state = build.states.get(now.state)
        if state is not None and state.blend:
            parts = parts_of(build, fighter, state, now.at)
            names = {id(build.locomotion_clip(p.clip)): p.clip for p in state.blend}
            out.append(" · ".join(f"{names[id(clip)]} {weight * 100:.0f} %" for clip, weight, _ in parts))
        return "\n".join(out) or f"here for {now.age} f"
