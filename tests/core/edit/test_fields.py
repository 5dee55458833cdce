"""Fields of spans and actions, spans carried between actions, versions: the edits behind the pages."""

from __future__ import annotations

from typing import Any, get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import fields as struct_fields
from msgspec.structs import replace
from tools.made.edits import action, with_section

from veergust.core.edit.actions import rename_action
from veergust.core.edit.alternates import drop, flip, keep, throughout
from veergust.core.edit.clipboard import copy_spans, like, paste_spans
from veergust.core.edit.clips import rename_clip
from veergust.core.edit.fields import choices, set_fields, shared, turn_pin
from veergust.core.edit.spans import SpanRef, span_of
from veergust.core.edit.whole import read_settings, set_action, set_ending, set_start, write_settings
from veergust.core.files.as_files import project_files, project_from_files
from veergust.core.kinds.spans import SPANS
from veergust.core.model import Action, Event, Gate, Pool, Project, Setting
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.action import CompiledAction
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.trouble import Trouble

SWEEP = SpanRef("Low sweep", 1, "strikes", 0)
COMBO = SpanRef("Low sweep", 1, "exits", 0)
DUST = SpanRef("Low sweep", 1, "events", 2)


def compiled_of(project: Project, assets: Assets, name: str) -> CompiledAction:
    found = CompiledProject(project, assets).action(name)
    assert found is not None
    return found


def test_every_field_of_a_card_is_one_of_the_model_and_takes_its_default() -> None:
    for kind in SPANS:
        rows = SPANS[kind].fields
        known = {f.name: f for f in struct_fields(SPANS[kind].struct)}
        assert len({row.name for row in rows}) == len(rows)
        for row in rows:
            assert row.name in known, (kind, row.name)
            default = known[row.name].default
            if row.widget == "number":
                assert row.nothing if default is None else row.low <= default <= row.high, (kind, row.name)
            if row.given:
                # What a card offers is just what the model takes.
                assert set(row.given) == set(get_args(known[row.name].type)), (kind, row.name)


@pytest.mark.parametrize(
    ("ref", "values", "words"),
    [
        (SWEEP, {"damage": 20.0}, "Sweep: damage 20"),
        (SWEEP, {"knockback": (0.0, 1.0, 3.0)}, "Sweep: knockback"),
        (COMBO, {"early": False}, "Combo to Thrust: early presses count: no"),
        (COMBO, {"command": ""}, "Combo to Thrust: command none"),
        (DUST, {"payload": "size=2"}, "dust: payload size=2"),
    ],
)
def test_a_field_is_set_with_words_and_saved(quay: Project, ref: SpanRef, values: dict[str, Any], words: str) -> None:
    edit = set_fields(quay, [ref], **values)
    assert edit.words == words
    name, value = next(iter(values.items()))
    assert getattr(span_of(edit.project, ref), name) == value
    assert project_from_files(project_files(edit.project), "x.veergust") == edit.project


def test_a_value_out_of_its_range_changes_nothing(quay: Project) -> None:
    with pytest.raises(Trouble, match="-3 is not between 0 and 10000"):
        set_fields(quay, [SWEEP], damage=-3.0)
    with pytest.raises(Trouble, match="nothing is selected"):
        set_fields(quay, [], damage=3.0)


def test_an_exit_that_leads_elsewhere_leads_to_something_that_is_there(quay: Project) -> None:
    project = replace(quay, pools=(Pool(name="Openers"),))
    pool = set_fields(project, [COMBO], to_kind="pool").project
    assert span_of(pool, COMBO).to == "Openers"
    tag = set_fields(pool, [COMBO], to_kind="tag").project
    assert span_of(tag, COMBO).to == "light"
    locomotion = set_fields(tag, [COMBO], to_kind="ground").project
    assert span_of(locomotion, COMBO).to == ""
    back = set_fields(locomotion, [COMBO], to_kind="action").project
    assert span_of(back, COMBO).to == quay.actions[0].name


