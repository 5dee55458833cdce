"""Two takes held against each other: what came out differently, and from when on."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from veergust.core.play.take.record import Record

APART = 1e-6
"""Bodies nearer than this to where they were (m) are where they were."""
Told = tuple[str, str]


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
    was, now = _told(old), _told(new)
    found = []
    for key in dict.fromkeys((*was, *now)):
        a, b = was.get(key, []), now.get(key, [])
        for n in range(max(len(a), len(b))):
            before, after = (row[n] if n < len(row) else None for row in (a, b))
            if before != after:
                found.append(TakeChange(before, after, f"{key[1]}: {_tick(before)} → {_tick(after)}"))
    ends = [TakeChange(len(old) - 1, len(new) - 1, says) for says in _ended(old, new)]
    return Compared(first, (*sorted(found, key=lambda d: d.tick), *ends))


def _tick(tick: int | None) -> str:
    return "–" if tick is None else str(tick)


def _told(records: Sequence[Record]) -> dict[Told, list[int]]:
    """The ticks of all that is told of a take, by what it is."""
    out: dict[Told, list[int]] = {}
    for tick, key in _each(records):
        out.setdefault(key, []).append(tick)
    return out


def _each(records: Sequence[Record]) -> Iterator[tuple[int, Told]]:
    before: dict[str, set[int]] = {}
    for record in records:
        for f in record.fighters:
            for v in f.live():
                if v.serial not in before.get(f.name, set()):
                    yield record.tick, ("began", f"{f.name} begins {v.compiled.action.name}")
            before[f.name] = {v.serial for v in f.voices}
        for c in record.contacts:
            yield record.tick, ("touch", f"{c.strike.name} of {c.attacker} {c.result} {c.victim}")


def _ended(old: Sequence[Record], new: Sequence[Record]) -> Iterator[str]:
    """How everybody's health came out."""
    if not old or not new:
        return
    after = {f.name: f for f in new[-1].fighters}
    for f in old[-1].fighters:
        other = after.get(f.name)
        if other is not None and abs(other.health - f.health) > 1e-9:
            yield f"{f.name} is left with {f.health:g} → {other.health:g}"


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
