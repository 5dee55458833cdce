"""The numbers of what an action throws: how far it touches, when, and who can act first after it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from veergust.core.model import Fighter, Thrown
from veergust.core.play import (
    CompiledAction,
    CompiledProject,
    Contact,
    Flying,
    Input,
    Record,
    Shape,
    Simulation,
    Volume,
)
from veergust.core.study.advantage import ATTACKER, DEFENDER, free_after
from veergust.core.study.reach import NEVER, reaches, standing

LONGEST = 1200
FARTHEST, STEP, FINER = 60.0, 0.5, 3
"""A thing that goes to its target is tried out at distances of 0.5 m, from 60 m at most, then eight times finer three
times."""


@dataclass(frozen=True)
class ThrowFacts:
    """One thing that an action lets go of when nobody intervenes.

    It leaves on ``tick``. A standing target ahead is touched up to ``reach`` (m), ``flight`` ticks after it left.
    ``on_hit`` and ``on_guard`` are by how many ticks the thrower can act first, when it touches on the first tick on
    which it can. None where there is no such number.
    """

    name: str
    tick: int
    reach: float | None
    flight: int | None
    on_hit: int | None
    on_guard: int | None


def throws_of(build: CompiledProject, compiled: CompiledAction) -> tuple[ThrowFacts, ...]:
    """What an action throws, in the order in which it leaves."""
    spawns = {e.name for part in compiled.action.sections for e in part.events if e.kind == "spawn"}
    if not spawns & build.thrown.keys():
        return ()
    out = []
    for tick, flight in _flights(build, compiled):
        born = flight[0]
        far, after = _reach(flight, build, compiled)
        numbers = [_advantage(build, compiled, born.number, result) for result in ("hit", "guarded")]
        if born.strike.guard == "none":
            numbers[1] = None
        out.append(ThrowFacts(born.thing.name, tick, far, after, *numbers))
    return tuple(out)


def _alone(
    build: CompiledProject, compiled: CompiledAction, far: float | None = None
) -> Iterator[tuple[Simulation, Record]]:
    """An action played by one at the origin, tick by tick, until it has ended and nothing flies any more; with a target
    so ``far`` ahead that only stands there."""
    fighters = [Fighter(name=ATTACKER, facing=0.0, health=1e9)]
    if far is not None:
        fighters.append(Fighter(name=DEFENDER, position=(0.0, 0.0, far), facing=180.0, health=1e9))
    simulation = Simulation(build.level, fighters=tuple(fighters))
    inputs = [Input(ATTACKER, action=compiled.action.name)]
    for _ in range(LONGEST):
        record = simulation.tick(inputs)
        inputs = []
        yield simulation, record
        plays = any(v.compiled.action.name == compiled.action.name for v in simulation.fighter(ATTACKER).live())
        if not plays and not simulation.world.things:
            return


def _flights(build: CompiledProject, compiled: CompiledAction) -> list[tuple[int, list[Flying]]]:
    """When each thing leaves, and where it is on every tick from then on."""
    found: dict[int, tuple[int, list[Flying]]] = {}
    for tick, (simulation, _) in enumerate(_alone(build, compiled)):
        for one in simulation.world.things:
            found.setdefault(one.number, (tick, []))[1].append(one)
    return list(found.values())


def _reach(flight: list[Flying], build: CompiledProject, compiled: CompiledAction) -> tuple[float | None, int | None]:
    """How far ahead a standing target is touched, and how many ticks after it left."""
    thing = flight[0].thing
    if thing.aims == "target" or thing.turns > 0.0 or build.aims:
        return _tried(build, compiled, flight[0])
    hurts = standing(build)
    if len(flight) < 2 or not len(hurts):
        return None, None
    far = reaches([_sweep(one) for one in flight[1:]], hurts)
    best = int(np.argmax(far))
    return (round(float(far[best]), 3), best + 1) if far[best] > NEVER else (None, None)


def _sweep(one: Flying) -> Volume:
    """What a thing sweeps on its tick."""
    shape, frames = Shape(np.zeros(3), np.zeros(3), one.thing.radius), np.tile(np.eye(4), (2, 1, 1))
    frames[:, :3, 3] = one.before, one.position
    return Volume(one.thing.name, frames[0], frames[1], shape, shape)


def _tried(build: CompiledProject, compiled: CompiledAction, born: Flying) -> tuple[float | None, int | None]:
    """As ``_reach`` of what goes by where its target is: somebody is put there."""
    most = min(_farthest(born.thing, build.project.settings.rate) + born.position[2], FARTHEST)

    def touched(far: float) -> int | None:
        left: int | None = None
        for tick, (simulation, record) in enumerate(_alone(build, compiled, far)):
            if left is None and any(one.number == born.number for one in simulation.world.things):
                left = tick
            if any(c.thing == born.number for c in record.contacts):
                return tick - (left if left is not None else tick)
        return None

    best: tuple[float, int] | None = None
    step, tries = STEP, np.arange(most, 0.0, -STEP)
    for _ in range(FINER + 1):
        for far in tries:
            after = touched(float(far))
            if after is not None:
                best = float(far), after
                break
        if best is None:
            return None, None
        step /= 8.0
        tries = best[0] + step * np.arange(7, 0, -1)
    return (round(best[0], 3), best[1]) if best else (None, None)


def _farthest(thing: Thrown, rate: int) -> float:
    """Beyond this (m) nothing it does can take it in its life."""
    return thing.speed * thing.life / rate + 2.0


def _advantage(build: CompiledProject, compiled: CompiledAction, number: int, result: str) -> int | None:
    """By how many ticks the thrower can act first when its thing touches on the first tick on which it can."""

    def touches(simulation: Simulation) -> list[Contact]:
        one = next((t for t in simulation.world.things if t.number == number and t.age > 0), None)
        if one is None or simulation.landed:
            return []
        simulation.landed = True
        damage = one.strike.damage if result == "hit" else 0.0
        return [
            Contact(one.strike, ATTACKER, DEFENDER, "", result, np.array(one.position), damage, (-1, 0), thing=number)
        ]

    fighters = (
        Fighter(name=ATTACKER, position=(0, 0, 0), facing=0.0, health=1e9),
        Fighter(name=DEFENDER, position=(0, 0, 1.2), facing=180.0, health=1e9),
    )
    simulation = Simulation(build.level, fighters=fighters, touches=touches)
    free = free_after(simulation, [Input(ATTACKER, action=compiled.action.name)], False)
    return free[DEFENDER] - free[ATTACKER] if len(free) == 2 else None
