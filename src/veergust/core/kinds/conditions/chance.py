"""A draw, made anew for each condition on each tick."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind, chance

KIND = ConditionKind(
    "chance",
    lambda asked, _: chance(asked.seed, asked.tick, asked.fighter.name, asked.place),
    "chance {op} {v:g}",
    changes="always",
    drawn=True,
    low=0.0,
    high=1.0,
    placed=True,
)
