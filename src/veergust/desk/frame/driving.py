"""Driving fighters by keyboard, mouse and pads: the arrows and the pads' sticks, and the project's commands."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import numpy as np
from PySide6.QtCore import QElapsedTimer, QEvent, QObject, Qt, Signal
from PySide6.QtGui import QKeyEvent, QKeySequence, QMouseEvent
from PySide6.QtWidgets import QApplication, QWidget

from veergust.core.kinds import shaped
from veergust.core.play import Input
from veergust.desk.document.document import Document
from veergust.desk.frame.session import Session
from veergust.desk.keys.pressing import key_of, mouse_name
from veergust.desk.pads.pads import WAYS, Pads, shared_pads

ARROWS = {
    Qt.Key.Key_Left: (-1.0, 0.0),
    Qt.Key.Key_Right: (1.0, 0.0),
    Qt.Key.Key_Up: (0.0, -1.0),
    Qt.Key.Key_Down: (0.0, 1.0),
}
KEYPAD = {
    Qt.Key.Key_4: (-1.0, 0.0),
    Qt.Key.Key_6: (1.0, 0.0),
    Qt.Key.Key_8: (0.0, -1.0),
    Qt.Key.Key_2: (0.0, 1.0),
    Qt.Key.Key_5: (0.0, 1.0),
}
"""The second player's stick: the digits of the keypad, with or without what they are when it is off."""


class Player:
    """One who drives a fighter, whose name ``who`` tells: what of commands and ways is held, and given on."""

    def __init__(self, who: Callable[[], str], give: Callable[[Input], None]) -> None:
        self.who, self._give = who, give
        self.held: set[str] = set()
        self.down: dict[object, tuple[float, float]] = {}

    def press(self, command: str) -> None:
        """A command goes down."""
        self.held.add(command)
        self._give(Input(self.who(), command))

    def release(self, command: str) -> None:
        """A command comes up."""
        self.held.discard(command)
        self._give(Input(self.who(), command, press=False))

    def stick(self, x: float, z: float) -> None:
        """The stick lies so."""
        self._give(Input(self.who(), axis="move", value=(x, z)))

    def let_go(self) -> bool:
        """Let go of all that is held; whether the stick was."""
        moved = bool(self.down)
        self.down.clear()
        if moved:
            self.stick(0.0, 0.0)
        for command in sorted(self.held):
            self.release(command)
        return moved


