"""Drills: scripted inputs with what they must lead to, and input files for ``play``."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from veergust.core.model import Drill, Expectation
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.scripted import schedule
from veergust.core.play.simulation import Simulation
from veergust.core.play.take.record import Record


@dataclass(frozen=True)
class DrillResult:
    """How a drill went: each expectation in words, and those not met."""

    name: str
    ticks: int
    expected: tuple[str, ...]
    failed: tuple[str, ...]

    @property
    def passed(self) -> bool:
        """Whether everything expected came."""
        return not self.failed


def run_drill(build: CompiledProject, drill: Drill) -> DrillResult:
    """Play a drill and hold its take against what it expects."""
    inputs = schedule(drill.steps)
    build.prepare()
    simulation = Simulation(build, drill.seed, keeps=0)
    records = [simulation.tick(inputs.get(t, [])).slim() for t in range(drill.ticks)]
    words = tuple(expectation_words(e) for e in drill.expect)
    failed = tuple(w for w, e in zip(words, drill.expect) if not _met(e, records))
    return DrillResult(drill.name, drill.ticks, words, failed)


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
    never = "never " if e.never else ""
    return f"{e.fighter} {never}{' and '.join(what) or 'is there'} between {e.since} and {e.tick}"


def _met(e: Expectation, records: list[Record]) -> bool:
    found = any(_holds(e, r) for r in records[e.since : e.tick + 1])
    return found != e.never


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
