"""The smaller parts of the desk: what they say, where they lead, and that they can be worked with keys alone."""

from __future__ import annotations

import dataclasses
from typing import Any

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractItemView, QApplication, QMenu
from pytestqt.qtbot import QtBot
from tools.made.edits import section, with_action, with_section

from tests.conftest import OSSA, TARN
from tests.desk.conftest import STRIKE, Hand, Watch, turn_wheel
from tests.desk.test_safe import in_dialog
from veergust.core.edit.clips import rename_clip
from veergust.core.edit.locomotion import rename as rename_state
from veergust.core.edit.masks import set_weight
from veergust.core.edit.spans import Edit, SpanRef
from veergust.core.model import Action, Project, Shield, Strike
from veergust.core.play.state import Input
from veergust.desk.look.theme import Theme
from veergust.desk.shell.findings import FindingsPage
from veergust.desk.shell.window import Window
from veergust.desk.widgets.choose import Chooser
from veergust.desk.widgets.inked import silhouette
from veergust.desk.widgets.notice import Notice
from veergust.look import DAY, NIGHT

Key = Qt.Key


def inked(theme: Theme, role: str) -> QImage:
    """A span of a role drawn alone, without colour."""
    image = QImage(80, 80, QImage.Format.Format_ARGB32)
    image.fill(QColor(theme.look.paper))
    p = QPainter(image)
    theme.draw_span(p, QRectF(5, 5, 70, 70), role)
    p.end()
    return image.convertToFormat(QImage.Format.Format_Grayscale8)


def test_roles_are_told_apart_in_print(qapp: QApplication) -> None:
    """Drawn in one grey each and with one edge, any two roles still differ in their hatch."""
    theme = Theme(DAY)
    roles = {name: type(r)("#555555", r.hatch, "solid", r.letter, r.word) for name, r in DAY.roles.items()}
    grey = dataclasses.replace(DAY, roles=roles)
    theme.look = grey
    names = list(DAY.roles)
    pictures = {n: bytes(inked(theme, n).constBits()) for n in names}
    assert len(set(pictures.values())) == len(names)


def test_a_theme_turned_is_sent_to_everybody(qtbot: QtBot, qapp: QApplication) -> None:
    theme = Theme(DAY)
    with qtbot.waitSignal(theme.changed):
        theme.use("night")
    assert theme.look is NIGHT
    theme.use("no such theme")
    assert theme.look is DAY
    assert theme.colour("strike").name() == DAY.role("strike").ink


def test_figures_have_one_width(qapp: QApplication) -> None:
    from PySide6.QtGui import QFontInfo, QFontMetricsF

    font = Theme(DAY).font(20)
    metrics = QFontMetricsF(font)
    assert QFontInfo(font).family() == "Barlow Semi Condensed"
    assert len({round(metrics.horizontalAdvance(d), 3) for d in "0123456789"}) == 1


def test_a_silhouette_looks_ahead_to_the_right_and_stands_on_the_floor(window: Window) -> None:
    document = window.document
    compiled = document.compiled
    assert document.mesh is not None
    assert compiled is not None
    box = silhouette(document.mesh, compiled.sections[0].world[0], 100.0).boundingRect()
    assert box.right() > 120  # the staff's tip
    assert box.bottom() == pytest.approx(0.0, abs=6.0)
    assert -190 < box.top() < -150


def test_choosing_by_typing_and_arrows(qtbot: QtBot, window: Window) -> None:
    dialog = Chooser(window, "Pick", ["idle", "walk", "staff_sweep", "staff_thrust"], "type")
    qtbot.addWidget(dialog)
    dialog.show()
    QTest.keyClicks(dialog.line, "STAFF")
    assert [dialog.shown.index(i, 0).data() for i in range(dialog.shown.rowCount())] == ["staff_sweep", "staff_thrust"]
    assert dialog.chosen() == "staff_sweep"
    QTest.keyClick(dialog, Key.Key_Down)
    QTest.keyClick(dialog, Key.Key_Down)
    QTest.keyClick(dialog, Key.Key_Return)
    assert dialog.chosen() == "staff_thrust"
    assert dialog.result() == Chooser.DialogCode.Accepted
    dialog.line.setText("nothing like it")
    assert dialog.chosen() == ""


