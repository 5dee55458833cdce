"""Which way the body goes against which way it looks; to its left is above 0."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind
from veergust.core.kinds.measures import measured

KIND = ConditionKind(
    "direction",
    lambda asked, _: measured(asked.fighter, "direction"),
    "direction {op} {v:g}°",
    alone=0.0,
    changes="moving",
    brief="way {op} {v:g}°",
)
