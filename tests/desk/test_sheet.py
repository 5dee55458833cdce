"""The Sheet bench driven with real mouse and key events."""

from __future__ import annotations

from pathlib import Path

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot
from tools.made.edits import with_action

from tests.desk.conftest import STRIKE, Hand, focused, until
from veergust.core.edit.spans import Edit, SpanRef, set_edges, span_of
from veergust.core.files.folder import open_project
from veergust.core.kinds.facts import written
from veergust.core.study.facts import facts
from veergust.desk.sheet.facts_strip import LONG
from veergust.desk.shell.window import Window

SHIFT, ALT, CONTROL = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.AltModifier,
    Qt.KeyboardModifier.ControlModifier,
)
Key = Qt.Key


def strike(window: Window) -> tuple[int, int]:
    span = span_of(window.document.project, STRIKE)
    return span.start, span.end


def test_a_strike_dragged_two_frames_later_is_seen_everywhere_undone_saved_and_opened(
    window: Window, hand: Hand, folder: Path
) -> None:
    document, facts = window.document, window.sheet.facts
    assert facts.texts["startup"] == "9"
    start = hand.spot(STRIKE, "body")
    hand.press(start)
    hand.move(QPointF(start.x(), start.y() + 15))
    assert facts.texts["startup"] == "9 → 10"  # already while dragging
    assert not document.done
    end = QPointF(start.x(), start.y() + 30)
    hand.move(end)
    assert document.frame == 11  # the stage shows the pose under the edge
    assert window.sheet.now.now.frame == 11
    assert window.sheet.now.now.items[0].says.startswith("Sweep is open until 15")
    hand.release(end)
    assert strike(window) == (3, 7)
    assert facts.texts["startup"] == "9 → 11"
    assert facts.texts["recovery"] == "33 → 31"
    assert [step.words for step in document.done] == ["Sweep: moved +2 f, opens at 9 → 11"]
    assert window.findings_button.isHidden()
    assert "•" in window.windowTitle()
    QTest.keyClick(window, Key.Key_Z, CONTROL)
    assert strike(window) == (1, 5)
    assert "•" not in window.windowTitle()
    QTest.keyClick(window, Key.Key_Y, CONTROL)
    assert strike(window) == (3, 7)
    QTest.keyClick(window, Key.Key_S, CONTROL)
    assert "•" not in window.windowTitle()
    assert facts.texts["startup"] == "11"
    same = open_project(folder) == document.project
    assert same
    assert window.open_project(folder)
    assert strike(window) == (3, 7)


@pytest.mark.parametrize(("part", "frames", "wanted"), [("start", 2, (3, 5)), ("end", 3, (1, 8)), ("start", -9, (0, 5)),
                                                         ("end", 30, (1, 12)), ("start", 9, (4, 5)), ("body", -5, (0, 4))])  # fmt: skip
def test_edges_and_bodies_are_dragged_and_stay_inside(
    part: str, frames: int, wanted: tuple[int, int], window: Window, hand: Hand
) -> None:
    hand.drag(STRIKE, part, frames)
    assert strike(window) == wanted
    assert len(window.document.done) == 1


def test_a_drag_given_up_changes_nothing(window: Window, hand: Hand) -> None:
    before = window.document.project
    start = hand.spot(STRIKE, "end")
    hand.press(start)
    hand.move(QPointF(start.x(), start.y() + 45))
    assert window.document.project is not before
    hand.keys(Key.Key_Escape)
    assert window.document.project is before
    hand.release(start)
    assert not window.document.done


def test_the_keyboard_does_what_the_mouse_does(window: Window, hand: Hand) -> None:
    hand.keys(Key.Key_Home, *[Key.Key_Down] * 10)
    assert window.document.frame == 10
    hand.keys(Key.Key_Right, Key.Key_Left)
    assert window.document.selection == STRIKE
    hand.keys((Key.Key_Down, SHIFT), (Key.Key_Down, SHIFT))
    assert strike(window) == (1, 7)
    hand.keys((Key.Key_Down, ALT))
    assert strike(window) == (2, 8)
    hand.keys((Key.Key_Up, SHIFT | CONTROL))
    assert strike(window) == (1, 8)
    hand.keys(Key.Key_E, Key.Key_1, Key.Key_2, Key.Key_Return)
    assert strike(window) == (4, 8)
    assert window.document.frame == 12
    hand.keys(Key.Key_E, Key.Key_1, Key.Key_5, Key.Key_Return)
    assert strike(window) == (4, 7)
    hand.keys(Key.Key_Delete)
    assert window.document.project.actions[0].sections[1].strikes == ()
    hand.keys(Key.Key_Home, *[Key.Key_Down] * 9, Key.Key_N)
    assert strike(window) == (1, 5)
    assert window.document.selection == STRIKE
    for _ in range(8):
        QTest.keyClick(window, Key.Key_Z, CONTROL)
    assert strike(window) == (1, 5)
    assert not window.document.done