def test_a_new_action_is_made_from_the_list(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("veergust.desk.sheet.making.choose_clips", lambda *_: ["hit_back"])
    QTest.mouseClick(window.sheet.new_button, Qt.MouseButton.LeftButton)
    assert window.document.action == "Hit back"
    assert window.document.done[-1].words == "New action Hit back"
    shown = window.sheet.list
    assert shown.currentIndex().data() == "Hit back"
    seen = shown.viewport().rect().adjusted(0, 0, 0, 1)
    assert seen.contains(shown.visualRect(shown.currentIndex()))


def test_a_notice_says_offers_and_goes(qtbot: QtBot, qapp: QApplication) -> None:
    notice = Notice(Theme(DAY))
    qtbot.addWidget(notice)
    taken: list[str] = []
    notice.say("Something to decide.", False, ("yes", lambda: taken.append("yes")), ("no", lambda: taken.append("no")))
    assert not notice.timer.isActive()
    QTest.mouseClick(notice.buttons[1], Qt.MouseButton.LeftButton)
    assert taken == ["no"]
    assert notice.isHidden()
    notice.say("Done.")
    assert notice.timer.isActive()
    assert notice.buttons == []
    notice.say("Wrong.", True)
    assert not notice.timer.isActive()
    QTest.mouseClick(notice.close_button, Qt.MouseButton.LeftButton)
    assert notice.isHidden()


def test_findings_lead_to_their_place(window: Window) -> None:
    """To the action; where a span is wrong it is selected and the playhead stands on it; a clip on its own bench."""
    project = with_action(window.document.project, "Overhead hook", layer="Legs")
    thrust = next(a for a in project.actions if a.name == "Thrust")
    n, i = next((n, i) for n, s in enumerate(thrust.sections) for i, e in enumerate(s.exits) if e.start > 0)
    wrong = tuple(replace(e, command="poke") if k == i else e for k, e in enumerate(thrust.sections[n].exits))
    project = with_section(project, "Thrust", n, exits=wrong)
    gone = replace(project.clips[0], file="clips/gone.glb")
    project = replace(project, clips=(gone, *project.clips[1:]))
    window.document.apply(Edit(project, "wrong layer, wrong command"))
    lines: list[str] = []

    def take(words: str) -> None:
        """Open the page by its key, type what a line begins with, and take it."""

        def choose(page: object) -> None:
            assert isinstance(page, FindingsPage)
            lines[:] = page.names
            QTest.keyClicks(page.line, words)
            QTest.keyClick(page.line, Key.Key_Return)

        in_dialog(FindingsPage, choose)
        QTest.keyClick(window, Key.Key_F8)
        QApplication.processEvents()

    take("error: Overhead hook no layer 'Legs' shows it; choose a layer of the project")
    assert len(lines) == len(window.document.derived.findings())
    assert window.document.action == "Overhead hook"
    take("'poke'")
    assert window.document.action == "Thrust"
    assert window.document.selection == SpanRef("Thrust", n, "exits", i)
    compiled = window.document.compiled
    assert compiled is not None
    assert window.document.frame == compiled.start_of(n) + wrong[i].start
    take(f"error: clip {gone.name} ")
    assert (window.bench, window.document.clip) == ("Clips", gone.name)


def test_the_menu_says_what_would_be_undone(window: Window, hand: Hand) -> None:
    assert not window.undo_action.isEnabled()
    hand.drag(STRIKE, "end", 2)
    assert window.undo_action.text() == "Undo: Sweep: closes at 13 → 15"
    window.undo_action.trigger()
    assert window.redo_action.text() == "Redo: Sweep: closes at 13 → 15"
    assert not window.undo_action.isEnabled()
    shortcuts = [a.shortcut().toString() for a in window.menu.actions() if not a.isSeparator() and not a.menu()]
    assert all(shortcuts)
    assert len(shortcuts) == len(set(shortcuts))
    window._fill_recent()
    assert isinstance(window.recent_menu, QMenu)
    assert "quay" in window.recent_menu.actions()[0].text()


def test_the_strip_says_when_it_was_saved_and_what_would_be_undone(window: Window, hand: Hand) -> None:
    strip = window.sheet.facts
    assert strip.status() == ("", "")
    hand.drag(STRIKE, "body", 1)
    assert strip.status() == ("Not saved yet", "Undo: Sweep: moved +1 f, opens at 9 → 10")
    window.document.save()
    assert strip.status()[0].startswith("Saved ")
    hand.drag(STRIKE, "body", 1)
    assert strip.status()[0].endswith(", changed since")
    assert "startup 10 → 11" in strip.accessibleDescription()


def test_the_now_card_has_room_for_what_is_open_first(window: Window) -> None:
    card = window.sheet.now
    window.document.move_to(12)
    card.resize(440, 62 + 2 * 27 + 5)
    assert len(card.shown()) == 2
    assert all(item.open for item in card.shown())
    assert "Sweep is open until 13" in card.accessibleDescription()
    card.setFocus()
    QTest.keyClick(card, Key.Key_Down)
    assert window.document.selection == STRIKE


def test_the_stage_is_seen_from_its_sides_turned_moved_and_zoomed(window: Window) -> None:
    view = window.sheet.stage.view
    for name, tilt in (("top", 89.0), ("side", 8.0)):
        view.look_from(name)
        assert view.camera.pitch == tilt
    far, target = view.camera.distance, view.camera.target
    QTest.mousePress(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, QPoint(100, 100))
    event_at = QPointF(140, 100)
    from PySide6.QtCore import QEvent
    from PySide6.QtGui import QMouseEvent

    QApplication.sendEvent(view, QMouseEvent(
        QEvent.Type.MouseMove, event_at, view.mapToGlobal(event_at), Qt.MouseButton.NoButton,
        Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier,
    ))  # fmt: skip
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, QPoint(140, 100))
    assert view.camera.target[0] < target[0]
    turn_wheel(view, event_at, 240)
    assert view.camera.distance < far
    window.sheet.stage.follow_button.click()
    window.document.move_to(40)
    assert view.camera.target[0] == pytest.approx(0.46, abs=0.02)


