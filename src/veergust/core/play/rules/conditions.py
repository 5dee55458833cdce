"""Conditions, asked of a fighter; what each kind asks is in ``core.kinds.conditions``."""

from __future__ import annotations

from collections.abc import Sequence

from veergust.core.kinds import conditions as kinds
from veergust.core.kinds.conditions.kind import NOWHERE, Asked, Present
from veergust.core.model import Condition
from veergust.core.play.state import FighterState, Voice


def holds(
    conditions: tuple[Condition, ...],
    fighter: FighterState,
    *,
    voice: Voice | None = None,
    others: Sequence[FighterState] = (),
    seed: int = 0,
    tick: int = 0,
    present: Present = NOWHERE,
    where: str = "",
) -> bool:
    """Whether all conditions hold for ``fighter`` now; ``where`` they stand makes each chance one of its own."""
    asked = Asked(fighter, voice, others, seed, tick, present)
    for i, c in enumerate(conditions):
        if kinds.CONDITIONS[c.test].drawn:
            asked.place = f"{where}/{i}"
        if not kinds.holds(c, asked):
            return False
    return True
