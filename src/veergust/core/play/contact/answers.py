"""Which reaction answers a touch: rows of the table, asked in their order."""

from __future__ import annotations

import numpy as np

from veergust.core.model import Reaction, Strike
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.state import FighterState

EIGHTHS = ("front", "front left", "left", "back left", "back", "back right", "right", "front right")
"""Sides of the victim, the way round from its front over its left."""
SITUATIONS = ("standing", "guarding", "air", "last")


def bearing(attacker: FighterState, victim: FighterState) -> float:
    """Where the attacker stands about the victim: degrees from its front, to its left above 0."""
    gap = attacker.position - victim.position
    return float((np.degrees(np.arctan2(gap[0], gap[2])) - victim.facing + 180.0) % 360.0 - 180.0)


def quarter(degrees: float) -> str:
    """The quarter of a victim that a bearing is in; borders belong to its front and back."""
    if abs(degrees) <= 45.0:
        return "front"
    if abs(degrees) >= 135.0:
        return "back"
    return "left" if degrees > 0 else "right"


def eighth(degrees: float) -> str:
    """The eighth of a victim that a bearing is in; borders belong to the straight ones."""
    straight = round(abs(degrees) / 90.0)
    between = 1 if abs(degrees) < 90.0 else 3
    n = 2 * straight if abs(abs(degrees) - 90.0 * straight) <= 22.5 else between
    return EIGHTHS[n if degrees >= 0.0 else -n % 8]


def side_of(attacker: FighterState, victim: FighterState) -> str:
    """The side of the victim the attacker stands on, in quarters of the victim's own frame."""
    return quarter(bearing(attacker, victim))


def fits(row: Reaction, degrees: float, strength: str, situation: str) -> bool:
    """Whether a row is for a hit from a bearing: a straight side is a quarter, one between two an eighth.

    Rows for any situation stand for standing and the air; a guarded or a last hit needs a row of its own.
    """
    return (
        row.side in ("any", quarter(degrees), eighth(degrees))
        and row.strength in ("any", strength)
        and (row.situation == situation or (row.situation == "any" and situation in ("standing", "air")))
    )


def choose_reaction(
    build: CompiledProject, attacker: FighterState, victim: FighterState, strike: Strike, guarding: bool = False
) -> Reaction | None:
    """The first row of the reaction table that fits side, strength and situation."""
    situation = "standing" if victim.grounded else "air"
    if guarding:
        situation = "guarding"
    elif victim.health <= 0.0:
        situation = "last"
    degrees = bearing(attacker, victim)
    rows = build.project.reactions
    return next((row for row in rows if fits(row, degrees, strike.strength, situation)), None)