def test_tab_visits_every_span_and_then_goes_on(window: Window, hand: Hand) -> None:
    hand.sheet.setFocus()
    seen = []
    for _ in range(60):
        QTest.keyClick(focused(), Key.Key_Tab)
        if QApplication.focusWidget() is not hand.sheet:
            break
        seen.append(window.document.selection)
    assert len(seen) == len(set(seen)) == len(hand.sheet.layout_.placed)
    assert QApplication.focusWidget() is not hand.sheet


def test_a_double_click_puts_a_new_span_where_it_is_free(window: Window, hand: Hand) -> None:
    left, width = hand.sheet.layout_.columns["shields"]
    at = hand.point(left + width / 2, hand.sheet.layout_.y(24) + 4)
    QTest.mouseDClick(hand.sheet.viewport(), Qt.MouseButton.LeftButton, pos=at)
    shields = window.document.project.actions[0].sections[2].shields
    assert [(s.start, s.end) for s in shields] == [(4, 8)]


def test_scrubbing_in_the_frame_column_moves_the_playhead_and_the_scene(window: Window, hand: Hand) -> None:
    before = window.sheet.stage.view.scene.bodies[0].joints
    hand.press(QPointF(20, hand.sheet.layout_.y(5) + 4))
    hand.move(QPointF(20, hand.sheet.layout_.y(22) + 4))
    hand.release(QPointF(20, hand.sheet.layout_.y(22) + 4))
    assert window.document.frame == 22
    assert abs(window.sheet.stage.view.scene.bodies[0].joints - before).max() > 0.1


def test_events_move_by_mouse_and_key(window: Window, hand: Hand) -> None:
    ref = SpanRef("Low sweep", 1, "events", 0)
    hand.drag(ref, "body", 3)
    assert span_of(window.document.project, ref).tick == 4
    hand.keys((Key.Key_Up, ALT))
    assert span_of(window.document.project, ref).tick == 3
    assert window.document.done[-1].words == "trail on: frame 12 → 11"


def test_space_plays_and_comma_steps(window: Window, hand: Hand, qtbot: QtBot) -> None:
    hand.keys(Key.Key_Space)
    assert window.sheet.playing
    qtbot.waitUntil(lambda: window.document.frame > 3)
    hand.keys(Key.Key_Space)
    assert not window.sheet.playing
    window.document.move_to(10)
    frame = window.document.frame
    hand.keys(Key.Key_Period, Key.Key_Period, Key.Key_Comma)
    assert window.document.frame == frame + 1


def test_rows_fold_and_the_playhead_stays_in_sight(window: Window, hand: Hand) -> None:
    hand.sheet.set_fold(4)
    assert hand.sheet.layout_.height == pytest.approx(46 * 15 / 4)
    assert hand.sheet.layout_.hit(QPointF(20, 16.0)).frame == 4
    hand.drag(STRIKE, "end", 2)
    assert strike(window) == (1, 7)
    hand.sheet.set_fold(1)
    hand.keys(Key.Key_End)
    bar = hand.sheet.verticalScrollBar()
    y = hand.sheet.widget_point(0, hand.sheet.layout_.y(window.document.frame)).y()
    assert 0 < y < hand.sheet.viewport().height()
    assert bar.value() > 0


def test_a_line_of_the_now_card_leads_to_its_span(window: Window, hand: Hand) -> None:
    window.document.move_to(11)
    card = window.sheet.now
    at = next(i for i, item in enumerate(card.shown()) if item.role == "combo")
    QTest.mouseClick(
        card, Qt.MouseButton.LeftButton, pos=card.rect().topLeft() + QPointF(80, 62 + at * 27 + 10).toPoint()
    )
    assert window.document.selection == SpanRef("Low sweep", 1, "exits", 0)


def test_a_finding_shows_at_once_and_goes_with_its_cause(window: Window, hand: Hand) -> None:
    window.document.apply(Edit(with_action(window.document.project, "Low sweep", layer="Legs"), "wrong layer"))
    assert window.findings_button.text() == "1 finding"
    assert window.findings_button.isVisible()
    QTest.keyClick(window, Key.Key_Z, CONTROL)
    assert not window.findings_button.isVisible()


