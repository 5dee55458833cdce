"""A drill played by two at the ends of a line, with one who decides."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil
from random import Random

from msgspec.structs import replace

from veergust.core.model import Drill, Fighter
from veergust.core.play import CompiledProject, Contact, Input, Record, partner, schedule, standing_on
from veergust.core.rehearse.ends import Decides, DecidingEnd, Did, PlayingEnd, Relayed, Ruled
from veergust.core.rehearse.line import Line, Quality
from veergust.core.trouble import Trouble

QUIET = 30
"""So many ticks more than the line needs are played after the drill, so that all comes to rest."""


@dataclass(frozen=True)
class Wires:
    """What goes between a player and the one who decides: what it did, what it touched; what counts of both."""

    did: Line[Did]
    touched: Line[Contact]
    relayed: Line[Relayed]
    ruled: Line[Ruled]


@dataclass(frozen=True)
class Rehearsal:
    """What the two players saw, tick by tick, and what counted."""

    ticks: int
    names: tuple[str, str]
    players: tuple[PlayingEnd, PlayingEnd]
    records: list[Record]


def rehearse(
    build: CompiledProject,
    drill: Drill,
    quality: Quality,
    decides: Decides = "server",
    seed: int = 1,
    *,
    waits: bool = False,
    held_back: int = 0,
) -> Rehearsal:
    """Play a drill over a line.

    Whoever is not sure of a tick guesses it, or ``waits`` until it is told; a player's own input may be ``held_back``
    for some ticks, so that it arrives by the one it is meant for.

    Raises:
        Trouble: the drill has no steps, or its stage has nobody else.
    """
    build = standing_on(build, drill.stage) if drill.stage else build
    setups = {f.name: f for f in build.project.stage.fighters}
    if not drill.steps:
        raise Trouble(f"drill {drill.name!r} has no steps", do="choose one that somebody plays")
    first = drill.steps[0].fighter
    other = next((name for name in setups if name != first), None)
    if other is None:
        raise Trouble("there is nobody else on its stage", do="put another fighter there")
    names = first, other
    fighters = tuple(replace(f, plays="keys" if f.name in names else "stands") for f in setups.values())
    decider = DecidingEnd(build, drill.seed, fighters, decides)
    players = tuple(PlayingEnd(build, drill.seed, fighters, name, decides, waits=waits) for name in names)
    draw, rate = Random(f"rehearsal {seed}"), build.project.settings.rate
    wires = [Wires(*(Line(quality, rate, Random(draw.random())) for _ in range(4))) for _ in names]
    steps = schedule(drill.steps)
    late = ceil((quality.delay + quality.spread) / 1000.0 * rate)
    ticks = drill.ticks + 2 * late + QUIET
    for tick in range(ticks):
        for player, wire in zip(players, wires):
            did = _acts(build, player, setups, tick, drill, steps) if tick < drill.ticks else []
            given = [Did(len(player.done) + n, tick + held_back, i) for n, i in enumerate(did)]
            player.done += given
            wire.did.send(tick, given)
        relayed = decider.inputs(tick, [g for wire in wires for g in wire.did.arrived(tick)])
        for player, wire in zip(players, wires):
            wire.relayed.send(tick, [relayed])
            player.tell(wire.relayed.arrived(tick), wire.ruled.arrived(tick))
            player.show(tick)
            wire.touched.send(tick, player.reports())
        ruled = decider.play(relayed, [c for wire in wires for c in wire.touched.arrived(tick)])
        for player, wire in zip(players, wires):
            wire.ruled.send(tick, [ruled])
            player.tell((), wire.ruled.arrived(tick))
            player.show_again(tick)
    return Rehearsal(ticks, names, (players[0], players[1]), decider.records)


def _acts(
    build: CompiledProject,
    player: PlayingEnd,
    setups: dict[str, Fighter],
    tick: int,
    drill: Drill,
    steps: dict[int, list[Input]],
) -> Sequence[Input]:
    """What a player does on a tick: as the drill says, and as whoever nobody plays would, by what is seen here."""
    out = [i for i in steps.get(tick, ()) if i.fighter == player.name]
    seen = [f.copy() for f in (player.shown[-1].fighters if player.shown else player.sure.fighters)]
    for f in seen:
        if f.name == player.name:
            f.setup = setups[f.name]
    return [*out, *(i for i in partner.inputs(build, seen, tick, drill.seed) if i.fighter == player.name)]
