"""The Spar bench driven with real keys."""

from __future__ import annotations

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from tests.conftest import OSSA, TARN
from tests.desk.conftest import STRIKE, Hand, Watch, pick, type_in, until
from veergust.core.edit.spans import Edit, set_edges
from veergust.core.edit.staging import set_fighter
from veergust.core.kinds.finding import Ref
from veergust.core.model import Command, Gesture
from veergust.core.motion.figure import Assets
from veergust.core.motion.skeleton import Skeleton
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.flow.preview import Preview
from veergust.core.play.state import Input
from veergust.core.play.take.history import FRESH, PACKED
from veergust.desk.shell.window import Window
from veergust.desk.spar.bench import SparBench

Key = Qt.Key


@pytest.fixture
def spar(window: Window) -> SparBench:
    QTest.keyClick(window, Key.Key_6, Qt.KeyboardModifier.ControlModifier)
    assert window.benches.currentWidget() is window.spar
    return window.spar


def names(spar: SparBench, fighter: str = OSSA) -> list[str]:
    record = spar.session.record
    assert record is not None
    return [v.compiled.action.name for v in record.fighter(fighter).live()]


def test_arrows_walk_shift_runs_and_letting_go_stops(spar: SparBench, qtbot: QtBot) -> None:
    def state() -> str:
        record = spar.session.record
        assert record is not None
        return record.fighter(OSSA).locomotion[-1].state

    QTest.keyPress(spar, Key.Key_Down)
    qtbot.waitUntil(lambda: state() == "walk")
    QTest.keyPress(spar, Key.Key_Shift)
    qtbot.waitUntil(lambda: state() == "run")
    QTest.keyRelease(spar, Key.Key_Shift)
    QTest.keyRelease(spar, Key.Key_Down)
    qtbot.waitUntil(lambda: state() == "idle")


def test_a_sweep_starts_on_its_first_frame_touches_and_goes_on_into_the_second(spar: SparBench, qtbot: QtBot) -> None:
    QTest.keyClick(spar, Key.Key_A)
    qtbot.waitUntil(lambda: any(r.contacts for r in spar.session.records))
    first = next(r for r in spar.session.records if r.fighter(OSSA).live())
    assert [(v.part.section.name, v.frame) for v in first.fighter(OSSA).live()] == [("Wind-up", 0)]
    QTest.keyClick(spar, Key.Key_A)
    qtbot.waitUntil(lambda: names(spar) == ["Thrust"])
    contact = next(c for r in spar.session.records for c in r.contacts)
    assert (contact.strike.name, contact.victim, contact.result) == ("Sweep", TARN, "hit")
    reels = {v.compiled.action.name for r in spar.session.records for v in r.fighter(TARN).live()}
    assert "Reel front" in reels
    assert "Sweep hit Tarn" in spar.news.text() or "Point hit Tarn" in spar.news.text()


def test_stepping_back_keeps_the_take_and_playing_on_goes_from_there(spar: SparBench) -> None:
    spar.hold()
    for _ in range(20):
        spar.session.tick()
    count, at = len(spar.session.records), spar.session.at
    QTest.keyClick(spar, Key.Key_Comma)
    QTest.keyClick(spar, Key.Key_Comma)
    assert (len(spar.session.records), spar.session.at) == (count, at - 2)
    QTest.keyClick(spar, Key.Key_Period)
    assert (len(spar.session.records), spar.session.at) == (count, at - 1)
    spar.session.look_at(5)
    spar.session.tick()
    assert (len(spar.session.records), spar.session.at) == (7, 6)
    assert spar.session.record is not None
    assert spar.session.record.tick == 6


def test_space_holds_and_goes_on_and_r_starts_over(spar: SparBench, qtbot: QtBot) -> None:
    QTest.keyClick(spar, Key.Key_Space)
    assert spar.running
    qtbot.waitUntil(lambda: len(spar.session.records) > 5)
    QTest.keyClick(spar, Key.Key_Space)
    assert not spar.running
    take = spar.session.take_number
    QTest.keyClick(spar, Key.Key_R)
    assert spar.session.take_number == take + 1
    assert len(spar.session.records) == 1


