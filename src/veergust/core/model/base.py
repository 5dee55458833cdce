"""The struct every record of a project is made from, and the parts several of them share."""

from __future__ import annotations

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

MOST_TICKS = 200_000
"""No action, section or drill is longer."""

# Bounds of what a project may hold, checked where it is read: past them nothing could be played or drawn.
Metres = Annotated[float, Meta(ge=-1000, le=1000)]
"""A place or a distance (m)."""
Size = Annotated[float, Meta(ge=0, le=100)]
"""A radius, a height, half an edge (m)."""
Degrees = Annotated[float, Meta(ge=-36_000, le=36_000)]
Seconds = Annotated[float, Meta(ge=-36_000, le=36_000)]
"""A time in a source."""
Rate = Annotated[float, Meta(ge=0.001, le=1000)]
"""How many times as fast or often."""
Magnification = Annotated[float, Meta(ge=1e-6, le=1e6)]
"""How many times as large: a file may be in any unit."""
Speed = Annotated[float, Meta(ge=0, le=100_000)]
"""How fast something goes, turns or comes up to speed (m/s, degrees/s, m/s²)."""
Hertz = Annotated[float, Meta(ge=0, le=240)]
"""How often a second; 0 where nothing is asked for."""
Factor = Annotated[float, Meta(ge=-1000, le=1000)]
Amount = Annotated[float, Meta(ge=-1_000_000, le=1_000_000)]
"""A number that only means something to the game: damage, health, a setting."""
Fraction = Annotated[float, Meta(ge=0, le=1)]
Frame = Annotated[int, Meta(ge=-200_000, le=200_000)]
"""A tick of a section, a run, or a drill."""
Ticks = Annotated[int, Meta(ge=0, le=10_000)]
"""How many ticks something lasts: a blend, a hit stop, a buffer."""
Count = Annotated[int, Meta(ge=0, le=1_000_000)]

Vec3 = tuple[float, float, float]
Place = tuple[Metres, Metres, Metres]
Turn = tuple[Degrees, Degrees, Degrees]
Op = Literal["<", "<=", "==", "!=", ">=", ">"]
Test = Literal[
    "speed",
    "wanted_speed",
    "direction",
    "turn_rate",
    "on_floor",
    "rising",
    "height",
    "above_floor",
    "blocked",
    "jumped",
    "held",
    "released",
    "pressed",
    "contact",
    "touches",
    "touched_region",
    "touched_strength",
    "target_stands",
    "plays",
    "has_ended",
    "parameter",
    "distance",
    "chance",
    "section_ended",
    "clip_share",
    "time_here",
    "feet_apart",
]


class Value(msgspec.Struct, frozen=True, kw_only=True, omit_defaults=True, forbid_unknown_fields=True):
    """A frozen value of the project; equal by content, changed with ``msgspec.structs.replace``."""


class Condition(Value, frozen=True):
    """One test, ``test(name) op value``; truths count as 1 and 0.

    ``held``, ``released`` and ``pressed`` take a command as ``name``, ``parameter`` a parameter, ``contact`` one
    of ``any``, ``hit``, ``guarded``, ``deflected``, ``touched_region`` a region, ``touched_strength`` a strength,
    ``target_stands`` how the nearest other stands, ``plays`` an action, ``has_ended`` how; the others take no name.
    """

    test: Test
    name: str = ""
    op: Op = "=="
    value: Amount = 1.0
