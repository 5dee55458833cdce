"""The figure driven over the stage: time, the keys, and where it stops when locomotion goes over into another state."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from veergust.core.files import SPOKEN
from veergust.core.kinds import all_listed
from veergust.core.play import FighterState
from veergust.core.scene import Camera, Label, Scene, record_scene
from veergust.desk.document.document import Document
from veergust.desk.frame.driving import Driver
from veergust.desk.frame.running import Running
from veergust.desk.frame.session import Session
from veergust.desk.frame.transport import transport
from veergust.desk.keys.pressing import BACK, pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme
from veergust.desk.stage.panel import StagePanel
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.label import PlainLabel

NOBODY = f"Nobody to drive yet. Drop a figure and its clips ({SPOKEN}) on the window."


class LiveStage(Running, QWidget):
    """The stage with the figure on it; while it has the keys they drive. ``shown`` is sent with every tick."""

    STOPPED = "▸ drive"
    shown = Signal()

    def __init__(self, document: Document, theme: Theme) -> None:
        super().__init__()
        self.document = document
        self.session = Session(document, self, peaceful=True)
        self.driver = Driver(document, self.session, self.owed)
        self.driver.drove.connect(lambda _: self._driven())
        self.stage = StagePanel(theme, "Stage", (), (), follow=True)
        self.stage.view.camera = Camera(target=(0.0, 0.85, 0.0), yaw=-24.0, pitch=10.0, distance=4.6)
        self.stage.follow_button.clicked.connect(self.show_tick)
        self.keep_time(self)
        self.keys = PlainLabel()
        self.keys.setObjectName("note")
        self.keys.setContentsMargins(14, 0, 12, 4)
        self.again = word_button("start over", "Begin again where the fighter stands (R)")
        self.again.clicked.connect(self.restart)
        self.stops = word_button("stop on a transition", "Hold time on the frame of every transition", checkable=True)
        self.stops.setObjectName("switch")
        row = QHBoxLayout()
        row.setContentsMargins(12, 2, 12, 6)
        row.setSpacing(4)
        transport(self, row, "Let time run, or hold it", self.step_back, self.step_on)
        row.addWidget(self.again)
        row.addStretch(1)
        row.addWidget(self.stops)
        for button in (self.again, self.stops):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self.stage, 1)
        box.addWidget(self.keys)
        box.addLayout(row)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        # A click on the stage goes on driving; who comes to it by Tab turns it.
        self.stage.view.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.stage.view.pressed_on.connect(self.setFocus)
        self.setAccessibleName("Stage that is driven")
        self.session.moved.connect(self.show_tick)
        document.changed.connect(self.session.use_project)
        document.changed.connect(self._name_keys)
        document.opened.connect(self.restart)
        self._name_keys()
        self.session.restart()

    @property
    def fighter(self) -> FighterState | None:
        """The one that is driven, on the tick looked at."""
        record = self.session.record
        if record is None or not record.fighters:
            return None
        return next((f for f in record.fighters if f.name == self.session.fighter), record.fighters[0])

    def _name_keys(self) -> None:
        if not self.isVisible():
            return
        # Those that locomotion asks for come first: they are what is tried here.
        there = self.document.project.locomotion
        asked = {there.jump.command, *(c.name for t in there.transitions for c in t.conditions)}
        keys = {c.name: c.keys[0] for c in self.document.project.commands if c.keys}
        known = sorted(self.document.build.ask(all_listed), key=lambda name: name not in asked)
        commands = [f"{keys[name]} {name}" for name in known if name in keys]
        self.keys.setText("arrows walk, with Shift run" + "".join(f" · {c}" for c in commands[:6]))

    # Time

    def run(self) -> None:
        """Let time run from the tick looked at; the keys drive."""
        self.setFocus()
        super().run()

    def tick(self, shown: bool = True) -> None:
        """One tick; time is held on it where it goes over into another state and that was asked for."""
        before = self.session.simulation.fighters
        was = [f.taken[-1:] for f in before]
        super().tick(shown)
        now = [f.taken[-1:] for f in self.session.simulation.fighters]
        if self.stops.isChecked() and was != now:
            self.hold()
            self.session.moved.emit()

    # Keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = pressed(event)
        if event.isAutoRepeat() and keys not in (",", "."):
            return
        if self.driver.press(event):
            if event.key() != Qt.Key.Key_Shift:
                self._driven()
        elif act := self.acts().get(on_key("drive", keys)):
            act(keys)
        else:
            super().keyPressEvent(event)

    def _driven(self) -> None:
        """Somebody drives: time goes on with it."""
        if not self.running:
            self.run()

    def acts(self) -> dict[str, Callable[[str], object]]:
        """What each command does while it has the keys; it is told by which of its keys."""
        return {
            "drive_hold": lambda _: self.toggle(),
            "drive_step": lambda keys: self.step_back() if keys in BACK else self.step_on(),
            "drive_again": lambda _: self.restart(),
        }

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if not event.isAutoRepeat():
            self.driver.release(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.driver.let_go()
        super().focusOutEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        super().mousePressEvent(event)

    # Showing

    def show_tick(self) -> None:
        """Show the tick looked at."""
        if not self.isVisible():
            return
        record, fighter = self.session.record, self.fighter
        if record is None or fighter is None:
            self.stage.view.show_scene(Scene(labels=(Label(NOBODY, np.array([0.0, 0.9, 0.0])),)), None)
        else:
            if self.stage.follow_button.isChecked():
                camera = self.stage.view.camera
                x, y, z = (float(v) for v in fighter.position)
                self.stage.view.camera = Camera(
                    (x, y + 0.85, z), camera.yaw, camera.pitch, camera.distance, camera.lens
                )
            self.stage.view.show_scene(
                record_scene(self.document.build, record, self.stage.shown()), self.document.mesh
            )
        self.shown.emit()

    def hideEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.driver.listen(False)
        super().hideEvent(event)

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().showEvent(event)
        self.driver.listen(True)
        self._name_keys()
        self.show_tick()
