"""An action shown without a fighter: through, or one section alone, held in its loops until it is let go.

It goes by the rules of the tick for sections, gates and events; conditions are not asked, for nobody is there to ask:
a gate is taken when the loop it leads out of has been let go.
"""

from __future__ import annotations

from collections.abc import Container
from dataclasses import dataclass, field

from veergust.core.kinds import chance
from veergust.core.model import Event
from veergust.core.play.compiled.action import CompiledAction
from veergust.core.play.flow.machine import At
from veergust.core.play.flow.pick import pick


@dataclass
class Preview:
    """Where a shown action is: ``section`` and ``tick``; ``over`` at its end.

    ``alone`` repeats the section it is in. ``released`` lets loops be left through their gates; before that a loop
    goes round and round.
    """

    compiled: CompiledAction
    section: int
    tick: int = 0
    alone: bool = False
    released: bool = False
    laps: int = 0
    over: bool = False
    _picks: dict[str, tuple[str, ...]] = field(default_factory=dict)

    @property
    def row(self) -> int:
        """The row of the sheet it is on."""
        return self.compiled.start_of(self.section) + self.tick

    @property
    def looping(self) -> bool:
        """Whether it is in a loop that a gate leads out of."""
        section = self.compiled.sections[self.section].section
        return not self.alone and section.then == section.name and self.compiled.flow.gate_out(self.section) is not None

    def fired(self) -> list[Event]:
        """The events of the tick it is on, in list order."""
        events = self.compiled.sections[self.section].section.events
        return [] if self.over else [e for e in events if e.tick == self.tick]

    def _pick(self, to: str, there: Container[str]) -> str | None:
        """The next pick of a pool."""
        pool = next((p for p in self.compiled.pools if p.name == to), None)
        before = self._picks.get(to, ())
        name = pick(pool, there, before, chance(1, len(before), to)) if pool is not None else None
        if name is not None:
            self._picks[to] = (*before, name)
        return name

    def step(self) -> list[Event]:
        """Go on by a tick and give the events that fire on it."""
        if self.over:
            return []
        flow, at = self.compiled.flow, At(self.section, self.tick, self.laps)
        taken = None
        if self.alone:
            taken = self.section if self.tick + 1 >= flow.ticks[self.section] else None
        elif self.released:
            found = flow.gate(at, lambda i, gate: True, self._pick)
            if found is not None:
                taken, self.released = found[1].section, False
        onward = flow.next(at, taken, self._pick)
        if onward is None:
            self.over = True
        else:
            self.section, self.tick, self.laps = onward[0]
        return self.fired()
