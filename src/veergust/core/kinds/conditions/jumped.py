"""Whether the body leaves the floor by a jump of its own, on the tick on which it does, or where locomotion took
another transition on that, on the next."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind

KIND = ConditionKind(
    "jumped",
    lambda asked, _: float(asked.fighter.jumping and (asked.fighter.rose == 0 or asked.fighter.leapt)),
    ("jumps", "does not jump"),
    alone=0.0,
    changes="always",
    floor=True,
)
