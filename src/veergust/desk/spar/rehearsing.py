"""A drill over a bad connection: what each of the two saw, what counted, where they differ, and how far it carries."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QAbstractItemView, QListWidget, QListWidgetItem, QTableWidget, QTableWidgetItem, QWidget

from veergust.core.files import Progress
from veergust.core.model import Drill
from veergust.core.play import Record
from veergust.core.rehearse import (
    Differs,
    LineWay,
    OverLine,
    Quality,
    Rehearsal,
    advice,
    carried,
    counts_of,
    differs,
    events_of,
    of_take,
    pair,
    rehearse,
)
from veergust.desk.document.document import Document
from veergust.desk.frame.page import FieldPage
from veergust.desk.frame.session import Session
from veergust.desk.look.theme import Theme
from veergust.desk.running.work import BackgroundTask
from veergust.desk.spar.lanes import Lanes
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, heading, note
from veergust.desk.widgets.rows import buttons, switch

COUNTED = "what counted"
PAIR = "\0"
"""Stands for two actions instead of a drill, whose name it cannot be."""
TAKE = "\0take "
"""Begins what stands for a kept take."""
DECIDES = [("the server", "server"), ("the attacker's side", "attacker"), ("the victim's side", "victim")]
SEES = [("a guess, put right", "guess"), ("what is sure", "waits")]
NOBODY = "Nobody is touched in it, and nobody dodges."
DELAYS = (0.0, 40.0, 80.0, 120.0, 160.0)
LOSSES = (0.0, 0.05, 0.2)


@dataclass(frozen=True)
class Seen:
    """A rehearsal with what differed, and by whom it is looked at: a player's name, or ``COUNTED``."""

    made: Rehearsal
    drill: Drill
    rows: list[Differs]

    def records(self, whose: str) -> list[Record]:
        """What somebody saw, or what counted."""
        return next((p.shown for p in self.made.players if p.name == whose), self.made.records)


def in_words(made: Rehearsal) -> str:
    """What came of a rehearsal: what counted of what was seen, how far somebody was put back, what of events."""
    counts = counts_of(made)
    out = [f"{came} of {there} {what} that were seen counted." for what, (there, came) in counts.items() if there]
    back = max((c.far for p in made.players for c in p.corrections), default=0.0)
    out += [f"Somebody was put back by {back:.2f} m at the most."] if back else []
    for name, events in events_of(made).items():
        late, never = events["late"], events["never_were"]
        out += [f"On {name}'s screen {late} of {events['told']} events came late"
                + (f", and {never} that never were." if never else ".")] if late or never else []  # fmt: skip
    return " ".join(out if any(there for there, _ in counts.values()) else [NOBODY, *out])


