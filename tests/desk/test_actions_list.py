"""The list of actions: taken away, sorted and put into groups by mouse and keys; and what plays lets keys through."""

from __future__ import annotations

import time

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from tests.desk.conftest import Hand, drawn_by, until
from veergust.core.edit.actions import leads_to, remove_action, set_answers
from veergust.core.edit.spans import Edit
from veergust.core.model import Project
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.findings import findings
from veergust.core.study.playout import outline
from veergust.desk.running.frame_timer import FrameTimer
from veergust.desk.shell.window import Window
from veergust.desk.widgets.choose import Chooser

Key = Qt.Key
ALT, CONTROL = Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ControlModifier
LEFT = Qt.MouseButton.LeftButton


def names(window: Window, group: str = "") -> list[str]:
    return [a.name for a in window.document.project.actions if not group or a.group == group]


def drag(window: Window, name: str, onto: str) -> None:
    shown = window.sheet.list
    start, end = (shown.visualRect(shown.row_of(w)).top() for w in (name, onto))
    QTest.mousePress(shown.viewport(), LEFT, pos=QPoint(60, start + 12))
    for y in (start + 24, end + 10):
        QTest.mouseMove(shown.viewport(), QPoint(60, y))
        QApplication.processEvents()
    QTest.mouseRelease(shown.viewport(), LEFT, pos=QPoint(60, end + 10))


def test_actions_are_sorted_and_regrouped_by_dragging_and_by_keys(window: Window) -> None:
    assert names(window, "Staff string")[:3] == ["Low sweep", "Thrust", "Overhead hook"]
    drag(window, "Overhead hook", "Low sweep")
    assert names(window, "Staff string")[:3] == ["Overhead hook", "Low sweep", "Thrust"]
    drag(window, "Overhead hook", "Evade")
    assert names(window, "Evade")[:2] == ["Overhead hook", "Duck roll"]
    QTest.keyClick(window.sheet.list, Key.Key_Down, ALT)
    assert names(window, "Evade")[:2] == ["Duck roll", "Overhead hook"]
    for _ in range(3):
        QTest.keyClick(window, Key.Key_Z, CONTROL)
    assert names(window, "Staff string")[:3] == ["Low sweep", "Thrust", "Overhead hook"]


def in_sight(window: Window) -> bool:
    shown = window.sheet.list
    seen = shown.viewport().rect().adjusted(0, 0, 0, 1)  # Qt scrolls a pixel short
    return seen.contains(shown.visualRect(shown.row_of(window.document.action)))


@pytest.fixture
def many(window: Window, quay: Project) -> list[str]:
    """The window with 150 actions in three groups, in the order of the list."""
    actions = [replace(quay.actions[n % 15], name=f"Move {n}", group=f"Part {n // 50}") for n in range(150)]
    window.document.apply(Edit(replace(quay, actions=tuple(actions)), "many"))
    window.document.choose_action("Move 0")
    window.sheet.list.setFocus()
    return [a.name for a in actions]


def test_the_list_follows_the_open_action_wherever_it_is_opened_from(window: Window, many: list[str]) -> None:
    shown = window.sheet.list
    for _ in range(60):
        QTest.keyClick(shown, Key.Key_Down)
    assert window.document.action == "Move 60"
    assert in_sight(window)
    for key, name in ((Key.Key_End, many[-1]), (Key.Key_Home, many[0])):
        QTest.keyClick(shown, key)
        assert window.document.action == name
        assert in_sight(window)
    QTest.keyClick(shown, Key.Key_PageDown)
    assert many.index(window.document.action) > 5
    assert in_sight(window)
    window.document.choose_action("Move 120")
    assert in_sight(window)
    window.document.apply(Edit(replace(window.document.project, name="other"), "a step"))
    assert in_sight(window)


def test_an_action_is_found_by_typing_and_what_is_no_name_goes_on_to_the_bench(window: Window, many: list[str]) -> None:
    shown = window.sheet.list
    QTest.keyClicks(shown, "move 77")
    assert window.document.action == "Move 77"
    assert in_sight(window)
    assert not window.sheet.playing
    until(lambda: shown._typed.hasExpired(QApplication.keyboardInputInterval()))
    QTest.keyClick(shown, Key.Key_Space)
    assert window.sheet.playing
    QTest.keyClick(shown, Key.Key_Space)
    assert not window.sheet.playing
    assert window.document.action == "Move 77"


