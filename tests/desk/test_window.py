"""The window: opening, saving, trouble, recovery, themes, and what anyone can reach without eyes or mouse."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, QRect, QSettings, Qt, QUrl
from PySide6.QtGui import QDropEvent, QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLineEdit,
    QMessageBox,
    QStyle,
    QStyleOptionComboBox,
)
from pytestqt.qtbot import QtBot
from tools.made import DEMO

from tests.desk.conftest import STRIKE, Hand, arrived, let_go
from veergust.core.edit.commands import GESTURES, add_command, set_gesture
from veergust.core.edit.spans import Edit, span_of
from veergust.core.files.folder import open_project
from veergust.core.files.left import left_behind
from veergust.core.files.saving import save_project
from veergust.core.model import Project
from veergust.desk.app import make_window
from veergust.desk.frame.page import Scroll
from veergust.desk.shell.benches import BENCHES
from veergust.desk.shell.window import Window
from veergust.look import DAY, NIGHT

Key = Qt.Key
CONTROL = Qt.KeyboardModifier.ControlModifier


def drop(window: Window, *paths: Path, at: QPointF = QPointF(100, 500)) -> None:  # noqa: B008
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(p)) for p in paths])
    event = QDropEvent(at, Qt.DropAction.CopyAction, mime, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)
    window.dropEvent(event)
    arrived(window)


def test_a_project_that_cannot_be_read_leaves_the_open_one_and_its_unsaved_work(
    window: Window, hand: Hand, tmp_path: Path
) -> None:
    hand.drag(STRIKE, "body", 2)
    kept = window.document.project
    window.may_leave = lambda: True  # type: ignore[method-assign]
    bad = tmp_path / "bad.veergust"
    save_project(open_project(DEMO), bad, clips_from=DEMO)
    text = (bad / "actions" / "thrust.json").read_text()
    (bad / "actions" / "thrust.json").write_text(
        text.replace('"blend"', '"blend_in": "x", "blend"', 1).replace('"name": "Thrust"', '"name": 7', 1)
    )
    assert not window.open_project(bad)
    assert window.document.project is kept
    assert window.document.unsaved
    assert window.notice.isVisible()
    assert "thrust.json" in window.notice.label.text()
    assert "name" in window.notice.label.text()


@pytest.mark.parametrize("damage", ["cut", "gone", "figure"])
def test_a_damaged_or_missing_clip_is_said_in_words(window: Window, tmp_path: Path, damage: str) -> None:
    copy = tmp_path / "other.veergust"
    save_project(open_project(DEMO), copy, clips_from=DEMO)
    clip = copy / "clips" / ("figure.glb" if damage == "figure" else "overhead.glb")
    if damage == "gone":
        clip.unlink()
    else:
        clip.write_bytes(clip.read_bytes()[:3000])
    opened = window.open_project(copy)
    assert opened is (damage == "gone")
    if damage == "gone":
        assert window.findings_button.text() == "1 finding"
        assert "overhead" in window.document.derived.findings()[0].says
        assert "overhead_hook.json, sections[0].cuts[0].clip" in window.notice.label.text()
        assert window.document.project.actions[2].name == "Overhead hook"
    else:
        assert window.document.folder != copy
        assert clip.name in window.notice.label.text()
        assert "cut short" in window.notice.label.text()


def test_a_save_that_fails_says_so_and_the_work_stays(window: Window, hand: Hand, folder: Path) -> None:
    hand.drag(STRIKE, "body", 2)
    blocked = folder / "project.json" / "x"
    assert not window.document.save(blocked)
    assert window.document.unsaved
    assert "Not saved" in window.notice.label.text()


def test_work_not_saved_is_offered_again_after_a_kill(
    folder: Path, window: Window, hand: Hand, qtbot: QtBot, tmp_path: Path
) -> None:
    hand.drag(STRIKE, "body", 2)
    hand.drag(STRIKE, "end", 1)
    worked = window.document.project
    crash(window)
    other = make_window(QSettings(str(tmp_path / "other.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(other, before_close_func=let_go)
    other.open_project(folder)
    other.show()
    with qtbot.waitActive(other):
        other.activateWindow()
    fresh = other.document.project != worked
    assert fresh
    assert "2 changes" in other.notice.label.text()
    # Neither a save nor another run takes them away.
    assert other.document.save()
    assert len(left_behind(folder)) == 1
    QTest.mouseClick(other.notice.buttons[0], Qt.MouseButton.LeftButton)
    back = other.document.project == worked
    assert back
    QTest.keyClick(other, Key.Key_Z, CONTROL)
    assert span_of(other.document.project, STRIKE).start == 1
    other.document.save()
    assert left_behind(folder) == []


def crash(window: Window) -> None:
    """Let go of what a killed program would: its locks, and nothing else."""
    kept, journal = window.document.kept, window.document.journal
    if kept is not None and kept.lock is not None:
        assert kept.lock._end is not None
        kept.lock._end.detach()
        os.close(kept.lock._fd)
        kept.lock._fd = -1
    if journal._fd >= 0:
        os.close(journal._fd)
        journal._fd = -1


PROGRAM = """
import sys, time
from pathlib import Path
from PySide6.QtCore import QSettings, Qt, QTimer
from veergust.core.edit.spans import SpanRef, set_edges
from veergust.desk.app import make_application, make_window
app = make_application(["x"])
window = make_window(QSettings(sys.argv[2], QSettings.Format.IniFormat))
window.open_project(Path(sys.argv[1]))
window.show()
ref, document = SpanRef("Low sweep", 1, "strikes", 0), window.document
step = [0]
def work():
    step[0] += 1
    start = 1 + step[0] % 5
    document.apply(set_edges(document.project, document.compiled, ref, start, start + 4))
    document.save()
    print("saved", flush=True)
