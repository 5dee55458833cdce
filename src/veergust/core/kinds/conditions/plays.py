"""Which action plays."""

from __future__ import annotations

from veergust.core.kinds.conditions.kind import ConditionContext, ConditionKind


def _plays(asked: ConditionContext, name: str) -> float:
    playing = asked.fighter.playing()
    return float(name in playing if name else bool(playing))


# The action in which it stands may be the one that is asked for, so that nobody is ever alone with it.
KIND = ConditionKind("action plays", _plays, ("{name} plays", "{name} does not play"), "action", changes="always")
