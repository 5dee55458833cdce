"""How high the body is over the floor below it."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind
from veergust.core.kinds.measures import measured

KIND = ConditionKind(
    "over the floor",
    lambda asked, _: measured(asked.fighter, "above the floor"),
    "{op} {v:g} m over the floor",
    alone=0.0,
    changes="moving",
    floor=True,
    brief="{op} {v:g} m high",
    low=0.0,
)
