"""The settings of a character that an action may hold: what play asks for, and what the window offers."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True)
class SettingKind:
    """A setting: what is so while it is taken away (held at 0), and its ``usual`` value while nobody holds it."""

    name: str
    off: str
    usual: float = 1.0

    def of(self, held: Mapping[str, float]) -> float:
        """Its value among the settings that are held."""
        return held.get(self.name, self.usual)

    def on(self, held: Mapping[str, float]) -> bool:
        """Whether it is so."""
        return held.get(self.name, self.usual) > 0.0


TURN = SettingKind("turn", "the body does not turn with the stick")
GRAVITY = SettingKind("gravity", "the body does not fall")
PUSH = SettingKind("push", "bodies do not push each other")
GUARD = SettingKind("guard", "does not guard", 0.0)
FEET = SettingKind("feet", "feet are free of ground correction")
"""What lays the feet on the floor; play hands it on in takes, for the game to do the same."""
AIM = SettingKind("aim", "does not look at the target")
GRIP = SettingKind("grip", "hands are free of what they are kept on")

SETTINGS = {kind.name: kind for kind in (TURN, GRAVITY, PUSH, GUARD, FEET, AIM, GRIP)}


def held_words(setting: str, value: float) -> str:
    """A setting that is held, in words."""
    if value == 0 and setting in SETTINGS:
        return SETTINGS[setting].off
    return f"{setting} is held at {value:g}"
