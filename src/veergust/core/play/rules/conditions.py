"""Conditions, asked of a fighter."""

from __future__ import annotations

import operator
import random
from collections.abc import Callable
from math import hypot

import numpy as np

from veergust.core.model import Condition
from veergust.core.play.state import FighterState, Voice

OPS: dict[str, Callable[[float, float], bool]] = {
    "<": operator.lt,
    "<=": operator.le,
    "==": operator.eq,
    "!=": operator.ne,
    ">=": operator.ge,
    ">": operator.gt,
}


def chance(seed: int, tick: int, *what: object) -> float:
    """A number in 0…1 that depends on nothing but seed, tick and what it is for."""
    return random.Random(f"{seed}/{tick}/" + "/".join(map(str, what))).random()


def holds(
    conditions: tuple[Condition, ...],
    fighter: FighterState,
    *,
    voice: Voice | None = None,
    others: tuple[FighterState, ...] = (),
    seed: int = 0,
    tick: int = 0,
    ended: bool = False,
    where: str = "",
) -> bool:
    """Whether all conditions hold for ``fighter`` now; ``where`` they stand makes each chance one of its own."""
    return all(
        OPS[c.op](_value(c, f"{where}/{i}", fighter, voice, others, seed, tick, ended), c.value)
        for i, c in enumerate(conditions)
    )


def _value(
    c: Condition,
    place: str,
    fighter: FighterState,
    voice: Voice | None,
    others: tuple[FighterState, ...],
    seed: int,
    tick: int,
    ended: bool,
) -> float:
    match c.test:
        case "speed":
            # Under an action it is the body's own speed; locomotion asks for what is left to it.
            going = fighter.went if voice is not None else fighter.velocity
            return hypot(float(going[0]), float(going[2]))
        case "on_floor":
            return float(fighter.grounded)
        case "rising":
            return float(fighter.velocity[1])
        case "height":
            return float(fighter.position[1])
        case "held":
            return float(c.name in fighter.held)
        case "released":
            return float(c.name not in fighter.held)
        case "pressed":
            return float(c.name in fighter.pressed)
        case "contact":
            got = voice.contact if voice else "none"
            return float(got != "none" if c.name in ("", "any") else got == c.name)
        case "parameter":
            return fighter.parameter(c.name)
        case "distance":
            away = [float(np.linalg.norm((o.position - fighter.position)[[0, 2]])) for o in others]
            return min(away, default=1e9)
        case "chance":
            return chance(seed, tick, fighter.name, place)
        case "section_ended":
            return float(ended)
