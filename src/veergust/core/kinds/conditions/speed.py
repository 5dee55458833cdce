"""How fast the body goes over the floor."""

from __future__ import annotations

from math import hypot

from veergust.core.kinds.conditions.kind import ConditionContext, ConditionKind
from veergust.core.kinds.measures import measured


def _speed(asked: ConditionContext, _: str) -> float:
    # Under an action it is the body's own speed; locomotion asks for what is left to it.
    if asked.voice is None:
        return measured(asked.fighter, "speed")
    return hypot(asked.fighter.went[0], asked.fighter.went[2])


KIND = ConditionKind("speed", _speed, "speed {op} {v:g} m/s", changes="moving", brief="speed {op} {v:g}", low=0.0)
