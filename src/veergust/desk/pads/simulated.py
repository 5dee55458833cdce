"""A simulated gamepad, which the library takes for a plugged one: for who has none, and for tests."""

from __future__ import annotations

from veergust.desk.pads.pads import BUTTONS, TRIGGERS, Pads

FULL = 32767


class SimulatedPad:
    """Plugged in and unplugged, pressed and moved, as one of plastic would be. It works once the library is there."""

    def __init__(self, pads: Pads) -> None:
        self.pads = pads
        self._handle: object = None
        self._number = -1

    @property
    def plugged(self) -> bool:
        """Whether it is plugged in."""
        return self._handle is not None

    def plug(self) -> bool:
        """Plug it in; whether that could be done."""
        sdl = self.pads.sdl
        if sdl is None or self.plugged:
            return self.plugged
        device = sdl.SDL_JoystickAttachVirtual(sdl.SDL_JOYSTICK_TYPE_GAMECONTROLLER, 6, len(BUTTONS), 0)
        if device < 0:
            return False
        self._handle = sdl.SDL_JoystickOpen(device)
        self._number = sdl.SDL_JoystickInstanceID(self._handle)
        for axis in TRIGGERS:  # at rest a trigger is at its low end
            sdl.SDL_JoystickSetVirtualAxis(self._handle, axis, -FULL - 1)
        return self.plugged

    def unplug(self) -> None:
        """Pull it out."""
        sdl = self.pads.sdl
        if not self.plugged:
            return
        devices = range(sdl.SDL_NumJoysticks())
        device = next((n for n in devices if sdl.SDL_JoystickGetDeviceInstanceID(n) == self._number), None)
        sdl.SDL_JoystickClose(self._handle)
        self._handle = None
        if device is not None:
            sdl.SDL_JoystickDetachVirtual(device)

    def press(self, button: str, down: bool = True) -> None:
        """Press a button or a trigger by its name, or let it go."""
        if not self.plugged:
            return
        axis = next((axis for axis, name in TRIGGERS.items() if name == button), None)
        if axis is not None:
            self.pads.sdl.SDL_JoystickSetVirtualAxis(self._handle, axis, FULL if down else -FULL - 1)
        else:
            self.pads.sdl.SDL_JoystickSetVirtualButton(self._handle, BUTTONS.index(button), int(down))

    def move(self, x: float, y: float) -> None:
        """Move the left stick: x to the right, y down, each -1 to 1."""
        if self.plugged:
            for axis, value in enumerate((x, y)):
                self.pads.sdl.SDL_JoystickSetVirtualAxis(self._handle, axis, round(value * FULL))
