"""Charts against an interpreter of the standard that shares nothing with ours: Qt's, where it is installed."""

from __future__ import annotations

import math
import random
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from PySide6.QtWidgets import QApplication
from tools.made.charts import charts

from veergust.core.files.scxml_write import asked_of, ids_of, pick_name, to_scxml
from veergust.core.kinds.conditions import CONDITIONS
from veergust.core.kinds.conditions.kind import ConditionContext
from veergust.core.model import Fighter, Locomotion, Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.locomotion import machine
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import FighterState, Input


class Interpreter:
    """Qt's interpreter of a document; ``state`` is the id of the innermost state it is in."""

    def __init__(self, document: bytes, folder: Path) -> None:
        from PySide6.QtScxml import QScxmlStateMachine

        path = folder / "chart.scxml"
        path.write_bytes(document)
        self.machine = QScxmlStateMachine.fromFile(str(path))
        assert not self.machine.parseErrors(), [e.toString() for e in self.machine.parseErrors()]
        self.machine.start()
        QApplication.processEvents()

    @property
    def state(self) -> str:
        names = list(self.machine.activeStateNames(True))
        assert len(names) == 1, names
        return names[0]

    def tick(self, data: Mapping[str, float]) -> None:
        self.machine.submitEvent("tick", dict(data))
        QApplication.processEvents()


class Played:
    """A chart as it is played: the player itself, whose one fighter's numbers, keys and floor are set at random.

    ``told`` is what its conditions asked for on the tick, and what its pools drew.
    """

    def __init__(self, locomotion: Locomotion, project: Project, assets: Assets, seed: int) -> None:
        self.locomotion, self.asks = locomotion, asked_of(locomotion)
        stage = replace(project.stage, fighters=(Fighter(name="Somebody", plays="keys"),))
        project = replace(project, locomotion=locomotion, actions=(), reactions=(), stage=stage)
        self.simulation = Simulation(CompiledProject(project, assets), seed=seed, posed=False)
        self.told: dict[str, float] = {}

    @property
    def fighter(self) -> FighterState:
        return self.simulation.fighters[0]

    @property
    def state(self) -> str:
        return self.fighter.locomotion[-1].state

    def listen(self, build: CompiledProject, fighter: FighterState, asking: machine.Asking) -> None:
        for name, (c, place) in self.asks.items():
            t = self.locomotion.transitions[int(place.split()[1].partition("/")[0])] if place else None
            t = t or self.locomotion.transitions[0]
            present = machine.present_of(build, fighter, fighter.locomotion[-1], t)
            asked = ConditionContext(fighter, None, asking.others, asking.seed, asking.tick, present, place)
            self.told[name] = CONDITIONS[c.test].value(asked, c.name)
        self.told["parameter mood"] = fighter.parameter("mood")
        draw = machine.entering(build, fighter, asking).draw
        for g in self.locomotion.groups:
            if g.enters == "pool":
                drawn = draw(g)
                self.told[pick_name(g.name)] = float(next(i for i, c in enumerate(g.choices) if c.state == drawn))

    def tick(self, rng: random.Random) -> None:
        given = [Input("Somebody", by_hand=n, number=rng.choice([0.0, 1.0, 1.5, 2.0])) for n in ("speed", "mood")]
        given.append(Input("Somebody", "guard", press=rng.random() < 0.5))
        self.fighter.grounded = rng.random() < 0.5
        self.simulation.tick(given)


def agree(played: Played, folder: Path, ticks: int, seed: int) -> int:
    """Run both on random data and compare on every tick; how many transitions there were."""
    rng = random.Random(seed)
    ids = ids_of(played.locomotion)
    theirs = Interpreter(to_scxml(played.locomotion), folder)
    moved = 0
    assert theirs.state == ids[played.state]
    for n in range(ticks):
        before = played.state
        played.tick(rng)
        theirs.tick(played.told)
        assert theirs.state == ids[played.state], f"tick {n}, from {before}, {played.told}"
        moved += played.state != before
    return moved


@settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
@given(locomotion=charts(), seed=st.integers(0, 2**16))
def test_random_charts_are_played_as_an_interpreter_of_the_standard_goes(
    locomotion: Locomotion, seed: int, quay: Project, assets: Assets, tmp_path_factory: Any, qapp: QApplication
) -> None:
    """Nested groups of every kind, priorities, anywhere: through play itself, tick by tick."""
    pytest.importorskip("PySide6.QtScxml", reason="Qt's SCXML module (PySide6-Addons) is not installed")
    played = Played(locomotion, quay, assets, seed)
    plain = machine.asked

    def listening(build: CompiledProject, fighter: FighterState, asking: machine.Asking) -> Any:
        played.listen(build, fighter, asking)
        return plain(build, fighter, asking)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(machine, "asked", listening)
        agree(played, tmp_path_factory.mktemp("chart"), 40, seed)


@pytest.mark.parametrize("seed", [11, 12])
def test_the_demo_is_in_the_same_state_on_every_tick_of_random_inputs(
    seed: int, quay: Project, assets: Assets, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, qapp: QApplication
) -> None:
    """The player itself, with its body, jumps and actions; the interpreter is told what the conditions ask for.

    Ten thousand ticks in all.
    """
    pytest.importorskip("PySide6.QtScxml", reason="Qt's SCXML module (PySide6-Addons) is not installed")
    there = quay.locomotion
    who = quay.stage.fighters[0].name
    build = CompiledProject(quay, assets)
    simulation = Simulation(build, seed=3, posed=False)
    theirs, ids, asks = Interpreter(to_scxml(there), tmp_path), ids_of(there), asked_of(there)
    data: dict[str, float] = {}
    plain_asked = machine.asked

    def listening(build: CompiledProject, fighter: FighterState, asking: machine.Asking) -> Any:
        if fighter.name == who:
            for name, (c, place) in asks.items():
                t = there.transitions[int(place.split()[1].partition("/")[0])] if place else there.transitions[0]
                present = machine.present_of(build, fighter, fighter.locomotion[-1], t)
                asked = ConditionContext(fighter, None, asking.others, asking.seed, asking.tick, present, place)
                data[name] = CONDITIONS[c.test].value(asked, c.name)
        return plain_asked(build, fighter, asking)

    monkeypatch.setattr(machine, "asked", listening)
    rng = random.Random(seed)
    moved: set[str] = set()
    commands = [c.name for c in quay.commands]
    for tick in range(2500):
        given = []
        if rng.random() < 0.05:
            size, way = rng.choice([0.0, 0.3, 1.0]), rng.random() * 6.283
            given.append(Input(who, axis="move", value=(size * math.cos(way), size * math.sin(way))))
        if rng.random() < 0.06:
            given.append(Input(who, command=rng.choice(commands), press=rng.random() < 0.6))
        simulation.tick(given)
        theirs.tick(data)
        now = simulation.fighters[0].locomotion[-1].state
        assert theirs.state == ids[now], f"tick {tick}"
        moved.add(now)
    assert len(moved) >= 6
