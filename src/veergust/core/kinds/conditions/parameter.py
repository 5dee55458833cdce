"""A parameter that actions set."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind

KIND = ConditionKind("parameter", lambda asked, name: asked.fighter.parameter(name), "{name} {op} {v:g}", "parameter")
