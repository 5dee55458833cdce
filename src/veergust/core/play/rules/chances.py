"""What may start for a fighter on a tick: which action an exit leads to, and whether one is ready to be started."""

from __future__ import annotations

from collections.abc import Container, Iterable, Iterator

from veergust.core.kinds import chance
from veergust.core.model import Action, Condition, Exit, Rule
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.flow.pick import pick
from veergust.core.play.rules.conditions import holds
from veergust.core.play.state import FighterState, Voice


class Chances:
    """What a fighter may start on one tick, whose conditions are asked of it and of the ``others``."""

    def __init__(
        self, build: CompiledProject, fighter: FighterState, others: tuple[FighterState, ...], tick: int, seed: int
    ) -> None:
        self.build = build
        self.fighter = fighter
        self.others = others
        self.tick = tick
        self.seed = seed

    def picked(self, name: str, what: str) -> None:
        """Remember what a pool gave."""
        pool = self.build.pools.get(name)
        self.fighter.picked(name, what, pool.apart if pool is not None else 1)

    def pick(self, name: str, there: Container[str]) -> str | None:
        """What a pool gives on this tick; the same however often it is asked."""
        pool = self.build.pools.get(name)
        if pool is None:
            return None
        share = chance(self.seed, self.tick, self.fighter.name, name)
        return pick(pool, there, self.fighter.recent(name), share)

    def holds(self, conditions: tuple[Condition, ...], voice: Voice | None, where: str) -> bool:
        """Whether conditions hold of the fighter; ``where`` they stand makes each chance one of its own."""
        return holds(
            conditions,
            self.fighter,
            voice=voice,
            others=self.others,
            seed=self.seed,
            tick=self.tick,
            where=where,
        )

    def target(self, exit_: Exit) -> Action | None:
        """The action an exit leads to, among those that are ready: by name, the first of a tag, or one of a pool."""
        if exit_.to_kind == "ground":
            return None
        if exit_.to_kind == "action":
            named = self.build.action(exit_.to)
            return named.action if named is not None and self.free(named.action) else None
        if exit_.to_kind == "tag":
            return next(self._those_ready(self.build.tagged(exit_.to)), None)
        return self.one_of(exit_.to)

    def one_of(self, name: str, *, from_locomotion: bool = False) -> Action | None:
        """One of a pool's actions that are ready, and that start in this state where they start from locomotion."""
        pool = self.build.pools.get(name)
        there = {
            a.name: a
            for a in self._those_ready([item.name for item in pool.items] if pool else [])
            if not from_locomotion or not a.start.states or self.stands_in(a.start.states)
        }
        picked = self.pick(name, there)
        return there[picked] if picked is not None else None

    def _those_ready(self, names: Iterable[str]) -> Iterator[Action]:
        for name in names:
            compiled = self.build.action(name)
            if compiled is not None and self.ready(compiled.action):
                yield compiled.action

    def ready(self, action: Action) -> bool:
        """Whether an action may be chosen among others: its cooldown is over, its layer may speak, and the conditions
        of its start hold."""
        return self.free(action) and self.holds(action.start.conditions, None, f"{action.name}/start")

    def free(self, action: Action) -> bool:
        """Whether an action's cooldown is over and its layer may speak."""
        return dict(self.fighter.cooldowns).get(action.name, 0) <= self.tick and self._in_scope(action)

    def stands_in(self, names: tuple[str, ...]) -> bool:
        """Whether the locomotion state is one of them, or stands in a group that is."""
        return any(self.build.chart.within(self.fighter.locomotion[-1].state, name) for name in names)

    def rule(self, name: str) -> Rule | None:
        """What a layer does in the present state of locomotion; None for one that is not there."""
        layer = self.build.layers.get(name)
        return layer.rule(self.fighter.locomotion[-1].state) if layer is not None else None

    def _in_scope(self, action: Action) -> bool:
        return self.rule(action.layer) == "may"

    def kept_out(self, action: Action) -> bool:
        """Whether its layer refuses whatever would start in this state."""
        return self.rule(action.layer) == "keeps out"

    def deaf(self, action: Action) -> bool:
        """Whether a press for an action is lost, because its layer starts nothing here and remembers none."""
        layer = self.build.layers.get(action.layer)
        return layer is not None and layer.layer.pressed == "nothing" and not self._in_scope(action)
