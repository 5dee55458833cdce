"""A touch: whose strike, whom, where and with what result."""

from __future__ import annotations

from dataclasses import dataclass

from veergust.core.model import Shield, Strike
from veergust.core.motion import Array


@dataclass(frozen=True, eq=False)
class Contact:
    """One touch. ``key`` is (section, strike) of the attacker's action, ``serial`` its number among the starts.

    ``damage`` is what it takes: of the ``region`` of the hurtbox, through a guard, in a string. ``along`` is the way
    (x, z) the hitbox went, ``thing`` which of what flies touches (0: the fighter itself). ``shield`` is what stopped
    it, and ``breaks`` whether that gave way.
    """

    strike: Strike
    attacker: str
    victim: str
    hurtbox: str
    result: str
    position: Array
    damage: float
    key: tuple[int, int]
    mirrored: bool = False
    serial: int = -1
    region: str = ""
    along: tuple[float, float] = (0.0, 0.0)
    thing: int = 0
    shield: Shield | None = None
    breaks: bool = False
