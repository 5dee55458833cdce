"""Whether a command is pressed on this very tick, or was in the hit stop just before."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind

KIND = ConditionKind(
    "pressed",
    lambda asked, name: float(name in asked.fighter.fresh),
    ("{name} pressed", "{name} not pressed"),
    "command",
    0.0,
    brief=("{name}", "no {name}"),
)
