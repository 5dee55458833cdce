"""How much of the clip of the locomotion state has played."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind

KIND = ConditionKind(
    "share of the clip",
    lambda asked, _: asked.present.share,
    "share of its clip {op} {v:g}",
    alone=0.0,
    changes="always",
    present=True,
    brief="share {op} {v:g}",
    low=0.0,
    high=1.0,
    ends=True,
)