class Driver(QObject):
    """Turns keys, mouse buttons and pads into inputs of a bout's fighters.

    A key is heard of once the window has time for it, and counts from when it went down: ``owed`` says how many ticks
    that are still to be played were due by then, of how late it is heard of (ms). ``drove`` tells that somebody gave
    something by mouse or pad, and which command, if it was one.
    """

    drove = Signal(str)

    def __init__(
        self,
        document: Document,
        session: Session,
        owed: Callable[[float], int] = lambda late: 0,
        pads: Pads | None = None,
    ) -> None:
        super().__init__(session)
        self.document, self.session, self.owed = document, session, owed
        self.now = QElapsedTimer()
        self.now.start()
        self.ahead: float | None = None
        self.after = 0
        self.first, self.second = (
            Player(lambda: session.fighter, self._give),
            Player(lambda: session.second, self._give),
        )
        self.pads = pads or shared_pads()
        self.hears = False
        self.pads.pressed.connect(self._pad_down)
        self.pads.released.connect(self._pad_up)
        self.pads.moved.connect(self._pad_moved)

    # What is bound to what

    def command(self, key: int, player: Player | None = None) -> str:
        """The command of the project that a key stands for, for one of the players (the first)."""
        return self._bound(QKeySequence(key).toString(), player or self.first)

    def _bound(self, name: str, player: Player) -> str:
        commands = self.document.project.commands
        if player is self.second:
            return next((c.name for c in commands if name in c.second), "")
        return next((c.name for c in commands if name in c.keys), "")

    # Keys

    def press(self, event: QKeyEvent) -> bool:
        """Take a key that goes down; whether it drives."""
        key = key_of(event)
        self._hear(event.timestamp())
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            player, command = self.first, ""
        else:
            player, command = self._who(key)
        if (way := self._second_way(event)) is not None:
            self.second.down[key] = way
            self._stick(self.second, True)
        elif Qt.Key(key) in ARROWS or key == Qt.Key.Key_Shift:
            shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self.first.down[key] = ARROWS.get(Qt.Key(key), (0.0, 0.0))
            self._stick(self.first, shift or key == Qt.Key.Key_Shift)
        elif command:
            player.press(command)
        else:
            return False
        return True

    def release(self, event: QKeyEvent) -> None:
        """Take a key that comes up."""
        key = key_of(event)
        self._hear(event.timestamp())
        if self.second.down.pop(key, None) is not None:
            self._stick(self.second, True)
        elif self.first.down.pop(key, None) is not None:
            shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier) and key != Qt.Key.Key_Shift
            self._stick(self.first, shift)
        else:
            player, command = self._who(key)
            if command:
                player.release(command)

    def _who(self, key: int) -> tuple[Player, str]:
        """Whose command a key is, and which."""
        for player in (self.first, self.second):
            if player.who() and (command := self.command(key, player)):
                return player, command
        return self.first, ""

    def _second_way(self, event: QKeyEvent) -> tuple[float, float] | None:
        """Where a key of the keypad leads the second player, if there is one."""
        if not self.session.second or not event.modifiers() & Qt.KeyboardModifier.KeypadModifier:
            return None
        key = Qt.Key(event.key())
        return KEYPAD.get(key, ARROWS.get(key))

    def _hear(self, stamp: int) -> None:
        """How many ticks come before what an event gives: those that were due when it came about."""
        # Events are stamped by another clock; the soonest that any was heard of tells how far ahead that one is.
        ahead = self.now.elapsed() - stamp
        self.ahead = ahead if self.ahead is None else min(self.ahead, ahead)
        self.after = self.owed(ahead - self.ahead)

    def _give(self, given: Input) -> None:
        if given.fighter:
            self.session.give(given, after=self.after)

    def let_go(self) -> None:
        """Keys let go elsewhere are never heard of: let go of them now."""
        self.after = self.owed(0.0)
        for player in (self.first, self.second):
            player.let_go()

    def _stick(self, player: Player, runs: bool) -> None:
        ways: Iterable[tuple[float, float]] = player.down.values()
        way = np.sum(list(ways) or [(0.0, 0.0)], axis=0)
        size = float(np.hypot(*way))
        locomotion = self.document.project.locomotion
        pace = 1.0 if runs else locomotion.walk_speed / max(locomotion.run_speed, 1e-6)
        value = way / size * pace if size > 0 else way
        player.stick(float(value[0]), float(value[1]))

    # The mouse

    def watch(self, widget: QWidget) -> None:
        """Hear of the mouse's buttons over a widget; those that no command has are its own."""
        widget.installEventFilter(self)

    def eventFilter(self, widget: QObject, event: QEvent) -> bool:
        if isinstance(event, QMouseEvent) and event.type() in (
            QEvent.Type.MouseButtonPress, QEvent.Type.MouseButtonDblClick, QEvent.Type.MouseButtonRelease,
        ):  # fmt: skip
            name = mouse_name(event.button())
            command = self._bound(name, self.first) if name else ""
            if command:
                self._hear(event.timestamp())
                down = event.type() != QEvent.Type.MouseButtonRelease
                (self.first.press if down else self.first.release)(command)
                if down:
                    self.drove.emit(command)
                return True
        return super().eventFilter(widget, event)

    # Pads

    def listen(self, hears: bool) -> None:
        """Hear the pads, or no more."""
        self.hears = hears
        (self.pads.listen if hears else self.pads.leave)(self)
        if not hears:
            self.let_go()

    def player_of(self, pad: int) -> Player:
        """Who plays with a pad: the first pad is the first player's, the next the second's. Where there is a second
        player and one pad, it is theirs, for the first one has the keys."""
        if not self.session.second or (pad == 0 and len(self.pads.there) > 1):
            return self.first
        return self.second

    def _pad_down(self, pad: int, button: str) -> None:
        self._pad(pad, button, True)

    def _pad_up(self, pad: int, button: str) -> None:
        self._pad(pad, button, False)

    def _pad(self, pad: int, button: str, down: bool) -> None:
        """A button of a pad; one that no command has may be a way of the stick."""
        if not self.hears or (down and self._elsewhere()):
            return
        player = self.player_of(pad)
        self.after = self.owed(0.0)
        command = self._bound(f"pad {button}", self.first)
        if command:
            (player.press if down else player.release)(command)
        elif button in WAYS:
            if down:
                player.down[pad, button] = WAYS[button]
            else:
                player.down.pop((pad, button), None)
            self._stick(player, True)
        else:
            return
        if down:
            self.drove.emit(command)

    def _pad_moved(self, pad: int, x: float, y: float) -> None:
        if not self.hears or ((x or y) and self._elsewhere()):
            return
        self.after = self.owed(0.0)
        x, z = shaped(x, y, self.pads.dead, self.pads.curve)
        self.player_of(pad).stick(x, z)
        if x or z:
            self.drove.emit("")

    def _elsewhere(self) -> bool:
        """Whether somebody is asked something, or binds what is pressed."""
        return QApplication.activeModalWidget() is not None or self.pads.taken