def test_groups_fold_by_keys_and_mouse_and_open_for_what_is_opened_in_them(window: Window, many: list[str]) -> None:
    shown = window.sheet.list
    first, second = shown.row_of("Part 0"), shown.row_of("Part 1")
    QTest.keyClick(shown, Key.Key_Left)
    assert not shown.isExpanded(first)
    assert window.document.action == "Move 0"  # folded away, and open all the same
    window.document.apply(Edit(replace(window.document.project, name="other"), "a step"))
    assert not shown.isExpanded(first)
    QTest.keyClick(shown, Key.Key_Down)
    assert window.document.action == "Move 50"
    QTest.keyClick(shown, Key.Key_Up)
    QTest.keyClick(shown, Key.Key_Right)
    assert shown.isExpanded(first)
    QTest.keyClick(shown, Key.Key_Left)
    QTest.mouseClick(shown.viewport(), LEFT, pos=shown.visualRect(second).center())
    assert not shown.isExpanded(second)
    QTest.mouseClick(shown.viewport(), LEFT, pos=shown.visualRect(second).center())
    assert shown.isExpanded(second)
    window.document.choose_action("Move 3")
    assert shown.isExpanded(first)
    assert in_sight(window)


def test_a_row_that_nobody_sees_costs_nothing_and_bars_have_one_scale_when_all_are_measured(
    window: Window, quay: Project
) -> None:
    actions = [replace(quay.actions[n % 15], name=f"Move {n}", speed=1.0 + n / 1000) for n in range(300)]
    slow = replace(actions[-1], speed=0.1)
    window.document.apply(Edit(replace(quay, actions=(*actions[:-1], slow)), "many"))
    shown, build = window.sheet.list, window.document.build
    assert len(build._actions) < 150
    until(lambda: not shown._slices.busy)
    compiled = build.action(slow.name)
    assert compiled is not None
    longest = max(outline(build, c)[0] for a in window.document.project.actions if (c := build.action(a.name)))
    assert shown.rows.longest == longest == outline(build, compiled)[0]


@pytest.mark.parametrize(("typed", "instead"), [("take along", ""), ("Overhead", "Overhead hook")])
def test_an_action_is_removed_and_what_leads_to_it_goes_along_or_elsewhere(
    typed: str, instead: str, window: Window, monkeypatch: pytest.MonkeyPatch
) -> None:
    asked: list[list[str]] = []

    def choose(dialog: Chooser) -> int:
        asked.append(dialog.names)
        dialog.show()
        QTest.keyClicks(dialog.line, typed)
        QTest.keyClick(dialog, Key.Key_Return)
        return dialog.result()

    monkeypatch.setattr(Chooser, "exec", choose)
    document = window.document
    document.choose_action("Thrust")
    before = document.project
    led = leads_to(before, "Thrust")
    assert led
    QTest.keyClick(window.sheet.list, Key.Key_Delete)
    assert all(part in asked[0][0] for part in led[:3])
    assert "Thrust" not in names(window)
    exits = [e for a in document.project.actions for s in a.sections for e in s.exits if e.to_kind == "action"]
    assert all(e.to != "Thrust" for e in exits)
    there = [
        sum(e.to == "Overhead hook" for a in q.actions for s in a.sections for e in s.exits)
        for q in (before, document.project)
    ]
    assert (there[1] > there[0]) == bool(instead)
    found = findings(CompiledProject(document.project, document.build.assets))
    assert not [f for f in found if f.level == "error"]
    QTest.keyClick(window, Key.Key_Z, CONTROL)
    assert document.project == before


def test_removing_every_action_leaves_nothing_that_leads_nowhere(quay: Project, window: Window) -> None:
    project = quay
    for action in quay.actions:
        project = remove_action(project, action.name).project
        found = findings(CompiledProject(project, window.document.build.assets))
        assert not [f for f in found if f.level == "error"], action.name
    assert project.actions == ()


