"""How often the action has touched somebody since it started."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionContext, ConditionKind


def _touches(asked: ConditionContext, _: str) -> float:
    return float(asked.voice.so_far.touches) if asked.voice is not None else 0.0


KIND = ConditionKind("touches", _touches, "touched {op} {v:g} times", alone=0.0, low=0.0)