def test_another_action_is_opened_from_the_list(window: Window) -> None:
    actions = window.sheet.list
    at = actions.visualRect(actions.row_of("Overhead hook")).center()
    QTest.mouseClick(actions.viewport(), Qt.MouseButton.LeftButton, pos=at)
    assert window.document.action == "Overhead hook"
    assert window.sheet.facts.texts["startup"] == "25"
    QTest.keyClick(actions, Key.Key_Up)
    assert window.document.action == "Thrust"


def test_sections_fold_to_a_line_by_key_and_mouse_and_open_for_what_is_selected(window: Window, hand: Hand) -> None:
    sheet = hand.sheet
    tall = sheet.layout_.height

    def shut() -> list[int]:
        return [s.section for s in sheet.layout_.stretches if s.folded]

    window.document.move_to(12)
    hand.keys(Key.Key_Z)
    assert shut() == [1]
    assert sheet.layout_.height < tall
    hand.keys(Key.Key_Down)  # the playhead goes on through the line
    assert window.document.frame == 13
    top = sheet.layout_.row_top(13)
    QTest.mouseDClick(sheet.viewport(), Qt.MouseButton.LeftButton, pos=hand.point(300, top + 10))
    assert (shut(), sheet.layout_.height) == ([], tall)
    hand.keys((Key.Key_Z, Qt.KeyboardModifier.ShiftModifier))  # all but the one under the playhead
    assert shut() == [0, 2]
    window.document.select(SpanRef("Low sweep", 2, "exits", 0))
    assert shut() == [0]
    hand.keys((Key.Key_Z, Qt.KeyboardModifier.ShiftModifier), (Key.Key_Z, Qt.KeyboardModifier.ShiftModifier))
    assert shut() == []
    before = window.document.project
    hand.keys(Key.Key_Z)
    assert window.document.project is before  # folding is how it is looked at, no edit


def test_a_long_action_has_an_overview_that_leads_anywhere_in_it(window: Window) -> None:
    document, overview = window.document, window.sheet.overview
    document.choose_action("Braced charge")
    QApplication.processEvents()
    assert overview.isVisible()
    assert document.compiled is not None
    last = document.compiled.rows - 1
    bar = window.sheet.sheet.verticalScrollBar()
    for frame in (last, last // 2, 0):
        QTest.mouseClick(overview, Qt.MouseButton.LeftButton, pos=QPoint(20, round(overview.y_of(frame) + 1)))
        assert abs(document.frame - frame) <= 1
        assert (bar.value() > 0) == (frame > 0)
    QTest.mousePress(overview, Qt.MouseButton.LeftButton, pos=QPoint(20, round(overview.y_of(10))))
    QTest.mouseMove(overview, QPoint(20, round(overview.y_of(30) + 1)))
    QTest.mouseRelease(overview, Qt.MouseButton.LeftButton, pos=QPoint(20, 10))
    picture = overview.grab().toImage()
    ink = window.theme.colour("ink").rgb()
    dark = sum(picture.pixel(x, y) == ink for x in range(2, 44) for y in range(60, picture.height() - 10, 2))
    assert dark > 200, "the figure is drawn all along"
    window.resize(1280, 4000)
    document.choose_action("Reel front")
    QApplication.processEvents()
    assert overview.isHidden(), "what fits needs none"


def test_a_long_action_is_measured_once_what_is_dragged_stands_still(window: Window) -> None:
    """While it moves, the strip says that its numbers are being worked out, and nothing that was so before."""
    document, strip = window.document, window.sheet.facts
    [sweep] = [a for a in document.project.actions if a.name == "Low sweep"]
    first = document.compiled
    assert first is not None
    laps = LONG // first.rows + 2
    sections = [
        replace(
            s, name=f"{s.name} {n}", then=f"{sweep.sections[0].name} {n + 1}" if s.then == "end" else f"{s.then} {n}"
        )
        for n in range(laps)
        for s in sweep.sections
    ]
    long = with_action(document.project, "Low sweep", sections=tuple(sections), entry="")
    document.apply(Edit(long, "many times over"))
    compiled = document.compiled
    assert compiled is not None
    assert compiled.rows > LONG
    before = dict(strip.texts)
    ref = SpanRef("Low sweep", 1, "strikes", 0)
    document.preview(set_edges(document.base, compiled, ref, 1, 7).project)
    assert set(strip.texts) == set(before)
    assert set(strip.texts.values()) == {"…"}
    until(lambda: "…" not in strip.texts.values())
    now = facts(document.build, "Low sweep", False)
    assert now is not None
    assert strip.texts["active"].endswith(written(now)["active"])
    document.preview(set_edges(document.base, compiled, ref, 1, 6).project)
    assert "…" in strip.texts.values()
    document.cancel_preview()
    assert strip.texts == before
