"""The document: every change one step, shown while it is made, never lost."""

from __future__ import annotations

import random
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot
from tools.made.edits import replace, with_action

from tests.desk.conftest import STRIKE
from veergust.core.edit.spans import Edit, SpanRef, add, remove, set_edges, span_of
from veergust.core.files.as_files import project_files
from veergust.core.files.folder import open_project
from veergust.core.kinds.facts import written
from veergust.core.kinds.spans import SPANS
from veergust.desk.document.document import Document
from veergust.desk.frame.session import Session


@pytest.fixture
def document(qtbot: QtBot, folder: Path) -> Document:
    made = Document()
    assert made.open(folder)
    return made


def moved(document: Document, start: int) -> Edit:
    compiled = document.compiled
    assert compiled is not None
    return set_edges(document.base, compiled, STRIKE, start, start + 4)


def test_a_hundred_random_edits_undone_and_redone_give_the_same_bytes(document: Document) -> None:
    rng = random.Random(8)
    states = [project_files(document.project)]
    for _ in range(100):
        project, compiled = document.project, document.build.action("Low sweep")
        assert compiled is not None
        section = rng.randrange(3)
        kind = rng.choice(list(SPANS))
        ref = SpanRef("Low sweep", section, kind, 0)
        choice = rng.random()
        if span_of(project, ref) is None or choice < 0.25:
            edit, _ = add(project, ref, rng.randrange(4), rng.randrange(4, 8))
        elif choice < 0.4:
            edit = remove(project, ref)
        else:
            edit = set_edges(project, compiled, ref, rng.randrange(-2, 20), rng.randrange(0, 24))
        if document.apply(edit):
            states.append(project_files(document.project))
    for state in reversed(states[:-1]):
        document.undo()
        assert project_files(document.project) == state
    for state in states[1:]:
        document.redo()
        assert project_files(document.project) == state


def test_an_edit_that_changes_nothing_is_no_step(document: Document) -> None:
    assert not document.apply(moved(document, 1))
    assert not document.done


def test_a_new_edit_forgets_what_was_undone(document: Document) -> None:
    document.apply(moved(document, 2))
    document.undo()
    document.apply(moved(document, 3))
    document.redo()
    assert span_of(document.project, STRIKE).start == 3
    assert len(document.done) == 1


def test_a_preview_is_seen_and_is_one_step_in_the_end(document: Document) -> None:
    before = document.project
    for start in (2, 3, 4):
        document.preview(moved(document, start).project)
        assert span_of(document.project, STRIKE).start == start
        assert document.base is before
    document.apply(moved(document, 4))
    assert len(document.done) == 1
    document.undo()
    assert document.project is before


def test_undo_in_the_middle_of_a_drag_gives_the_drag_up(document: Document) -> None:
    document.apply(moved(document, 2))
    document.preview(moved(document, 5).project)
    document.undo()
    assert span_of(document.project, STRIKE).start == 1
    assert not document.dragging
    assert document.base is document.project
    document.preview(moved(document, 6).project)
    document.redo()
    assert not document.dragging
    assert span_of(document.base, STRIKE).start == 2


def test_facts_follow_at_once_and_the_kept_ones_stay(document: Document) -> None:
    document.apply(moved(document, 3))
    now, kept = document.derived.facts("Low sweep"), document.derived.kept_facts("Low sweep")
    assert now is not None
    assert kept is not None
    assert (kept.startup, now.startup) == (9, 11)
    assert written(now)["recovery"] == "31"
    assert written(now)["on guard"] == "−34"
    document.save()
    after = document.derived.kept_facts("Low sweep")
    assert after is not None
    assert after.startup == 11


def test_a_selection_that_is_gone_is_let_go(document: Document) -> None:
    document.select(STRIKE)
    document.apply(remove(document.project, STRIKE))
    assert document.selection is None
    document.undo()
    assert span_of(document.project, STRIKE) is not None


def test_the_playhead_stays_inside_the_action(document: Document) -> None:
    document.move_to(999)
    assert document.frame == 45
    document.move_to(-3)
    assert document.frame == 0
    document.move_to(45)
    short = replace(document.project.actions[0], sections=document.project.actions[0].sections[:1])
    document.apply(Edit(with_action(document.project, "Low sweep", sections=short.sections), "shorter"))
    assert document.frame == 7


def test_an_action_taken_away_leaves_another_open(document: Document) -> None:
    document.choose_action("Thrust")
    rest = tuple(a for a in document.project.actions if a.name != "Thrust")
    document.apply(Edit(replace(document.project, actions=rest), "gone"))
    assert document.action == "Low sweep"
    document.apply(Edit(replace(document.project, actions=()), "all gone"))
    assert document.compiled is None
    document.undo()
    document.undo()
    assert document.build.action("Thrust") is not None


def test_saving_elsewhere_takes_the_clips_along(document: Document, folder: Path, tmp_path: Path) -> None:
    document.apply(moved(document, 3))
    target = tmp_path / "elsewhere.veergust"
    assert document.save(target)
    assert document.folder == target
    assert not document.unsaved
    other = Document()
    assert other.open(target)
    assert span_of(other.project, STRIKE).start == 3
    assert other.mesh is not None
    assert span_of(open_project(folder), STRIKE).start == 1


def test_the_first_problem_is_said_and_the_rest_counted(document: Document, folder: Path, qtbot: QtBot) -> None:
    for name in ("overhead", "staff_thrust"):
        (folder / "clips" / f"{name}.glb").unlink()
    with qtbot.waitSignal(document.said) as said:
        assert document.open(folder)
    words, error = said.args
    assert error
    assert "thrust.json, sections[0].cuts[0].clip" in words
    assert "and 5 more" in words


def test_a_session_keeps_its_take_through_an_edit(document: Document) -> None:
    session = Session(document)
    session.restart()
    for _ in range(30):
        session.tick()
    first = [r.line() for r in session.records]
    document.apply(moved(document, 3))
    session.use_project()
    session.tick()
    assert [r.line() for r in session.records[:31]] == first
    assert session.simulation.build is document.build
    session.look_at(-5)
    assert session.at == 0
    session.back()
    assert session.at == 0
    session.look_at(10_000)
    assert session.at == len(session.records) - 1
