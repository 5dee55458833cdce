"""Every kind is whole: it has its words, its fields, a role that is printed, and what it makes is right at once."""

from __future__ import annotations

from typing import get_args

import pytest
from msgspec.structs import fields, replace
from tools.made.edits import with_section

from veergust.core.edit.spans import SpanRef, add, span_of
from veergust.core.kinds.conditions import CONDITIONS, sentence
from veergust.core.kinds.drives import DRIVES
from veergust.core.kinds.fields import SOURCES
from veergust.core.kinds.settings import SETTINGS, held_words
from veergust.core.kinds.spans import SPANS, kind_of, title
from veergust.core.model import Drive, Project, Section
from veergust.core.model.base import Test
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.findings import found_in_action
from veergust.core.study.now import now
from veergust.look import THEMES

SECTION = 1


def test_every_condition_that_files_may_hold_has_its_module_and_reads_as_a_sentence(quay: Project) -> None:
    assert list(CONDITIONS) == list(get_args(Test))
    assert len({kind.label for kind in CONDITIONS.values()}) == len(CONDITIONS)
    for name, kind in CONDITIONS.items():
        fresh = kind.fresh(name, quay)
        assert fresh.test == name
        assert (fresh.name != "") == bool(kind.of)
        words = sentence((fresh,))
        assert words
        assert "{" not in words
        if kind.truth:
            assert sentence((replace(fresh, value=0.0),)) != words


@pytest.mark.parametrize("key", list(SPANS))
def test_a_new_span_of_every_kind_is_right_at_once(key: str, quay: Project, assets: Assets) -> None:
    """It lies where it was put, nothing is wrong with it, and it has its line on the Now card and its role."""
    kind = SPANS[key]
    project = with_section(quay, "Low sweep", SECTION, **dict.fromkeys(SPANS, ()))
    edit, ref = add(project, SpanRef("Low sweep", SECTION, key, 0), 1, 4)
    span = span_of(edit.project, ref)
    assert kind_of(span) is kind
    assert type(kind.example()) is type(span)
    assert (span.tick,) == (1,) if kind.moment else (span.start, span.end) == (1, 4)
    assert title(span) in edit.words
    assert all(kind.lines(span, None)[:1])
    build = CompiledProject(edit.project, assets)
    assert [f for f in found_in_action(build, "Low sweep") if f.at.kind == key and f.level == "error"] == []
    compiled = build.action("Low sweep")
    assert compiled is not None
    lines = [i.kind for i in now(build, compiled, compiled.start_of(SECTION) + 2).items]
    assert (key in lines) is not kind.moment
    for look in THEMES.values():
        assert kind.role(span) in look.roles


@pytest.mark.parametrize("key", list(SPANS))
def test_a_span_outside_its_section_is_told_with_its_place(key: str, quay: Project, assets: Assets) -> None:
    project = with_section(quay, "Low sweep", SECTION, **dict.fromkeys(SPANS, ()))
    edit, ref = add(project, SpanRef("Low sweep", SECTION, key, 0), 1, 4)
    span = span_of(edit.project, ref)
    far = replace(span, tick=900) if SPANS[key].moment else replace(span, end=900)
    build = CompiledProject(with_section(edit.project, "Low sweep", SECTION, **{key: (far,)}), assets)
    [found] = [f for f in found_in_action(build, "Low sweep") if "outside" in f.code]
    assert (found.at.name, found.at.section, found.at.kind, found.at.index) == ("Low sweep", SECTION, key, 0)
    assert found.where.startswith("Low sweep › ")


def test_the_kinds_are_those_of_the_model() -> None:
    held = {f.name for f in fields(Section)} - {"name", "cuts", "then", "mark", "posture", "identity"}
    assert set(SPANS) == held
    assert all(kind.column is not None or kind.beside in SPANS for kind in SPANS.values())
    asked = {f.of for kind in SPANS.values() for f in kind.fields if f.of}
    assert asked == set(SOURCES)
    [drive] = [f for f in fields(Drive) if f.name == "kind"]
    assert list(DRIVES) == list(get_args(drive.type))


def test_every_setting_that_is_taken_away_is_said_in_words() -> None:
    for name, kind in SETTINGS.items():
        assert held_words(name, 0.0) == kind.off
        assert kind.of({}) == kind.usual
        assert not kind.on({name: 0.0})
    assert held_words("swim", 0.5) == "swim is held at 0.5"
