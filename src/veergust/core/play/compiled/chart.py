"""Locomotion as a state chart: what lies around a state, what is asked of it and in which order, what is entered.

The words and the order are those of the open state-chart standard (W3C, *State Chart XML (SCXML)*, 2015, sections 3.3,
3.10 and 3.13): of the present state and the groups around it the innermost is asked first, each of its transitions in
their order; *anywhere* is asked last. History is deep: a group remembers the very state that was left.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property
from math import nan

from veergust.core.kinds import CONDITIONS
from veergust.core.model import ANYWHERE, Group, Locomotion, State, Transition

Last = Mapping[str, str]
"""Group → the state in it that was last left."""


def items_of(locomotion: Locomotion) -> tuple[State | Group, ...]:
    """The states and the groups of locomotion, in its order."""
    return (*locomotion.states, *locomotion.groups)


@dataclass(frozen=True)
class Entering:
    """What decides where a group is entered: the states last left, parameters by name, and a draw from a pool."""

    last: Last
    value: Callable[[str], float]
    draw: Callable[[Group], str | None]


AT_FIRST = Entering({}, lambda _: nan, lambda _: None)
"""At the beginning nobody has set a parameter, drawn or left anything: groups are entered at their default."""


class Chart:
    """The chart of a project's locomotion, for play and for whoever wants to know what it may do."""

    def __init__(self, locomotion: Locomotion) -> None:
        self.locomotion = locomotion
        self.states = {s.name: s for s in locomotion.states}
        self.groups = {g.name: g for g in locomotion.groups if g.name not in self.states}
        self.around = {name: self._around(name) for name in (*self.states, *self.groups)}
        """State or group → the groups around it, the innermost first."""
        self.members: dict[str, list[str]] = {name: [] for name in ("", *self.groups)}
        """Group → what stands in it, in the project's order; those of no group by an empty name."""
        items: tuple[State | Group, ...] = (*locomotion.states, *self.groups.values())
        for item in items:
            self.members[item.group if item.group in self.groups else ""].append(item.name)
        self._entered: dict[str, frozenset[str]] = {}
        self._from: dict[str, list[tuple[int, Transition]]] = {}
        for i, t in enumerate(locomotion.transitions):
            if self.known(t.to):
                self._from.setdefault(t.start, []).append((i, t))
        self._asked = {name: tuple(self._order(name)) for name in self.states}

    def _around(self, name: str) -> tuple[str, ...]:
        out: list[str] = []
        at = (self.states.get(name) or self.groups[name]).group
        while at in self.groups and at not in out and at != name:
            out.append(at)
            at = self.groups[at].group
        return tuple(out)

    @cached_property
    def momentary(self) -> tuple[str, ...]:
        """The parameters that are true for one look only."""
        return tuple(p.name for p in self.locomotion.parameters if p.kind == "momentary")

    @cached_property
    def defaults(self) -> tuple[tuple[str, float], ...]:
        """The parameters that are not 0 at the beginning, with their values."""
        return tuple(sorted((p.name, p.default) for p in self.locomotion.parameters if p.default))

    @cached_property
    def ask_of_state(self) -> frozenset[int]:
        """The places of the transitions that ask something of the state that plays."""
        rows = enumerate(self.locomotion.transitions)
        return frozenset(i for i, t in rows if any(CONDITIONS[c.test].present for c in t.conditions))

    def known(self, name: str) -> bool:
        """Whether a state or a group has that name."""
        return name in self.around

    def within(self, name: str, group: str) -> bool:
        """Whether a state or group is ``group`` or stands in it; everything is within anywhere."""
        return name == group or group == ANYWHERE or group in self.around.get(name, ())

    def asked(self, state: str) -> tuple[tuple[int, Transition], ...]:
        """The transitions that may be taken from a state, with their places, in the order in which they are asked."""
        return self._asked.get(state, ())

    def _order(self, state: str) -> list[tuple[int, Transition]]:
        starts = (state, *self.around[state], ANYWHERE)
        return [row for start in starts for row in self._from.get(start, ()) if not self.there_already(state, row[1])]

    def there_already(self, state: str, transition: Transition) -> bool:
        """Whether a transition from around a state leads to where one already is: then it is not asked, so that
        *anywhere* restarts nothing. One that starts at its own target, or within it, restarts it."""
        start, to = transition.start, transition.to
        return self.within(state, to) and start != to and not self.within(start, to)

    def enter(self, target: str, how: Entering = AT_FIRST) -> str | None:
        """The state that is entered for a state or group; None where there is none."""
        for _ in range(len(self.groups) + 1):
            if target in self.states:
                return target
            group = self.groups.get(target)
            if group is None:
                return None
            target = self._into(group, how) or ""
        return None

    def _into(self, group: Group, how: Entering) -> str | None:
        there = self.members[group.name]
        default = group.default if group.default in there else next(iter(there), None)
        if group.enters == "last":
            left = how.last.get(group.name, "")
            return left if left in self.states and self.within(left, group.name) else default
        if group.enters == "parameter":
            value = how.value(group.parameter)
            return next((c.state for c in group.choices if c.state in there and c.value == value), default)
        if group.enters == "pool":
            drawn = how.draw(group)
            return drawn if drawn in there else default
        return default

    def into(self, target: str) -> frozenset[str]:
        """The states that may be entered for a state or group. What a group remembers was entered some other way."""
        if target not in self._entered:
            self._entered[target] = frozenset(self._states_of(target))
        return self._entered[target]

    def _states_of(self, target: str) -> set[str]:
        out: set[str] = set()
        waiting, seen = [target], set()
        while waiting:
            name = waiting.pop()
            group = self.groups.get(name)
            if name in self.states:
                out.add(name)
            elif group is not None and name not in seen:
                seen.add(name)
                there = self.members[name]
                waiting.append(group.default if group.default in there else next(iter(there), ""))
                if group.enters in ("parameter", "pool"):
                    waiting += [c.state for c in group.choices if c.state in there]
        return out

    @cached_property
    def next(self) -> dict[str, set[str]]:
        """State → the states that may come after it at once."""
        return {s: {to for _, t in self.asked(s) for to in self.into(t.to)} for s in self.states}

    @cached_property
    def after(self) -> dict[str, frozenset[str]]:
        """State → the states that may come after it, at once or later (S. Warshall, "A Theorem on Boolean Matrices",
        1962, with a row of the matrix as the bits of a number)."""
        names = list(self.states)
        bit = {name: 1 << i for i, name in enumerate(names)}
        rows = [sum(bit[to] for to in self.next[name]) for name in names]
        for k, name in enumerate(names):
            rows = [row | rows[k] if row & bit[name] else row for row in rows]
        return {name: frozenset(n for n in names if row & bit[n]) for name, row in zip(names, rows)}

    def leaving(self, state: str, last: Last) -> dict[str, str]:
        """What groups remember once a state has been left."""
        return {**last, **dict.fromkeys(self.around.get(state, ()), state)}

    @property
    def entry(self) -> str | None:
        """The state everybody begins in: that of the entry, else the first."""
        return self.enter(self.locomotion.entry) or next(iter(self.states), None)