@pytest.mark.parametrize(("speed", "ticks"), [(1.0, 60), (0.5, 30), (0.25, 15)])
def test_slow_motion_plays_fewer_ticks_in_the_same_time(spar: SparBench, speed: float, ticks: int) -> None:
    spar.hold()
    spar.restart()
    spar.clock = watch = Watch()  # type: ignore[assignment]
    spar.set_speed(speed)
    before = len(spar.session.records)
    for _ in range(40):  # a second, in beats of 25 ms
        watch.now += 25
        spar._beat()
    assert len(spar.session.records) - before == pytest.approx(ticks, abs=1)


@pytest.mark.parametrize(("beat", "beats"), [(16.7, 600), (150, 20), (700, 5)])
def test_however_long_a_picture_takes_play_keeps_real_time(spar: SparBench, beat: float, beats: int) -> None:
    """Pictures are left out, ticks are not; parts of a millisecond count."""
    spar.hold()
    spar.restart()
    spar.clock = watch = Watch()  # type: ignore[assignment]
    spar.work = Watch()  # type: ignore[assignment]
    shown: list[int] = []
    spar.session.moved.connect(lambda: shown.append(spar.session.at))
    spar.run()
    for _ in range(beats):
        watch.now += beat
        spar._beat()
    ticks = [r.tick for r in spar.session.records]
    assert ticks == list(range(len(ticks)))
    assert abs(len(ticks) - 1 - beat * beats * 60 / 1000) <= 1
    assert len(shown) <= beats


def test_a_machine_that_cannot_play_in_time_plays_slower_and_never_stands(spar: SparBench) -> None:
    """A tick takes 40 ms of a beat of a second: three are played, and all else is answered; after a sleep it goes on."""
    spar.hold()
    spar.restart()
    spar.clock = watch = Watch()  # type: ignore[assignment]
    spar.work = work = Watch()  # type: ignore[assignment]
    tick = spar.session.tick

    def slow(shown: bool = True) -> None:
        work.now += 40
        tick(shown=shown)

    spar.session.tick = slow  # type: ignore[method-assign]
    for _ in range(5):
        watch.now += 1000
        spar._beat()
    assert [r.tick for r in spar.session.records] == list(range(16))
    spar.session.tick = tick  # type: ignore[method-assign]
    spar.work = Watch()  # type: ignore[assignment]
    watch.now += 3_600_000
    spar._beat()
    assert len(spar.session.records) == 16 + 120


@pytest.mark.parametrize(("pressed", "heard", "tick"), [(20, 20, 2), (20, 290, 2), (210, 290, 13), (290, 290, 18)])
def test_a_key_counts_from_when_it_went_down(spar: SparBench, pressed: int, heard: int, tick: int) -> None:
    """Pressed so many ms after a beat, heard of once a picture was drawn: it is given to the tick that was next then."""
    spar.hold()
    spar.restart()
    spar.clock = watch = Watch()  # type: ignore[assignment]
    spar.work = Watch()  # type: ignore[assignment]
    spar.driver.now = hands = Watch()  # type: ignore[assignment]
    spar.run()
    key = next(c for c in spar.document.project.commands if c.name == "light").keys[0]

    def event(kind: QEvent.Type, stamp: int) -> QKeyEvent:
        made = QKeyEvent(kind, ord(key), Qt.KeyboardModifier.NoModifier, key)
        made.setTimestamp(5_000_000 + stamp)
        return made

    # The clock of events is another one; what is heard of at once tells how far off it is.
    spar.driver.press(event(QEvent.Type.KeyPress, 0))
    spar.driver.release(event(QEvent.Type.KeyRelease, 0))
    spar._beat()
    watch.now = hands.now = heard
    spar.driver.press(event(QEvent.Type.KeyPress, pressed))
    watch.now = 300
    spar._beat()
    given = [r.tick for r in spar.session.records if "light" in r.fighter(OSSA).pressed]
    assert given[-1] == tick


