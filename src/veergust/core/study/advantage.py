"""Who can act first after a touch: both sides are played."""

from __future__ import annotations

import numpy as np

from veergust.core.model import Fighter, Strike
from veergust.core.play import CompiledAction, CompiledProject, Contact, Input, Simulation
from veergust.core.study.ahead import bound, free_in
from veergust.core.study.playout import Playout, count_out

LONGEST = 900
ATTACKER, DEFENDER = "attacker", "defender"


def advantage(
    build: CompiledProject, compiled: CompiledAction, played: Playout, n: int, result: str, *, counted: bool = True
) -> tuple[int | None, str]:
    """(tick the defender can act) − (tick the attacker can act), when the strike open on tick ``n`` lands.

    Both are played; the contact is put in on that tick. What comes before it, and what is left after it, is
    ``counted`` where nothing can turn out otherwise, and played where it can. None, and why, when the strike cannot
    be guarded or one of them never gets free.
    """
    section, tick = played.frames[n]
    strikes = enumerate(compiled.sections[section].section.strikes)
    index, strike = next(((i, s) for i, s in strikes if s.start <= tick < s.end), (0, None))
    if strike is None:
        return None, "no strike is open"
    if result == "guarded" and strike.guard == "none":
        return None, "it cannot be guarded"
    sure = counted and count_out(build, compiled) is not None and strike.knockback[1] <= 0.0
    simulation = _meeting(build, compiled, strike, (section, index, tick), result, moved=not sure)
    inputs = [Input(ATTACKER, action=compiled.action.name)]
    if sure and n > 0:  # what comes before the contact changes nothing between the two
        if not _skip(simulation, compiled, played, n):
            return None, "its layer does not let it start"
        inputs = []
    free = free_after(simulation, inputs, sure)
    if len(free) == 2:
        return free[DEFENDER] - free[ATTACKER], ""
    if not simulation.landed:
        return None, "it does not come to that frame with somebody near"
    return None, "the attacker never gets free" if ATTACKER not in free else "the reaction never ends"


def _meeting(
    build: CompiledProject,
    compiled: CompiledAction,
    strike: Strike,
    at: tuple[int, int, int],
    result: str,
    *,
    moved: bool,
) -> Simulation:
    """Two that face each other, of whom one touches the other on the frame ``at`` (section, strike, tick)."""
    section, index, tick = at

    def touches(simulation: Simulation) -> list[Contact]:
        attacker = simulation.fighter(ATTACKER)
        voice = next((v for v in attacker.live() if v.compiled.action.name == compiled.action.name), None)
        here = voice is not None and (voice.section, voice.frame) == (section, tick)
        if voice is None or not here or not attacker.advanced or simulation.landed:
            return []
        simulation.landed = True
        damage = strike.damage if result == "hit" else 0.0
        key = section, index
        return [Contact(strike, ATTACKER, DEFENDER, "", result, np.zeros(3), damage, key, serial=voice.serial)]

    fighters = (
        Fighter(name=ATTACKER, position=(0, 0, 0), facing=0.0, health=1e9),
        Fighter(name=DEFENDER, position=(0, 0, 1.2), facing=180.0, health=1e9),
    )
    return Simulation(build.level, fighters=fighters, touches=touches, posed=False, moved=moved)


def _skip(simulation: Simulation, compiled: CompiledAction, played: Playout, n: int) -> bool:
    """Put the attacker on the frame before tick ``n`` of its action; false when it may not start."""
    if simulation.start(ATTACKER, compiled.action.name) is None:
        return False
    attacker = simulation.fighter(ATTACKER)
    before, (section, tick) = played.frames[n - 1], played.frames[n]
    goto = section if tick == 0 else None
    voice = attacker.voices[0].but(section=before[0], frame=before[1], age=n - 1, looked=True, goto=goto)
    attacker.voices = (voice,)
    return True


def free_after(simulation: Simulation, inputs: list[Input], sure: bool) -> dict[str, int]:
    """The first tick after the contact on which a press of each would start something for good, as far as they come to
    that: the one on which its action ends, or that follows its last in hit stop."""
    free: dict[str, int] = {}
    for tick in range(LONGEST):
        landed = simulation.landed
        was_bound = {f.name: bound(simulation.build.of(f.setup), f) for f in simulation.fighters}
        simulation.tick(inputs)
        inputs = []
        if not simulation.landed:
            continue
        for fighter in simulation.fighters:
            if fighter.frozen or bound(simulation.build.of(fighter.setup), fighter):
                free.pop(fighter.name, None)
            elif landed and fighter.advanced and was_bound[fighter.name]:
                free.setdefault(fighter.name, tick)
            else:
                free.setdefault(fighter.name, tick + 1)
        if len(free) == 2:
            return free
        left = {f.name: free_in(simulation, f) for f in simulation.fighters} if sure else {"": None}
        if all(ticks is not None for ticks in left.values()):
            return {name: free.get(name, tick + 1 + (ticks or 0)) for name, ticks in left.items()}
    return free
