"""Chance: a number that depends on nothing but seed, tick and what it is for; and what a pool gives by it."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from random import Random
from typing import Any

Json = dict[str, Any]


def drawn(seed: int, tick: int, *what: str) -> float:
    """A number from 0 to 1."""
    return Random(f"{seed}/{tick}/" + "/".join(what)).random()


def pick(
    items: Sequence[tuple[str, float]], apart: int, there: Collection[str], late: Sequence[str], share: float
) -> str | None:
    """The name ``share`` (0…1) falls on, by weight, among those that are there; none of the last ``apart`` picks, while
    there is another."""
    recent = late[-apart:] if apart else ()
    rows = [(name, weight) for name, weight in items if name in there and weight > 0.0]
    fresh = [row for row in rows if row[0] not in recent] or rows
    at = share * sum(weight for _, weight in fresh)
    for name, weight in fresh:
        at -= weight
        if at < 0.0:
            return name
    return fresh[-1][0] if fresh else None
