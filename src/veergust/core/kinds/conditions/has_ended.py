"""Whether an action has ended on this tick, and how."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionContext, ConditionKind


def _ended(asked: ConditionContext, name: str) -> float:
    endings = asked.fighter.endings
    return float(bool(endings) if name in ("", "any") else name in endings)


KIND = ConditionKind(
    "action ended", _ended, ("an action ended ({name})", "no action ended ({name})"), "ending", 0.0, "always"
)
