"""Driving a fighter by the keyboard: the arrows are the stick, the project's keys its commands."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QElapsedTimer, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence

from veergust.core.play.state import Input
from veergust.desk.document.document import Document
from veergust.desk.frame.session import Session
from veergust.desk.keys.pressing import key_of

ARROWS = {
    Qt.Key.Key_Left: (-1.0, 0.0),
    Qt.Key.Key_Right: (1.0, 0.0),
    Qt.Key.Key_Up: (0.0, -1.0),
    Qt.Key.Key_Down: (0.0, 1.0),
}


class Driver:
    """Turns keys into inputs of a bout's fighter.

    A key is heard of once the window has time for it, and counts from when it went down: ``owed`` says how many ticks
    that are still to be played were due by then, of how late it is heard of (ms).
    """

    def __init__(self, document: Document, session: Session, owed: Callable[[float], int] = lambda late: 0) -> None:
        self.document, self.session, self.owed = document, session, owed
        self.now = QElapsedTimer()
        self.now.start()
        self.ahead: float | None = None
        self.after = 0
        self.down: set[int] = set()
        self.held: set[str] = set()

    def command(self, key: int) -> str:
        """The command of the project that a key stands for."""
        text = QKeySequence(key).toString()
        return next((c.name for c in self.document.project.commands if text in c.keys), "")

    def press(self, event: QKeyEvent) -> bool:
        """Take a key that goes down; whether it drives."""
        key = key_of(event)
        self._hear(event)
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        command = "" if event.modifiers() & Qt.KeyboardModifier.ControlModifier else self.command(key)
        if Qt.Key(key) in ARROWS or key == Qt.Key.Key_Shift:
            self.down.add(key)
            self._stick(shift or key == Qt.Key.Key_Shift)
        elif command:
            self.held.add(command)
            self._give(Input(self.session.fighter, command))
        else:
            return False
        return True

    def release(self, event: QKeyEvent) -> None:
        """Take a key that comes up."""
        key = key_of(event)
        self._hear(event)
        if key in self.down:
            self.down.discard(key)
            self._stick(bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier) and key != Qt.Key.Key_Shift)
        elif command := self.command(key):
            self.held.discard(command)
            self._give(Input(self.session.fighter, command, press=False))

    def _hear(self, event: QKeyEvent) -> None:
        """How many ticks come before what an event gives: those that were due when it came about."""
        # Events are stamped by another clock; the soonest that any was heard of tells how far ahead that one is.
        ahead = self.now.elapsed() - event.timestamp()
        self.ahead = ahead if self.ahead is None else min(self.ahead, ahead)
        self.after = self.owed(ahead - self.ahead)

    def _give(self, given: Input) -> None:
        self.session.give(given, after=self.after)

    def let_go(self) -> None:
        """Keys let go elsewhere are never heard of: let go of them now."""
        self.after = self.owed(0.0)
        if self.down:
            self.down.clear()
            self._stick(False)
        for command in sorted(self.held):
            self._give(Input(self.session.fighter, command, press=False))
        self.held.clear()

    def _stick(self, shift: bool) -> None:
        way = np.sum([ARROWS[Qt.Key(k)] for k in self.down if Qt.Key(k) in ARROWS] or [(0.0, 0.0)], axis=0)
        size = float(np.hypot(*way))
        locomotion = self.document.project.locomotion
        pace = 1.0 if shift else locomotion.walk_speed / max(locomotion.run_speed, 1e-6)
        value = way / size * pace if size > 0 else way
        self._give(Input(self.session.fighter, axis="move", value=(float(value[0]), float(value[1]))))
