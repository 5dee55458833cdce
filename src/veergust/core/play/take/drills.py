"""Drills: scripted inputs with what they must lead to, and input files for ``play``."""

from __future__ import annotations

from collections.abc import Generator, Sequence
from dataclasses import dataclass
from math import hypot, inf
from typing import Any, NamedTuple

from msgspec.structs import replace

from veergust.core.model import Drill, DrillStep, Expectation, Fighter, TakeLine
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.compiled.standing_on import standing_on
from veergust.core.play.scripted import schedule
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import FighterState, Input
from veergust.core.play.take.came import came_of
from veergust.core.play.take.record import Record


class Cell(NamedTuple):
    """A place and a press of a drill: the others so far away (m; None: where they stand), its last press so many ticks
    later."""

    distance: float | None = None
    offset: int = 0

    @property
    def words(self) -> str:
        """Which it is; nothing for the drill as it is written."""
        far = f"at {self.distance:g} m" if self.distance is not None else ""
        return " ".join(filter(None, (far, f"pressed {self.offset:+d} f" if self.offset else "")))


@dataclass(frozen=True)
class DrillResult:
    """How a drill went: each expectation in words, and those not met."""

    name: str
    ticks: int
    expected: tuple[str, ...]
    failed: tuple[str, ...]
    cells: tuple[tuple[Cell, tuple[str, ...]], ...] = ()
    """Each place and press it was played with, and what did not come there."""
    came: tuple[TakeLine, ...] = ()
    """What it came to, in the first of them."""

    @property
    def passed(self) -> bool:
        """Whether everything expected came."""
        return not self.failed


MOST_CELLS = 2_000
"""A drill is not played with more than so many places and presses."""


def run_drill(build: CompiledProject, drill: Drill) -> DrillResult:
    """Play a drill, in every place and with every press that it must hold for, and hold each take against what it
    expects. What did not come is told with where that was so."""
    steps = drill_steps(build, drill)
    while True:
        try:
            next(steps)
        except StopIteration as done:
            result: DrillResult = done.value
            return result


def drill_steps(build: CompiledProject, drill: Drill) -> Generator[tuple[int, int], None, DrillResult]:
    """As ``run_drill``, a take at a time; gives how many of how many are played."""
    words = tuple(expectation_words(e) for e in drill.expect)
    missed: dict[Cell, tuple[str, ...]] = {}
    came: tuple[TakeLine, ...] = ()
    every = cells(drill)
    for far in dict.fromkeys(cell.distance for cell in every):
        takes = Takes(build, drill, far)
        # From the latest press to the earliest, so that each take has as much as can be in common with the one before.
        for cell in sorted((c for c in every if c.distance == far), key=lambda c: -c.offset):
            yield len(missed), len(every)
            records = takes.take(cell.offset, whole=cell == every[0])
            came = came_of(records) if cell == every[0] else came
            missed[cell] = tuple(said for said, e in zip(words, drill.expect) if not _met(e, records))
    failed: dict[str, list[str]] = {}
    for cell in every:
        for one in missed[cell]:
            failed.setdefault(one, []).append(cell.words)
    told = tuple(f"{w} ({_ranged(where)})" if where[0] else w for w, where in failed.items())
    return DrillResult(drill.name, drill.ticks, words, told, tuple((cell, missed[cell]) for cell in every), came)


def _ranged(where: Sequence[str]) -> str:
    return where[0] if len(where) == 1 else f"{where[0]} to {where[-1]}, {len(where)} times"


WRITTEN = Cell()


def cells(drill: Drill) -> list[Cell]:
    """Every place and press for which a drill must hold, the one it is written for where there is no range."""
    values: dict[str, list[float]] = {"distance": [], "press": []}
    for one in drill.over:
        count = int(max(one.high - one.low, 0.0) / one.step + 1e-6) + 1
        values[one.what] += [round(one.low + n * one.step, 6) for n in range(min(count, MOST_CELLS))]
    far: list[float | None] = [*dict.fromkeys(values["distance"])] or [None]
    offsets = [*dict.fromkeys(round(v) for v in values["press"])] or [0]
    return [Cell(d, o) for d in far for o in offsets][:MOST_CELLS]


def take_of(build: CompiledProject, drill: Drill, cell: Cell = WRITTEN) -> list[Record]:
    """The take of a drill."""
    return Takes(build, drill, cell.distance).take(cell.offset)