def test_what_spar_fires_is_heard_and_is_what_the_sheet_plays(spar: SparBench, monkeypatch: pytest.MonkeyPatch) -> None:
    heard: list[list[str]] = []
    monkeypatch.setattr(spar.document.sounds, "hear", heard.append)
    spar.hold()
    spar.restart()
    watch = Watch()
    spar.clock = watch  # type: ignore[assignment]
    spar.session.give(Input(OSSA, "light"))
    fired = []
    for _ in range(70):
        watch.now = 17
        spar._beat()
        record = spar.session.record
        assert record is not None
        fired += [e.name for e in record.events if e.fighter == OSSA and e.kind not in ("begin", "end")]
    compiled = spar.document.build.action("Low sweep")
    assert compiled is not None
    shown = Preview(compiled, compiled.entry)
    wanted = [e.name for e in shown.fired()]
    while not shown.over:
        wanted += [e.name for e in shown.step()]
    assert fired == wanted
    assert [n for names in heard for n in names if n in wanted] == ["whoosh_low", "breath"]


def test_scrubbing_the_take_looks_at_a_tick(spar: SparBench) -> None:
    for _ in range(100):
        spar.session.tick()
    x = round(spar.strip.x_of(40))
    QTest.mouseClick(spar.strip, Qt.MouseButton.LeftButton, pos=QPoint(x, 15))
    assert spar.session.at == pytest.approx(40, abs=1)
    assert spar.frame_label.text() == f"frame {spar.session.at}"


def test_hitboxes_and_hurtboxes_are_shown_when_asked(spar: SparBench) -> None:
    spar.hold()
    from veergust.core.play.state import Input

    spar.session.give(Input(OSSA, "light"))
    for _ in range(11):
        spar.session.tick()
    tubes = spar.stage.view.scene.tubes
    assert [t.role for t in tubes if t.filled] == ["strike"]
    assert not [t for t in tubes if t.role == "hurt"]
    QTest.mouseClick(spar.stage.switches["hurtboxes"], Qt.MouseButton.LeftButton)
    hurt = [t for t in spar.stage.view.scene.tubes if t.role == "hurt"]
    assert len(hurt) == 2 * len(spar.document.project.rig.hurtboxes)


def test_an_edit_on_the_sheet_is_in_the_next_try(window: Window, hand: Hand, qtbot: QtBot) -> None:
    hand.drag(STRIKE, "body", 2)
    QTest.keyClick(window, Key.Key_6, Qt.KeyboardModifier.ControlModifier)
    spar = window.spar
    QTest.keyClick(spar, Key.Key_A)
    qtbot.waitUntil(lambda: len(spar.session.records) > 30)
    opened = next(r.tick for r in spar.session.records for e in r.events if e.kind == "begin" and "strike" in e.name)
    started = next(r.tick for r in spar.session.records if r.fighter(OSSA).live())
    assert opened - started == 11


def test_keys_let_go_elsewhere_do_not_walk_on(spar: SparBench, window: Window, qtbot: QtBot) -> None:
    QTest.keyPress(spar, Key.Key_Right)
    spar.strip.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
    spar.strip.setFocus()
    spar.session.tick()
    spar.session.tick()
    record = spar.session.record
    assert record is not None
    assert np.hypot(*record.fighter(OSSA).stick) == 0.0


def test_an_action_without_a_command_can_be_tried(window: Window, qtbot: QtBot) -> None:
    from veergust.core.edit.actions import new_action

    edit, name = new_action(window.document.project, window.document.build.assets, "overhead")
    window.document.apply(edit)
    window.document.choose_action(name)
    QTest.keyClick(window, Key.Key_6, Qt.KeyboardModifier.ControlModifier)
    assert window.spar.try_button.text() == "try Overhead"
    QTest.keyClick(window.spar, Key.Key_T)
    qtbot.waitUntil(lambda: names(window.spar) == ["Overhead"])
    first = next(r for r in window.spar.session.records if r.fighter(OSSA).live())
    assert first.fighter(OSSA).live()[0].frame == 0


