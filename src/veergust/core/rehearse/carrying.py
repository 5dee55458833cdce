"""How far a drill carries: what of it still counts over lines of many delays and losses, and what follows from that."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, fields
from functools import partial
from math import ceil

from veergust.core.model import Drill, DrillStep, KeptTake
from veergust.core.play import CompiledProject, take_of
from veergust.core.rehearse.ends import Decides
from veergust.core.rehearse.line import Quality
from veergust.core.rehearse.rehearsal import rehearse
from veergust.core.rehearse.telling import counts_of
from veergust.core.study import facts, shared_out
from veergust.core.trouble import Trouble, named

BEGINS = 10
"""The tick on which the attack of a pair is given."""
MANY = 4
"""A line that is lossy or uneven is tried with so many seeds."""


@dataclass(frozen=True)
class LineWay:
    """How a drill is rehearsed, whatever the line: who decides, how far a delay is off (ms), and what is done about it,
    as ``rehearse`` takes it."""

    decides: Decides = "server"
    spread: float = 0.0
    waits: bool = False
    held_back: int = 0


@dataclass(frozen=True)
class OverLine:
    """What came of a drill over lines of a delay (ms, one way) and a loss (0…1): how many touches and dodges were seen
    by whoever did them, how many of them counted, and by how far somebody was put back at once at the most (m, the mean
    over the tries)."""

    delay: float
    loss: float
    touches: tuple[int, int]
    dodges: tuple[int, int]
    pulled_back: float


def pair(build: CompiledProject, attack: str, answer: str, after: int) -> Drill:
    """Two actions against each other, of the first two on the stage, where they stand: an attack, and so many frames
    after it was given an answer.

    Raises:
        Unknown: there is no action of a name.
        Trouble: there are no two on the stage.
    """
    ticks = 0
    for name, at in ((attack, BEGINS), (answer, BEGINS + after)):
        named(build.project.actions, name, "action")
        made = build.action(name)
        ticks = max(ticks, at + (made.total if made is not None else 0))
    who = [f.name for f in build.project.stage.fighters]
    if len(who) < 2:
        raise Trouble("there are no two on its stage", do="put another fighter there")
    steps = (DrillStep(BEGINS, who[0], action=attack), DrillStep(BEGINS + after, who[1], action=answer))
    return Drill(name=f"{attack} against {answer}", ticks=ticks, steps=steps)


def of_take(take: KeptTake) -> Drill:
    """What was given in a kept take, to be rehearsed: a string as it was played."""
    return Drill(name=take.name, ticks=take.ticks, seed=take.seed, stage=take.stage, steps=take.steps)


Counts = dict[str, tuple[int, int]]
"""What was seen, and how much of it counted, by what it is."""


def carried(
    build: CompiledProject,
    drill: Drill,
    delays: Sequence[float],
    losses: Sequence[float],
    way: LineWay = LineWay(),
    *,
    alone: bool = False,
) -> Iterator[OverLine]:
    """What comes of a drill over each line, one after the other: the losses of the first delay, then of the next. A
    program that is ``alone``, with no window and no threads, has its processors share the work."""
    lines = [(delay, loss) for delay in delays for loss in losses]
    tries = [MANY if loss or way.spread else 1 for _, loss in lines]
    each = [(*line, seed) for line, many in zip(lines, tries) for seed in range(1, many + 1)]
    work = partial(_tried, drill=drill, way=way)
    made = shared_out(build, work, each, 2) if alone else (work(build, one) for one in each)
    for (delay, loss), many in zip(lines, tries):
        yield _put_together(delay, loss, [next(made) for _ in range(many)])


def _tried(build: CompiledProject, line: tuple[float, float, int], drill: Drill, way: LineWay) -> tuple[Counts, float]:
    """A rehearsal over a line of a delay, a loss and a seed: what counted, and by how far somebody was put back (m)."""
    delay, loss, seed = line
    made = rehearse(build, drill, Quality(delay, way.spread, loss), way.decides, seed, waits=way.waits,
                    held_back=way.held_back)  # fmt: skip
    return counts_of(made), max((c.far for p in made.players for c in p.corrections), default=0.0)


def _put_together(delay: float, loss: float, made: Sequence[tuple[Counts, float]]) -> OverLine:
    counts, far = [one for one, _ in made], [away for _, away in made]
    pairs = {
        kind: (sum(count[kind][0] for count in counts), sum(count[kind][1] for count in counts))
        for kind in ("touches", "dodges")
    }
    return OverLine(delay, loss, pairs["touches"], pairs["dodges"], sum(far) / len(far))


def left_to_answer(startup: int, delay: float, rate: int, held_back: int = 0) -> int:
    """How many frames are left to answer an attack by seeing it: from the first on which the other is shown it to the
    last on which what is given still counts before it strikes.

    What counts is shown once the news of it has come all the way; what is given counts once it has arrived and was held
    back. Both take their time off the startup.
    """
    late = ceil(delay / 1000.0 * rate - 1e-9)
    return startup - late - max(late, held_back)


def advice(build: CompiledProject, drill: Drill, rows: Sequence[OverLine], held_back: int = 0) -> list[str]:
    """What follows from how far a drill carries, in words."""
    out = []
    calm = min((row.loss for row in rows), default=0.0)
    for what, of in (("touches", "touches that are seen"), ("dodges", "dodges that are seen in time")):
        bad = [r for r in rows if r.loss == calm and getattr(r, what)[1] < getattr(r, what)[0]]
        if bad:
            first = min(bad, key=lambda r: r.delay)
            seen, counted = getattr(first, what)
            out.append(f"From {first.delay:g} ms on, not all {of} count: {seen - counted} of {seen} do not.")
    rate, delays = build.project.settings.rate, sorted({row.delay for row in rows})
    for name in _struck_with(build, drill):
        found = facts(build, name, last=False)
        if found is None or found.startup is None:
            continue
        none = next((d for d in delays if left_to_answer(found.startup, d, rate, held_back) <= 0), None)
        if none is not None:
            says = f"{name}'s startup of {found.startup} f is no longer than what {none:g} ms take there and back"
            out.append(f"{says}: nobody can answer it by seeing it.")
        elif delays:
            left = left_to_answer(found.startup, delays[-1], rate, held_back)
            out.append(f"{name} can be answered by seeing it: at {delays[-1]:g} ms within {left} f.")
    return out


def _struck_with(build: CompiledProject, drill: Drill) -> list[str]:
    """The actions with strikes that are played in a drill, in the order in which they begin."""
    strikes = {a.name for a in build.project.actions if any(s.strikes for s in a.sections)}
    fighters = (f for record in take_of(build, drill) for f in record.fighters)
    return [name for name in dict.fromkeys(name for f in fighters for name in f.playing()) if name in strikes]


def in_json(rows: Sequence[OverLine]) -> list[dict[str, object]]:
    """Rows as JSON."""
    plain = [{f.name: getattr(row, f.name) for f in fields(row)} for row in rows]
    return [
        {
            **row,
            "touches": {"seen": row["touches"][0], "counted": row["touches"][1]},
            "dodges": {"seen": row["dodges"][0], "counted": row["dodges"][1]},
            "pulled_back": round(row["pulled_back"], 6),
        }
        for row in plain
    ]
