"""How fast the body rises."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind

KIND = ConditionKind(
    "rising",
    lambda asked, _: float(asked.fighter.velocity[1]),
    "rising {op} {v:g} m/s",
    alone=0.0,
    changes="moving",
    floor=True,
)
