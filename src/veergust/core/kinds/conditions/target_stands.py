"""How the nearest other stands: as far as touching goes, in the air, or reeling from a touch."""

from __future__ import annotations

import numpy as np

from veergust.core.kinds.conditions.kind import AskedFighter, ConditionContext, ConditionKind


def _stands(asked: ConditionContext, name: str) -> float:
    here = asked.fighter.position

    def far(other: AskedFighter) -> float:
        return float(np.linalg.norm((other.position - here)[[0, 2]]))

    near = min(asked.others, key=far, default=None)
    if near is None:
        return 0.0
    if name == "reeling":
        return float(near.reeling)
    if name == "in the air":
        return float(not near.grounded)
    return float(near.grounded and near.posture == name)


KIND = ConditionKind(
    "target stands", _stands, ("the target is {name}", "the target is not {name}"), "standing", 0.0, "always"
)