def test_a_long_take_is_kept_within_bounds_and_looks_the_same_when_gone_back_to(
    window: Window, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.show_bench("Spar")
    session = window.spar.session
    window.spar.hold()
    monkeypatch.setattr("veergust.desk.frame.session.LONGEST", 8)
    session.restart()
    seen = {}
    for tick in range(700):
        if tick % 60 == 5:
            session.give(Input(session.fighter, "light"))
        if tick % 60 == 8:
            session.give(Input(session.fighter, "light", press=False))
        session.tick(shown=False)
        record = session.record
        assert record is not None
        seen[record.tick] = [(f.joints_now.copy(), f.position.copy()) for f in record.fighters]
    length = len(session.records)
    assert 480 <= length < 480 + PACKED
    assert len(session.inputs) == length
    assert sum(f.joints is not None for r in session.records for f in r.fighters) <= 2 * (FRESH + PACKED)
    for at in (0, 50, 179, 180, 181, 300, length - 1):
        session.look_at(at)
        record = session.record
        assert record is not None
        for fighter, (joints, place) in zip(record.fighters, seen[record.tick]):
            assert np.allclose(fighter.joints_now, joints, atol=1e-9)
            assert np.allclose(fighter.position, place)
    # Played on from an old tick with the same inputs, it is the same take again.
    session.look_at(100)
    first = session.records[100].tick
    given = [list(i) for i in session.inputs[101:140]]
    for inputs in given:
        session.give(*inputs)
        session.tick(shown=False)
        record = session.record
        assert record is not None
        for fighter, (joints, _) in zip(record.fighters, seen[record.tick]):
            assert np.allclose(fighter.joints_now, joints, atol=1e-9), record.tick - first


def test_another_figure_begins_a_new_take(window: Window) -> None:
    window.show_bench("Spar")
    session, document = window.spar.session, window.document
    window.spar.hold()
    for _ in range(FRESH + 60):
        session.tick(shown=False)
    bones = document.build.assets.skeleton
    names = tuple(f"other {n}" for n in bones.names[:-4])
    other = Skeleton(names, bones.parents[:-4], bones.rest_rotation[:-4], bones.rest_translation[:-4])
    document.build = CompiledProject(document.project, Assets(other))
    session.use_project()
    assert len(session.records) == 1
    record = session.record
    assert record is not None
    assert len(record.fighters[0].joints_now) == len(names)


def test_who_stands_where_is_set_beside_the_stage_and_seen_there(window: Window) -> None:
    """Added, moved, given poise and a team, named; a post that breaks; and taken away again."""
    document = window.document
    window.show_bench("Spar")
    spar = window.spar
    QTest.mouseClick(spar.standing_button, Qt.MouseButton.LeftButton)
    page = spar.standing
    assert page.isVisible()
    assert not spar.right.isVisible()

    def press(words: str) -> None:
        QApplication.processEvents()
        button = next(b for b in page.findChildren(QPushButton) if b.text() == words and b.isVisible())
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)

    press("+ target")
    made = document.project.stage.fighters[-1]
    assert page.which.currentText() == made.name
    type_in(page.name, "Dockhand")
    type_in(page.fields["x"], "1.5")
    type_in(page.fields["z"], "-1")
    type_in(page.fields["poise"], "25")
    type_in(page.team, "Quay")
    there = document.project.stage.fighters[-1]
    assert (there.name, there.position[0], there.position[2], there.poise, there.team) == (
        "Dockhand",
        1.5,
        -1.0,
        25.0,
        "Quay",
    )
    record = spar.session.record
    spar.step_on()
    record = spar.session.record
    assert record is not None
    assert record.fighter("Dockhand").position[0] == pytest.approx(1.5)
    assert len(spar.stage.view.scene.bodies) == 3
    press("+ post")
    type_in(page.fields["post health"], "30")
    type_in(page.falls, "splinters")
    assert (document.project.stage.posts[-1].health, document.project.stage.posts[-1].falls) == (30.0, "splinters")
    press("remove")
    assert len(document.project.stage.posts) == 2
    type_in(page.scaling["damage"], "0.8")
    assert document.project.settings.scaling.damage == 0.8
    QTest.mouseClick(spar.standing_button, Qt.MouseButton.LeftButton)
    assert spar.right.isVisible()


def test_time_is_held_on_what_is_asked_for_and_says_what_it_was(window: Window) -> None:
    window.show_bench("Spar")
    spar = window.spar
    spar.restart()
    pick(spar.stop_field, "a touch")
    spar.session.give(Input(OSSA, action="Low sweep"))
    spar.run()
    for _ in range(40):
        if not spar.running:
            break
        spar.tick()
    record = spar.session.record
    assert record is not None
    assert not spar.running
    assert [c.victim for c in record.contacts] == [TARN]
    assert spar.stopped.text() == f"Sweep hit {TARN}"
    spar.run()
    assert spar.stopped.text() == ""
    pick(spar.stop_field, "nothing")
    spar.hold()


