"""Things that fly, as they are edited: made of a spawned event, set, renamed with whatever spawns them, taken away."""

from __future__ import annotations

import pytest
from tools.made.edits import replace, section

from tests.core.play.test_rules import made
from veergust.core.edit.alternates import keep
from veergust.core.edit.reactions import add_row, remove_row, set_row
from veergust.core.edit.spans import SpanRef, span_of
from veergust.core.edit.thrown import make_thrown, remove_thrown, set_thrown
from veergust.core.model import Event, Project, Thrown
from veergust.core.study.reactions import HitKind, also, answer_to
from veergust.core.trouble import Trouble

SPAWNED, OTHER = SpanRef("Toss", 0, "events", 0), SpanRef("Toss", 0, "events", 1)


def tossing(name: str = "bottle") -> Project:
    events = (Event(tick=1, kind="spawn", name=name), Event(tick=2, kind="effect", name="bottle"))
    return Project(actions=(made("Toss", section("idle", 0.5, events=events)), made("Other")))


def test_a_spawned_event_is_made_a_thing_that_flies_and_only_that() -> None:
    edit = make_thrown(tossing(), SPAWNED)
    assert edit.project.thrown == (Thrown(name="bottle"),)
    assert edit.project.actions == tossing().actions
    with pytest.raises(Trouble, match="flies already"):
        make_thrown(edit.project, SPAWNED)
    with pytest.raises(Trouble, match="spawns nothing"):
        make_thrown(tossing(), OTHER)
    nameless = make_thrown(tossing(""), SPAWNED).project
    assert [t.name for t in nameless.thrown] == [getattr(span_of(nameless, SPAWNED), "name", "")] != [""]


def test_its_fields_and_those_of_its_strike_are_set_beside_each_other() -> None:
    project = make_thrown(tossing(), SPAWNED).project
    project = set_thrown(project, "bottle", speed=3.0, damage=5.0, stun=9, bounce=0.5).project
    [thing] = project.thrown
    assert (thing.speed, thing.bounce, thing.strike.damage, thing.strike.stun) == (3.0, 0.5, 5.0, 9)
    assert remove_thrown(project, "bottle").project.thrown == ()
    with pytest.raises(Trouble, match="nothing called"):
        set_thrown(project, "gone", speed=1.0)


def test_a_new_name_goes_along_wherever_it_is_spawned_and_nowhere_else() -> None:
    project = keep(make_thrown(tossing(), SPAWNED).project, "Toss", "before").project
    project = set_thrown(project, "bottle", name="jug").project
    for action in (project.actions[0], project.actions[0].kept[0].action):
        assert [e.name for e in action.sections[0].events] == ["jug", "bottle"]
    with pytest.raises(Trouble):
        set_thrown(replace(project, thrown=(*project.thrown, Thrown(name="pot"))), "jug", name="pot")


def test_rows_that_ask_for_more_are_added_set_and_taken_away_and_leave_the_plain_ones() -> None:
    project = tossing()
    hit = HitKind("front", "light", "standing")
    edit, index = add_row(project, hit, "Other")
    assert index == 0
    row = edit.project.reactions[0]
    assert not row.plain
    assert answer_to(edit.project.reactions, hit) is None, "no more is known of the hit"
    assert [i for i, _ in also(edit.project.reactions, hit)] == [0]
    assert also(edit.project.reactions, HitKind("back", "light", "standing")) == []
    changed = set_row(edit.project, 0, region="head", action="Toss").project
    assert (changed.reactions[0].region, changed.reactions[0].action) == ("head", "Toss")
    assert remove_row(changed, 0).project == project
    for bad in (lambda: set_row(changed, 1, region="leg"), lambda: set_row(changed, 0, action="Gone"),
                lambda: remove_row(project, 0), lambda: add_row(project, hit, "Gone")):  # fmt: skip
        with pytest.raises(Trouble):
            bad()
