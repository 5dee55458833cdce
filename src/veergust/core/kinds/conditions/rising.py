"""How fast the body rises."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind
from veergust.core.kinds.measures import measured

KIND = ConditionKind(
    "rising",
    lambda asked, _: measured(asked.fighter, "rising"),
    "rising {op} {v:g} m/s",
    alone=0.0,
    changes="moving",
    floor=True,
    brief="rising {op} {v:g}",
)
