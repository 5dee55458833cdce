"""How high the body is."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind

KIND = ConditionKind(
    "height",
    lambda asked, _: float(asked.fighter.position[1]),
    "height {op} {v:g} m",
    alone=0.0,
    changes="moving",
    floor=True,
)
