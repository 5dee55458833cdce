"""Whether the action has touched somebody with a strike of some strength."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionContext, ConditionKind


def _touched(asked: ConditionContext, name: str) -> float:
    return float(asked.voice is not None and name in asked.voice.so_far.strengths)


KIND = ConditionKind("touched as", _touched, ("a {name} touch", "no {name} touch"), "strength", 0.0)
