"""The struct every record of a project is made from, and the parts several of them share."""

from __future__ import annotations

from typing import Literal

import msgspec

Vec3 = tuple[float, float, float]
Op = Literal["<", "<=", "==", "!=", ">=", ">"]
Test = Literal[
    "speed",
    "on_floor",
    "rising",
    "height",
    "held",
    "released",
    "pressed",
    "contact",
    "parameter",
    "distance",
    "chance",
    "section_ended",
]


class Record(msgspec.Struct, frozen=True, kw_only=True, omit_defaults=True, forbid_unknown_fields=True):
    """A frozen value of the project; equal by content, changed with ``msgspec.structs.replace``."""


class Condition(Record, frozen=True):
    """One test, ``test(name) op value``; truths count as 1 and 0.

    ``held``, ``released`` and ``pressed`` take a command as ``name``, ``parameter`` a parameter, ``contact`` one
    of ``any``, ``hit``, ``guarded``; the others take no name.
    """

    test: Test
    name: str = ""
    op: Op = "=="
    value: float = 1.0
