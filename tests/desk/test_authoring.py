"""Building an action on the sheet: by keys alone, by the pages of fields, by cuts taken at their ends."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton, QWidget
from pytestqt.qtbot import QtBot
from tools.made import DEMO
from tools.made.edits import replace

from tests.desk.conftest import STRIKE, Hand, Watch, focused, type_in
from tests.desk.test_window import drop
from veergust.core.edit.spans import Edit, SpanRef, span_of
from veergust.core.edit.whole import set_action
from veergust.core.files.wav_read import Sound
from veergust.core.model import Action, Condition
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.desk.document.speaker import Speaker
from veergust.desk.shell.window import Window
from veergust.desk.widgets.choose import Chooser
from veergust.desk.widgets.fields import NumberField

Key = Qt.Key
CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
LEFT = Qt.MouseButton.LeftButton


def action(window: Window, name: str = "") -> Action:
    compiled = window.document.build.action(name or window.document.action)
    assert compiled is not None
    return compiled.action


def press(parent: QWidget, words: str) -> None:
    QApplication.processEvents()
    button = next(b for b in parent.findChildren(QPushButton) if b.text().startswith(words) and b.isVisible())
    QTest.mouseClick(button, LEFT)


@pytest.fixture
def choose(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """What is typed into the list of names, in turn; Enter takes the first that fits."""
    words: list[str] = []

    def answer(dialog: Chooser) -> int:
        dialog.show()
        QTest.keyClicks(dialog.line, words.pop(0))
        QTest.keyClick(dialog, Key.Key_Return)
        return dialog.result()

    monkeypatch.setattr(Chooser, "exec", answer)
    return words


def test_an_attack_of_three_sections_is_built_from_two_clips_without_the_mouse(
    window: Window, hand: Hand, choose: list[str]
) -> None:
    document, sheet = window.document, window.sheet.sheet
    choose += ["overhead", "staff_thrust"]
    QTest.keyClick(window, Key.Key_N, CONTROL | SHIFT)
    assert document.action == "Overhead"
    # The overhead is split into wind-up and swing, and the thrust put behind.
    hand.keys(*[Key.Key_Down] * 20)
    hand.keys((Key.Key_X, SHIFT))
    assert [s.name for s in action(window).sections] == ["All", "All 2"]
    hand.keys(*[Key.Key_Down] * 3, Key.Key_Insert)
    assert [s.name for s in action(window).sections] == ["All", "All 2", "Staff thrust"]
    # A strike in the swing, from 24 to 27.
    hand.keys(Key.Key_Home, *[Key.Key_Down] * 24)
    sheet.column = "strikes"
    hand.keys(Key.Key_N)
    assert document.selection is not None
    hand.keys(Key.Key_2, Key.Key_7, Key.Key_Return)
    strike = span_of(document.project, document.selection)
    assert (document.selection.section, strike.start, strike.end) == (1, 4, 7)
    # Its damage, from the keys: Return opens its page, Tab goes through the fields.
    QTest.keyClick(sheet, Key.Key_Return)
    QApplication.processEvents()
    page = window.sheet.page_stack.span
    assert QApplication.focusWidget() is page.widgets["start"]
    for _ in range(12):
        if QApplication.focusWidget() is page.widgets["damage"]:
            break
        QTest.keyClick(focused(), Key.Key_Tab)
    assert QApplication.focusWidget() is page.widgets["damage"]
    damage = page.widgets["damage"]
    assert isinstance(damage, NumberField)
    damage.selectAll()
    QTest.keyClicks(damage, "18")
    QTest.keyClick(damage, Key.Key_Return)
    assert action(window).sections[1].strikes[0].damage == 18
    # An exit, an event, and a gate into the thrust.
    hand.keys(Key.Key_Right, *[Key.Key_Down] * 8, Key.Key_N)
    sheet.column = "events"
    hand.keys(Key.Key_N, Key.Key_G)
    made = action(window).sections[1]
    assert (len(made.exits), len(made.events), len(made.gates)) == (1, 1, 1)
    assert made.gates[0].to == "Staff thrust"
    assert made.gates[0].conditions[0].test == "released"
    assert document.selection.kind == "gates"
    assert document.compiled is not None
    assert document.compiled.rows == 63 + 48
    assert "Gate to Staff thrust: added" in [s.words for s in document.done]


def test_a_cut_is_trimmed_and_retimed_by_its_ends_and_by_keys(window: Window, hand: Hand) -> None:
    document, sheet = window.document, window.sheet.sheet
    left, width = sheet.layout_.columns["cut"]
    pitch = sheet.layout_.pitch

    def drag(row: int, by: int, inside: float, modifiers: Any = Qt.KeyboardModifier.NoModifier) -> None:
        at = hand.point(left + width / 2, row * pitch + inside)
        to = hand.point(left + width / 2, (row + by) * pitch)
        QTest.mousePress(sheet.viewport(), LEFT, modifiers, at)
        for share in (0.5, 1.0):
            spot = QPointF(at) + (QPointF(to) - QPointF(at)) * share
            event = QTest.mouseMove
            if modifiers:
                from PySide6.QtCore import QEvent
                from PySide6.QtGui import QMouseEvent

                move = QMouseEvent(
                    QEvent.Type.MouseMove, spot, sheet.viewport().mapToGlobal(spot), LEFT, LEFT, modifiers
                )
                QApplication.sendEvent(sheet.viewport(), move)
            else:
                event(sheet.viewport(), spot.toPoint())
            QApplication.processEvents()
        QTest.mouseRelease(sheet.viewport(), LEFT, modifiers, to)

    # Swing is 8 to 20: its lower edge three rows up, then retimed to six by Ctrl.
    drag(20, -3, -2)
    compiled = document.compiled
    assert compiled is not None
    assert compiled.sections[1].ticks == 9
    assert document.done[-1].words.startswith("Swing · staff_sweep: out 0.587 → ")
    assert document.frame == 16
    document.undo()
    drag(20, -6, -2, CONTROL)
    compiled = document.compiled
    assert compiled is not None
    assert compiled.sections[1].ticks == 6
    assert document.done[-1].words == "Swing · staff_sweep: 12 → 6 f, rate 2.5"
    strike = action(window).sections[1].strikes[0]
    assert (strike.start, strike.end) in ((0, 2), (1, 3), (0, 3), (1, 2))
    hand.keys(Key.Key_R, Key.Key_1, Key.Key_2, Key.Key_Return)
    strike = action(window).sections[1].strikes[0]
    assert (strike.start, strike.end) == (1, 5)
    hand.keys(Key.Key_M)
    assert action(window).sections[1].cuts[0].mirror
    hand.keys(Key.Key_X)
    assert len(action(window).sections[1].cuts) == 2


def test_pins_turn_by_key_and_on_the_page_and_are_kept(window: Window, hand: Hand) -> None:
    window.document.select(STRIKE)
    window.document.move_to(9)
    hand.keys(Key.Key_P)
    assert action(window).sections[1].strikes[0].end_pin.to == "frame"
    assert window.document.done[-1].words == "Sweep: closes by the frame"
    window.sheet.show_page(1)
    page = window.sheet.page_stack.span
    assert page.widgets["end pin"].text() == "○ to the frame"
    press(page, "● to the pose")
    assert action(window).sections[1].strikes[0].start_pin.to == "frame"
    type_in(page.widgets["end"], "15")
    assert action(window).sections[1].strikes[0].end == 7
    type_in(page.widgets["boxes"].radius, "0.2")
    assert action(window).sections[1].strikes[0].boxes[0].radius == 0.2


def test_several_spans_are_set_at_once(window: Window, hand: Hand) -> None:
    one, two = SpanRef("Low sweep", 1, "exits", 1), SpanRef("Low sweep", 2, "exits", 1)
    for ref, modifiers in ((one, Qt.KeyboardModifier.NoModifier), (two, CONTROL)):
        at = hand.spot(ref, "body")
        QTest.mouseClick(window.sheet.sheet.viewport(), LEFT, modifiers, hand.point(at.x(), at.y()))
    assert window.document.selected == [one, two]
    window.sheet.show_page(1)
    page = window.sheet.page_stack.span
    assert page.head.text() == "2 exits"
    before = len(window.document.done)
    type_in(page.widgets["blend"], "9")
    assert [span_of(window.document.project, r).blend for r in (one, two)] == [9, 9]
    assert len(window.document.done) == before + 1
    assert window.document.done[-1].words == "2 exits: crossfade 9"


def test_conditions_are_built_from_parts_and_read_as_a_sentence(window: Window) -> None:
    ref = SpanRef("Low sweep", 1, "exits", 0)
    window.document.select(ref)
    window.sheet.show_page(1)
    field = window.sheet.page_stack.span.widgets["conditions"]
    first = window.document.project.commands[0].name
    assert field.words.text() == "always"
    press(field, "+ condition")
    field = window.sheet.page_stack.span.widgets["conditions"]
    assert span_of(window.document.project, ref).conditions == (Condition(test="held", name=first),)
    assert field.words.text() == f"{first} held"
    test = field.rows[0].findChildren(QWidget, options=Qt.FindChildOption.FindDirectChildrenOnly)[0]
    test.setCurrentIndex(test.findData("distance"))
    test.activated.emit(test.currentIndex())
    number = next(w for w in field.rows[0].children() if getattr(w, "accessibleName", str)() == "Condition 1 value")
    type_in(number, "1.5")
    assert span_of(window.document.project, ref).conditions == (Condition(test="distance", op="<", value=1.5),)
    assert field.words.text() == "target < 1.5 m away"
    press(field, "×")
    assert span_of(window.document.project, ref).conditions == ()


def test_spans_are_copied_to_another_action_by_the_pose_and_by_the_frame(window: Window, hand: Hand) -> None:
    document = window.document
    document.select(STRIKE)
    hand.keys((Key.Key_C, CONTROL))
    edit_name = "Low sweep 2"
    press(window.sheet, "like this one")
    assert document.action == edit_name
    assert action(window).start.commands == ()
    document.move_to(9)
    hand.keys((Key.Key_V, CONTROL))
    pasted = action(window).sections[1].strikes
    assert [(s.start, s.end) for s in pasted] == [(1, 5), (1, 5)]
    document.choose_action("Thrust")
    document.move_to(3)
    hand.keys((Key.Key_V, CONTROL | SHIFT))
    assert document.done[-1].words == "Sweep: pasted by the frame"
    assert document.selection is not None
    new = span_of(document.project, document.selection)
    assert (new.start, new.end, new.name) == (3, 7, "Sweep")


def test_sections_are_named_ordered_and_led_on_from_their_page(window: Window, choose: list[str]) -> None:
    document = window.document
    document.move_to(10)
    window.sheet.show_page(2)
    page = window.sheet.page_stack.section
    page.mark.setCurrentIndex(page.mark.findData("ochre"))
    page.mark.activated.emit(page.mark.currentIndex())
    assert action(window).sections[1].mark == "ochre"
    assert window.document.done[-1].words == "Low sweep › Swing: marked ochre"
    type_in(page.name, "Cut across")
    assert [s.then for s in action(window).sections] == ["Cut across", "Settle", "end"]
    page.then.setCurrentIndex(page.then.findData("Cut across"))
    page.then.activated.emit(page.then.currentIndex())
    compiled = document.compiled
    assert compiled is not None
    assert compiled.loops
    # A section the flow does not reach is still on the sheet.
    assert compiled.rows == 46
    assert [window.sheet.sheet.layout_.total, compiled.total] == [46, 20]
    document.undo()
    choose.append("overhead")
    press(page, "+ section")
    assert [s.name for s in action(window).sections] == ["Wind-up", "Cut across", "Overhead", "Settle"]
    assert document.compiled is not None
    assert document.compiled.locate(document.frame)[0] == 2
    press(page, "◂ earlier")
    assert [s.name for s in action(window).sections] == ["Wind-up", "Overhead", "Cut across", "Settle"]
    press(page, "remove")
    assert len(action(window).sections) == 3


def test_what_runs_at_the_endings_and_the_speed_of_the_whole_are_set_on_the_action_page(window: Window) -> None:
    window.sheet.show_page(3)
    page = window.sheet.page_stack.action
    parameters, message = page.endings["on_broken"]
    type_in(parameters, "heat = 0, stance = 2")
    type_in(message, "dropped")
    broken = action(window).on_broken
    assert [(s.setting, s.value) for s in broken.parameters] == [("heat", 0.0), ("stance", 2.0)]
    assert broken.message == "dropped"
    type_in(parameters, "heat")
    assert "'heat' is no setting" in window.notice.label.text()
    assert action(window).on_broken == broken
    total = window.document.compiled.total  # type: ignore[union-attr]
    type_in(page.speed, "2")
    assert abs(window.document.compiled.total - total / 2) <= 2  # type: ignore[union-attr]
    strike = action(window).sections[1].strikes[0]
    assert strike.end - strike.start in (2, 3)


def test_a_clip_dropped_on_the_sheet_becomes_a_section(window: Window, qtbot: QtBot, tmp_path: Any) -> None:
    extra = tmp_path / "jab.glb"
    extra.write_bytes((DEMO / "clips" / "staff_thrust.glb").read_bytes())
    sheet = window.sheet.sheet
    at = sheet.mapTo(window, sheet.rect().center())
    drop(window, extra, at=QPointF(at))
    assert [s.name for s in action(window).sections][-1] == "Staff thrust 2"
    assert window.document.done[-1].words == "Low sweep: staff_thrust_2 added"
    both = []
    for name in ("idle", "overhead"):
        both.append(tmp_path / f"{name}_b.glb")
        both[-1].write_bytes((DEMO / "clips" / f"{name}.glb").read_bytes())
    count = len(action(window).sections)
    drop(window, *both, at=QPointF(at))
    assert len(action(window).sections) == count + 2
    press(window.notice, "one section of all")
    assert len(action(window).sections) == count + 1
    assert [c.clip for c in action(window).sections[-1].cuts] == ["idle_2", "overhead_2"]


def test_a_held_loop_made_here_is_left_through_its_gate(window: Window, hand: Hand, choose: list[str]) -> None:
    document = window.document
    choose += ["overhead"]
    QTest.keyClick(window, Key.Key_N, CONTROL | SHIFT)
    for frame in (12, 18):
        document.move_to(frame)
        hand.keys((Key.Key_X, SHIFT))
    page = window.sheet.page_stack.section
    window.sheet.show_page(2)
    document.move_to(14)
    page.then.setCurrentIndex(page.then.findData("All 2"))
    page.then.activated.emit(page.then.currentIndex())
    hand.keys(Key.Key_G)
    assert document.selection is not None
    gate = span_of(document.project, document.selection)
    assert (gate.to, document.selection.section) == ("All 3", 1)
    window.sheet.show_page(1)
    type_in(window.sheet.page_stack.span.widgets["end"], "18")
    type_in(window.sheet.page_stack.span.widgets["start"], "17")
    simulation = Simulation(document.build)
    fighter = simulation.fighters[0]
    command = gate.conditions[0].name
    seen = []
    for tick in range(80):
        inputs = [Input(fighter.name, command, press=True), Input(fighter.name, action="Overhead")] if tick == 0 else []
        if tick == 40:
            inputs = [Input(fighter.name, command, press=False)]
        simulation.tick(inputs)
        voice = next((v for v in simulation.fighters[0].live()), None)
        seen.append((voice.part.section.name, voice.frame) if voice else ("", 0))
    laps = sum(a == ("All 2", 5) for a in seen[:40])
    assert laps >= 3
    left = next(i for i, (name, _) in enumerate(seen) if name == "All 3")
    assert 40 <= left <= 46
    assert seen[left - 1] == ("All 2", 5)


def test_a_version_is_kept_flipped_to_by_a_key_and_seen_on_the_same_frame(window: Window, hand: Hand) -> None:
    document = window.document
    assert [k.name for k in action(window).kept] == ["late window", "heavier"]
    document.apply(set_action(document.project, "Low sweep", "bare", kept=(), version="first"))
    document.save()
    window.sheet.show_page(4)
    page = window.sheet.page_stack.versions
    type_in(page.label, "quick")
    assert [k.name for k in action(window).kept] == ["first"]
    first = action(window).kept[0].action
    window.sheet.page_stack.section.retime(5)
    assert window.sheet.facts.texts["startup"] == "9 → 6"
    cell = {page.table.verticalHeaderItem(r).text(): [page.table.item(r, c).text() for c in (0, 1)] for r in range(9)}  # type: ignore[union-attr]
    assert cell["startup"] == ["6", "9"]
    assert cell["total"] == ["43", "46"]
    document.move_to(6)
    alone = window.sheet.stage.view.scene.ghosts
    press(page, "see both")
    both = window.sheet.stage.view.scene.ghosts
    assert len(both) == 1
    assert both[0].opacity > max(g.opacity for g in alone)
    hand.keys(Key.Key_F)
    assert action(window).version == "first"
    assert action(window).sections == first.sections
    assert document.done[-1].words == "Low sweep: now as first"
    hand.keys(Key.Key_F)
    assert action(window).version == "quick"
    assert document.save()
    press(page, "drop")
    assert action(window).kept == ()
    document.undo()
    assert len(action(window).kept) == 1


def test_what_the_numbers_propose_is_taken_with_a_key(window: Window, hand: Hand) -> None:
    document = window.document
    document.choose_action("Overhead hook")
    compiled = document.compiled
    assert compiled is not None
    ref = SpanRef("Overhead hook", next(i for i, p in enumerate(compiled.sections) if p.section.strikes), "strikes", 0)
    old = span_of(document.project, ref)
    first = compiled.start_of(ref.section)
    document.select(ref)
    hand.keys(Key.Key_Delete)
    strike = next(h for h in document.derived.hints() if h.kind == "strike")
    assert strike.says.startswith("the tip is fastest at")
    assert first + old.start - 3 <= strike.start < strike.end <= first + old.end + 3
    document.move_to(strike.start)
    hand.keys(Key.Key_A)
    assert document.selection is not None
    made = span_of(document.project, document.selection)
    where = document.compiled.start_of(document.selection.section)  # type: ignore[union-attr]
    assert (where + made.start, where + made.end) == (strike.start, strike.end)
    end = next(h for h in document.derived.hints() if h.kind == "end")
    document.move_to(end.start)
    hand.keys(Key.Key_A)
    assert document.compiled.total == end.start  # type: ignore[union-attr]


def test_a_break_that_is_pencilled_in_is_taken_for_all_sections_at_once(window: Window, hand: Hand) -> None:
    document = window.document
    document.choose_action("Duck roll")
    project = document.project
    action = next(a for a in project.actions if a.name == "Duck roll")
    sections = tuple(replace(s, exits=tuple(e for e in s.exits if e.kind != "break")) for s in action.sections)
    made = tuple(replace(a, sections=sections) if a is action else a for a in project.actions)
    document.apply(Edit(replace(project, actions=made), "no breaks"))
    hint = next(h for h in document.derived.hints() if h.kind == "break")
    assert "end it where the floor does" in hint.says
    before = window.sheet.sheet.grab().toImage()
    hand.keys((Key.Key_A, Qt.KeyboardModifier.ShiftModifier))
    now = next(a for a in document.project.actions if a.name == "Duck roll").sections
    assert [[e for e in s.exits if e.kind == "break"] for s in now] == [
        [e for e in s.exits if e.kind == "break"] for s in action.sections
    ]
    assert "break" in document.done[-1].words
    done = len(document.done)
    hand.keys((Key.Key_A, Qt.KeyboardModifier.ShiftModifier))
    assert len(document.done) == done
    assert "no break is proposed" in window.notice.label.text()
    assert window.sheet.sheet.grab().toImage() != before


def test_a_pool_is_filled_weighed_and_tried(window: Window) -> None:
    window.sheet.show_page(5)
    page = window.sheet.page_stack.pools
    type_in(page.new, "Openers")
    for name in ("Thrust", "Low sweep"):
        page.add.setCurrentIndex(page.add.findData(name))
        page.add.activated.emit(page.add.currentIndex())
    type_in(page.items["Thrust"][0], "3")
    type_in(page.apart, "0")
    pool = window.document.project.pools[0]
    assert [(i.name, i.weight) for i in pool.items] == [("Thrust", 3.0), ("Low sweep", 1.0)]
    often = [int(label.text().split()[0]) for _, label in page.items.values()]
    assert sum(often) == 400
    assert 240 < often[0] < 350
    press(page, "remove pool")
    assert window.document.project.pools == ()


def test_sounds_stand_as_waves_beside_their_events_and_are_heard_once_on_their_frame(
    window: Window, tmp_path: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    document = window.document
    assert set(document.sounds.named) == {"whoosh_low", "whoosh_thin", "breath"}
    heard: list[float] = []
    monkeypatch.setattr(document.sounds.speaker, "play", lambda sound: heard.append(sound.seconds))
    bench = window.sheet
    bench.clock = watch = Watch()  # type: ignore[assignment]
    bench.toggle_play()
    bench.timer.setInterval(10**6)
    for past in (50, 60, 120, 500, 600, 760):
        watch.now = past
        bench._tick()
    bench.stop()
    # The low sweep has a whoosh on frame 5 and a breath on frame 30.
    assert heard == [document.sounds.named["whoosh_low"].seconds, document.sounds.named["breath"].seconds]
    sheet = bench.sheet
    placed = next(p for p in sheet.layout_.placed if p.ref.kind == "events" and p.span.name == "whoosh_low")
    left, width = sheet.layout_.columns["events"]
    spot = sheet.widget_point(left + width - 14, placed.rect.top() + 8 * sheet.layout_.pitch).toPoint()
    with_wave = sheet.viewport().grab().toImage().pixelColor(spot)
    document.sounds.named = {}
    sheet.viewport().update()
    without = sheet.viewport().grab().toImage().pixelColor(spot)
    assert with_wave != without
    extra = tmp_path / "clank.wav"
    extra.write_bytes((DEMO / "sounds" / "breath.wav").read_bytes())
    drop(window, extra)
    assert "clank" in document.sounds.named
    assert "clank" in document.project.known_events


def test_sounds_are_mixed_and_a_machine_without_sound_is_silent() -> None:
    speaker = Speaker()
    speaker._tried = True
    speaker.play(Sound(22050, np.ones(100, np.float32)))
    assert not speaker.mixed(64).any()
    speaker._device = object()
    for _ in range(2):
        speaker.play(Sound(22050, np.full(100, 0.4, np.float32)))
    first = speaker.mixed(150)
    assert first.max() == pytest.approx(0.8)
    assert speaker.mixed(150)[:50].max() == pytest.approx(0.8)
    assert not speaker.mixed(150).any()
    speaker._device = None