def test_choices_come_from_the_project_and_new_names_of_events_are_remembered(quay: Project) -> None:
    by_name = {f.name: f for f in SPANS["events"].fields}
    edit = set_fields(quay, [DUST], name="splash")
    assert edit.project.known_events[-1] == "splash"
    offered = [v for _, v in choices(edit.project, DUST, by_name["name"])]
    assert {"", "splash", "whoosh_low", "trail on"} <= set(offered)
    assert len(offered) == len(set(offered))
    mounts = [v for _, v in choices(quay, DUST, by_name["mount"])]
    assert mounts == ["", *(m.name for m in quay.rig.mounts)]
    gate = Gate(start=0, end=3, to="Settle")
    project = with_section(replace(quay, pools=(Pool(name="Ways"),)), "Low sweep", 1, gates=(gate,))
    to = [v for _, v in choices(project, SpanRef("Low sweep", 1, "gates", 0), SPANS["gates"].fields[0])]
    assert to == ["Wind-up", "Swing", "Settle", "Ways"]


def test_several_spans_share_a_value_or_do_not(quay: Project) -> None:
    refs = [COMBO, SpanRef("Low sweep", 2, "exits", 0)]
    command = next(f for f in SPANS["exits"].fields if f.name == "command")
    blend = next(f for f in SPANS["exits"].fields if f.name == "blend")
    assert shared(quay, refs, command) == ("light", True)
    project = set_fields(quay, refs[:1], blend=9).project
    assert shared(project, refs, blend) == (9, False)


def test_a_pin_turned_twice_is_what_it_was_but_marks_the_pose_anew(quay: Project) -> None:
    once = turn_pin(quay, SWEEP, "start")
    assert once.words == "Sweep: opens by the frame"
    twice = turn_pin(once.project, SWEEP, "start")
    assert (twice.words, twice.project) == ("Sweep: opens by the pose", quay)
    assert turn_pin(quay, DUST, "start").words == "dust: fires by the frame"


# Spans carried over


@given(tick=st.integers(0, 40))
def test_spans_pasted_by_the_frame_keep_their_distances_inside_the_section(
    quay: Project, assets: Assets, tick: int
) -> None:
    compiled = compiled_of(quay, assets, "Low sweep")
    carried = copy_spans(quay, compiled, [SWEEP, COMBO, DUST])
    target = compiled_of(quay, assets, "Overhead hook")
    section = 1
    ticks = target.sections[section].ticks
    at = min(tick, ticks - 1)
    edit, refs = paste_spans(quay, target, section, at, carried, "frame")
    starts = []
    for ref in refs:
        span = span_of(edit.project, ref)
        start = span.tick if isinstance(span, Event) else span.start
        assert 0 <= start < ticks
        starts.append(start)
    assert edit.words == "3 spans: pasted by the frame"
    assert starts[0] == at
    if at + 10 < ticks:
        assert [s - at for s in starts] == [0, 6, 3]


def test_a_span_pasted_by_the_pose_stands_on_the_same_source_time(quay: Project, assets: Assets) -> None:
    compiled = compiled_of(quay, assets, "Low sweep")
    carried = copy_spans(quay, compiled, [SWEEP])
    # The same clip, played from elsewhere and at another rate.
    cut = replace(action(quay, "Low sweep").sections[1].cuts[0], start=0.30, rate=0.6)
    project = with_section(quay, "Thrust", 0, cuts=(cut,))
    target = compiled_of(project, assets, "Thrust")
    edit, refs = paste_spans(project, target, 0, 0, carried, "pose")
    span = span_of(edit.project, refs[0])
    here, there = compiled.sections[1].source, target.sections[0].source
    step = there[1] - there[0]
    assert abs(there[span.start] - here[1]) <= step / 2 + 1e-9
    assert abs(there[span.end] - here[5]) <= step / 2 + 1e-9
    with pytest.raises(Trouble, match="nothing was copied"):
        paste_spans(quay, compiled, 0, 0, (), "pose")


