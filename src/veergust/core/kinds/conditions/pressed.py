"""Whether a command is pressed on this very tick."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind

KIND = ConditionKind(
    "pressed",
    lambda asked, name: float(name in asked.fighter.pressed),
    ("{name} pressed", "{name} not pressed"),
    "command",
    0.0,
    brief=("{name}", "no {name}"),
)
