"""Whether the action has touched a part of somebody's body."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionContext, ConditionKind


def _touched(asked: ConditionContext, name: str) -> float:
    return float(asked.voice is not None and name in asked.voice.so_far.regions)


KIND = ConditionKind("touched part", _touched, ("touched the {name}", "did not touch the {name}"), "region", 0.0)
