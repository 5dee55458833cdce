"""Conditions, asked of a fighter; what each kind asks is in ``core.kinds.conditions``."""

from __future__ import annotations

from collections.abc import Sequence

from veergust.core.kinds import COMPARE, CONDITIONS, NOBODY_PRESENT, ConditionContext, Present
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
    present: Present = NOBODY_PRESENT,
    where: str = "",
) -> bool:
    """Whether all conditions hold for ``fighter`` now; ``where`` they stand makes each chance one of its own."""
    if not conditions:
        return True
    asked = ConditionContext(fighter, voice, others, seed, tick, present)
    for i, c in enumerate(conditions):
        kind = CONDITIONS[c.test]
        if kind.drawn:
            asked.place = f"{where}/{i}"
        if not COMPARE[c.op](kind.value(asked, c.name), c.value):
            return False
    return True
