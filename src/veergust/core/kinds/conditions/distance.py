"""How far off the nearest other fighter is, over the floor."""

from __future__ import annotations

import numpy as np

from veergust.core.kinds.conditions.kind import ConditionContext, ConditionKind

NOBODY = 1e9
"""As far off as nobody is (m)."""


def _distance(asked: ConditionContext, _: str) -> float:
    here = asked.fighter.position
    return min((float(np.linalg.norm((o.position - here)[[0, 2]])) for o in asked.others), default=NOBODY)


KIND = ConditionKind(
    "target away",
    _distance,
    "target {op} {v:g} m away",
    alone=NOBODY,
    changes="moving",
    brief="{op} {v:g} m away",
    low=0.0,
)