def test_a_command_is_made_bound_by_pressing_and_made_a_motion(window: Window) -> None:
    """A new one, named, on a key that another has; then held, then a motion that is made with the keys."""
    window.show_bench("Spar")
    spar, document = window.spar, window.document
    QTest.mouseClick(spar.commands_button, Qt.MouseButton.LeftButton)
    page = spar.commands
    assert (page.isVisible(), spar.right.isVisible(), spar.standing.isVisible()) == (True, False, False)
    QTest.mouseClick(page.new_button, Qt.MouseButton.LeftButton)
    type_in(page.name, "feint")

    def feint() -> Command:
        return next(c for c in document.project.commands if c.name == "feint")

    page.key.setFocus()
    QTest.keyClick(page.key, Qt.Key.Key_Z)
    assert feint().keys == ("Z",)
    light = next(c for c in document.project.commands if c.name == "light").keys[0]
    QTest.keyClicks(page.key, light.lower())
    assert page.told.text() == f"{light} is the key of light."
    QTest.mouseClick(page.over, Qt.MouseButton.LeftButton)
    assert feint().keys == ("Z", light)
    document.undo()
    type_in(page.buffer, "3")
    assert feint().buffer == 3
    pick(page.made, "held for a while")
    assert not page.on_keys.isVisible()
    type_in(page.ticks, "30")
    type_in(page.levels, "20 10")
    gesture = feint().gesture
    assert gesture is not None
    assert (gesture.kind, gesture.ticks, gesture.levels) == ("held", 30, (10, 20))
    type_in(page.levels, "soon")
    assert "type frames" in window.notice.label.text()
    pick(page.made, "by the stick")
    pick(page.ways.add, "forward")
    pick(page.meets, "those beside too")
    pick(page.about, "its target")
    pick(page.of.add, "heavy")
    gesture = feint().gesture
    assert gesture is not None
    assert (gesture.ways, gesture.wide, gesture.about) == (("back", "forward", "forward"), True, "target")
    # A motion ends on one press: another that is chosen takes its place.
    assert gesture.of == ("heavy",)
    pick(page.made, "pressed together")
    pick(page.of.add, "jump")
    gesture = feint().gesture
    assert gesture is not None
    assert (gesture.of[0], len(gesture.of), gesture.of[-1]) == ("heavy", 3, "jump")
    QTest.mouseClick(page.gone_button, Qt.MouseButton.LeftButton)
    assert "feint" not in {c.name for c in document.project.commands}
    QTest.mouseClick(spar.standing_button, Qt.MouseButton.LeftButton)
    assert (page.isVisible(), spar.standing.isVisible(), spar.commands_button.isChecked()) == (False, True, False)
    # A finding about a command leads here.
    window.go_to(Ref("command", "heavy", ("command", "heavy")))
    assert (page.isVisible(), page.which.currentText()) == (True, "heavy")


def test_a_press_that_is_lost_says_why_and_leads_to_its_place(window: Window) -> None:
    window.show_bench("Spar")
    spar, session = window.spar, window.spar.session
    spar.restart()

    def press(command: str, ticks: int) -> None:
        session.give(Input(OSSA, command))
        for _ in range(ticks):
            session.tick()

    press("light", 3)
    press("light", 60)
    shown = [spar.sides[0].presses.item(n).text() for n in range(spar.sides[0].presses.count())]
    assert shown[0] == "1  light  → Low sweep"
    assert shown[1].startswith("4  light  lost: ")
    assert "too early for the window to Thrust" in shown[1]
    # Looked at before it, the press is not there yet; on its very tick it is.
    session.look_at(2)
    assert spar.sides[0].presses.count() == 1
    session.look_at(next(n for n, r in enumerate(session.records) if r.tick == 4))
    assert spar.sides[0].presses.count() == 2
    session.look_at(20)
    spar.sides[0].presses.setCurrentRow(1)
    spar.sides[0].presses.setFocus()
    QTest.keyClick(spar.sides[0].presses, Qt.Key.Key_Return)
    assert window.bench == "Sheet"
    assert window.document.selection is not None
    assert window.document.selection.kind == "exits"


