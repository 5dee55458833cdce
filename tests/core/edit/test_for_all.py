"""Spans that stand for the whole action: made, set, removed, and what play has of them."""

from __future__ import annotations

import msgspec
import pytest
from tools.made.edits import action, alone, section, with_action

from tests.conftest import OSSA
from tests.core.play.test_rules import made, run
from veergust.core.edit.clipboard import copy_spans
from veergust.core.edit.fields import set_fields
from veergust.core.edit.spans import WHOLE, SpanRef, add, remove, remove_all, set_edges, span_of
from veergust.core.kinds.spans import SPANS
from veergust.core.model import Exit, Hold, Project, Setting
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.state import Input
from veergust.core.trouble import Trouble

ROLL = "Duck roll"


@pytest.mark.parametrize("kind", [k for k, v in SPANS.items() if v.for_all])
def test_one_is_made_found_removed_and_nothing_else_changed(quay: Project, kind: str) -> None:
    """Beside one that was there; the sections stay what they are."""
    project = with_action(quay, ROLL, exits=(Exit(start=0, end=1, kind="cancel", command="light", to="Thrust"),))
    there = len(SPANS[kind].of_all(action(project, ROLL)))
    edit, ref = add(project, SpanRef(ROLL, WHOLE, kind, 0), 0, 1)
    assert (ref.section, ref.index) == (WHOLE, there)
    span = span_of(edit.project, ref)
    assert isinstance(span, SPANS[kind].struct)
    assert "whole action" in edit.words
    after = action(edit.project, ROLL)
    assert after.sections == action(project, ROLL).sections
    assert msgspec.structs.replace(after, **{kind: getattr(action(project, ROLL), kind)}) == action(project, ROLL)
    assert remove(edit.project, ref).project == project
    assert span_of(project, ref) is None
    assert remove_all(edit.project, [ref]).project == project


def test_what_cannot_stand_for_all_is_said(quay: Project) -> None:
    for kind in (k for k, v in SPANS.items() if not v.for_all):
        with pytest.raises(Trouble, match="whole action"):
            add(quay, SpanRef(ROLL, WHOLE, kind, 0), 0, 1)


def test_its_fields_are_set_and_it_has_no_edges(quay: Project, build: CompiledProject) -> None:
    edit, ref = add(quay, SpanRef(ROLL, WHOLE, "holds", 0), 0, 1)
    held = set_fields(edit.project, [ref], setting="gaze", value=0.25).project
    assert action(held, ROLL).holds == (*action(quay, ROLL).holds, Setting(setting="gaze", value=0.25))
    assert span_of(held, ref) == Hold(start=0, end=1, setting="gaze", value=0.25)
    compiled = build.action(ROLL)
    assert compiled is not None
    with pytest.raises(Trouble, match="whole action"):
        set_edges(held, compiled, ref, 2, 5)
    assert copy_spans(held, compiled, [ref]) == ()


def test_play_takes_an_exit_for_all_from_every_section(quay: Project, assets: Assets) -> None:
    """Made and set as on the sheet; pressed late in the second of two sections it leads away."""
    two = made("Two", section("idle", 0.3, name="A", then="B"), section("idle", 0.3, name="B"))
    project = alone(quay)
    project = msgspec.structs.replace(project, actions=(*project.actions, two))
    edit, ref = add(project, SpanRef("Two", WHOLE, "exits", 0), 0, 1)
    set_ = set_fields(edit.project, [ref], kind="cancel", command="dodge", to_kind="action").project
    set_ = set_fields(set_, [ref], to=ROLL).project
    for when in (2, 14, 24, 32):
        script = {0: [Input(OSSA, action="Two")], when: [Input(OSSA, "dodge")]}
        records = run(set_, assets, script, 40)
        first = next(r.tick for r in records if any(v.compiled.action.name == ROLL for v in r.fighter(OSSA).live()))
        assert first == when
