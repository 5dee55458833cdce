"""A live bout: inputs gathered from the keyboard, ticks played, the records of the last minutes kept as the take."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from msgspec import structs
from PySide6.QtCore import QObject, Signal

from veergust.core.model import DrillStep, Fighter, Project
from veergust.core.play import (
    CompiledProject,
    History,
    Input,
    Record,
    Simulation,
    placed_fighters,
    schedule,
    standing_on,
)
from veergust.desk.document.document import Document

Distance = float | None
LONGEST = 3600
"""Seconds of a take that are kept."""
NOTHING: list[Input] = []
"""What was given on most ticks."""


class Session(QObject):
    """The bout of the open project. ``at`` is the tick looked at; the take goes on from there when played on."""

    moved = Signal()

    def __init__(self, document: Document, owner: QObject | None = None, *, peaceful: bool = False) -> None:
        """``peaceful``: the others of the stage only stand."""
        super().__init__(owner)
        self.peaceful = peaceful
        self.document = document
        self.seed = 7
        self.take_number = 1
        self.laid_out = False
        """Whether all of the take was played elsewhere: nothing was played on from it."""
        self.records = History()
        self.inputs: list[list[Input]] = []
        self.waiting: list[tuple[int, Input]] = []
        self.at = -1
        self.whole_take: tuple[History, list[list[Input]]] | None = None
        self.stage, self._shown = "", document.project.stage.name
        self.loop: tuple[int, int] | None = None
        self.simulation = self._new_simulation()

    @property
    def build(self) -> CompiledProject:
        """The project as it is played: on the stage of the take."""
        return self.document.build.ask(standing_on, self.stage)

    def _new_simulation(self, fighters: tuple[Fighter, ...] | None = None) -> Simulation:
        build = self.build
        fighters = fighters if fighters is not None else build.project.stage.fighters
        if self.peaceful:
            fighters = tuple(f if f.plays == "keys" else structs.replace(f, plays="stands") for f in fighters)
        return Simulation(build, self.seed, fighters)

    @property
    def _most(self) -> int:
        return LONGEST * self.document.project.settings.rate

    def restart(self) -> None:
        """Begin a new take from where the fighters start."""
        self.stage = ""
        self.begin([])

    def begin(self, inputs: Sequence[Input], fighters: tuple[Fighter, ...] | None = None) -> None:
        """Begin a new take from where the fighters start, or as ``fighters`` stand, with what is given on its first
        tick."""
        self.loop, self.laid_out = None, False
        self.simulation = self._new_simulation(fighters)
        if self.records:
            self.take_number += 1
        self.records, self.inputs, self.at = History(), [], -1
        self.waiting = [(0, given) for given in inputs]
        self.tick()

    def play_steps(
        self, steps: tuple[DrillStep, ...], ticks: int, seed: int, stage: str, distance: Distance = None
    ) -> None:
        """A new take of scripted inputs on the stage of a name, with the others so far away; its first tick is looked
        at."""
        for _ in self.playing_steps(steps, ticks, seed, stage, distance):
            pass
        self.look_at(0)

    def playing_steps(
        self, steps: tuple[DrillStep, ...], ticks: int, seed: int, stage: str, distance: Distance = None
    ) -> Iterator[int]:
        """The same, tick by tick, for whoever has other things to do between them."""
        self.seed, self.stage = seed, stage
        given = schedule(steps)
        self.begin(given.get(0, []), placed_fighters(self.build.project.stage.fighters, steps, distance))
        for tick in range(1, ticks):
            yield tick
            self.give(*given.get(tick, []))
            self.tick(shown=False)

    def lay_out(self, records: Sequence[Record], seed: int, stage: str) -> None:
        """Look at a take that was played elsewhere; it is played on from wherever it is looked at."""
        self.seed, self.stage = seed, stage
        self.begin([])
        self.records, self.inputs, self.waiting = History(), [NOTHING for _ in records], []
        for record in records:
            self.records.append(record)
        self.at = len(records) - 1
        self.laid_out = True
        self.simulation.resume(self.records[-1], self.records[-2] if len(records) > 1 else None)

    def use_project(self) -> None:
        """Take up an edited project: play goes on from the tick looked at."""
        shown = self.document.project.stage.name
        if shown != self._shown:
            # Another stage is chosen to be looked at: whatever was played elsewhere, it is played on that.
            self._shown = shown
            self.restart()
            return
        build, old = self.build, self.simulation.build
        fighters = build.project.stage.fighters != old.project.stage.fighters
        # Poses of another figure mean nothing, and what is kept of old ticks is posed anew.
        if fighters or build.assets.skeleton.names != old.assets.skeleton.names:
            self.restart()
        elif build is not old:
            if not _plays_alike(old.project, build.project):
                if self.whole_take is None:
                    self.whole_take = self.records.copy(), list(self.inputs)
                self._go_back_to_view()
            self.simulation.use(build)

    def give(self, *inputs: Input, after: int = 0) -> None:
        """Inputs for the next tick, or for one ``after`` so many more."""
        self.waiting += [(after, given) for given in inputs]

    def hurry(self) -> None:
        """What was given for a later tick is for the next one: those before it are not played."""
        self.waiting = [(0, given) for _, given in self.waiting]

    @property
    def fighter(self) -> str:
        """The fighter the keys play."""
        fighters = self.build.project.stage.fighters
        return next((f.name for f in fighters if f.plays == "keys"), fighters[0].name if fighters else "")

    @property
    def second(self) -> str:
        """The fighter of the second player; nothing where there is none."""
        return next((f.name for f in self.build.project.stage.fighters if f.plays == "second"), "")

    @property
    def record(self) -> Record | None:
        """The tick looked at."""
        return self._whole(self.at) if 0 <= self.at < len(self.records) else None

    def _whole(self, at: int) -> Record:
        """A record with the poses that long keeping leaves out."""
        record = self.records[at]
        return replace(record, fighters=tuple(self.simulation.whole(f) for f in record.fighters))

    def _go_back_to_view(self) -> None:
        if self.at + 1 < len(self.records):
            self.records.cut(self.at + 1)
            del self.inputs[self.at + 1 :]
            self.simulation.resume(self.records[self.at], self.records[self.at - 1] if self.at else None)

    def tick(self, shown: bool = True) -> None:
        """Play one tick on from the one looked at; what had been played after it is let go."""
        self._go_back_to_view()
        self.laid_out = False
        self.whole_take = None
        inputs = [given for after, given in self.waiting if after <= 0]
        self.waiting = [(after - 1, given) for after, given in self.waiting if after > 0]
        self.records.append(self.simulation.tick(inputs))
        self.inputs.append(inputs or NOTHING)
        del self.inputs[: self.records.drop(self._most)]
        self.at = len(self.records) - 1
        if shown:
            self.moved.emit()

    def replay(self) -> tuple[Sequence[Record], Sequence[Record]] | None:
        """Play the take anew, as the project is now, with what was given in it: the take as it was, before anything was
        changed since it was last played on, and as it is; None where its beginning is no longer kept."""
        old, inputs = self.whole_take or (self.records.copy(), list(self.inputs))
        if not old or old[0].tick != 0:
            return None
        at = self.at
        self.begin(inputs[0])
        for row in inputs[1:]:
            self.give(*row)
            self.tick(shown=False)
        self.whole_take = old, inputs
        self.at = len(self.records) - 1
        self.look_at(at)
        return old, self.records

    def look_at(self, tick: int) -> None:
        """Look at a tick of the take."""
        tick = min(max(tick, 0), len(self.records) - 1)
        if tick != self.at:
            self.at = tick
            self.moved.emit()

    def forward(self) -> None:
        """One tick on: along the take while there is one, then by playing."""
        if self.at + 1 < len(self.records):
            self.look_at(self.at + 1)
        else:
            self.tick()

    def go_round(self) -> None:
        """The next tick of the part that is looped."""
        first, last = self.loop or (0, 0)
        self.look_at(self.at + 1 if first <= self.at < last else first)

    def back(self) -> None:
        """One tick back along the take."""
        self.look_at(self.at - 1)


def _plays_alike(old: Project, new: Project) -> bool:
    """Whether a take goes on as it would have: what is otherwise are drills that nobody replays, takes, and stages
    that are not played on."""
    apart = {"takes", "stages", "known_events", "name"}
    if not any(f.plays == "replays" for f in new.stage.fighters):
        apart.add("drills")
    return all(getattr(old, name) is getattr(new, name) for name in new.__struct_fields__ if name not in apart)
