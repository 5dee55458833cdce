"""Layers tried: a state of locomotion at a speed, an action on each layer over it, round and round on open ground."""

from __future__ import annotations

import dataclasses
from dataclasses import dataclass

from msgspec.structs import replace

from veergust.core.model import Fighter, State
from veergust.core.play import (
    OPEN,
    CompiledProject,
    FighterState,
    Input,
    LocomotionVoice,
    Record,
    Simulation,
    point_speed,
    pose_again,
    start,
    step_hands,
)

WHO = "figure"
SETTLES = 24
"""So many ticks are played before the first is shown, so that feet and blends are under way."""
BEFORE, AFTER = 8, 8
"""So many ticks are seen before the actions begin, and after the last has faded out."""
LONGEST = 900


@dataclass(frozen=True)
class Trying:
    """What is tried: a locomotion state and how fast (m/s) the body goes in it, and the action on each layer."""

    state: str
    speed: float = 0.0
    actions: tuple[tuple[str, str], ...] = ()


class Trial:
    """One round, played as far as it is looked at."""

    def __init__(self, build: CompiledProject, trying: Trying) -> None:
        self.trying = trying
        project = build.project
        # Nothing leads out of the state: it is looked at for as long as anybody likes.
        ground = replace(project.locomotion, transitions=(), entry=trying.state)
        stage = replace(OPEN, fighters=(Fighter(name=WHO, plays="keys", facing=0.0),))
        self.build = build.renew(replace(project, locomotion=ground, stage=stage))
        self.begins = BEFORE if self._asked() else 0
        self.records: list[Record] = []
        self._over: int | None = None
        self.simulation = Simulation(self.build, fighters=stage.fighters)
        fighter = self.simulation.fighter(WHO)
        fighter.locomotion = (LocomotionVoice(trying.state if trying.state in self.build.states else ""),)
        fighter.velocity = (0.0, 0.0, trying.speed)
        self._walk()
        for _ in range(SETTLES):
            self.simulation.tick()

    def _asked(self) -> list[tuple[str, str]]:
        return [(y, a) for y, a in self.trying.actions if a and y in self.build.layers and self.build.action(a)]

    def _speaks(self, layer: str) -> bool:
        return self.build.layers[layer].rule(self.trying.state) == "may"

    def _walk(self) -> None:
        state = self.build.states.get(self.trying.state)
        top = state.most if state is not None and state.most > 0.0 else self.build.project.locomotion.run_speed
        share = min(self.trying.speed / top, 1.0) if top > 0.0 else 0.0
        self.simulation.tick([Input(WHO, axis="move", value=(0.0, share))])

    @property
    def fighter(self) -> FighterState:
        """The figure as it is on the last tick that was played."""
        return self.simulation.fighter(WHO)

    @property
    def ticks(self) -> int | None:
        """How long a round is; None while it is not known yet."""
        return self._over

    def at(self, tick: int) -> Record:
        """A tick of the round, or its last; what lies before it is played when it has not been."""
        while len(self.records) <= tick and self._over is None:
            self.on()
        return self.records[min(tick, len(self.records) - 1)]

    def on(self) -> None:
        """Play one tick more, unless the round is over."""
        if self._over is not None:
            return
        record = self.simulation.tick()
        if len(self.records) == self.begins and self._asked():
            # They begin beside one another, with their first frames shown.
            for layer, name in sorted(self._asked(), key=lambda row: self.build.layers[row[0]].place):
                if self._speaks(layer):
                    start(self.build, self.fighter, name, record.tick)
            if self.build.project.grips:
                step_hands(self.build, self.fighter)
            pose_again(self.build, self.fighter)
            record = dataclasses.replace(record, fighters=(self.fighter.copy(),))
        self.records.append(record)
        shown = len(self.records)
        still = shown > self.begins and not self.fighter.voices
        quiet = next((n for n, r in enumerate(reversed(self.records)) if r.fighters[0].voices), shown)
        nothing = not self._asked() and shown >= 2 * self.build.project.settings.rate
        if (still and quiet >= AFTER) or nothing or shown >= LONGEST:
            self._over = shown


def usual_trying(build: CompiledProject) -> Trying:
    """What is tried first: the state everybody begins in, and the first action of every layer whose actions are
    started by a command, the topmost only."""
    idle = build.idle_state
    named = [
        (layer.name, next((a.name for a in build.project.actions if a.layer == layer.name and a.start.commands), ""))
        for layer in build.project.layers
    ]
    top = next(((y, a) for y, a in reversed(named) if a), None)
    return Trying(idle.name if idle is not None else "", 0.0, (top,) if top is not None else ())


def speed_of(build: CompiledProject, state: State) -> float:
    """The speed (m/s) a state is made for: that of its fastest clip; 0 for one that stands."""
    if not state.blend:
        return state.matched
    return round(max(point_speed(build, state, i) for i in range(len(state.blend))), 2)
