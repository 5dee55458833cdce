"""Edits make new projects, keep spans inside their section, and say what they did."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tools.made.edits import replace

from veergust.core.edit.actions import new_action, rename_action
from veergust.core.edit.spans import SpanRef, add, remove, set_edges, span_of
from veergust.core.kinds.spans import SPANS
from veergust.core.model import Condition, Project, Reaction
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.findings import findings
from veergust.core.trouble import Trouble

STRIKE = SpanRef("Low sweep", 1, "strikes", 0)


def test_words_count_frames_of_the_action(quay: Project, assets: Assets) -> None:
    compiled = CompiledProject(quay, assets).action("Low sweep")
    assert compiled is not None
    assert set_edges(quay, compiled, STRIKE, 3, 7).words == "Sweep: moved +2 f, opens at 9 → 11"
    assert set_edges(quay, compiled, STRIKE, 1, 7).words == "Sweep: closes at 13 → 15"
    assert set_edges(quay, compiled, STRIKE, 0, 5).words == "Sweep: opens at 9 → 8"
    event = SpanRef("Low sweep", 1, "events", 0)
    assert set_edges(quay, compiled, event, 4, 5).words == "trail on: frame 9 → 12"


@given(start=st.integers(-50, 80), end=st.integers(-50, 80), which=st.sampled_from(list(SPANS)))
def test_a_span_always_stays_inside_its_section(
    start: int, end: int, which: str, quay: Project, assets: Assets
) -> None:
    compiled = CompiledProject(quay, assets).action("Low sweep")
    assert compiled is not None
    ref = SpanRef("Low sweep", 1, which, 0)
    if span_of(quay, ref) is None:
        return
    edit = set_edges(quay, compiled, ref, start, end)
    span = span_of(edit.project, ref)
    if SPANS[which].moment:
        assert 0 <= span.tick < 12
    else:
        assert 0 <= span.start < span.end <= 12
    assert edit.project.actions[1:] == quay.actions[1:]
    assert edit.project.actions[1] is quay.actions[1]


def test_adding_and_removing(quay: Project) -> None:
    for kind in SPANS:
        edit, ref = add(quay, SpanRef("Low sweep", 2, kind, 0), 3, 7)
        assert span_of(edit.project, ref) is not None
        assert remove(edit.project, ref).project == quay
        assert span_of(quay, ref) is None


def test_a_renamed_action_is_followed_by_whatever_names_it(quay: Project, assets: Assets) -> None:
    edit = rename_action(quay, "Thrust", " Long point ")
    build = CompiledProject(edit.project, assets)
    assert [f.code for f in findings(build)] in ([], ["never-started"])  # no command yet
    assert [e.to for e in edit.project.actions[0].sections[1].exits] == ["Long point", "Duck roll", ""]
    assert rename_action(edit.project, "Long point", "Thrust").project == quay
    reel = rename_action(quay, "Reel front", "Stagger").project
    assert "Stagger" in [r.action for r in reel.reactions]
    assert "Stagger" in [e.action for d in reel.drills for e in d.expect]
    for bad in ("", "  ", "Low sweep"):
        with pytest.raises(Trouble):
            rename_action(quay, "Thrust", bad)


def test_a_new_action_plays_its_clip_and_has_a_name_of_its_own(quay: Project, assets: Assets) -> None:
    edit, name = new_action(quay, assets, "overhead")
    again, second = new_action(edit.project, assets, "overhead")
    assert (name, second) == ("Overhead", "Overhead 2")
    compiled = CompiledProject(again.project, assets).action(second)
    assert compiled is not None
    assert compiled.total == 63
    assert {f.code for f in findings(CompiledProject(again.project, assets))} <= {"never-started"}


def test_a_new_event_is_of_the_kind_its_name_has_elsewhere(quay: Project) -> None:
    project = replace(quay, known_events=("dust", *quay.known_events))
    edit, ref = add(project, SpanRef("Thrust", 0, "events", 0), 2, 3)
    made = span_of(edit.project, ref)
    assert (made.name, made.kind, made.mount) == ("dust", "effect", "foot R")
    whoosh = replace(quay, known_events=("whoosh_low",))
    edit, ref = add(whoosh, SpanRef("Duck roll", 0, "events", 0), 2, 3)
    assert span_of(edit.project, ref).kind == "sound"


def test_a_row_that_asks_whether_an_action_plays_asks_for_its_new_name(quay: Project) -> None:
    asks = Condition(test="plays", name="Thrust")
    other = Condition(test="pressed", name="Thrust")
    quay = replace(quay, reactions=(Reaction(action="Low sweep", conditions=(asks, other)),))
    [row] = rename_action(quay, "Thrust", "Lunge").project.reactions
    assert (row.action, [c.name for c in row.conditions]) == ("Low sweep", ["Lunge", "Thrust"])
