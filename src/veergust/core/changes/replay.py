"""Steps of a run that ended without saving, taken onto a project that went on meanwhile.

They are compared part by part, as changes of two are: a part that a step changed fits when it is as that run found it,
is what the step makes of it already, or was changed by a step before and fitted then. What fits is taken, and what does
not is told.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from veergust.core.changes.merge import Key, in_words, parts_of, put_together
from veergust.core.model import Project


@dataclass(frozen=True)
class Replayed:
    """The project with all that fits, and for each step the parts of it that do not, and whether any does."""

    project: Project
    in_the_way: tuple[tuple[str, ...], ...]
    taken: tuple[bool, ...]


def replay(base: Project, states: Sequence[Project | None], now: Project) -> Replayed:
    """``now`` with what led from ``base`` through ``states``, one after each step; None where one cannot be told."""
    found, there = parts_of(base), parts_of(now)
    out = dict(there)
    mine: set[Key] = set()
    before, last = found, base
    kept_out: list[tuple[str, ...]] = []
    taken: list[bool] = []
    for state in states:
        if state is None:
            kept_out.append(("what it was made on",))
            taken.append(False)
            continue
        after = parts_of(state)
        touched = [key for key in {**before, **after} if _differ(before.get(key), after.get(key))]
        other = [
            key
            for key in touched
            if key not in mine and _differ(there.get(key), found.get(key)) and _differ(there.get(key), after.get(key))
        ]
        kept_out.append(tuple(in_words(key) for key in other))
        fitting = [key for key in touched if key not in other]
        taken.append(bool(fitting) or not touched)
        out |= {key: after.get(key) for key in fitting}
        mine |= set(fitting)
        before, last = after, state
    return Replayed(put_together(out, base, last, now), tuple(kept_out), tuple(taken))


def _differ(a: Any, b: Any) -> bool:
    return a is not b and a != b