def test_a_gate_pasted_elsewhere_leads_to_a_section_that_is_there(quay: Project, assets: Assets) -> None:
    project = with_section(quay, "Low sweep", 1, gates=(Gate(start=0, end=3, to="Settle"),))
    carried = copy_spans(project, compiled_of(project, assets, "Low sweep"), [SpanRef("Low sweep", 1, "gates", 0)])
    edit, refs = paste_spans(project, compiled_of(project, assets, "Duck roll"), 0, 2, carried, "frame")
    assert span_of(edit.project, refs[0]).to in {s.name for s in action(project, "Duck roll").sections}


# Whole actions and their versions


def test_settings_are_read_as_they_are_written() -> None:
    rows = (Setting(setting="heat", value=1.5), Setting(setting="stance", value=-2.0))
    assert read_settings(write_settings(rows)) == rows
    assert read_settings(" ") == ()
    for bad in ("heat", "= 3", "heat = warm", "heat = 1 = 2"):
        with pytest.raises(Trouble, match="is no setting"):
            read_settings(bad)


def test_fields_of_a_whole_action_are_set_one_step_each(quay: Project) -> None:
    edit = set_start(quay, "Thrust", "cooldown 30 f", cooldown=30)
    assert (edit.words, action(edit.project, "Thrust").start.cooldown) == ("Thrust: cooldown 30 f", 30)
    assert action(edit.project, "Thrust").start.commands == action(quay, "Thrust").start.commands
    ended = set_ending(edit.project, "Thrust", "on_cancelled", "heat = 0", " dropped ")
    assert action(ended.project, "Thrust").on_cancelled.message == "dropped"
    assert set_action(quay, "Thrust", "blend in 9 f", blend_in=9).words == "Thrust: blend in 9 f"


def test_versions_flip_whole_and_what_is_renamed_is_followed_in_them(quay: Project) -> None:
    quay = set_action(quay, "Low sweep", "bare", kept=(), version="first").project
    kept = keep(quay, "Low sweep", "quick").project
    changed = set_action(kept, "Low sweep", "blend in 9 f", blend_in=9).project
    flipped = flip(changed, "Low sweep", 0)
    assert flipped.words == "Low sweep: now as first"
    assert action(flipped.project, "Low sweep").blend_in == action(quay, "Low sweep").blend_in
    assert flip(flipped.project, "Low sweep", 0).project == changed
    renamed = action(rename_clip(changed, "staff_sweep", "swing").project, "Low sweep")
    for version in (renamed, renamed.kept[0].action):
        assert {c.clip for s in version.sections for c in s.cuts} == {"swing"}
    named = rename_action(changed, "Thrust", "Lunge").project
    for version in (action(named, "Low sweep"), action(named, "Low sweep").kept[0].action):
        assert {e.to for s in version.sections for e in s.exits if e.command == "light"} == {"Lunge"}
    assert action(drop(changed, "Low sweep", 0).project, "Low sweep").kept == ()
    for label, says in (("first", "already"), (" ", "needs a name")):
        with pytest.raises(Trouble, match=says):
            keep(kept, "Low sweep", label)

    def slower(a: Action) -> Action:
        return replace(a, speed=0.5)

    assert {k.action.speed for k in throughout(renamed, slower).kept} == {0.5}


def test_a_new_action_like_another_starts_on_nothing_and_keeps_no_versions(quay: Project) -> None:
    project = keep(quay, "Thrust", "long").project
    edit, name = like(project, "Thrust")
    assert (name, edit.words) == ("Thrust 2", "New action Thrust 2, like Thrust")
    made = action(edit.project, "Thrust 2")
    assert made.sections == action(quay, "Thrust").sections
    assert (made.start.commands, made.kept, made.version) == ((), (), "first")
    names = [a.name for a in edit.project.actions]
    assert names.index("Thrust 2") == names.index("Thrust") + 1
