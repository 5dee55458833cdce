"""Picking from a pool: by weight, and none of the last picks again while there is another."""

from __future__ import annotations

from collections.abc import Container

from veergust.core.kinds import chance
from veergust.core.model import Pool


def pick(pool: Pool, there: Container[str], recent: tuple[str, ...], share: float) -> str | None:
    """The name ``share`` (0…1) falls on among the pool's items that are ``there``; None when none is.

    Those among the last ``pool.apart`` of ``recent`` are left out, unless nothing else is left.
    """
    late = recent[-pool.apart :] if pool.apart else ()
    items = [i for i in pool.items if i.name in there and i.weight > 0.0]
    fresh = [i for i in items if i.name not in late] or items
    at = share * sum(i.weight for i in fresh)
    for item in fresh:
        at -= item.weight
        if at < 0:
            return item.name
    return fresh[-1].name if fresh else None


def counts(pool: Pool, picks: int, seed: int = 1) -> dict[str, int]:
    """How often each item comes up in so many picks one after the other."""
    out = {item.name: 0 for item in pool.items}
    recent: tuple[str, ...] = ()
    for n in range(picks):
        name = pick(pool, out, recent, chance(seed, n, pool.name))
        if name is None:
            return out
        out[name] += 1
        recent = (*recent, name)[-max(pool.apart, 1) :]
    return out
