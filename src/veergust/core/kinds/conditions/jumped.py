"""Whether the body is in the air by a jump of its own."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind

KIND = ConditionKind(
    "jumped",
    lambda asked, _: float(asked.fighter.jumping),
    ("jumped", "has not jumped"),
    alone=0.0,
    changes="moving",
    floor=True,
)
