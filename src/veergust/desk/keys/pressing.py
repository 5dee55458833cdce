"""Keys as the table of commands writes them, whatever alphabet the keyboard is set to."""

from __future__ import annotations

from PySide6.QtCore import QKeyCombination, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence

BACK = ("Up", "Left", "PgUp", "Home", "J", ",")
"""Keys that go back, of those that go one way or the other."""
PLACES = {24: "QWERTYUIOP[]", 38: "ASDFGHJKL;'", 52: "ZXCVBNM,./"}
"""The rows of keys by the code of their first (evdev's and 8, as X and Wayland tell it), with what each means in Latin
letters."""
_BY_PLACE = {first + n: ord(sign) for first, row in PLACES.items() for n, sign in enumerate(row)}
LATIN = 0x250
"""Signs below are Latin ones; keys without a sign are far above all letters."""
NO_SIGN = 0x01000000


def key_of(event: QKeyEvent) -> int:
    """The key of an event; a letter of another alphabet is the Latin key of its place."""
    key = event.key()
    return _BY_PLACE.get(event.nativeScanCode(), key) if LATIN <= key < NO_SIGN else key


def pressed(event: QKeyEvent) -> str:
    """The keys of an event, as the table writes them; both keys that enter are one."""
    held = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
    key, sign = key_of(event), event.text()
    if sign.isprintable() and sign and not sign.isalnum() and key == event.key():
        held &= ~Qt.KeyboardModifier.ShiftModifier  # a sign is a sign, wherever the keyboard has it
    keys = QKeySequence(QKeyCombination(held, Qt.Key(key))).toString()
    return "Return" if keys == "Enter" else keys


MOUSE = {
    Qt.MouseButton.RightButton: "mouse right",
    Qt.MouseButton.MiddleButton: "mouse middle",
    Qt.MouseButton.BackButton: "mouse back",
    Qt.MouseButton.ForwardButton: "mouse forward",
}
"""Buttons of the mouse that a command can be on; the left one turns the stage."""


def mouse_name(button: Qt.MouseButton) -> str:
    """What a button of the mouse is called among keys; nothing for one that no command can be on."""
    return MOUSE.get(button, "")


def last_of(keys: str) -> str:
    """The key of a combination without what is held with it."""
    return keys.rpartition("+")[2] or "+"