def test_a_gesture_that_was_nearly_made_is_told_among_the_presses(window: Window) -> None:
    window.show_bench("Spar")
    spar, session = window.spar, window.spar.session
    ward = Command(name="ward", gesture=Gesture(kind="held", of=("heavy",), ticks=20))
    project = window.document.project
    window.document.apply(Edit(replace(project, commands=(*project.commands, ward)), "a ward"))
    spar.restart()
    for tick in range(20):
        session.give(*([Input(OSSA, "heavy", press=tick == 2)] if tick in (2, 17) else []))
        session.tick()
    shown = [spar.sides[0].presses.item(n).text() for n in range(spar.sides[0].presses.count())]
    assert any("ward  let go 5 frames too soon" in words for words in shown), shown


def test_a_take_is_kept_as_a_drill_run_ranged_broken_and_shown(window: Window) -> None:
    window.show_bench("Spar")
    spar, document, session = window.spar, window.document, window.spar.session
    spar.restart()
    QTest.mouseClick(spar.drills_button, Qt.MouseButton.LeftButton)
    page = spar.drills
    QTest.mouseClick(page.keep_button, Qt.MouseButton.LeftButton)
    assert "nothing was pressed" in window.notice.label.text()
    for tick in range(40):
        session.give(*([Input(OSSA, "light")] if tick == 5 else []))
        session.tick()
    before = len(document.project.drills)
    QTest.mouseClick(page.keep_button, Qt.MouseButton.LeftButton)
    QTest.keyClicks(page.name, "opening")
    QTest.keyClick(page.name, Qt.Key.Key_Return)
    drill = document.project.drills[-1]
    assert (len(document.project.drills), drill.name, page.list.currentRow()) == (before + 1, "opening", before)

    def run() -> list[str]:
        QTest.mouseClick(page.run_button, Qt.MouseButton.LeftButton)
        until(lambda: not page.left)
        return [page.list.item(n).text() for n in range(page.list.count())]

    assert all(text.startswith("passed") for text in run())
    assert page.words.text() == f"{before + 1} of {before + 1} passed"
    # Held over distances at which it cannot touch, it breaks, and says where.
    type_in(page.ends["distance"][1], "6")
    assert page.words.text() == "Not run since the last change."
    type_in(page.ends["distance"][0], "1")
    assert [(r.low, r.high) for r in document.project.drills[-1].over] == [(1.0, 6.0)]
    # It says how far it is, and the window answers between one take and the next.
    QTest.mouseClick(page.run_button, Qt.MouseButton.LeftButton)
    until(lambda: page.words.text().startswith("opening: ") and page.words.text().endswith(" of 51 …"))
    assert len(page.left) == 1
    QTest.mouseClick(page.run_button, Qt.MouseButton.LeftButton)
    assert page.left == []
    assert run()[-1] == "FAILED  opening"
    assert "not so: Ossa Renn hit Tarn on " in page.told.text()
    assert "at 6 m" in page.told.text()
    # Each place has its cell; one that breaks is shown as it was played.
    far = [str(page.map.model().headerData(n, Qt.Orientation.Horizontal)) for n in range(page.map.columnCount())]
    assert (len(far), far[0], far[-1], page.map.rowCount()) == (51, "1 m", "6 m", 1)
    held = [page.map.model().index(0, n).data() for n in range(51)]
    assert (far[7], held[7], held[-1]) == ("1.7 m", "yes", "no"), "it was kept 1.7 m apart"
    page.map.setCurrentCell(0, 50)
    page.map.setFocus()
    QTest.keyClick(page.map, Qt.Key.Key_Return)
    assert session.record is not None
    me, you = (session.record.fighter(name).position for name in (OSSA, TARN))
    assert float(np.hypot(me[0] - you[0], me[2] - you[2])) == pytest.approx(6.0, abs=0.01)
    assert not any(r.contacts for r in session.records)
    type_in(page.ends["distance"][1], "0")
    assert document.project.drills[-1].over == ()
    # Shown: its take is what was played, from its first frame.
    spar.restart()
    QTest.mouseClick(page.play_button, Qt.MouseButton.LeftButton)
    assert (session.at, len(session.records)) == (0, drill.ticks)
    assert [r.tick for r in session.records if r.contacts] == [e.tick for e in drill.expect if e.contact]
    QTest.mouseClick(page.run_button, Qt.MouseButton.LeftButton)
    QTest.mouseClick(page.run_button, Qt.MouseButton.LeftButton)
    assert (page.left, page.run_button.text()) == ([], "run all")
    QTest.mouseClick(page.gone_button, Qt.MouseButton.LeftButton)
    assert len(document.project.drills) == before