timer = QTimer(); timer.timeout.connect(work); timer.start(0)
app.exec()
"""


def test_the_program_killed_while_saving_leaves_a_project_that_opens(
    folder: Path, tmp_path: Path, qapp: QApplication
) -> None:
    for saves in (1, 5):
        process = subprocess.Popen(
            [sys.executable, "-c", PROGRAM, str(folder), str(tmp_path / "s.ini")],
            stdout=subprocess.PIPE, env={**os.environ},
        )  # fmt: skip
        assert process.stdout is not None
        assert [process.stdout.readline() for _ in range(saves)] == [b"saved\n"] * saves
        process.send_signal(signal.SIGKILL)
        process.wait()
        strike = open_project(folder).actions[0].sections[1].strikes[0]
        assert strike.end - strike.start == 4


def test_clips_dropped_on_the_window_are_imported_and_can_be_undone(window: Window, tmp_path: Path) -> None:
    extra = tmp_path / "bow.glb"
    extra.write_bytes((DEMO / "clips" / "overhead.glb").read_bytes())
    drop(window, extra)
    assert window.document.project.clips[-1].name == "overhead_2"
    assert window.document.unsaved
    QTest.keyClick(window, Key.Key_Z, CONTROL)
    assert "overhead_2" not in [c.name for c in window.document.project.clips]
    bad = tmp_path / "bad.glb"
    bad.write_bytes(extra.read_bytes()[:900])
    before = window.document.project
    drop(window, bad)
    assert window.document.project is before
    assert "bad.glb" in window.notice.label.text()
    drop(window, tmp_path / "notes.txt")
    assert "is no .glb" in window.notice.label.text()


def test_a_first_project_from_nothing(window: Window, tmp_path: Path) -> None:
    empty = tmp_path / "first.veergust"
    save_project(Project(name="first"), empty)
    assert window.open_project(empty)
    window.grab()
    drop(window, DEMO / "clips" / "figure.glb")
    drop(window, DEMO / "clips" / "overhead.glb")
    from veergust.core.edit.actions import new_action

    edit, name = new_action(window.document.project, window.document.build.assets, "overhead")
    window.document.apply(edit)
    window.document.choose_action(name)
    assert window.sheet.facts.texts["total"] == "63"
    assert window.document.save()
    assert open_project(empty).actions[0].name == "Overhead"


@pytest.mark.parametrize(
    ("choice", "leaves", "saved"),
    [("Save", True, True), ("Leave without saving", True, False), ("Stay", False, False)],
)
def test_leaving_unsaved_work_asks(window: Window, hand: Hand, folder: Path, choice: str, leaves: bool, saved: bool,
                                   monkeypatch: pytest.MonkeyPatch) -> None:  # fmt: skip
    hand.drag(STRIKE, "body", 2)

    def answer(box: QMessageBox) -> int:
        button = next(b for b in box.buttons() if b.text() == choice)
        button.click()
        monkeypatch.setattr(box, "clickedButton", lambda: button)
        return 0

    monkeypatch.setattr(QMessageBox, "exec", answer)
    assert window.may_leave() is leaves
    assert (open_project(folder).actions[0].sections[1].strikes[0].start == 3) is saved


@pytest.mark.pictured
def test_both_themes_paint_every_bench_in_their_own_colours(window: Window) -> None:
    def locomotion() -> str:
        QApplication.processEvents()
        image: QImage = window.grab().toImage()
        return image.pixelColor(640, 4).name()

    benches = ("Clips", "Sheet", "Spar")
    for look in (DAY, NIGHT, DAY):
        for bench in benches:
            window.show_bench(bench)
            assert locomotion() == look.paper, (bench, look.name)
        QTest.keyClick(window, Key.Key_T, CONTROL | Qt.KeyboardModifier.ShiftModifier)


@pytest.mark.pictured
def test_the_stage_draws_the_figure_and_its_open_strike(window: Window, qtbot: QtBot) -> None:
    window.document.move_to(11)
    view = window.sheet.stage.view
    QTest.qWait(50)

    def inks(name: str, near: int) -> int:
        assert view.picture is not None
        image = view.picture.grabFramebuffer()
        red, green, blue = (int(name[i : i + 2], 16) for i in (1, 3, 5))
        count = 0
        for y in range(0, image.height(), 3):
            for x in range(0, image.width(), 3):
                c = image.pixelColor(x, y)
                count += abs(c.red() - red) + abs(c.green() - green) + abs(c.blue() - blue) < near
        return count

    qtbot.waitUntil(lambda: inks(DAY.body, 40) > 150)
    assert inks(DAY.role("strike").ink, 90) > 15
    window.document.move_to(30)
    QTest.qWait(50)
    assert inks(DAY.role("strike").ink, 40) < 15
    turn = view.camera.yaw
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=QPoint(100, 100))
    QTest.mouseMove(view, QPoint(160, 100))
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=QPoint(160, 100))
    assert view.camera.yaw != turn


def test_it_fits_1280_by_800_and_everything_has_a_name(window: Window) -> None:
    assert window.minimumSizeHint().width() <= 1280
    assert window.minimumSizeHint().height() <= 800
    for button in window.findChildren(QAbstractButton):
        if button.objectName() == "qt_tableview_cornerbutton":
            continue  # Qt's own, never shown
        assert button.accessibleName() or button.text(), button
        if button.isVisible():
            assert button.width() >= button.fontMetrics().horizontalAdvance(button.text().replace("&", "")), (
                button.text()
            )
    for widget in (
        window.sheet.sheet,
        window.sheet.list,
        window.sheet.now,
        window.sheet.facts,
        window.spar,
        window.sheet.stage.view,
    ):
        assert widget.accessibleName()


def test_recent_projects_are_remembered(window: Window, folder: Path, tmp_path: Path) -> None:
    other = tmp_path / "second.veergust"
    save_project(Project(name="second"), other)
    window.open_project(other)
    assert window.recent() == [str(other), str(folder)]
    again = Window(window.theme, window.settings)
    assert again.recent()[0] == str(other)
    again.deleteLater()


def test_calls_into_qt_give_back_what_they_borrow(qapp: QApplication) -> None:
    """One release of the bindings let go of None with every call that returns nothing, and died of it."""
    font = qapp.font()
    before = sys.getrefcount(None)
    for _ in range(2000):
        font.setPixelSize(12)
    assert sys.getrefcount(None) > before - 1000


def test_anything_is_found_by_name_and_opened(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    from veergust.desk.widgets.choose import Chooser

    def type_and_take(words: str) -> None:
        def answer(dialog: Chooser) -> int:
            dialog.line.setText(words)
            return int(Chooser.DialogCode.Accepted)

        monkeypatch.setattr(Chooser, "exec", answer)
        QTest.keyClick(window, Key.Key_K, CONTROL)

    type_and_take("hook")
    assert window.document.action == "Overhead hook"
    type_and_take("dodge · command")
    assert window.document.action == "Duck roll"
    window.show_bench("Spar")
    type_and_take("staff_sweep")
    assert window.document.clip == "staff_sweep"
    assert window.benches.currentWidget() is window.clips
    type_and_take("hook")
    assert window.benches.currentWidget() is window.sheet


def test_an_action_is_renamed_everywhere(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    from PySide6.QtWidgets import QInputDialog

    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("Turning sweep", True))
    QTest.keyClick(window, Key.Key_F2)
    assert window.document.action == "Turning sweep"
    assert window.document.done[-1].words == "Low sweep: renamed Turning sweep"
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("Thrust", True))
    QTest.keyClick(window, Key.Key_F2)
    assert "already" in window.notice.label.text()
    QTest.keyClick(window, Key.Key_Z, CONTROL)
    assert window.document.project.actions[0].name == "Low sweep"
    assert window.document.compiled is not None


def test_every_bench_and_page_has_room_in_a_window_of_1280_by_800(window: Window) -> None:
    for name in ("Clips", "Sheet", "Spar"):
        window.show_bench(name)
        pages = range(len(window.sheet.page_buttons)) if name == "Sheet" else (0,)
        for page in pages:
            window.sheet.show_page(page)
            window.document.select(STRIKE)
            window.resize(1280, 800)
            QApplication.processEvents()
            assert (window.width(), window.height()) == (1280, 800), (name, page)
    window.sheet.toggle_play()
    QApplication.processEvents()
    assert window.width() == 1280


KINDS_OF_FIELD = (QLineEdit, QComboBox, QAbstractSpinBox, QAbstractButton)


def pages_of(window: Window) -> Iterator[str]:
    """Open every page of every bench, one after the other; what is open now."""
    for name in BENCHES:
        window.show_bench(name)
        if name == "Sheet":
            window.document.select(STRIKE)
        # Words that open pages are counted anew each time: some are made with the page.
        for at in range(12):
            words = [b for b in window.findChildren(QAbstractButton) if b.objectName() == "page" and b.isVisible()]
            if at >= len(words):
                break
            words[at].click()
            QApplication.processEvents()
            yield f"{name}, {words[at].text()}"
    window.spar.standing_button.click()
    page = window.spar.standing
    for n in range(page.which.count()):
        page.which.setCurrentIndex(n)
        page.which.activated.emit(n)
        QApplication.processEvents()
        yield f"Spar, {page.which.currentText()}"
    window.spar.drills_button.click()
    yield "Spar, drills"
    project = window.document.project
    for kind in GESTURES:
        project = set_gesture(add_command(project, kind).project, kind, kind).project
    window.document.apply(Edit(project, "gestures"))
    window.spar.commands_button.click()
    for command in project.commands:
        window.spar.commands.choose(command.name)
        QApplication.processEvents()
        yield f"Spar, {command.name}"


def room_of(field: QComboBox) -> int:
    """The width of what a list shows while it is shut."""
    option, style = QStyleOptionComboBox(), field.style()
    field.initStyleOption(option)
    return (
        style.subControlRect(
            QStyle.ComplexControl.CC_ComboBox, option, QStyle.SubControl.SC_ComboBoxEditField, field
        ).width()
        - 2
    )  # which the style keeps free at its sides


def test_no_field_is_cut_off_by_the_edge_of_its_page(window: Window) -> None:
    window.resize(1280, 800)
    seen: list[str] = []
    cut: list[tuple[str, str, int]] = []
    for where in pages_of(window):
        seen.append(where)
        for area in window.findChildren(Scroll):
            wide = area.viewport().width()
            fields = [w for kind in KINDS_OF_FIELD for w in area.findChildren(kind)]
            for field in fields:
                if field.isVisible():
                    right = field.mapTo(area.viewport(), QPoint(field.width(), 0)).x()
                    assert right <= wide, (where, field.accessibleName(), right, wide)
                if field.isVisible() and isinstance(field, QComboBox):
                    text = field.fontMetrics().horizontalAdvance(field.currentText())
                    cut += [(where, field.currentText(), text - room_of(field))] if text > room_of(field) else []
    assert len(seen) > 20
    assert cut == []


@pytest.mark.pictured
def test_a_stage_that_is_not_seen_keeps_no_picture_and_draws_it_again_when_it_is(window: Window, qtbot: QtBot) -> None:
    picture = window.sheet.stage.view.picture
    assert picture is not None
    qtbot.waitUntil(lambda: picture._target is not None)
    window.show_bench("Spar")
    qtbot.waitUntil(lambda: picture._target is None)
    window.show_bench("Sheet")
    qtbot.waitUntil(lambda: picture._target is not None)
    image = picture.grabFramebuffer()
    colours = {image.pixelColor(x, image.height() // 2).name() for x in range(0, image.width(), 3)}
    assert len(colours) > 4


@pytest.mark.parametrize("bench", list(BENCHES))
def test_words_that_pass_move_nothing_and_words_that_stay_hide_nothing(window: Window, bench: str) -> None:
    window.show_bench(bench)
    QApplication.processEvents()
    whole, page = window.centralWidget(), window.places

    def stands() -> QRect:
        QApplication.processEvents()
        return page.geometry()

    before = stands()
    for words in ("Saved.", "edges of the strike moved with the pose " * 12):
        window.document.said.emit(words, False)
        assert stands() == before
        passing = window.notice.geometry()
        assert window.notice.isVisible()
        assert whole.rect().contains(passing)
        assert passing.top() == before.top()
        assert abs(passing.center().x() - whole.rect().center().x()) <= 1
        needs = window.notice.label.heightForWidth(window.notice.label.width())
        assert window.notice.label.height() >= needs
    window.document.said.emit("That cannot be read.", True)
    assert stands().top() == window.notice.geometry().bottom() + 1
    assert window.notice.width() == whole.width()
    window.resize(1040, 700)
    assert stands().top() == window.notice.geometry().bottom() + 1
    assert window.notice.width() == window.centralWidget().width()
    window.notice.close_button.click()
    assert stands().top() == before.top()
