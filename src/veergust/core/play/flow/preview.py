"""An action shown without a fighter: through, or one section alone, held in its loops until it is let go.

It goes by the rules of the tick for sections, gates and events; conditions are not asked, for nobody is there to ask:
a gate is taken when the loop it leads out of has been let go.
"""

from __future__ import annotations

from dataclasses import dataclass, field

from veergust.core.model import Event
from veergust.core.play.compiled.action import CompiledAction
from veergust.core.play.flow.pick import pick
from veergust.core.play.rules.conditions import chance


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
        return not self.alone and section.then == section.name and self._gate(None) is not None

    def fired(self) -> list[Event]:
        """The events of the tick it is on, in list order."""
        events = self.compiled.sections[self.section].section.events
        return [] if self.over else [e for e in events if e.tick == self.tick]

    def _gate(self, tick: int | None) -> str | None:
        """Where the first gate that holds ``tick`` (any, when None) leads out to."""
        for gate in self.compiled.sections[self.section].section.gates:
            if (tick is None or gate.start <= tick < gate.end) and self.compiled.ways(gate.to):
                return gate.to
        return None

    def _lead(self, to: str) -> int | None:
        """The section of that name, or the next pick of the pool of that name."""
        index = self.compiled.index
        pool = next((p for p in self.compiled.pools if p.name == to), None)
        if to in index or pool is None:
            return index.get(to)
        before = self._picks.get(to, ())
        name = pick(pool, index, before, chance(1, len(before), to))
        if name is None:
            return None
        self._picks[to] = (*before, name)
        return index[name]

    def step(self) -> list[Event]:
        """Go on by a tick and give the events that fire on it."""
        if self.over:
            return []
        part = self.compiled.sections[self.section]
        out = self._gate(self.tick) if self.released and not self.alone else None
        leads = self._lead(out) if out is not None else None
        if leads is not None:
            self.released = False
            self._enter(leads)
        elif self.tick + 1 < part.ticks:
            self.tick += 1
        elif self.alone:
            self._enter(self.section)
        else:
            then = self._lead(part.section.then)
            if then is None:
                self.over = True
            else:
                self._enter(then)
        return self.fired()

    def _enter(self, section: int) -> None:
        self.laps = self.laps + 1 if section == self.section else 0
        self.section, self.tick = section, 0