class RehearsalPage(FieldPage):
    """Rehearses the chosen drill, and shows whose screen is asked for on the stage."""

    title = "Bad connection"
    beside_turned = Signal()
    """All three are to be seen, or one alone."""

    def __init__(self, document: Document, session: Session, theme: Theme, parent: QWidget) -> None:
        super().__init__(document, parent)
        self.session, self.theme = session, theme
        self.setFixedWidth(312)
        self.seen: Seen | None = None
        self.whose = COUNTED
        self.played_of: object = None
        self._laid = -1
        """Which take of the session is of the rehearsal."""
        self.work: BackgroundTask | None = None
        self.box.addWidget(heading("Over a bad connection"))
        self.drill = ChoiceField(
            "Drill", lambda _: self.renew(), "Whose steps the two give: its own, a take's, or two actions"
        )
        self.drill.setFixedWidth(190)
        self.delay = self._number("Delay", "ms", 0, 2000, 80, "One way")
        self.spread = self._number("Spread", "ms", 0, 2000, 0, "How far the delay is off, either way")
        self.loss = self._number("Lost", "%", 0, 90, 0, "So many of a hundred packets are lost")
        self.decides = ChoiceField("Decides", lambda _: None, "Whose touches count")
        self.decides.show_choices(DECIDES, "server")
        self.sees = ChoiceField("Each sees", lambda _: None, "What a player is shown while it does not know")
        self.sees.show_choices(SEES, "guess")
        self.held = self._number("Held back", "f", 0, 60, 0, "A player's own input waits for so many frames")
        self.attack = ChoiceField("Attack", lambda _: None, "What the first on the stage plays")
        self.answer = ChoiceField("Answer", lambda _: None, "What the next on the stage plays")
        self.after = self._number("After", "f", 0, 600, 6, "So many frames after the attack the answer is given")
        form = Form()
        line = ("Delay", self.delay), ("Spread", self.spread), ("Lost", self.loss)
        ends = ("Decides", self.decides), ("Each sees", self.sees), ("Held back", self.held)
        form.row("Drill", self.drill)
        self.pair = Form()
        for label, choice in (("Attack", self.attack), ("Answer", self.answer)):
            choice.setFixedWidth(190)
            self.pair.row(label, choice)
        self.pair.row("After", self.after)
        self.box.addWidget(form)
        self.box.addWidget(self.pair)
        form = Form()
        for label, field in (*line, *ends):
            form.row(label, field)
        self.box.addWidget(form)
        self.go = word_button("rehearse", "Play it with both players and who decides", strong=True)
        self.go.clicked.connect(self.rehearse)
        self.far = word_button("how far it carries", "Rehearse it over many delays and losses")
        self.far.clicked.connect(self.measure)
        self.box.addWidget(buttons(self.go, self.far))
        self.words = note()
        self.words.setWordWrap(True)
        self.box.addWidget(self.words)
        self.who = [switch("", "Whose screen is on the stage", self._choose(n)) for n in range(3)]
        self.box.addWidget(buttons(*self.who))
        self.beside = switch("all beside one another", "The other two over and under the stage, from the same camera",
                             lambda _: self.beside_turned.emit())  # fmt: skip
        self.box.addWidget(buttons(self.beside))
        self.lanes = Lanes(session, theme)
        self.box.addWidget(self.lanes)
        self.list = QListWidget()
        self.list.setAccessibleName("Where they differ")
        self.list.setWordWrap(True)
        self.list.setFixedHeight(120)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentItemChanged.connect(lambda item, _: self._look(item))
        self.box.addWidget(self.list)
        self.map = QTableWidget()
        self.map.setAccessibleName("How far it carries")
        self.map.setToolTip("What counted of what was seen; Return or a double click rehearses that one")
        self.map.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.map.horizontalHeader().setDefaultSectionSize(46)
        self.map.verticalHeader().setDefaultSectionSize(24)
        self.map.itemActivated.connect(self._rehearse_there)
        self.map.hide()
        self.box.addWidget(self.map)
        self.follows = note()
        self.follows.setWordWrap(True)
        self.box.addWidget(self.follows)
        self.box.addStretch(1)
        self.renew()

    def _number(self, label: str, unit: str, low: int, high: int, value: int, tip: str) -> NumberField:
        field = NumberField(label, lambda _: None, unit=unit, low=low, high=high, tip=tip)
        field.show_value(value)
        return field

    # Rehearsing

    @property
    def way(self) -> LineWay:
        """How it is rehearsed, whatever the line."""
        decides: Any = self.decides.currentData()
        waits = self.sees.currentData() == "waits"
        return LineWay(decides, self.spread.value(), waits, int(self.held.value()))

    def _drill(self) -> Drill | None:
        if self.drill.currentData() == PAIR:
            attack, answer = (str(f.currentData() or "") for f in (self.attack, self.answer))
            there = {attack, answer} <= set(self.document.build.actions_by_name)
            two = len(self.document.project.stage.fighters) > 1
            return pair(self.document.build, attack, answer, int(self.after.value())) if there and two else None
        takes = (take for take in self.document.project.takes if TAKE + take.name == self.drill.currentData())
        if (take := next(takes, None)) is not None:
            return of_take(take)
        return next((d for d in self.document.project.drills if d.name == self.drill.currentData()), None)

    def rehearse(self) -> None:
        """Play the chosen drill over the line that the fields say."""
        drill, build, way = self._drill(), self.document.build, self.way
        quality = Quality(self.delay.value(), way.spread, self.loss.value() / 100.0)
        if drill is None:
            return

        def act(progress: Progress) -> Seen:
            progress("Rehearsing", 0.0)
            made = rehearse(build, drill, quality, way.decides, waits=way.waits, held_back=way.held_back)
            return Seen(made, drill, differs(made))

        self._start(act, self._played)

    def measure(self) -> None:
        """Rehearse it over many lines, or give that up."""
        if self.work is not None:
            self.work.stop()
            return
        drill, build, way = self._drill(), self.document.build, self.way
        if drill is None:
            return

        def act(progress: Progress) -> tuple[list[OverLine], list[str]]:
            rows: list[OverLine] = []
            for row in carried(build, drill, DELAYS, LOSSES, way):
                rows.append(row)
                progress(f"{row.delay:g} ms, {row.loss:.0%} lost", len(rows) / (len(DELAYS) * len(LOSSES)))
            return rows, advice(build, drill, rows, way.held_back)

        self._start(act, lambda found: self._measured(*found))

    def _start(self, act: Callable[[Progress], Any], then: Callable[[Any], None]) -> None:
        if self.work is not None:
            return

        def ended(says: str) -> None:
            self.work = None
            self.words.setText(says or "Given up.")
            self._enable()

        def done(result: Any) -> None:
            self.work = None
            then(result)
            self._enable()

        def watch(says: str, share: float) -> None:
            self.words.setText(f"{says} …")

        self.work = BackgroundTask(act, watch, done, ended, self)
        self.work.start()
        self._enable()

    def _played(self, seen: Seen) -> None:
        self.seen, self.played_of = seen, self.document.build
        self.words.setText(in_words(seen.made))
        self.list.clear()
        for row in seen.rows:
            item = QListWidgetItem(f"{row.start}–{row.end}  {row.says}")
            item.setData(Qt.ItemDataRole.UserRole, row)
            self.list.addItem(item)
        self.show_whose(COUNTED)

    def _measured(self, rows: list[OverLine], words: list[str]) -> None:
        self.map.setVisible(any(sum(row.touches) or sum(row.dodges) for row in rows))
        self.map.setColumnCount(len(DELAYS))
        self.map.setRowCount(len(LOSSES))
        self.map.setHorizontalHeaderLabels([f"{d:g} ms" for d in DELAYS])
        self.map.setVerticalHeaderLabels([f"{x:.0%}" for x in LOSSES])
        self.map.setFixedHeight(30 + 24 * len(LOSSES) + 16)
        for row in rows:
            seen, counted = (sum(pair) for pair in zip(row.touches, row.dodges))
            item = QTableWidgetItem(f"{counted}/{seen}" if seen else "–")
            item.setTextAlignment(Qt.AlignmentFlag.AlignCenter)
            item.setForeground(self.theme.colour("strike" if counted < seen else "ink"))
            touches, dodges = (f"{came} of {there}" for there, came in (row.touches, row.dodges))
            item.setToolTip(f"touches {touches}, dodges {dodges}, put back by {row.pulled_back:.2f} m")
            item.setData(Qt.ItemDataRole.UserRole, row)
            self.map.setItem(LOSSES.index(row.loss), DELAYS.index(row.delay), item)
        there = "What counted of the touches and dodges that were seen, by delay and loss."
        self.words.setText(there if not self.map.isHidden() else f"{NOBODY} There is nothing to count.")
        self.follows.setText("\n".join(words))

    def _rehearse_there(self, item: QTableWidgetItem) -> None:
        row = item.data(Qt.ItemDataRole.UserRole)
        self.delay.show_value(row.delay)
        self.loss.show_value(round(row.loss * 100))
        self.rehearse()

    # Showing

    def _choose(self, n: int) -> Callable[[bool], None]:
        return lambda _: self.show_whose(self._names()[n])

    def _names(self) -> tuple[str, str, str]:
        names = self.seen.made.names if self.seen is not None else ("", "")
        return names[0], names[1], COUNTED

    def show_whose(self, whose: str) -> None:
        """Put somebody's screen on the stage, or what counted."""
        if self.seen is None:
            return
        at, same = self.session.at, self.whose != whose
        self.whose = whose
        self.session.lay_out(self.seen.records(whose), self.seen.drill.seed, self.seen.drill.stage)
        self._laid = self.session.take_number
        self.session.look_at(at if same else 0)
        self.session.moved.emit()
        self.renew()

    def others(self) -> list[tuple[str, Record]]:
        """What the other two have of the tick looked at, by what stands over it; none unless they are to be seen, and
        the stage has this rehearsal."""
        seen, at = self.seen, self.session.at
        there = self.session.laid_out and self.session.take_number == self._laid
        if seen is None or not (there and self.beside.isChecked() and self.isVisible()):
            return []
        names = [name for name in self._names() if name != self.whose]
        records = [(self.title_of(name), seen.records(name)) for name in names]
        return [(name, rows[min(at, len(rows) - 1)]) for name, rows in records]

    @staticmethod
    def title_of(name: str) -> str:
        """What stands over somebody's screen."""
        return name if name in ("", COUNTED) else f"{name} saw"

    def _look(self, item: QListWidgetItem | None) -> None:
        row: Differs | None = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        if row is not None:
            self.session.look_at(row.start)

    def forget(self) -> None:
        if self.seen is not None:
            # What was told is of the project as it was.
            self.seen = self.played_of = None
            self.lanes.show_rows([])
            self.list.clear()
            self.map.hide()
            self.follows.setText("")

    def renew(self) -> None:
        drills = [(d.name, d.name) for d in self.document.project.drills if d.steps]
        drills += [(f"take {take.name}", TAKE + take.name) for take in self.document.project.takes]
        drills += [("two actions against each other", PAIR)]
        chosen = self.drill.currentData()
        self.drill.show_choices(drills, chosen if chosen in [name for _, name in drills] else drills[0][1])
        self.pair.setVisible(self.drill.currentData() == PAIR)
        actions = [(name, name) for name in self.document.build.actions_by_name]
        for field in (self.attack, self.answer):
            chosen = field.currentData() or self.document.action
            field.show_choices(actions, chosen if (chosen, chosen) in actions else actions[0][1] if actions else "")
        if self.played_of is not self.document.build:
            self.forget()
        if self.seen is None and self.work is None:
            self.words.setText("Two players, and who decides, with a line between them that is late and loses.")
        for button, name in zip(self.who, self._names()):
            button.setText(self.title_of(name) or "–")
            button.setChecked(self.seen is not None and name == self.whose)
        for widget in (*self.who, self.beside, self.lanes, self.list):
            widget.setVisible(self.seen is not None)
        self.lanes.show_rows([(name, self.seen.records(name), [r for r in self.seen.rows if r.whose == name])
                              for name in self._names()] if self.seen is not None else [])  # fmt: skip
        self._enable()

    def _enable(self) -> None:
        there, busy = self._drill() is not None, self.work is not None
        self.go.setEnabled(there and not busy)
        self.far.setEnabled(there)
        self.far.setText("give up" if busy else "how far it carries")
        for button in self.who:
            button.setEnabled(self.seen is not None)
