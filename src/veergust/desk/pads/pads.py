"""The gamepads that are plugged in, by the order in which they came; what is done with them is told as it happens."""

from __future__ import annotations

import os
import warnings
from dataclasses import dataclass, field
from functools import cache
from importlib import import_module
from typing import Any

from PySide6.QtCore import QCoreApplication, QObject, QSettings, QTimer, Signal

from veergust.desk.running.work import aside

BUTTONS = (
    "south", "east", "west", "north", "select", "home", "start", "left stick", "right stick", "left shoulder",
    "right shoulder", "up", "down", "left", "right",
)  # fmt: skip
"""Buttons by where they lie, in SDL's order."""
TRIGGERS = {4: "left trigger", 5: "right trigger"}
"""Axes that are pressed as buttons are, beyond the half."""
WAYS = {"up": (0.0, -1.0), "down": (0.0, 1.0), "left": (-1.0, 0.0), "right": (1.0, 0.0)}
"""Buttons that are a stick as well, where no command has them."""
EVERY = 8
"""So often (ms) the pads are asked."""
FULL = 32767.0
DEAD = 0.18
"""So much of a stick's way gives nothing at first: old ones do not come quite back."""


@dataclass
class Pad:
    """One that is plugged in: SDL's number and handle of it, what it is called, and what is held on it."""

    number: int
    handle: Any
    name: str
    held: set[str] = field(default_factory=set)
    axes: dict[int, float] = field(default_factory=dict)


@dataclass
class _Library:
    """The library, loaded beside; all that the thread knows of."""

    loaded: Any = None
    trouble: str = ""
    there: bool = False
    """Whether it is known how it went."""

    def load(self) -> None:
        """Load it, or say why it cannot be."""
        try:
            warnings.filterwarnings("ignore", message="Using SDL2 binaries", category=UserWarning)
            self.loaded = import_module("sdl2")
        except (ImportError, OSError, AttributeError, RuntimeError) as error:
            # The library is missing, or not for this machine: all else goes on.
            self.trouble = f"Pads cannot be read here: {error}".splitlines()[0]
        self.there = True