def test_a_take_is_replayed_with_a_change_and_says_what_is_otherwise(window: Window) -> None:
    """Played, gone back in, an edit made on another bench, and played anew: all that was pressed is there again."""
    window.show_bench("Spar")
    spar, document, session = window.spar, window.document, window.spar.session
    spar.restart()
    for tick in range(60):
        session.give(*([Input(OSSA, "light")] if tick in (5, 22) else []))
        session.tick()
    QTest.mouseClick(spar.replay_button, Qt.MouseButton.LeftButton)
    QTest.mouseClick(spar.replay.replay_button, Qt.MouseButton.LeftButton)
    assert spar.replay.words.text() == "All 61 frames came out as they were."
    touched = next(r.tick for r in session.records if r.contacts)
    session.look_at(10)
    window.show_bench("Sheet")
    compiled = document.build.action(STRIKE.action)
    assert compiled is not None
    edit = set_edges(document.project, compiled, STRIKE, 7, 9)
    document.apply(edit)
    window.show_bench("Spar")
    assert len(session.records) == 11, "play goes on from where it was looked at"
    QTest.mouseClick(spar.replay.replay_button, Qt.MouseButton.LeftButton)
    assert len(session.records) == 61
    now = [r.tick for r in session.records if r.contacts]
    assert spar.replay.words.text() == f"It differs from frame {touched} on."
    assert session.at == touched
    shown = [spar.replay.list.item(n).text() for n in range(spar.replay.list.count())]
    after = now[0] if now else None
    assert any(words.startswith(f"Sweep of {OSSA} hit {TARN}: {touched} → ") for words in shown), (shown, after)
    row = next(n for n, words in enumerate(shown) if words.startswith("Sweep of"))
    spar.replay.list.setCurrentRow(row)
    assert session.at == spar.replay.list.item(row).data(Qt.ItemDataRole.UserRole)
    # Again, after another change, it is held against the take as it was first.
    document.undo()
    QTest.mouseClick(spar.replay.replay_button, Qt.MouseButton.LeftButton)
    assert spar.replay.words.text() == "All 61 frames came out as they were."
    # Played on, it is that take which is replayed.
    session.look_at(30)
    session.tick()
    QTest.mouseClick(spar.replay.replay_button, Qt.MouseButton.LeftButton)
    assert spar.replay.words.text() == "All 32 frames came out as they were."


def test_the_last_touch_is_told_with_its_string_and_who_acts_first(window: Window) -> None:
    window.show_bench("Spar")
    spar, session, document = window.spar, window.spar.session, window.document
    document.apply(set_fighter(document.project, TARN, plays="stands"))
    spar.restart()
    for tick in range(110):
        session.give(*([Input(OSSA, "light")] if tick in (5, 22) else []))
        session.tick()
    touches = [(r.tick, c.strike.name) for r in session.records for c in r.contacts if c.attacker == OSSA]
    assert [name for _, name in touches] == ["Sweep", "Point"]
    lines = spar.news.toolTip().splitlines()
    assert [line.split()[0] for line in lines] == ["Sweep", "Point"]
    assert spar.news.text() == lines[-1]
    assert f"at {touches[1][0]} · 2 of a string, " in lines[1]
    assert lines[1].rpartition(" · ")[2][0] in "+-"
    session.look_at(touches[0][0])
    assert spar.news.text().endswith(f"at {touches[0][0]}"), "who acts first is not seen yet"


def test_a_page_that_comes_to_be_seen_again_shows_what_there_is_by_then(window: Window) -> None:
    window.show_bench("Spar")
    page, document = window.spar.standing, window.document
    QTest.mouseClick(window.spar.standing_button, Qt.MouseButton.LeftButton)
    for bench, health in (("Sheet", 70.0), ("Spar", 55.0)):
        window.show_bench(bench)
        first = document.project.stage.fighters[0]
        page.tool.chosen = first.name
        stage = replace(
            document.project.stage, fighters=(replace(first, health=health), *document.project.stage.fighters[1:])
        )
        document.apply(Edit(replace(document.project, stage=stage), "health"))
        window.show_bench("Spar")
        assert page.fields["health"].value() == health
