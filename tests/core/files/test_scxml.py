"""Charts against an interpreter of the standard that shares nothing with ours: Qt's, where it is installed."""

from __future__ import annotations

import random
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from veergust.core.files.scxml_read import from_scxml
from veergust.core.files.scxml_write import asked_of, ids_of, pick_name, to_scxml
from veergust.core.kinds.conditions.kind import COMPARE
from veergust.core.model import Choice, Condition, Group, Locomotion, State, Transition
from veergust.core.play.compiled.chart import Chart, Entering
from veergust.core.trouble import Trouble


class Interpreter:
    """Qt's interpreter of a document; ``state`` is the id of the innermost state it is in."""

    def __init__(self, document: bytes, folder: Path) -> None:
        from PySide6.QtCore import QCoreApplication
        from PySide6.QtScxml import QScxmlStateMachine

        self.app = QCoreApplication.instance() or QCoreApplication([])
        path = folder / "chart.scxml"
        path.write_bytes(document)
        self.machine = QScxmlStateMachine.fromFile(str(path))
        assert not self.machine.parseErrors(), [e.toString() for e in self.machine.parseErrors()]
        self.machine.start()
        self.app.processEvents()

    @property
    def state(self) -> str:
        names = list(self.machine.activeStateNames(True))
        assert len(names) == 1, names
        return str(names[0])

    def tick(self, data: Mapping[str, float]) -> None:
        self.machine.submitEvent("tick", dict(data))
        self.app.processEvents()


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


NAMES = ["stand", "walk", "guard walk", "run", "2 feet", "ÿle", "drop.in", "land"]


@st.composite
def charts(draw: st.DrawFn) -> Locomotion:
    """Charts with nested groups of every kind, priorities, and names that are no identifiers."""
    names = NAMES[: draw(st.integers(2, 8))]
    groups: list[Group] = []
    for i in range(draw(st.integers(0, 4))):
        inside = draw(st.sampled_from(["", *(g.name for g in groups)]))
        groups.append(Group(name=f"group {i}", group=inside))
    states = [State(name=n, group=draw(st.sampled_from(["", *(g.name for g in groups)]))) for n in names]
    made = []
    for g in groups:
        members = [s.name for s in states if s.group == g.name] + [h.name for h in groups if h.group == g.name]
        chosen = tuple(Choice(state=m, value=float(k)) for k, m in enumerate(members))
        enters: Any = draw(st.sampled_from(["default", "last", "parameter", "pool"])) if members else "default"
        default = draw(st.sampled_from(["", *members]))
        made.append(Group(name=g.name, group=g.group, enters=enters, default=default, parameter="mood", choices=chosen))
    # A group that holds no state at all leads nowhere; it is asked for by nobody.
    chart = Chart(Locomotion(states=tuple(states), groups=tuple(made)))
    places = [n for n in (*names, *(g.name for g in made)) if chart.enter(n) and _whole(chart, n)]
    kept = {g.name for g in made if g.name in places}
    made = [replace(g, group=g.group if g.group in kept else "") for g in made if g.name in kept]
    states = [State(name=s.name, group=s.group if s.group in kept else "") for s in states]
    transitions = []
    for _ in range(draw(st.integers(1, 14))):
        test: Any = draw(st.sampled_from(["speed", "on_floor", "held", "parameter"]))
        name = {"held": "guard", "parameter": "mood"}.get(test, "")
        op: Any = draw(st.sampled_from(["<", "<=", "==", "!=", ">=", ">"]))
        when = (Condition(test=test, name=name, op=op, value=draw(st.sampled_from([0.0, 1.0, 1.5]))),)
        start = draw(st.sampled_from([*places, *places, "*"]))
        transitions.append(Transition(start=start, to=draw(st.sampled_from(places)), conditions=when))
    return Locomotion(
        entry=draw(st.sampled_from(places)), states=tuple(states), groups=tuple(made), transitions=tuple(transitions)
    )


def _whole(chart: Chart, name: str) -> bool:
    """Whether every way into a group ends in a state."""
    return name in chart.states or (bool(chart.members[name]) and all(_whole(chart, m) for m in chart.members[name]))


@settings(max_examples=200, deadline=None, suppress_health_check=list(HealthCheck))
@given(locomotion=charts(), seed=st.integers(0, 2**16))
def test_random_charts_are_in_the_same_state_as_an_interpreter_of_the_standard(
    locomotion: Locomotion, seed: int, tmp_path_factory: Any
) -> None:
    agree(locomotion, tmp_path_factory.mktemp("chart"), 40, seed)


