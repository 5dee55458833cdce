"""Which reaction answers a touch: rows of the table, asked in their order."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from veergust.core.model import Condition, Reaction
from veergust.core.motion import Array
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.state import FighterState

EIGHTHS = ("front", "front left", "left", "back left", "back", "back right", "right", "front right")
"""Sides of the victim, the way round from its front over its left."""
SITUATIONS = ("standing", "ducking", "down", "air", "guarding", "guard broken", "deflecting", "deflected", "last")
"""How somebody stood, or what came of the touch."""
STOOD = ("standing", "ducking", "down", "air")
"""Those of them that a row for any situation stands for."""
INSTEAD = {"deflecting": "guarding", "guard broken": "guarding"}
"""The situation whose rows are asked where a situation has none of its own."""


def bearing(place: Array, victim: FighterState) -> float:
    """Where a place lies about the victim: degrees from its front, to its left above 0."""
    gap = place - victim.position
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


@dataclass(frozen=True)
class Touched:
    """A touch as whoever reacts to it sees it: from which bearing (degrees), how strong, in which situation, on which
    region, and how far off (m) the other stands."""

    degrees: float
    strength: str
    situation: str
    region: str = ""
    far: float = 0.0


def fits(row: Reaction, touch: Touched) -> bool:
    """Whether a row is for a touch, but for its conditions: a straight side is a quarter, one between two an eighth.

    Rows for any situation stand for how somebody stood; what came of a touch needs a row of its own.
    """
    return (
        row.side in ("any", quarter(touch.degrees), eighth(touch.degrees))
        and row.strength in ("any", touch.strength)
        and (row.situation == touch.situation or (row.situation == "any" and touch.situation in STOOD))
        and row.region in ("any", touch.region)
        and row.near <= touch.far
        and (row.far is None or touch.far <= row.far)
    )


def posture_of(build: CompiledProject, fighter: FighterState) -> str:
    """How a body stands as far as touching goes: as the topmost action's section says, else as the state does."""
    for voice in reversed(fighter.voices):
        if voice.ended is None and not voice.waits and voice.part.section.posture:
            return voice.part.section.posture
    state = build.states.get(fighter.locomotion[-1].state)
    return state.posture if state is not None else "standing"


def situation_of(fighter: FighterState) -> str:
    """How somebody stands when it is touched: who lies is down, in the air too."""
    return fighter.posture if fighter.grounded or fighter.posture == "down" else "air"


def choose_reaction(
    build: CompiledProject, touch: Touched, holds: Callable[[tuple[Condition, ...], str], bool]
) -> Reaction | None:
    """The first row of the reaction table that fits a touch and whose conditions hold, asked as standing at a place."""
    for situation in (touch.situation, INSTEAD.get(touch.situation)):
        if situation is None:
            continue
        asked = replace(touch, situation=situation)
        for i, row in enumerate(build.project.reactions):
            if fits(row, asked) and (not row.conditions or holds(row.conditions, f"reaction {i}")):
                return row
    return None
