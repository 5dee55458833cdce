"""Whether a command is held."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind

KIND = ConditionKind(
    "held",
    lambda asked, name: float(name in asked.fighter.held),
    ("{name} held", "{name} not held"),
    "command",
    0.0,
    brief=("{name} on", "{name} off"),
)