@settings(max_examples=100, deadline=None)
@given(locomotion=charts())
def test_what_was_written_comes_back(locomotion: Locomotion) -> None:
    back = from_scxml(to_scxml(locomotion), "x.scxml")
    assert not back.left_out
    got, chart = back.locomotion, Chart(locomotion)
    assert got.transitions == locomotion.transitions
    assert sorted(got.states, key=lambda s: s.name) == sorted(locomotion.states, key=lambda s: s.name)
    assert got.entry == locomotion.entry
    again = Chart(got)
    assert again.around == {n: again.around[n] for n in chart.around}
    assert {n: again.enter(n) for n in chart.around} == {n: chart.enter(n) for n in chart.around}
    for ours, theirs in zip(sorted(locomotion.groups, key=lambda g: g.name), sorted(got.groups, key=lambda g: g.name)):
        assert (ours.name, ours.group, ours.enters) == (theirs.name, theirs.group, theirs.enters)
        if ours.enters in ("parameter", "pool"):
            assert ours.choices == theirs.choices


FOREIGN = b"""<?xml version="1.0"?>
<scxml xmlns="http://www.w3.org/2005/07/scxml" version="1.0" initial="ground">
  <datamodel><data id="hp" expr="3"/></datamodel>
  <state id="ground" initial="idle">
    <onentry><log expr="1"/></onentry>
    <state id="idle"><transition event="go" cond="hp &gt; 2 &amp;&amp; !tired" target="walk"/></state>
    <state id="walk"><transition event="tick" cond="Math.sin(hp) &gt; 1" target="idle"/></state>
    <transition event="leap.*" target="air"/>
  </state>
  <state id="air"><history id="h"/><transition target="ground"/></state>
</scxml>"""


def test_a_chart_that_somebody_else_wrote_gives_states_groups_and_parameters() -> None:
    read = from_scxml(FOREIGN, "theirs.scxml", Locomotion(states=(State(name="walk", clip="stroll"),)))
    got = read.locomotion
    assert [(s.name, s.group, s.clip) for s in got.states] == [
        ("idle", "ground", ""),
        ("walk", "ground", "stroll"),
        ("air", "", ""),
    ]
    assert [g.name for g in got.groups] == ["ground"]
    assert got.entry == "ground"
    by_start = {t.start: t for t in got.transitions}
    assert by_start["idle"].conditions == (
        Condition(test="parameter", name="go"),
        Condition(test="parameter", name="hp", op=">", value=2.0),
        Condition(test="parameter", name="tired", value=0.0),
    )
    assert {p.name: p.kind for p in got.parameters}["go"] == "momentary"
    # What nobody here can work out never comes true by itself.
    assert by_start["walk"].conditions[0].test == "parameter"
    assert any("Math.sin" in words for words in read.left_out)
    assert any("datamodel" in words for words in read.left_out)
    assert any("onentry" in words for words in read.left_out)


def nested(depth: int) -> bytes:
    return (
        b'<scxml xmlns="http://www.w3.org/2005/07/scxml">'
        + b"".join(b'<state id="s%d">' % i for i in range(depth))
        + b"</state>" * depth
        + b"</scxml>"
    )


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b'<!DOCTYPE x [<!ENTITY a "b">]><scxml xmlns="http://www.w3.org/2005/07/scxml"/>', "entities"),
        (b"<scxml " + b" " * (10 << 20), "larger than 4 MB"),
        (nested(500), "deeper than 64"),
        (b"<scxml", "no XML"),
        (b"\xff\xfe\x00", "no XML"),
        (b"<svg/>", "no state chart"),
        (FOREIGN.replace(b'"walk"/>', b'"nowhere"/>'), "'nowhere', which is no state"),
        (FOREIGN.replace(b'id="air"', b'id="idle"'), "two states 'idle'"),
        (
            FOREIGN.replace(b'state id="air"', b'parallel id="air"').replace(
                b"</state>\n</scxml>", b"</parallel></scxml>"
            ),
            "parallel",
        ),
    ],
)
def test_a_document_that_cannot_be_read_is_refused_in_a_sentence(data: bytes, words: str) -> None:
    with pytest.raises(Trouble) as caught:
        from_scxml(data, "theirs.scxml")
    assert words in str(caught.value)
    assert "theirs.scxml" in str(caught.value)
    assert len(str(caught.value)) < 200
