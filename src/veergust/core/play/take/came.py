"""What came of a take, told line by line: what each began, each touch, and how everybody ended."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from veergust.core.model import TakeLine
from veergust.core.play.take.record import Record

LEFT = " is left with "


def came_of(records: Sequence[Record]) -> tuple[TakeLine, ...]:
    """The lines of a take, in the order of its ticks."""
    return tuple(TakeLine(tick=tick, says=says) for tick, says in _each(records))


def _each(records: Sequence[Record]) -> Iterator[tuple[int, str]]:
    before: dict[str, set[int]] = {}
    for record in records:
        for f in record.fighters:
            for v in f.live():
                if v.serial not in before.get(f.name, set()):
                    yield record.tick, f"{f.name} begins {v.compiled.action.name}"
            before[f.name] = {v.serial for v in f.voices}
        for c in record.contacts:
            yield record.tick, f"{c.strike.name} of {c.attacker} {c.result} {c.victim}"
    for f in records[-1].fighters if records else ():
        yield records[-1].tick, f"{f.name}{LEFT}{f.health:g}"
