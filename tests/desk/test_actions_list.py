"""The list of actions: taken away, sorted and put into groups by mouse and keys; and what plays lets keys through."""

from __future__ import annotations

import time

import pytest
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from tests.desk.conftest import Hand, drawn_by, until
from veergust.core.edit.actions import leads_to, remove_action, set_answers
from veergust.core.model import Project
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.findings import findings
from veergust.desk.shell.window import Window
from veergust.desk.widgets.choose import Chooser
from veergust.desk.widgets.frame_timer import FrameTimer

Key = Qt.Key
ALT, CONTROL = Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ControlModifier
LEFT = Qt.MouseButton.LeftButton


def names(window: Window, group: str = "") -> list[str]:
    return [a.name for a in window.document.project.actions if not group or a.group == group]


def drag(window: Window, name: str, onto: str) -> None:
    shown = window.sheet.list
    start, end = (next(x for x in shown.lines if w in (x.action, x.group)) for w in (name, onto))
    at = QPoint(60, start.top + 12)
    QTest.mousePress(shown, LEFT, pos=at)
    for y in (start.top + 24, end.top + 6):
        QTest.mouseMove(shown, QPoint(60, y))
        QApplication.processEvents()
    QTest.mouseRelease(shown, LEFT, pos=QPoint(60, end.top + 6))


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
        return int(dialog.result())

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
