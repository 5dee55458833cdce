"""How far each foot is from where the entered clip would have it: the feet stand alike where that is little."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionKind

KIND = ConditionKind(
    "feet stand apart",
    lambda asked, _: asked.present.feet(),
    "feet {op} {v:g} m from where they go",
    alone=0.0,
    changes="always",
    present=True,
    brief="feet {op} {v:g} m",
    low=0.0,
    placed=True,
)
