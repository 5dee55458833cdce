"""Keys as the table of commands writes them."""

from __future__ import annotations

from PySide6.QtCore import QKeyCombination, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence

BACK = ("Up", "Left", "PgUp", "Home", "J", ",")
"""Keys that go back, of those that go one way or the other."""


def pressed(event: QKeyEvent) -> str:
    """The keys of an event, as the table writes them; both keys that enter are one."""
    held = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
    if event.text().isprintable() and event.text() and not event.text().isalnum():
        held &= ~Qt.KeyboardModifier.ShiftModifier  # a sign is a sign, wherever the keyboard has it
    keys = QKeySequence(QKeyCombination(held, Qt.Key(event.key()))).toString()
    return "Return" if keys == "Enter" else keys


def last_of(keys: str) -> str:
    """The key of a combination without what is held with it."""
    return keys.rpartition("+")[2] or "+"
