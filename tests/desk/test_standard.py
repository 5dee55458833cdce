"""Charts against an interpreter of the standard that shares nothing with ours: Qt's, where it is installed."""

from __future__ import annotations

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
from veergust.core.kinds.conditions.kind import COMPARE
from veergust.core.model import Condition, Locomotion
from veergust.core.play.compiled.chart import Chart, Entering


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
