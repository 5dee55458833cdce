"""How fast the body turns; to its left is above 0."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind
from veergust.core.kinds.measures import measured

KIND = ConditionKind(
    "turn rate",
    lambda asked, _: measured(asked.fighter, "turn rate"),
    "turning {op} {v:g}°/s",
    alone=0.0,
    changes="moving",
    brief="turn {op} {v:g}",
)
