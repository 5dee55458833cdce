"""How long an action still plays when nobody touches anything: counted, where nothing can turn out otherwise."""

from __future__ import annotations

from veergust.core.kinds import CONDITIONS
from veergust.core.model import Condition
from veergust.core.play import CompiledProject, FighterState, Simulation, Voice, holds


def binding(build: CompiledProject, fighter: FighterState) -> list[Voice]:
    """The actions that keep a fighter from acting freely: all that play, but those that only add to what goes on."""
    layers = build.layers
    return [v for v in fighter.live() if v.layer not in layers or not layers[v.layer].additive]


def bound(build: CompiledProject, fighter: FighterState) -> bool:
    """Whether a fighter cannot act freely: something keeps it from that, or a touch has stunned it."""
    return fighter.stun > 0 or bool(binding(build, fighter))


def free_in(simulation: Simulation, fighter: FighterState) -> int | None:
    """How many ticks from now ``fighter`` is first free to act: 0 on the next one, None when that must be played.

    It is counted for a single action whose sections end, with no press remembered, when no gate or break on the way
    can be taken.
    """
    live = binding(simulation.build.of(fighter.setup), fighter)
    if fighter.stun:
        # With the last tick of its stun the reaction is over too, and a press is answered on that.
        alone = all(voice.serial == fighter.reels for voice in live)
        return fighter.frozen + fighter.stun - 1 if alone and not fighter.buffer else None
    if not live:
        return fighter.frozen
    if len(live) != 1 or fighter.buffer:
        return None
    voice = live[0]
    if voice.goto is not None or voice.last:
        return None
    # It is free on the tick on which it ends, in place of whose frame a press would start something.
    ticks = fighter.frozen - voice.frame - 1
    section: int | None = voice.section
    seen: set[int] = set()
    while section is not None:
        if section in seen:
            return None
        seen.add(section)
        part = voice.compiled.sections[section]
        ways = [g.conditions for g in part.section.gates]
        ways += [e.conditions for e in (*part.section.exits, *voice.compiled.action.exits) if e.kind == "break"]
        if any(_may_hold(simulation, fighter, conditions) for conditions in ways):
            return None
        ticks += part.ticks
        flow = voice.compiled.flow
        if len(flow.ways(part.section.then)) > 1:
            return None
        lead = flow.then(section, flow.first)
        section = lead.section if lead is not None else None
    return ticks


def _may_hold(simulation: Simulation, fighter: FighterState, conditions: tuple[Condition, ...]) -> bool:
    may_change = ("always", "moving") if simulation.moved else ("always",)
    if any(CONDITIONS[c.test].changes in may_change for c in conditions):
        return True
    others = tuple(f for f in simulation.fighters if f is not fighter)
    voice = binding(simulation.build.of(fighter.setup), fighter)[0]
    return holds(conditions, fighter, voice=voice, others=others, seed=simulation.seed, tick=simulation.now)