class Takes:
    """Takes of a drill with the others so far away (m; None: where they stand), one press after the other: what a take
    has in common with the one before is not played again."""

    def __init__(self, build: CompiledProject, drill: Drill, distance: float | None) -> None:
        self.drill, self.build = drill, build.ask(standing_on, drill.stage)
        self.build.prepare()
        self.fighters = placed_fighters(self.build.project.stage.fighters, drill.steps, distance)
        self._simulation: Simulation | None = None
        self._inputs: dict[int, list[Input]] = {}
        self._records: list[Record] = []

    def take(self, offset: int, *, whole: bool = True) -> list[Record]:
        """The take with its last press so many ticks later; all of it, or only as far as it decides what comes of what
        is expected."""
        inputs = schedule(pressed_later(self.drill.steps, offset))
        records = self._begun(inputs)
        assert self._simulation is not None
        open_, done = list(self.drill.expect), len(records)
        last = max((e.tick for e in open_), default=0)
        for tick in range(self.drill.ticks):
            if tick >= done:
                records.append(self._simulation.tick(inputs.get(tick, [])))
            if whole:
                continue
            open_ = [e for e in open_ if not (e.since <= tick <= e.tick and _comes(e, records[tick], records[0]))]
            if tick >= last or not open_:
                break
        self._inputs, self._records = inputs, records
        return records

    def _begun(self, inputs: dict[int, list[Input]]) -> list[Record]:
        """What the take before has in common with one of these inputs; play stands at its end."""
        had = self._records
        same = next((n for n in range(len(had)) if inputs.get(n, []) != self._inputs.get(n, [])), len(had))
        if self._simulation is None or not same:
            self._simulation, same = Simulation(self.build, self.drill.seed, self.fighters), 0
        else:
            self._simulation.resume(had[same - 1], had[same - 2] if same > 1 else None)
        return had[:same]


def pressed_later(steps: tuple[DrillStep, ...], offset: int) -> tuple[DrillStep, ...]:
    """Steps with the last press, and what lets it go, so many ticks later."""
    presses = [n for n, s in enumerate(steps) if (s.command and s.press) or s.action]
    if not offset or not presses:
        return steps
    last = steps[presses[-1]]
    return tuple(
        replace(s, tick=max(s.tick + offset, 0))
        if n == presses[-1] or (n > presses[-1] and s.command == last.command and s.fighter == last.fighter)
        else s
        for n, s in enumerate(steps)
    )


def placed_fighters(
    fighters: tuple[Fighter, ...], steps: tuple[DrillStep, ...], distance: float | None
) -> tuple[Fighter, ...]:
    """The fighters with everybody else so far from whom the steps begin with, on the line between them."""
    first = next((f for f in fighters if steps and f.name == steps[0].fighter), None)
    if distance is None or first is None:
        return fighters
    x, _, z = first.position
    out = []
    for f in fighters:
        dx, dz = f.position[0] - x, f.position[2] - z
        far = hypot(dx, dz)
        if f is not first and far > 1e-9:
            f = replace(f, position=(x + dx / far * distance, f.position[1], z + dz / far * distance))
        out.append(f)
    return tuple(out)


def expectation_words(e: Expectation) -> str:
    """An expectation as a sentence."""
    what = []
    if e.action:
        what.append(f"plays {e.action}")
    if e.locomotion:
        what.append(f"is in {e.locomotion}")
    if e.contact:
        what.append(f"{e.contact} {e.victim or 'somebody'}")
    if e.event:
        what.append(f"fires {e.event}")
    if e.measure:
        unit = "" if e.measure == "health" else " m"
        names = {"distance": "is away by", "travel": "comes", "health": "has health of"}
        what.append(f"{names[e.measure]} {e.low:g} to {e.high:g}{unit}")
    never = "never " if e.never else ""
    when = f"between {e.since} and {e.tick}" if e.since != e.tick else f"on {e.tick}"
    return f"{e.fighter} {never}{' and '.join(what) or 'is there'} {when}"


def _met(e: Expectation, records: list[Record]) -> bool:
    first = records[0] if records else None
    found = any(_comes(e, r, first) for r in records[e.since : e.tick + 1])
    return found != e.never


def _comes(e: Expectation, record: Record, first: Record | None) -> bool:
    """Whether what is expected, or must never be, is so on a tick."""
    return _holds(e, record) and _measured(e, record, first)


def _holds(e: Expectation, record: Record) -> bool:
    fighter: Any = next((f for f in record.fighters if f.name == e.fighter), None)
    if fighter is None:
        return False
    if e.action and e.action not in [v.compiled.action.name for v in fighter.live()]:
        return False
    if e.locomotion and fighter.locomotion[-1].state != e.locomotion:
        return False
    if e.contact and not any(
        c.attacker == e.fighter and c.result == e.contact and e.victim in ("", c.victim) for c in record.contacts
    ):
        return False
    return not e.event or any(x.fighter == e.fighter and x.name == e.event for x in record.events)


def _measured(e: Expectation, record: Record, first: Record | None) -> bool:
    """Whether what is measured lies where it should."""
    if not e.measure or first is None:
        return not e.measure
    here = record.fighter(e.fighter)
    if e.measure == "health":
        value = here.health
    elif e.measure == "travel":
        value = _apart(here, first.fighter(e.fighter))
    else:
        value = min((_apart(here, f) for f in record.fighters if f.name != e.fighter), default=inf)
    return e.low - 1e-9 <= value <= e.high + 1e-9


def _apart(one: FighterState, other: FighterState) -> float:
    """How far two bodies are from each other over the floor (m)."""
    return hypot(one.position[0] - other.position[0], one.position[2] - other.position[2])
