"""Two takes held against each other: what came out differently, and from when on."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from veergust.core.model import TakeLine
from veergust.core.play import LEFT, Record, came_of

APART = 1e-6
"""Bodies nearer than this to where they were (m) are where they were."""


@dataclass(frozen=True)
class TakeChange:
    """One thing that is otherwise in the second take: on which ticks it was and is (None: not there), in words."""

    was: int | None
    now: int | None
    says: str

    @property
    def tick(self) -> int:
        """The first tick on which it shows."""
        return min(t for t in (self.was, self.now) if t is not None)


@dataclass(frozen=True)
class Compared:
    """From which tick on two takes differ (None: they do not), and what is otherwise."""

    first: int | None
    differences: tuple[TakeChange, ...]


def compared(old: Sequence[Record], new: Sequence[Record]) -> Compared:
    """What came out differently, in the order in which it shows: what each began, each touch, how everybody ended."""
    first = next((a.tick for a, b in zip(old, new) if not _alike(a, b)), None)
    if first is None and len(old) != len(new):
        first = min(len(old), len(new))
    return Compared(first, came_otherwise(came_of(old), came_of(new)))


def came_otherwise(was: Sequence[TakeLine], now: Sequence[TakeLine]) -> tuple[TakeChange, ...]:
    """What of the lines of one take is otherwise in those of another, in the order in which it shows."""
    before, after = _told(was), _told(now)
    found = []
    for says in dict.fromkeys((*before, *after)):
        a, b = before.get(says, []), after.get(says, [])
        for n in range(max(len(a), len(b))):
            then, here = (row[n] if n < len(row) else None for row in (a, b))
            if then != here:
                found.append(TakeChange(then, here, f"{says}: {_tick(then)} → {_tick(here)}"))
    return (*sorted(found, key=lambda d: d.tick), *_ended(was, now))


def _tick(tick: int | None) -> str:
    return "–" if tick is None else str(tick)


def _told(lines: Sequence[TakeLine]) -> dict[str, list[int]]:
    """The ticks of all that is told of a take before its end, by what it is."""
    out: dict[str, list[int]] = {}
    for line in lines:
        if LEFT not in line.says:
            out.setdefault(line.says, []).append(line.tick)
    return out


def _ended(was: Sequence[TakeLine], now: Sequence[TakeLine]) -> Iterator[TakeChange]:
    """Whose health came out otherwise."""
    before, after = (
        {name: (line.tick, left) for line in lines for name, there, left in [line.says.rpartition(LEFT)] if there}
        for lines in (was, now)
    )
    for name, (tick, left) in before.items():
        if name in after and after[name][1] != left:
            yield TakeChange(tick, after[name][0], f"{name}{LEFT}{left} → {after[name][1]}")


def _alike(a: Record, b: Record) -> bool:
    """Whether a tick came out the same: what plays, where everybody is, what was touched."""
    if len(a.fighters) != len(b.fighters) or len(a.contacts) != len(b.contacts):
        return False
    for x, y in zip(a.fighters, b.fighters):
        plays = [[(v.compiled.action.name, v.section, v.frame) for v in f.live()] for f in (x, y)]
        same = plays[0] == plays[1] and x.locomotion[-1].state == y.locomotion[-1].state and x.health == y.health
        if not same or max(abs(p - q) for p, q in zip(x.position, y.position)) > APART:
            return False
    return True
