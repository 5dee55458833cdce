"""The kinds of conditions: a module for each name of ``model.base.Test``, with a ``KIND`` in it.

A new one is a name there and a module here.
"""

from __future__ import annotations

from collections.abc import Sequence
from importlib import import_module
from typing import get_args

from veergust.core.kinds.conditions.kind import COMPARE, ConditionContext, ConditionKind
from veergust.core.model import Condition, Test

CONDITIONS: dict[str, ConditionKind] = {name: import_module(f"{__name__}.{name}").KIND for name in get_args(Test)}
"""By the name that files have for them, in the order the window offers them."""


def holds(condition: Condition, asked: ConditionContext) -> bool:
    """Whether a condition holds of whom it is asked."""
    return COMPARE[condition.op](CONDITIONS[condition.test].value(asked, condition.name), condition.value)


def alone(conditions: Sequence[Condition]) -> bool | None:
    """Whether all hold of somebody alone, who presses and touches nothing; None when that has to be played."""
    out: bool | None = True
    for c in conditions:
        found = CONDITIONS[c.test].alone
        if found is None:
            out = None if out else out
        elif not COMPARE[c.op](found, c.value):
            return False
    return out


def sentence(conditions: Sequence[Condition]) -> str:
    """Conditions as words."""
    return " and ".join(CONDITIONS[c.test].sentence(c) for c in conditions)


def briefly(conditions: Sequence[Condition]) -> str:
    """Conditions as few words."""
    return " · ".join(CONDITIONS[c.test].sentence(c, brief=True) for c in conditions)
