"""State charts as documents of the standard: written and read again, read from others, refused in words."""

from __future__ import annotations

import re

import pytest
from defusedxml import ElementTree
from hypothesis import given, settings
from tools.made.charts import charts

from veergust.core.files.scxml_read import from_scxml
from veergust.core.files.scxml_write import to_scxml
from veergust.core.model import Condition, Locomotion, State
from veergust.core.play.compiled.chart import Chart
from veergust.core.trouble import Trouble


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


SCXML = "{http://www.w3.org/2005/07/scxml}"
ATTRIBUTES = {
    "scxml": ({"version"}, {"initial", "name", "datamodel", "binding"}),
    "state": (set(), {"id", "initial"}),
    "history": (set(), {"id", "type"}),
    "transition": (set(), {"event", "cond", "target", "type"}),
}
"""Element → attributes it has to have, and those it may have, by the standard's sections 3.2, 3.3, 3.5 and 3.10."""
CHILDREN = {
    "scxml": {"state"},
    "state": {"state", "history", "transition"},
    "history": {"transition"},
    "transition": set[str](),
}
"""Element → those of the elements written here that may stand in it."""


@settings(max_examples=200, deadline=None)
@given(locomotion=charts())
def test_what_is_written_is_as_the_standard_says(locomotion: Locomotion) -> None:
    root = ElementTree.fromstring(to_scxml(locomotion))
    assert root.tag == f"{SCXML}scxml"
    assert root.get("version") == "1.0"
    ids = [e.get("id", "") for e in root.iter() if e.get("id") is not None]
    assert len(ids) == len(set(ids))
    assert all(re.fullmatch(r"[^\W\d][\w.\-]*", name) for name in ids)
    for element in root.iter():
        name = element.tag.removeprefix(SCXML)
        has_to, may = ATTRIBUTES[name]
        own = {key for key, _ in element.items() if not key.startswith("{")}
        assert has_to <= own <= has_to | may
        assert {child.tag.removeprefix(SCXML) for child in element} <= CHILDREN[name]
        inside = {e.get("id") for e in element.iter() if e is not element}
        for target in element.get("initial", "").split():
            assert target in inside
        for target in element.get("target", "").split():
            assert target in ids
        if name == "transition":
            assert own & {"event", "cond", "target"}
            assert element.get("event") is None or element.get("event", "").strip()
        if name == "history":
            (default,) = element
            assert set(default.keys()) & {"event", "cond", "target"} == {"target"}
            assert element.get("type") in ("deep", "shallow")
    for element in root.iter(f"{SCXML}state"):
        # Only what has states in it can begin in one of them.
        assert element.get("initial") is None or element.find(f"{SCXML}state") is not None


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
