"""Whether the action has touched somebody."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionContext, ConditionKind


def _touched(asked: ConditionContext, name: str) -> float:
    got = asked.voice.contact if asked.voice is not None else "none"
    return float(got != "none" if name in ("", "any") else got == name)


KIND = ConditionKind("touched", _touched, ("touched", "not touched"), "contact", 0.0)
