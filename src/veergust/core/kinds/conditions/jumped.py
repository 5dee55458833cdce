"""Whether the body leaves the floor by a jump of its own, on the tick on which it does."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind

KIND = ConditionKind(
    "jumped",
    lambda asked, _: float(asked.fighter.jumping and asked.fighter.rose == 0),
    ("jumps", "does not jump"),
    alone=0.0,
    changes="always",
    floor=True,
)
