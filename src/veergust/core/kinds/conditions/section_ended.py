"""Whether the clip of the locomotion state has come to its end."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind

KIND = ConditionKind(
    "clip ended",
    lambda asked, _: float(asked.present.ended),
    ("its clip has ended", "its clip plays"),
    alone=0.0,
    changes="always",
    present=True,
    brief=("at its end", "not ended"),
    ends=True,
)