def test_the_reels_show_the_action_of_every_layer_beside_one_another(window: Window) -> None:
    window.show_bench("Spar")
    spar = window.spar
    spar.hold()
    spar.restart()
    spar.session.give(Input(OSSA, action="Low sweep"))
    spar.session.tick()
    spar.session.give(Input(OSSA, action="Lantern toss"))
    for _ in range(6):
        spar.session.tick()
    low, high = ([(b.words, b.slot, b.slots) for b in spar.left._action_blocks(n)] for n in (0, 1))
    assert low == [("Low sweep", 0, 1), ("Low sweep", 0, 2)]
    assert high == [("Lantern toss", 1, 2)]
    spar.left.grab()


def test_the_reels_say_what_was_played_opened_and_touched(window: Window) -> None:
    window.show_bench("Spar")
    window.resize(1300, 900)
    spar = window.spar
    spar.hold()
    spar.restart()
    spar.session.give(Input(OSSA, "light"))
    for _ in range(30):
        spar.session.tick()
    played = [(b.words, b.role) for b in spar.left._action_blocks(0)]
    assert [w for w, _ in played] == ["Low sweep", "Low sweep", "Sweep", "hit stop", "Low sweep", "Low sweep"]
    stop = next(b for b in spar.left._action_blocks(0) if b.words == "hit stop")
    assert stop.end - stop.start == 5
    assert dict(played)["Sweep"] == "strike"
    assert [b.role for b in spar.left._exit_blocks()] == ["combo"]
    assert [b.words for b in spar.right._locomotion_blocks()] == ["idle"]
    assert [b.words for b in spar.right._action_blocks(0)] == ["Reel front", "hit stop", "Reel front"]
    record = spar.session.record
    assert record is not None
    assert record.fighter(TARN).health == 87.0