class Pads(QObject):
    """All pads. Signals tell which by its place among those that are there, and the button by its name."""

    pressed = Signal(int, str)
    released = Signal(int, str)
    moved = Signal(int, float, float)
    """The left stick (x to the right, y down; -1 to 1)."""
    changed = Signal()
    """One was plugged in or unplugged."""
    went = Signal(int)
    """One was unplugged; what was held on it is let go of before."""

    def __init__(self, owner: QObject | None = None) -> None:
        super().__init__(owner)
        self.there: list[Pad] = []
        self.trouble = ""
        self.dead, self.curve = DEAD, 1.0
        self.taken = False
        """Whether what is pressed is for whoever binds it."""
        self.sdl: Any = None
        self._settings: QSettings | None = None
        self._listeners: set[object] = set()
        self._library: _Library | None = None
        self.timer = QTimer(self)
        self.timer.setInterval(EVERY)
        self.timer.timeout.connect(self.poll)

    # How the sticks answer

    def use(self, settings: QSettings) -> None:
        """Take up what a person has set, and keep there what they set from now on."""
        self._settings = settings
        self.dead = _between(settings.value("pads/dead"), DEAD, 0.0, 0.9)
        self.curve = _between(settings.value("pads/curve"), 1.0, 0.3, 4.0)

    def keep(self) -> None:
        """Keep how the sticks answer."""
        if self._settings is not None:
            self._settings.setValue("pads/dead", self.dead)
            self._settings.setValue("pads/curve", self.curve)

    # Who listens

    def listen(self, who: object) -> None:
        """Ask the pads while somebody listens; the library is loaded beside, the first time."""
        self._listeners.add(who)
        if self._library is None:
            self._library = _Library()
            aside(self._library.load, "pads")
        if not self.trouble:
            self.timer.start()

    def leave(self, who: object) -> None:
        """Somebody listens no more."""
        self._listeners.discard(who)
        if not self._listeners:
            self.timer.stop()

    def _begin(self) -> None:
        """Take up the library, on the thread that asks it."""
        assert self._library is not None
        sdl, self.trouble = self._library.loaded, self._library.trouble
        if self.trouble:
            return
        os.environ.setdefault("SDL_NO_SIGNAL_HANDLERS", "1")
        for hint in (sdl.SDL_HINT_JOYSTICK_ALLOW_BACKGROUND_EVENTS, sdl.SDL_HINT_NO_SIGNAL_HANDLERS):
            sdl.SDL_SetHint(hint, b"1")
        if sdl.SDL_Init(sdl.SDL_INIT_GAMECONTROLLER) != 0:
            self.trouble = f"Pads cannot be read here: {sdl.SDL_GetError().decode(errors='replace')}"
            return
        self.sdl = sdl

    # What they say

    def poll(self) -> None:
        """Ask the pads what happened since."""
        if self.sdl is None:
            if self._library is None or not self._library.there:
                return
            self._begin()
            if self.sdl is None:
                self.timer.stop()
            self.changed.emit()
            if self.sdl is None:
                return
        sdl, event = self.sdl, self.sdl.SDL_Event()
        moved: set[int] = set()
        while sdl.SDL_PollEvent(event):
            if event.type == sdl.SDL_CONTROLLERDEVICEADDED:
                self._plugged(event.cdevice.which)
            elif event.type == sdl.SDL_CONTROLLERDEVICEREMOVED:
                self._unplugged(event.cdevice.which)
            elif event.type in (sdl.SDL_CONTROLLERBUTTONDOWN, sdl.SDL_CONTROLLERBUTTONUP):
                if event.cbutton.button < len(BUTTONS):
                    down = event.type == sdl.SDL_CONTROLLERBUTTONDOWN
                    self._button(event.cbutton.which, BUTTONS[event.cbutton.button], down)
            elif event.type == sdl.SDL_CONTROLLERAXISMOTION:
                moved |= self._axis(event.caxis.which, event.caxis.axis, event.caxis.value / FULL)
        for number in moved:
            self._tell_stick(number)

    def _place(self, number: int) -> int | None:
        return next((n for n, pad in enumerate(self.there) if pad.number == number), None)

    def _plugged(self, device: int) -> None:
        handle = self.sdl.SDL_GameControllerOpen(device)
        if not handle:
            return
        number = self.sdl.SDL_JoystickInstanceID(self.sdl.SDL_GameControllerGetJoystick(handle))
        if self._place(number) is None:
            name = (self.sdl.SDL_GameControllerName(handle) or b"pad").decode(errors="replace")
            self.there.append(Pad(number, handle, name))
            self.changed.emit()

    def _unplugged(self, number: int) -> None:
        at = self._place(number)
        if at is None:
            return
        pad = self.there[at]
        # Its buttons were told to be up before; a stick that comes back is told of pads that are still there.
        self.moved.emit(at, 0.0, 0.0)
        self.sdl.SDL_GameControllerClose(pad.handle)
        self.there.pop(at)
        self.went.emit(at)
        self.changed.emit()

    def _button(self, number: int, name: str, down: bool) -> None:
        at = self._place(number)
        if at is None or down == (name in self.there[at].held):
            return
        pad = self.there[at]
        (pad.held.add if down else pad.held.discard)(name)
        (self.pressed if down else self.released).emit(at, name)

    def _axis(self, number: int, axis: int, value: float) -> set[int]:
        at = self._place(number)
        if at is None:
            return set()
        self.there[at].axes[axis] = value
        if axis in TRIGGERS:
            self._button(number, TRIGGERS[axis], value > 0.5)
        return {number} if axis < 2 else set()

    def _tell_stick(self, number: int) -> None:
        at = self._place(number)
        if at is not None:
            x, y = (max(min(self.there[at].axes.get(axis, 0.0), 1.0), -1.0) for axis in (0, 1))
            self.moved.emit(at, x, y)


def _between(value: object, usual: float, low: float, high: float) -> float:
    """A number that was kept as text, where it is one."""
    try:
        return min(max(float(str(value)), low), high) if value is not None else usual
    except ValueError:
        return usual


@cache
def shared_pads() -> Pads:
    """The pads of the program: there is one of them, however many windows."""
    return Pads(QCoreApplication.instance())
