"""The Spar bench put together: two reels, the stage, the take, and the keyboard."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from veergust.core.files import SPOKEN
from veergust.core.kinds import all_asked_for, all_listed
from veergust.core.play import STOPS, TOUCHED, Input
from veergust.core.scene import Label, Scene, record_scene
from veergust.core.study import exchanges
from veergust.desk.document.document import Document
from veergust.desk.frame.bench import Bench, Desk
from veergust.desk.frame.driving import Driver
from veergust.desk.frame.empty import NO_CLIPS, Nothing
from veergust.desk.frame.page import FieldPage
from veergust.desk.frame.running import Running
from veergust.desk.frame.session import Session
from veergust.desk.frame.transport import transport
from veergust.desk.keys.pressing import BACK, key_of, last_of, pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme
from veergust.desk.spar.beside import EveryPage, PagesBeside, every_page
from veergust.desk.spar.commanding import CommandsPage
from veergust.desk.spar.drilling import DrillsPage
from veergust.desk.spar.following import Following
from veergust.desk.spar.living import GamePage
from veergust.desk.spar.presses import Side
from veergust.desk.spar.rehearsing import RehearsalPage
from veergust.desk.spar.replaying import ReplayPage
from veergust.desk.spar.seen_stages import SeenStages
from veergust.desk.spar.standing import StandingPage
from veergust.desk.spar.strip import TakeStrip
from veergust.desk.stage.panel import StagePanel
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField
from veergust.desk.widgets.label import PlainLabel, YieldingLabel
from veergust.desk.widgets.rows import switch

NEWS = 240
"""Touches of so many ticks are told."""
NOBODY = f"Nobody to spar with yet. Drop a figure and its clips ({SPOKEN}) on the window."


class SparBench(EveryPage, Running, Bench):
    """Where actions are tried live."""

    def __init__(self, document: Document, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.theme = theme
        self.session = Session(document, self)
        self.stage = StagePanel(theme, "Stage", ("hitboxes", "hurtboxes", "body"), ("hitboxes",), follow=True)
        self.following, self.seen_stages = Following(self.stage.view), SeenStages(self.stage, theme)
        self.sides = tuple(Side(document, self.session, theme, n) for n in (0, 1))
        self.left, self.right = (side.reel for side in self.sides)
        self.strip = TakeStrip(self.session, theme)
        self.driver = Driver(document, self.session, self.owed)
        self.driver.watch(self.stage.view)
        self.driver.drove.connect(self._driven)
        self.middle = QHBoxLayout()
        self.beside = PagesBeside(every_page(document, self.session, self.driver, theme, self._show), self.middle, self)
        self.stop_field = ChoiceField("Stop on", lambda _: None, "Hold time on the tick on which this happens")
        self.stop_field.show_choices([("nothing", ""), *((name, name) for name in STOPS)], "")
        self.stop_field.setFixedWidth(112)
        self.stop_field.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.stopped = YieldingLabel()
        self.take_label, self.frame_label = PlainLabel(), PlainLabel()
        self.news, self.keys_label = YieldingLabel(), YieldingLabel()
        self.keep_time(self)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Spar")
        self._lay_out()
        self.session.moved.connect(self._show)
        document.changed.connect(self.session.use_project)
        document.opened.connect(self._fresh)
        document.changed.connect(self._name_open)
        document.changed.connect(self._renew_page)
        self._fresh()

    def _lay_out(self) -> None:
        middle = self.middle
        middle.setSpacing(0)
        middle.addWidget(self.sides[0])
        middle.addWidget(self.stage, 1)
        middle.addWidget(self.sides[1])
        self.take_label.setObjectName("take")
        self.frame_label.setObjectName("big")
        top = QHBoxLayout()
        top.setContentsMargins(16, 8, 16, 0)
        top.addWidget(self.take_label)
        top.addSpacing(24)
        top.addWidget(PlainLabel("stop on"))
        top.addSpacing(8)
        top.addWidget(self.stop_field)
        top.addWidget(self.stopped)
        top.addStretch(1)
        top.addWidget(self.keys_label)
        low = QHBoxLayout()
        low.setContentsMargins(12, 0, 16, 8)
        low.setSpacing(6)
        transport(self, low, "Play on from here, or hold still", self.step_back, self.step_on, 16)
        low.addSpacing(16)
        self.again_button = word_button("start over", "Begin a new take (R)")
        self.again_button.clicked.connect(self.restart)
        self.try_button = word_button("", "Play the action that is open on the sheet (T)")
        self.try_button.clicked.connect(self.try_open)
        self.standing_button = switch("who and where", "Fighters, targets and posts: where they stand, what they have",
                                      self.stand)  # fmt: skip
        self.commands_button = switch(
            "commands", "The keys, and what the hands do for each command", self.show_commands
        )
        low.addWidget(self.again_button)
        low.addSpacing(12)
        low.addWidget(self.standing_button)
        low.addWidget(self.commands_button)
        self.drills_button = switch("drills", "What must hold, run again and again", self.show_drills)
        low.addWidget(self.drills_button)
        self.replay_button = switch("replay", "The take with what was changed, and what is otherwise", self.show_replay)
        low.addWidget(self.replay_button)
        self.rehearsal_button = switch("bad connection", "A drill over a line that is late: what each saw",
                                       self.show_rehearsal)  # fmt: skip
        low.addWidget(self.rehearsal_button)
        self.live_button = switch("live", "A game that runs beside: edits go there, what is played there comes here",
                                  self.show_live)  # fmt: skip
        low.addWidget(self.live_button)
        low.addSpacing(12)
        low.addWidget(self.try_button)
        low.addSpacing(16)
        low.addWidget(self.news, 1)
        low.addWidget(self.frame_label)
        for button in (
            self.again_button,
            self.standing_button,
            self.commands_button,
            self.drills_button,
            self.replay_button,
            self.live_button,
            self.rehearsal_button,
            self.try_button,
            *self.stage.switches.values(),
        ):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        for button in (*self.stage.switches.values(), self.stage.follow_button):
            button.clicked.connect(self._show)
        foot = QWidget(self)
        foot.setObjectName("foot")
        under = QVBoxLayout(foot)
        under.setContentsMargins(0, 0, 0, 0)
        under.setSpacing(0)
        under.addLayout(top)
        under.addWidget(self.strip)
        under.addLayout(low)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addLayout(middle, 1)
        box.addWidget(foot)

    def _fresh(self) -> None:
        for page in self.beside.every():
            page.forget()
        self.session.seed = 7
        self.session.restart()
        self._name_open()

    def stand(self, shown: bool) -> None:
        """Show who stands where in place of the other's reel, or that again; the take is then of the stage shown."""
        if shown and self.session.build is not self.document.build:
            self.session.restart()
        self._show_page(StandingPage if shown else None)

    def show_commands(self, shown: bool) -> None:
        """Show the commands in place of the other's reel, or that again."""
        self._show_page(CommandsPage if shown else None)

    def show_drills(self, shown: bool) -> None:
        """Show the drills in place of the other's reel, or that again."""
        self._show_page(DrillsPage if shown else None)

    def show_replay(self, shown: bool) -> None:
        """Show the replay in place of the other's reel, or that again."""
        self._show_page(ReplayPage if shown else None)

    def show_rehearsal(self, shown: bool) -> None:
        """Show the rehearsal in place of the other's reel, or that again."""
        self._show_page(RehearsalPage if shown else None)

    def show_live(self, shown: bool) -> None:
        """Show the running game in place of the other's reel, or that again."""
        self._show_page(GamePage if shown else None)

    def _show_page(self, kind: type[FieldPage] | None) -> None:
        for one, button in (
            (StandingPage, self.standing_button), (CommandsPage, self.commands_button),
            (DrillsPage, self.drills_button), (ReplayPage, self.replay_button), (GamePage, self.live_button),
            (RehearsalPage, self.rehearsal_button),
        ):  # fmt: skip
            button.setChecked(one is kind)
        # What goes has gone before what comes needs its place: a window does not become smaller again by itself.
        if self.beside.seen is not None:
            self.beside.seen.hide()
        self.sides[1].setVisible(kind is None)
        self.beside.seen = page = self.beside.place(kind) if kind is not None else None
        if page is not None:
            page.show()
        self.stage.view.tool = page.tool if isinstance(page, StandingPage) else None
        self.stage.view.update()
        if page is not None:
            page.renew()
        if self.seen_stages.shown or kind is RehearsalPage:
            self._show()

    def _renew_page(self) -> None:
        """Have the page that is seen show what there is now; one that comes to be seen does so then."""
        page = self.beside.seen
        if page is not None and page.isVisible():
            page.renew()

    def go_to(self, command: str) -> None:
        """Show a command on its page."""
        self.show_commands(True)
        self.commands.choose(command)

    # Playing

    def leave(self) -> None:
        self.hold()

    def tick(self, shown: bool = True) -> None:
        """Play one tick, with its sounds; the next one of the part that is looped."""
        if self.session.loop is not None:
            self.session.go_round()
            return
        super().tick(shown)
        record = self.session.record
        if record is None:
            return
        self.document.sounds.hear([e.name for e in record.events if e.kind == "sound"])
        stop = STOPS.get(self.stop_field.currentData() or "")
        before = self.session.records[-2] if len(self.session.records) > 1 else None
        why = stop(record, before) if stop is not None else ""
        if why and self.running:
            self.hold()
            self.stopped.setText(why)

    def run(self) -> None:
        self.stopped.setText("")
        super().run()

    def try_open(self) -> None:
        """Play the action that is open on the sheet, whether or not a command starts it."""
        if self.document.compiled is not None:
            self.session.give(Input(self.session.fighter, action=self.document.action))
            self.run()

    def _name_open(self) -> None:
        if not self.isVisible():
            return
        project = self.document.project
        keys = {c.name: c.keys[0] for c in project.commands if c.keys}
        commands = [f"{keys[name]} {name}" for name in self.document.build.ask(all_listed) if name in keys]
        self.keys_label.setText("arrows walk, with Shift run" + "".join(f" · {c}" for c in commands))
        self.try_button.setText(f"try {self.document.action}" if self.document.action else "")

    # Keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        # Whoever runs holds Shift; time is held and let run all the same.
        keys = last_of(pressed(event))
        if event.isAutoRepeat() and keys not in (",", "."):
            return
        if self.driver.press(event):
            self._driven(self.driver.command(key_of(event)), goes=event.key() != Qt.Key.Key_Shift)
        elif act := self.acts().get(on_key("spar", keys)):
            act(keys)
        else:
            super().keyPressEvent(event)

    def _driven(self, command: str, goes: bool = True) -> None:
        """Somebody gave something: time goes on with it."""
        self.session.loop = None
        self._say_idle(command)
        if goes and not self.running:
            self.run()

    def _say_idle(self, command: str) -> None:
        """Say of a command that nothing asks for that it does nothing yet, and where that is changed."""
        if command and command not in self.document.build.ask(all_asked_for):
            self.desk.tell(
                f"{command} starts nothing yet.", ("choose an action for it", partial(self.desk.choose_start, command))
            )

    def things(self) -> tuple[list[str], Callable[[str], object]]:
        return [a.name for a in self.document.project.actions], self.document.choose_action

    def attach(self, window: Desk) -> None:
        self.desk = window
        for side in self.sides:
            side.presses.go = window.go_to

    def acts(self) -> dict[str, Callable[[str], object]]:
        """What each command of the bench does; it is told by which of its keys."""
        return {
            "hold_time": lambda key: {"Space": self.toggle, "K": self.hold, "L": self.run}[key](),
            "spar_step": lambda key: self.step_back() if key in BACK else self.step_on(),
            "restart": lambda _: self.restart(),
            "try_action": lambda _: self.try_open(),
        }

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.isAutoRepeat():
            return
        self.driver.release(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.driver.let_go()
        super().focusOutEvent(event)

    # Showing

    def _show(self) -> None:
        record = self.session.record
        if record is None or not self.isVisible():
            return
        if not record.fighters:
            self.stage.view.show_scene(Scene(labels=(Label(NOBODY, np.array([0.0, 0.9, 0.0])),)), None)
            self.news.setText("")
            return
        rehearsal, standing = self.beside.there(RehearsalPage), self.beside.there(StandingPage)
        scene = record_scene(self.session.build, record, self.stage.shown())
        others = rehearsal.others() if rehearsal is not None else []
        if len(record.fighters) > 1:
            a, b = record.fighters[0].position, record.fighters[1].position
            gap = float(np.hypot(a[0] - b[0], a[2] - b[2]))
            middle = (a + b) / 2
            words = Label(f"{gap:.2f} m", np.array([middle[0], min(a[1], b[1]) - 0.04, middle[2] + 0.35]))
            scene = replace(scene, labels=(*scene.labels, words))
            if self.stage.follow_button.isChecked() and not (standing is not None and standing.tool.holds):
                self.following.follow(record, self.running, low=bool(others))
        self.stage.view.show_scene(scene, self.document.mesh)
        scenes = [(name, record_scene(self.session.build, seen, self.stage.shown())) for name, seen in others]
        self.seen_stages.show(
            rehearsal.title_of(rehearsal.whose) if rehearsal is not None else "", scenes, self.document.mesh
        )
        rate = self.document.project.settings.rate
        take = f"Take {self.session.take_number} · {record.tick / rate:.1f} s"
        self.stage.title.setText(self.session.build.project.stage.name)
        self.take_label.setText(f"{take} of {self.session.records[-1].tick / rate:.1f} s · seed {self.session.seed}")
        self.frame_label.setText(f"frame {record.tick}")
        self._tell_news()

    _told_of: list[int] | None = None

    def _tell_news(self) -> None:
        """The last touch up to the tick looked at, with its numbers; the ones before it are in the tooltip."""
        first, till = max(0, self.session.at - NEWS), self.session.at + 1
        records = self.session.records[first:till]
        touched = self.session.records.marked(TOUCHED, first, till)
        if touched != self._told_of or self.session.at % 6 == 0 or not self.running:
            self._told_of = touched
            places = [at - first for at in touched]
            lines = [e.words for e in exchanges(self.session.build, records, among=places)] if touched else []
            self.news.setText(lines[-1] if lines else "")
            self.news.setToolTip("\n".join(lines))

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().showEvent(event)
        self.driver.listen(True)
        self._name_open()
        self._renew_page()
        self._show()

    def hideEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.hold()
        self.driver.listen(False)
        super().hideEvent(event)

    def nothing(self) -> Nothing | None:
        project = self.document.project
        return NO_CLIPS if not project.rig.figure or not project.stage.fighters else None
