"""What a fighter may start on a tick: conditions, pools, what is ready, and where an exit leads."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

from player.chance import drawn, pick
from player.conditions import Asked, holds
from player.export import Action, Export
from player.fighter import Fighter, Playing, Seen

Json = dict[str, Any]


class Choosing:
    """What may be chosen for a fighter, whose conditions are asked of it and of the others as they stood."""

    def __init__(self, export: Export, fighter: Fighter, others: Sequence[Seen], tick: int, seed: int) -> None:
        self.export, self.f, self.others, self.tick, self.seed = export, fighter, others, tick, seed

    def holds(self, conditions: Sequence[Json], playing: Playing | None, where: str) -> bool:
        return holds(conditions, Asked(self.f, self.others, self.seed, self.tick, playing), where)

    def pick(self, name: str, there: Sequence[str]) -> str | None:
        """What a pool gives on this tick; the same however often it is asked."""
        pool = self.export.pools.get(name)
        if pool is None:
            return None
        items = [(i["name"], i["weight"]) for i in pool["items"]]
        share = drawn(self.seed, self.tick, self.f.name, name)
        return pick(items, pool["apart"], there, self.f.picks.get(name, []), share)

    def picked(self, name: str, what: str) -> None:
        pool = self.export.pools.get(name)
        self.f.picked(name, what, pool["apart"] if pool is not None else 1)

    def rule(self, layer: str) -> str:
        there = self.export.layers.get(layer)
        return there.rule(self.f.steps[-1].state) if there is not None else ""

    def free(self, action: Action) -> bool:
        """Whether an action's cooldown is over and its layer may speak."""
        return self.f.cooldowns.get(action.name, 0) <= self.tick and self.rule(action.layer) == "may"

    def ready(self, names: Sequence[str]) -> Iterator[Action]:
        """Those actions that may be chosen among others."""
        for name in names:
            action = self.export.actions.get(name)
            if action is not None and self.free(action):
                if self.holds(action.start["conditions"], None, f"{name}/start"):
                    yield action

    def stands_in(self, names: Sequence[str]) -> bool:
        return any(self.export.chart.within(self.f.steps[-1].state, name) for name in names)

    def one_of(self, name: str, from_locomotion: bool = False) -> Action | None:
        """One of a pool's actions that are ready, and start in this state where they start from locomotion."""
        pool = self.export.pools.get(name)
        there = {
            a.name: a
            for a in self.ready([i["name"] for i in pool["items"]] if pool else [])
            if not from_locomotion or not a.start["states"] or self.stands_in(a.start["states"])
        }
        picked = self.pick(name, list(there))
        return there[picked] if picked is not None else None

    def target(self, exit_: Json) -> Action | None:
        """The action an exit leads to, if one is ready."""
        to, kind = exit_["to"], exit_["to_kind"]
        if kind == "action":
            named = self.export.actions.get(to)
            return named if named is not None and self.free(named) else None
        if kind == "tag":
            return next(self.ready(self.export.tagged(to)), None)
        return self.one_of(to) if kind == "pool" else None
