"""Which way the body goes against which way it looks; to its left is above 0."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionContext, ConditionKind
from veergust.core.kinds.measures import direction_of, measured


def _direction(asked: ConditionContext, _: str) -> float:
    # Under an action it is the body's own way, as its speed is.
    body = asked.fighter
    return measured(body, "direction") if asked.voice is None else direction_of(body.went, body.facing)


KIND = ConditionKind(
    "direction",
    _direction,
    "direction {op} {v:g}°",
    alone=0.0,
    changes="moving",
    brief="way {op} {v:g}°",
    low=-180.0,
    high=180.0,
)
