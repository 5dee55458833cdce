"""Looking at things changes nothing: whatever is opened, on whatever page, the project stays as it is."""

from __future__ import annotations

import pytest
from msgspec.structs import replace
from PySide6.QtWidgets import QAbstractButton, QApplication

from veergust.core.edit.commands import GESTURES, add_command, set_gesture
from veergust.core.edit.drills import hold_over
from veergust.core.edit.spans import Edit, SpanRef
from veergust.core.kinds.spans import SPANS
from veergust.core.model import Project
from veergust.desk.shell.benches import BENCHES
from veergust.desk.shell.window import Window


def unlike(quay: Project) -> Project:
    """The demo with clips of other ins, outs and rates from one to the next, so that no field fits two of them."""
    clips = [
        replace(c, start=round(0.03 * (n % 4), 3), end=None if n % 3 == 0 else round(0.21 + 0.05 * (n % 5), 3),
                rate=(1.0, 0.4, 2.5, 9.0)[n % 4])
        for n, c in enumerate(quay.clips)
    ]  # fmt: skip
    return replace(quay, clips=tuple(clips))


@pytest.fixture
def looked_at(window: Window, quay: Project) -> Window:
    window.document.apply(Edit(unlike(quay), "unlike"))
    return window


def nothing_was_done(window: Window, project: Project, what: str) -> None:
    assert [s.words for s in window.document.done] == ["unlike"], what
    assert window.document.project is project, what


def test_opening_any_clip_on_any_page_edits_none(looked_at: Window) -> None:
    document = looked_at.document
    looked_at.show_bench("Clips")
    project, names = document.project, [c.name for c in document.project.clips]
    for n in range(len(looked_at.clips.page_buttons)):
        looked_at.clips.show_card(n)
        # From each to each other one is too many: there and back, and on other pages by strides.
        for name in (*names, *reversed(names)) if n == 0 else (*names[n % 3 :: 3], *reversed(names[::4])):
            document.choose_clip(name)
            nothing_was_done(looked_at, project, f"page {n}, {name}")
        QApplication.processEvents()
        nothing_was_done(looked_at, project, f"page {n}, drawn")


def test_opening_any_action_and_span_on_any_page_edits_none(looked_at: Window) -> None:
    document, sheet = looked_at.document, looked_at.sheet
    looked_at.show_bench("Sheet")
    project = document.project
    for n in range(len(sheet.page_buttons)):
        sheet.show_page(n)
        for action in project.actions:
            document.choose_action(action.name)
            for s, section in enumerate(action.sections):
                for kind in SPANS.values():
                    for i in range(len(kind.of(section))):
                        document.select(SpanRef(action.name, s, kind.key, i))
                        nothing_was_done(looked_at, project, f"page {n}, {action.name}, {kind.key} {i}")
            document.move_to(10**6)
            nothing_was_done(looked_at, project, f"page {n}, {action.name}, its end")
        QApplication.processEvents()
        nothing_was_done(looked_at, project, f"page {n}, drawn")


def test_opening_any_state_transition_and_layer_edits_none(looked_at: Window) -> None:
    project = looked_at.document.project
    looked_at.show_bench("Ground")
    names = [*(s.name for s in project.locomotion.states), *(g.name for g in project.locomotion.groups)]
    for name in names[::3]:
        looked_at.ground.selection.choose(name)
        through_its_pages(looked_at, project, name)
    looked_at.show_bench("Layers")
    for layer in project.layers:
        looked_at.layers.selection.choose(layer.name)
        through_its_pages(looked_at, project, layer.name)


def through_its_pages(window: Window, project: Project, what: str) -> None:
    for button in window.bench_of(window.bench).findChildren(QAbstractButton):
        if button.objectName() == "page" and button.isVisible():
            button.click()
            QApplication.processEvents()
            nothing_was_done(window, project, f"{window.bench}, {button.text()}, {what}")


def test_going_through_every_bench_and_page_edits_nothing(looked_at: Window) -> None:
    project = looked_at.document.project
    for name in (*BENCHES, *reversed(list(BENCHES))):
        looked_at.show_bench(name)
        through_its_pages(looked_at, project, "")


def test_opening_any_command_drill_and_fighter_edits_none(looked_at: Window) -> None:
    document, spar = looked_at.document, looked_at.spar
    project = document.project
    for kind in GESTURES:
        project = set_gesture(add_command(project, kind).project, kind, kind).project
    for n, drill in enumerate(project.drills):
        project = hold_over(project, drill.name, "distance", 0.5 * n, 0.5 * n + 1.0).project if n % 2 else project
    document.apply(Edit(project, "more"))
    looked_at.show_bench("Spar")
    steps = len(document.done)
    for show in (spar.show_commands, spar.show_drills, spar.stand):
        show(True)
        for _ in range(2):
            for command in project.commands:
                spar.commands.choose(command.name)
            for row in range(len(project.drills)):
                spar.drills.list.setCurrentRow(row)
            for n in range(spar.standing.which.count()):
                spar.standing.which.setCurrentIndex(n)
                spar.standing.which.activated.emit(n)
            QApplication.processEvents()
            assert (len(document.done), document.project) == (steps, project)