def test_a_reaction_is_chosen_on_the_actions_page(window: Window, quay: Project) -> None:
    for when in ("front", "any", "last", "guarding", ""):
        made = set_answers(quay, "Thrust", when).project
        mine = [r for r in made.reactions if r.action == "Thrust"]
        assert len(mine) == (1 if when else 0)
        others = [r for r in made.reactions if r.action != "Thrust"]
        assert others == [r for r in quay.reactions if r.action != "Thrust"]


def test_the_dial_on_the_stage_turns_ahead(window: Window) -> None:
    window.show_bench("Clips")
    clips = window.clips
    window.document.choose_clip("walk")
    clips.show_card(3)
    QApplication.processEvents()
    view, tool = clips.stage.view, clips.facing_tool
    body = tool.body()
    assert body is not None
    start, end = tool.arrow(view), tool._spot(view, body, 60.0)
    QTest.mousePress(view, LEFT, pos=start.toPoint())
    for share in (0.4, 0.8, 1.0):
        QTest.mouseMove(view, (start + (end - start) * share).toPoint())
        QApplication.processEvents()
    QTest.mouseRelease(view, LEFT, pos=end.toPoint())
    clip = window.document.build.clip("walk")
    assert clip is not None
    assert clip.forward == pytest.approx(60.0, abs=3.0)
    # The figure turns under its capsule, and travels where ahead is not.
    travel = clips.root.goes.text()
    assert "left -" in travel
    clips.root.forward.setValue(0.0)
    clips.root.forward.editingFinished.emit()


@pytest.mark.pictured
def test_keys_are_answered_while_the_drawing_is_slow(window: Window, hand: Hand) -> None:
    """On a machine that takes 40 ms for a picture, frames are left out, and a key waits for two of them at most."""
    view = window.sheet.stage.view
    picture = drawn_by(view)
    order: list[str] = []
    paint = picture.paintGL

    def slow() -> None:
        time.sleep(0.04)
        order.append("drawn")
        paint()

    def answer() -> None:
        order.append("answered")

    picture.paintGL = slow  # type: ignore[method-assign]
    hand.keys(Key.Key_Space)
    clock = QTimer()

    def ask() -> None:
        order.append("asked")
        QTimer.singleShot(0, answer)

    clock.timeout.connect(ask)
    clock.start(25)
    until(lambda: order.count("answered") > 20 and order.count("drawn") > 5)
    clock.stop()
    hand.keys(Key.Key_Space)
    picture.paintGL = paint  # type: ignore[method-assign]
    assert not window.sheet.playing
    waits, drawn = [], 0
    for what in order[order.index("asked") :]:
        drawn = 0 if what == "asked" else drawn + (what == "drawn")
        if what == "answered":
            waits.append(drawn)
    assert max(waits) <= 2


@pytest.mark.pictured
def test_a_beat_comes_after_what_it_asked_to_be_drawn(window: Window) -> None:
    beat, order = FrameTimer(window, 1), []
    picture = drawn_by(window.sheet.stage.view)
    paint = picture.paintGL

    def drawn() -> None:
        order.append("drawn")
        paint()

    picture.paintGL = drawn  # type: ignore[method-assign]

    def fire() -> None:
        order.append("beat")
        window.sheet.stage.view.update()

    beat.timeout.connect(fire)
    beat.start()
    until(lambda: order.count("beat") > 6)
    beat.stop()
    picture.paintGL = paint  # type: ignore[method-assign]
    first = order.index("beat")
    pairs = list(zip(order[first:], order[first + 1 :]))
    assert ("beat", "beat") not in pairs


@pytest.mark.pictured
def test_nothing_is_drawn_while_nothing_changes(window: Window) -> None:
    """A text cursor in a field, and a second of nothing: the stage is not drawn once."""
    window.sheet.show_page(3)
    window.sheet.page_stack.action.group.setFocus()
    view = window.sheet.stage.view
    until(lambda: view.isVisible())
    QTest.qWait(200)
    count = [0]
    drawn_by(view).frameSwapped.connect(lambda: count.__setitem__(0, count[0] + 1))
    QTest.qWait(1300)
    assert count[0] == 0
