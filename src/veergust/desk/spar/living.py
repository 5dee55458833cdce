"""A game that runs beside: what is edited is sent to it, and what is played there is followed and brought here."""

from __future__ import annotations

from collections.abc import Generator

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QWidget

from veergust.core.live import PORT, LiveLine, ToldBout, Watched, first_apart, given_of, key_in, usual_key
from veergust.core.trouble import Trouble
from veergust.desk.document.document import Document
from veergust.desk.frame.page import FieldPage
from veergust.desk.frame.session import Session
from veergust.desk.running.work import before_the_end
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, heading, note
from veergust.desk.widgets.rows import buttons, switch

LOOKS = 33
"""It is looked what was told so often (ms)."""
AT_ONCE = 60
"""So many ticks are played before the window answers again."""
WHEN = [("when not played", "free"), ("at once, by pose", "pose")]


class GamePage(FieldPage):
    """Connects, sends every edit once it is settled, follows, and brings a bout here."""

    title = "Live"

    def __init__(self, document: Document, session: Session, parent: QWidget) -> None:
        super().__init__(document, parent)
        self.session = session
        self.setFixedWidth(312)
        self.line: LiveLine | None = None
        self.watched = Watched()
        self.folder = document.folder
        """The folder of the project for which it was connected."""
        self.work: Generator[int, None, None] | None = None
        self.box.addWidget(heading("A game that runs"))
        self.port = NumberField("Port", lambda _: self._again(), low=1, high=65535, tip="Where the game listens")
        self.port.show_value(PORT)
        self.when = ChoiceField("Takes edits", lambda _: self._again(), "On which tick the game takes an edit")
        self.when.show_choices(WHEN, "free")
        form = Form()
        form.row("Port", self.port)
        form.row("Takes edits", self.when)
        self.box.addWidget(form)
        self.connect_button = word_button("connect", "Look for the game on this machine, and send it what is edited",
                                          strong=True)  # fmt: skip
        self.connect_button.clicked.connect(self.toggle)
        self.box.addWidget(buttons(self.connect_button))
        self.words, self.edits = note(), note()
        for words in (self.words, self.edits):
            words.setWordWrap(True)
            self.box.addWidget(words)
        self._there()
        self._played()
        self.box.addStretch(1)
        self.timer = QTimer(self)
        self.timer.setInterval(LOOKS)
        self.timer.timeout.connect(self.look)
        self.bringing = QTimer(self)
        self.bringing.setSingleShot(True)
        self.bringing.timeout.connect(self._bring_on)
        document.changed.connect(self._send)
        document.opened.connect(self._opened)
        before_the_end(self.let_go)
        self.renew()

    def _there(self) -> None:
        self.box.addWidget(heading("There"))
        self.stop_button = word_button("stop here", "Hold the game's time")
        self.stop_button.clicked.connect(lambda: self.ask("go" if self._stopped else "stop"))
        self.step_button = word_button("one frame", "Play one frame more, and hold")
        self.step_button.clicked.connect(lambda: self.ask("step", ticks=1))
        self.over_button = word_button("start over", "The bout there begins anew")
        self.over_button.clicked.connect(lambda: self.ask("start_over"))
        self.box.addWidget(buttons(self.stop_button, self.step_button, self.over_button))
        self.fighter = ChoiceField("Fighter", lambda _: self.renew(), "Who is followed, and starts actions")
        form = Form()
        form.row("Fighter", self.fighter)
        self.box.addWidget(form)
        self.start_button = word_button("", "The fighter starts the open action there, whatever else would start it")
        self.start_button.clicked.connect(lambda: self.ask("start", fighter=self._who, action=self.document.action))
        self.follow_switch = switch("sheet follows", "The sheet is open where that fighter is", lambda _: None)
        self.box.addWidget(buttons(self.follow_switch, self.start_button))

    def _played(self) -> None:
        self.box.addWidget(heading("What was played there"))
        self.told = note()
        self.told.setWordWrap(True)
        self.box.addWidget(self.told)
        self.bring_button = word_button("bring it here", "Play the same here, as a take: to look at, keep and compare")
        self.bring_button.clicked.connect(self.bring)
        self.box.addWidget(buttons(self.bring_button))
        self.apart = note()
        self.apart.setWordWrap(True)
        self.box.addWidget(self.apart)

    # The line

    def toggle(self) -> None:
        """Look for the game, or leave it."""
        if self.line is not None:
            self.leave()
            return
        try:
            key = key_in(usual_key())
        except Trouble as trouble:
            self.document.said.emit(str(trouble), True)
            return
        self.folder = self.document.folder
        self.line = LiveLine(
            int(self.port.value()),
            key,
            "pose" if self.when.currentData() == "pose" else "free",
            store=self.document.derived.store,
        )
        self.watched = Watched()
        self.line.send(self.document.build)
        self.line.begin()
        self.timer.start()
        self.renew()

    def let_go(self) -> None:
        """Leave the game alone, whatever is shown."""
        if self.line is not None:
            self.line.end()
            self.line = None

    def leave(self) -> None:
        """Leave the game alone."""
        self.let_go()
        self.timer.stop()
        self.renew()

    def _opened(self) -> None:
        """Another project has nothing to do with the game; one that files came into has."""
        if self.document.folder != self.folder:
            self.leave()

    def _again(self) -> None:
        if self.line is not None:
            self.leave()
            self.toggle()

    def ask(self, method: str, **params: object) -> None:
        """Ask the game for something."""
        if self.line is not None:
            self.line.ask(method, **params)

    def _send(self) -> None:
        """What was edited goes there, once it is settled."""
        if self.line is not None and not self.document.dragging:
            self.line.send(self.document.build)
        self.renew()

    # What is told

    def look(self) -> None:
        """Take in what the game told since the last time."""
        if self.line is None:
            return
        self.watched.hear(self.line.take())
        while self.line.answered:
            method, result = self.line.answered.popleft()
            if method == "given":
                self._begin(result)
        if self.follow_switch.isChecked() and not self.document.dragging:
            self._follow()
        if self.isVisible():
            self.renew()

    def _follow(self) -> None:
        """The sheet is opened where the fighter is, if it plays an action that is here."""
        plays = self.watched.playing(self._who)
        made = self.document.build.action(plays.action) if plays is not None else None
        if plays is None or made is None or plays.section not in made.index:
            return
        if self.document.action != plays.action:
            self.document.choose_action(plays.action)
        self.document.move_to(made.start_of(made.index[plays.section]) + plays.frame)

    # A bout that was played there

    def bring(self) -> None:
        """Have what was given there, and play the same here."""
        if self.work is not None:
            self.work = None
            self.apart.setText("Given up.")
            self.renew()
        else:
            self.ask("given")

    def _begin(self, result: object) -> None:
        try:
            given = given_of(result)
        except Trouble as trouble:
            self.apart.setText(f"{trouble}.")
            return
        self.work = self._bringing(given)
        self.bringing.start(0)

    def _bringing(self, given: ToldBout) -> Generator[int, None, None]:
        session = self.session
        for tick in session.playing_steps(given.inputs, given.ticks, given.seed, ""):
            if tick % AT_ONCE == 0:
                self.apart.setText(f"Played {tick} of {given.ticks} frames …")
                yield tick
        found = first_apart(session.records, self.watched.ticks)
        if found is None:
            self.apart.setText(f"All {given.ticks} frames came out as in the game. Keep it on replay, or as a drill.")
        else:
            self.apart.setText(f"Otherwise from frame {found[0]} on: {found[1]}.")
        session.look_at(found[0] if found is not None else 0)
        session.moved.emit()

    def _bring_on(self) -> None:
        if self.work is None:
            return
        try:
            next(self.work)
            self.bringing.start(0)
        except StopIteration:
            self.work = None
        self.renew()

    # Showing

    @property
    def _stopped(self) -> bool:
        return bool(self.line is not None and self.line.standing.game.get("stopped"))

    @property
    def _who(self) -> str:
        return str(self.fighter.currentData() or "")

    def renew(self) -> None:
        on = self.line is not None and self.line.standing.state == "connected"
        names = [f.name for f in self.document.project.stage.fighters]
        self.fighter.show_choices([(n, n) for n in names] or [("nobody", "")], self._who or self.session.fighter)
        self.connect_button.setText("leave it" if self.line is not None else "connect")
        self.stop_button.setText("go on" if self._stopped else "stop here")
        action = self.document.action
        self.start_button.setText(f"start {action}" if action else "start")
        for widget in (self.stop_button, self.step_button, self.over_button, self.bring_button):
            widget.setEnabled(on)
        self.start_button.setEnabled(on and bool(action))
        self.bring_button.setText("give up" if self.work is not None else "bring it here")
        self.words.setText(self._says())
        self.edits.setText(self._says_of_edits())
        rate = self.document.project.settings.rate
        ticks = self.watched.ticks
        seconds, touches = len(ticks) / rate, self.watched.touches
        told = f"Frame {ticks[-1].tick} · {seconds:.0f} s were told, {touches} touched." if ticks else "Nothing yet."
        self.told.setText(told)

    def _says(self) -> str:
        if self.line is None:
            return "Not connected. A game to try it with: python examples/game EXPORT"
        says = self.line.standing.says
        return says[:1].upper() + says[1:] + "."

    def _says_of_edits(self) -> str:
        if self.line is None:
            return ""
        now = self.line.standing
        if now.refused:
            return f"Refused: {now.refused}"
        if now.state != "connected":
            return ""
        if not now.even:
            return f"Sent: {now.sent}. The game has not taken it yet." if now.sent else "Being sent."
        took = f", {now.took * 1000:.0f} ms after it was made" if now.took is not None else ""
        return f"Taken: {now.applied}{took}." if now.applied else "The game has what is here."
