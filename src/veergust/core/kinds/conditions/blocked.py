"""Whether something stopped the body on the last tick."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind

KIND = ConditionKind(
    "blocked",
    lambda asked, _: float(asked.fighter.blocked),
    ("blocked", "not blocked"),
    alone=0.0,
    changes="moving",
)
