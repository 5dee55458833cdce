"""The flow of sections: which frame comes next, through which gate, and where a name leads.

Everything that walks through an action asks here: play, the preview, the path, what is counted for the facts, and the
check for loops. They differ in what they give: whether a gate is ``open``, and what a pool ``pick``s.
"""

from __future__ import annotations

from collections.abc import Callable, Container
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

from veergust.core.model import Gate, Pool, Section

Pick = Callable[[str, Container[str]], str | None]
"""What the pool of a name gives among the sections that are there; None when it gives nothing."""
Open = Callable[[int, Gate], bool]
"""Whether a gate, by its place in its section, lets through."""


class At(NamedTuple):
    """A frame of an action: section, tick in it, and how often the section has come round."""

    section: int
    tick: int = 0
    lap: int = 0


class Lead(NamedTuple):
    """Where a name leads: a section, and the pool it was picked from (empty: none)."""

    section: int
    pool: str = ""


@dataclass(frozen=True, eq=False, repr=False)
class Flow:
    """The sections of an action, how many ticks each has, which is the entry, and the pools they lead to."""

    sections: tuple[Section, ...]
    ticks: tuple[int, ...]
    entry: int
    pools: tuple[Pool, ...] = ()

    @cached_property
    def index(self) -> dict[str, int]:
        """Section name → its place."""
        return {section.name: i for i, section in enumerate(self.sections)}

    def ways(self, to: str) -> tuple[int, ...]:
        """Sections that ``to`` may lead to: the one of that name, or those the pool of that name may pick; none at
        the end."""
        if to in self.index:
            return (self.index[to],)
        items = next((p.items for p in self.pools if p.name == to), ())
        return tuple(self.index[i.name] for i in items if i.name in self.index and i.weight > 0.0)

    def lead(self, to: str, pick: Pick) -> Lead | None:
        """The section that ``to`` leads to now; None at the end."""
        if to in self.index:
            return Lead(self.index[to])
        name = pick(to, self.index)
        return Lead(self.index[name], to) if name is not None else None

    def then(self, section: int, pick: Pick) -> Lead | None:
        """What follows a section that has come to its end; None when the action ends."""
        return self.lead(self.sections[section].then, pick)

    def gate(self, at: At, open_: Open, pick: Pick) -> tuple[Gate, Lead] | None:
        """The gate a frame takes and where it leads: the first in list order that is open and leads somewhere."""
        for i, gate in enumerate(self.sections[at.section].gates):
            if gate.start <= at.tick < gate.end and open_(i, gate):
                lead = self.lead(gate.to, pick)
                if lead is not None:
                    return gate, lead
        return None

    def next(self, at: At, taken: int | None, pick: Pick) -> tuple[At, str] | None:
        """The frame after ``at`` and the pool it was picked from; None at the end.

        ``taken`` is the section that a gate of this frame leads to.
        """
        if taken is None and at.tick + 1 < self.ticks[at.section]:
            return At(at.section, at.tick + 1, at.lap), ""
        lead = Lead(taken) if taken is not None else self.then(at.section, pick)
        if lead is None:
            return None
        return At(lead.section, 0, at.lap + 1 if lead.section == at.section else 0), lead.pool

    def first(self, to: str, there: Container[str]) -> str | None:
        """The pick that takes the first a pool may give."""
        return next((self.sections[i].name for i in self.ways(to)), None)

    @cached_property
    def path(self) -> tuple[tuple[int, ...], bool]:
        """Sections in the order they play when nobody intervenes, each once, of a pool the first; and whether they
        come back on themselves and nothing leads out.

        A loop is left by its first gate, looking from the last section back, as if it were let go after one lap.
        """
        out: list[int] = []
        at: int | None = self.entry if self.sections else None
        while at is not None:
            if at in out:
                at = self._way_out(out)
                if at is None:
                    return tuple(out), True
                continue
            out.append(at)
            lead = self.then(at, self.first)
            at = lead.section if lead is not None else None
        return tuple(out), False

    def _way_out(self, played: list[int]) -> int | None:
        for i in reversed(played):
            for gate in self.sections[i].gates:
                for to in self.ways(gate.to):
                    if to not in played:
                        return to
        return None

    def gate_out(self, section: int) -> Gate | None:
        """The first gate of a section that leads somewhere, whenever it is open."""
        return next((g for g in self.sections[section].gates if self.ways(g.to)), None)

    def can_end(self, section: int, opens: Callable[[Gate], bool]) -> bool:
        """Whether from a section the end, or an exit, can be reached in any way at all, through gates that may open."""
        seen: set[int] = set()
        ways = [section]
        while ways:
            at = ways.pop()
            if at in seen:
                continue
            seen.add(at)
            part = self.sections[at]
            if part.exits or not self.ways(part.then):
                return True
            ways += [i for to in (part.then, *(g.to for g in part.gates if opens(g))) for i in self.ways(to)]
        return False
