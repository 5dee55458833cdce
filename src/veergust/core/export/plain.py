"""Values of the project as plain data with nothing left out, and numbers that are the same on every run."""

from __future__ import annotations

import re
from functools import cache
from typing import Any

import msgspec
import numpy as np

from veergust.core.kinds import CONDITIONS, MEASURES
from veergust.core.model import Condition, FeetToFloor, Fighter, Jump, Locomotion, Reaction, State, Thrown

OURS = frozenset({"start_pin", "end_pin", "pin", "kept", "version", "identity", "mark"})
"""Fields that only matter to whoever edits."""
DIGITS, FINE = 9, 15
"""Digits behind the point of what is told, and of what is added up tick by tick."""


def number(value: float, digits: int = DIGITS) -> float:
    """A number rounded, without a negative zero."""
    return round(float(value), digits) + 0.0


def numbers(values: Any, digits: int = DIGITS) -> Any:
    """An array as lists of rounded numbers."""
    return _rounded(np.asarray(values, dtype=float).tolist(), digits)


def _rounded(values: Any, digits: int) -> Any:
    return [_rounded(v, digits) for v in values] if isinstance(values, list) else number(values, digits)


LENGTHS: dict[type, frozenset[str]] = {
    Locomotion: frozenset(("walk_speed", "run_speed", "acceleration", "braking", "gravity", "falling", "friction")),
    State: frozenset(("matched", "most")),
    Jump: frozenset(("height", "tap")),
    FeetToFloor: frozenset(("raises", "drops")),
    Reaction: frozenset(("near", "far")),
    Fighter: frozenset(("near",)),
    Thrown: frozenset(("speed", "up", "gravity", "radius")),
}
"""Fields that are metres, metres a second or the like."""
_METRES = re.compile(r"\{v:g\} m\b")


_fields = cache(msgspec.structs.fields)


def full(value: Any, scale: float = 1.0) -> Any:
    """A struct with every field under its name in files, defaults too; what only editing needs is left out. Lengths and
    speeds are ``scale`` times as many."""
    if isinstance(value, msgspec.Struct):
        fields = _fields(type(value))
        lengths = _lengths(value)
        return {
            f.encode_name: _field(value, f.name, scale if f.name in lengths else 1.0, scale)
            for f in fields
            if f.name not in OURS
        }
    if isinstance(value, tuple | list):
        return [full(part, scale) for part in value]
    return number(value) if isinstance(value, float) else value


def _lengths(value: msgspec.Struct) -> frozenset[str]:
    if isinstance(value, Condition) and _METRES.search(str(CONDITIONS[value.test].says)):
        return frozenset(("value",))
    return LENGTHS.get(type(value), frozenset())


def _field(holder: msgspec.Struct, name: str, own: float, scale: float) -> Any:
    value = getattr(holder, name)
    if isinstance(holder, State) and name == "blend":
        units = [MEASURES[over].unit if over in MEASURES else "" for over in holder.over]
        much = [scale if unit.startswith("m") else 1.0 for unit in units]
        return [{"clip": p.clip, "at": [number(v * m) for v, m in zip(p.at, [*much, 1.0, 1.0])]} for p in holder.blend]
    if isinstance(value, float | int) and not isinstance(value, bool) and own != 1.0:
        return number(value * own)
    return full(value, scale)
