"""Every colour, hatch and size by role, for the window and the renderer alike; nothing else names a colour.

A role is told by its hatch, its edge and its letter as well as by its ink, so that it reads in print and without
colour. This module knows no Qt.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

Hatch = Literal[
    "none", "slant", "dots", "upright", "level", "cross", "weave", "back", "zigzag", "plus", "rings", "bricks"
]
HATCHES: tuple[Hatch, ...] = get_args(Hatch)
"""By the numbers that the shader of figures knows them by."""
WASH = 0.13
"""How much of a role's ink the paper under its hatch has."""
Edge = Literal["solid", "dash", "double", "dot"]


@dataclass(frozen=True)
class Role:
    """One printed role: its ink, hatch, edge and letter."""

    ink: str
    hatch: Hatch
    edge: Edge
    letter: str
    word: str


LAYERS = ("hold", "combo", "shield", "strike", "drive", "cancel", "gate")
"""The roles whose inks and hatches layers have, from the bottom up, again and again."""
# The inks a section can be marked with, each that of a role with its hatch.
MARKS = {"plum": "strike", "green": "drive", "ochre": "hold", "indigo": "shield"}


@dataclass(frozen=True)
class Palette:
    """A theme: paper, text, hairlines and the role inks, as ``#rrggbb``."""

    name: str
    paper: str
    paper_side: str
    paper_bright: str
    ink: str
    ink_soft: str
    ink_faint: str
    hair: str
    hair_strong: str
    accent: str
    warn: str
    selected: str
    sky: str
    floor_near: str
    floor_far: str
    floor_line: str
    body: str
    body_light: str
    partner: str
    partner_light: str
    post: str
    ghost: str
    roles: dict[str, Role]

    def role(self, name: str) -> Role:
        """A role by name."""
        return self.roles[name]


def _roles(strike: str, exit_: str, cancel: str, break_: str, hold: str, drive: str, shield: str, event: str,
           gate: str) -> dict[str, Role]:  # fmt: skip
    return {
        "strike": Role(strike, "slant", "solid", "S", "strike"),
        "combo": Role(exit_, "dots", "solid", "→", "combo window"),
        "cancel": Role(cancel, "back", "dash", "↷", "cancel"),
        "break": Role(break_, "cross", "dot", "!", "break"),
        "gate": Role(gate, "weave", "double", "G", "gate"),
        "shield": Role(shield, "level", "double", "O", "shield"),
        "hold": Role(hold, "upright", "solid", "H", "hold"),
        "drive": Role(drive, "zigzag", "solid", "D", "drive"),
        "event": Role(event, "plus", "solid", "▸", "event"),
        "hurt": Role(exit_, "rings", "dash", "U", "hurtbox"),
        "capsule": Role(event, "bricks", "dot", "B", "body"),
    }


DAY = Palette(
    name="day",
    paper="#f4eddf",
    paper_side="#ebe3d1",
    paper_bright="#faf6ec",
    ink="#231e1a",
    ink_soft="#564d43",
    ink_faint="#605748",
    hair="#ddd2bc",
    hair_strong="#6b6255",
    accent="#145a63",
    warn="#8c2a5c",
    selected="#fdfaf2",
    sky="#f9f4e8",
    floor_near="#e4d9c3",
    floor_far="#f0e8d8",
    floor_line="#cfc2a8",
    body="#231e1a",
    body_light="#4a423a",
    partner="#5a5042",
    partner_light="#82765f",
    post="#a8946f",
    ghost="#1b6d77",
    roles=_roles("#8c2a5c", "#145a63", "#22603f", "#474c8e", "#7c4d09", "#3f6326", "#474c8e", "#231e1a", "#74492a"),
)

NIGHT = Palette(
    name="night",
    paper="#23201d",
    paper_side="#2b2723",
    paper_bright="#1b1917",
    ink="#f1e9da",
    ink_soft="#c0b5a3",
    ink_faint="#b0a696",
    hair="#3d3731",
    hair_strong="#8c8172",
    accent="#6fc3cb",
    warn="#eb9cc1",
    selected="#37312b",
    sky="#1d1b19",
    floor_near="#332e28",
    floor_far="#26221f",
    floor_line="#4a433a",
    body="#e9e0cf",
    body_light="#b5aa97",
    partner="#9c907c",
    partner_light="#766c5c",
    post="#8a7757",
    ghost="#6fc3cb",
    roles=_roles("#eb9cc1", "#6fc3cb", "#84c7a0", "#a3a8ee", "#e8b25c", "#a3c97e", "#a3a8ee", "#f1e9da", "#d3a57c"),
)

THEMES = {"day": DAY, "night": NIGHT}


def rgb(colour: str) -> tuple[float, float, float]:
    """``#rrggbb`` as three numbers in 0…1."""
    return (int(colour[1:3], 16) / 255, int(colour[3:5], 16) / 255, int(colour[5:7], 16) / 255)
