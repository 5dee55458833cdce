"""Single changes taken back, and where each is looked at."""

from __future__ import annotations

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tools.made.edits import action, replace

from tests.core.changes.test_merging import DEEDS, SWEEP
from veergust.core.changes.places import can_be_taken_back, place_of_change, taken_back
from veergust.core.changes.telling import changes
from veergust.core.edit.clips import set_clip
from veergust.core.edit.commands import bind
from veergust.core.edit.fields import set_fields
from veergust.core.edit.layers import set_layer
from veergust.core.edit.locomotion import set_state
from veergust.core.edit.spans import SpanRef, add, remove, span_of
from veergust.core.edit.stages import add_floors
from veergust.core.model import Project

NO_RENAMES = [n for n in range(len(DEEDS)) if n not in (14, 15, 16)]


@given(st.sets(st.sampled_from(NO_RENAMES), min_size=1), st.randoms())
def test_taken_back_one_by_one_in_any_order_all_is_as_it_was(
    quay: Project, deeds: set[int], draw: random.Random
) -> None:
    project = quay
    for n in sorted(deeds):
        project = DEEDS[n](project)
    found = changes(quay, project)
    assert found
    while found:
        one = draw.choice(found)
        assert can_be_taken_back(one)
        project = taken_back(project, one)
        left = changes(quay, project)
        assert sorted(c.says for c in left) == sorted(c.says for c in found if c is not one)
        found = left
    assert project == quay


def test_what_was_taken_out_comes_back_where_it_stood(quay: Project) -> None:
    """The first of several exits, and an action in the middle."""
    gone = remove(quay, SpanRef("Low sweep", 1, "exits", 0)).project
    gone = replace(gone, actions=tuple(a for a in gone.actions if a.name != "Jarred"))
    found = changes(quay, gone)
    assert {c.what for c in found} == {"removed"}
    while found:
        gone = taken_back(gone, found[0])
        found = changes(quay, gone)
    assert gone == quay


@pytest.mark.parametrize(
    ("make", "part", "name"),
    [
        (lambda p: set_fields(p, [SWEEP], damage=1.0).project, "action", "Low sweep"),
        (lambda p: set_clip(p, "walk", loop=False).project, "clip", "walk"),
        (lambda p: set_state(p, "walk", "clip", clip="run").project, "locomotion", "walk"),
        (lambda p: set_layer(p, "Arms", "weight", weight=0.5).project, "layer", "Arms"),
        (lambda p: bind(p, "light", "M").project, "command", "light"),
        (lambda p: DEEDS[15](p), "action", "Roll"),
        (lambda p: DEEDS[14](p), "clip", "skid"),
    ],
)
def test_a_change_leads_to_its_place(quay: Project, make, part: str, name: str) -> None:  # type: ignore[no-untyped-def]
    after = make(quay)
    (one,) = changes(quay, after)
    at = place_of_change(after, one)
    assert at is not None
    assert (at.part, at.name) == (part, name)


def test_a_change_of_a_span_leads_to_the_very_span(quay: Project) -> None:
    """Also where another one was put before it."""
    after = add(quay, SpanRef("Low sweep", 1, "exits", 0), 0, 2)[0].project
    exits = action(after, "Low sweep").sections[1].exits
    place = next(n for n, e in enumerate(exits) if e.command == "dodge")
    after = set_fields(after, [SpanRef("Low sweep", 1, "exits", place)], blend=9).project
    told = next(c for c in changes(quay, after) if c.what not in ("added", "removed"))
    at = place_of_change(after, told)
    assert at is not None
    assert (at.section, at.kind, at.index) == (1, "exits", place)
    assert span_of(after, SpanRef("Low sweep", 1, at.kind, at.index)).blend == 9  # type: ignore[arg-type]
    gone = remove(quay, SWEEP).project
    (told,) = changes(quay, gone)
    at = place_of_change(gone, told)
    assert at is not None
    assert (at.name, at.section, at.kind) == ("Low sweep", 1, "")


def test_what_has_no_place_in_the_window_says_so(quay: Project) -> None:
    after = add_floors(quay, "wall")[0].project
    (one,) = changes(quay, after)
    assert place_of_change(after, one) is None
    assert taken_back(after, one) == quay
