"""How fast the stick wants the body to go."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind
from veergust.core.kinds.measures import measured

KIND = ConditionKind(
    "wanted speed",
    lambda asked, _: measured(asked.fighter, "wanted speed"),
    "wanted speed {op} {v:g} m/s",
    alone=0.0,
    changes="moving",
    brief="wanted {op} {v:g}",
    low=0.0,
)
