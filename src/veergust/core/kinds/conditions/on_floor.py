"""Whether there is a floor under the feet."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind

KIND = ConditionKind(
    "on the floor",
    lambda asked, _: float(asked.fighter.grounded),
    ("feet on the floor", "no floor under the feet"),
    alone=1.0,
    changes="moving",
    floor=True,
    brief=("floor", "no floor"),
)
