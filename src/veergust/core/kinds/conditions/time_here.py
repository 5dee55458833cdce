"""For how many frames the locomotion state has been the present one."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind

KIND = ConditionKind(
    "frames here",
    lambda asked, _: float(asked.present.ticks),
    "here {op} {v:g} f",
    alone=0.0,
    changes="always",
    present=True,
    low=0.0,
    ends=True,
)
