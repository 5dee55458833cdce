"""Whether a command is let go."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind

KIND = ConditionKind(
    "let go",
    lambda asked, name: float(name not in asked.fighter.held),
    ("{name} let go", "{name} held"),
    "command",
    1.0,
    brief=("{name} off", "{name} on"),
)