def test_the_reels_say_what_was_deflected_broken_and_stunned(window: Window) -> None:
    """A guard that deflects, one that breaks under the same sweep, and a stun without it."""
    document = window.document
    window.show_bench("Spar")
    spar = window.spar
    ways: tuple[tuple[dict[str, Any] | None, int | None, str], ...] = (
        ({"deflects": 60}, None, "deflected"), ({"strength": 1.0}, None, "guard broken"),
        ({"strength": 0.0}, None, "guarded"), (None, 40, "touched"),
    )  # fmt: skip
    for guard, stun, said in ways:
        shields = () if guard is None else (Shield(start=0, end=9999, kind="guard", **guard),)
        stands = Action(name="Stands", sections=(section("idle", 2.0),), shields=shields, blend_in=0)
        strike = replace(quay_sweep(document.project), stun=stun)
        project = with_section(replace(document.project, actions=(*document.project.actions[:20], stands)), "Low sweep", 1,
                               strikes=(strike,))  # fmt: skip
        fighters = tuple(replace(f, poise=5.0 * (guard is None and f.name == TARN)) for f in project.stage.fighters)
        document.apply(Edit(replace(project, stage=replace(project.stage, fighters=fighters)), "a guard"))
        spar.hold()
        spar.restart()
        spar.session.give(Input(OSSA, action="Low sweep"), Input(TARN, action="Stands"))
        for _ in range(30):
            spar.session.tick()
        [contact] = [c for r in spar.session.records for c in r.contacts]
        assert spar.right.said_of(contact) == said
        smalls = {b.small for b in spar.right._action_blocks(0)}
        assert ("stunned" in smalls) == (stun is not None)
        told = spar.right.told()[0]
        assert ("stunned for" in told.value) == (stun is not None)
        assert ("poise 5" in told.value) == (guard is None)
        spar.right.grab()


def quay_sweep(project: Project) -> Strike:
    return next(a for a in project.actions if a.name == "Low sweep").sections[1].strikes[0]


def test_play_on_the_sheet_goes_round_and_at_its_speed(window: Window) -> None:
    bench = window.sheet
    bench.clock = watch = Watch()  # type: ignore[assignment]
    bench.toggle_play()
    bench.timer.setInterval(10**6)  # the beats below are the only ones
    for past, frame in ((100, 6), (500, 30), (760, 45), (1100, 45)):
        watch.now = past
        bench._tick()
        assert window.document.frame == frame
    watch.now = 1200
    bench._tick()
    assert window.document.frame == 0
    bench._set_speed(0.25)
    watch.now = 400
    bench._tick()
    assert window.document.frame == 6
    assert bench.play_button.text() == "■ stop"
    window.show_bench("Spar")
    assert not bench.playing


def test_play_once_stops_at_the_end_of_the_action_or_of_the_section_alone(window: Window) -> None:
    bench = window.sheet
    QTest.mouseClick(bench.once_button, Qt.MouseButton.LeftButton)
    for alone, start, wanted in ((False, 3, 45), (True, 12, 19)):
        bench.alone_button.setChecked(alone)
        window.document.move_to(start)
        bench.clock = watch = Watch()  # type: ignore[assignment]
        bench.toggle_play()
        bench.timer.setInterval(10**6)
        watch.now = 5000
        bench._tick()
        assert (window.document.frame, bench.playing) == (wanted, False)


@pytest.mark.parametrize("bench", ["Clips", "Ground", "Layers"])
def test_lists_stay_where_they_were_scrolled_to_when_they_get_other_rows(
    window: Window, bench: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Another name of a clip or a state, two sides that are no longer alike."""
    document = window.document
    window.show_bench(bench)
    view: QAbstractItemView
    if bench == "Clips":
        document.choose_clip(document.project.clips[0].name)
        view, edit = window.clips.library, rename_clip(document.base, document.project.clips[-1].name, "another")
    elif bench == "Ground":
        window.ground.selection.choose_transition(0)
        view, edit = window.ground.grid, rename_state(document.base, "land", "touch down")
    else:
        window.layers.selection.choose("Arms")
        window.layers.selection.choose_joint(0)
        bones = document.build.assets.skeleton
        view, edit = window.layers.masks.table, set_weight(document.base, bones, "upper body", ("hand_left",), 0.5)
    QApplication.processEvents()
    bars = [bar for bar in (view.horizontalScrollBar(), view.verticalScrollBar()) if bar.maximum() > 20]
    assert bars
    for bar in bars:
        bar.setValue(bar.maximum() - 9)
    there = [bar.value() for bar in bars]
    gone: list[bool] = []
    view.model().modelReset.connect(lambda: gone.append(True))
    assert document.apply(edit)
    QApplication.processEvents()
    assert gone
    assert [bar.value() for bar in bars] == there
    # An edit after which there are the same rows lays nothing out.
    gone.clear()
    monkeypatch.setattr(view, "doItemsLayout", lambda: gone.append(False))
    assert document.apply(Edit(replace(document.project, name="Another quay"), "name"))
    QApplication.processEvents()
    assert gone == []
