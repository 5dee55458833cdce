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
from PySide6.QtWidgets import QApplication

from tests.core.charts import charts
from veergust.core.files.scxml_write import asked_of, ids_of, pick_name, to_scxml
from veergust.core.kinds.conditions import CONDITIONS
from veergust.core.kinds.conditions.kind import COMPARE, Asked
from veergust.core.model import Condition, Locomotion, Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.chart import Chart, Entering
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
        return str(names[0])

    def tick(self, data: Mapping[str, float]) -> None:
        self.machine.submitEvent("tick", dict(data))
        QApplication.processEvents()


class Plain:
    """Our chart run by itself: which state comes next when the conditions have these values."""

    def __init__(self, locomotion: Locomotion) -> None:
        self.locomotion = locomotion
        self.chart = Chart(locomotion)
        self.state = self.chart.entry or ""
        self.last: dict[str, str] = {}

    def tick(self, data: Mapping[str, float]) -> None:
        def so(c: Condition) -> bool:
            name = f"{c.test} {c.name}" if c.name else c.test
            return COMPARE[c.op](data[name], c.value)

        for _, t in self.chart.asked(self.state):
            if all(so(c) for c in t.conditions):
                self.last = self.chart.leaving(self.state, self.last)
                how = Entering(
                    self.last, lambda p: data[f"parameter {p}"], lambda g: g.choices[int(data[pick_name(g.name)])].state
                )
                self.state = self.chart.enter(t.to, how) or ""
                return


def agree(locomotion: Locomotion, folder: Path, ticks: int, seed: int) -> int:
    """Run both on random data and compare on every tick; how many transitions there were."""
    pytest.importorskip("PySide6.QtScxml", reason="Qt's SCXML module (PySide6-Addons) is not installed")
    rng = random.Random(seed)
    plain, ids = Plain(locomotion), ids_of(locomotion)
    theirs = Interpreter(to_scxml(locomotion), folder)
    moved = 0
    assert theirs.state == ids[plain.state]
    for n in range(ticks):
        data: dict[str, float] = {name: rng.choice([0.0, 1.0, 2.0]) for name in asked_of(locomotion)}
        for g in locomotion.groups:
            if g.enters == "pool":
                data[pick_name(g.name)] = float(rng.randrange(len(g.choices)))
        before = plain.state
        plain.tick(data)
        theirs.tick(data)
        assert theirs.state == ids[plain.state], f"tick {n}, from {before}, {data}"
        moved += plain.state != before
    return moved


@settings(max_examples=200, deadline=None, suppress_health_check=list(HealthCheck))
@given(locomotion=charts(), seed=st.integers(0, 2**16))
def test_random_charts_are_in_the_same_state_as_an_interpreter_of_the_standard(
    locomotion: Locomotion, seed: int, tmp_path_factory: Any, qapp: QApplication
) -> None:
    agree(locomotion, tmp_path_factory.mktemp("chart"), 40, seed)


@pytest.mark.parametrize("seed", [11, 12, 13, 14])
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
    simulation = Simulation(build, seed=3, posed=False, keeps=0)
    theirs, ids, asks = Interpreter(to_scxml(there), tmp_path), ids_of(there), asked_of(there)
    data: dict[str, float] = {}
    plain_asked = machine.asked

    def listening(build: CompiledProject, fighter: FighterState, asking: machine.Asking) -> Any:
        if fighter.name == who:
            for name, (c, place) in asks.items():
                t = there.transitions[int(place.split()[1].partition("/")[0])] if place else there.transitions[0]
                present = machine.present_of(build, fighter, fighter.locomotion[-1], t)
                asked = Asked(fighter, None, asking.others, asking.seed, asking.tick, present, place)
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
