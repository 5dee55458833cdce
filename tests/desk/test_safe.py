"""What the window does about the folder it shows, and about what nobody foresaw."""

from __future__ import annotations

import itertools
import os
import shutil
import subprocess
import sys
from collections.abc import Callable
from functools import partial
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QSettings, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QPushButton
from pytestqt.qtbot import QtBot
from tools.made import DEMO
from tools.made.edits import replace, with_action, with_section

from tests.core.files.disk import Disk
from tests.core.files.test_links import PLACES, hostile
from tests.core.files.test_safe import plan, tree
from tests.core.files.test_units import creature
from tests.desk.conftest import STRIKE, Hand, let_go, read_by, until
from tests.desk.test_window import crash
from veergust.core.edit.actions import rename_action
from veergust.core.edit.spans import Edit, span_of
from veergust.core.files.as_files import project_files
from veergust.core.files.assets import load_assets
from veergust.core.files.demo import copy_demo
from veergust.core.files.folder import open_project
from veergust.core.files.left import left_behind
from veergust.core.files.places import journal_folder
from veergust.core.files.plan import digest
from veergust.core.files.saving import save_project
from veergust.core.model import Project
from veergust.desk.app import begin, make_window
from veergust.desk.document.progress import SOON, Teller
from veergust.desk.shell.leftwork import LeftWork
from veergust.desk.shell.mishaps import say_errors
from veergust.desk.shell.settling import Settling
from veergust.desk.shell.window import Window
from veergust.desk.stage import view as stage_view
from veergust.desk.widgets.fields import NumberField

Key = Qt.Key
CONTROL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def another(qtbot: QtBot, tmp_path: Path) -> Callable[[Path], Window]:
    """Opens one more window on a folder."""

    def open_(folder: Path) -> Window:
        made = make_window(QSettings(str(tmp_path / "other.ini"), QSettings.Format.IniFormat))
        qtbot.addWidget(made, before_close_func=let_go)
        made.open_project(folder)
        made.show()
        to_front(made)
        return made

    return open_


def to_front(window: Window) -> None:
    """Bring a window to the front, as a person does who clicks on it."""
    window.activateWindow()
    until(lambda: window.isActiveWindow())
    QTest.qWait(30)


def said(window: Window) -> str:
    return window.notice.label.text() if window.notice.isVisible() else ""


def press(window: Window, words: str) -> None:
    button = next(b for b in window.notice.buttons if b.text() == words)
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)


def in_dialog(kind: type, act: Callable[[object], None]) -> None:
    """Do something in the next dialog of a kind that opens, soon; not in one that a later test opens."""
    tries = iter(range(250))

    def look() -> None:
        dialog = QApplication.activeModalWidget()
        if dialog is None or not isinstance(dialog, kind) or not dialog.isVisible():
            if next(tries, None) is not None:
                QTimer.singleShot(20, look)
            return
        try:
            act(dialog)
        except BaseException:
            dialog.close()  # or it would wait for an answer for ever
            raise

    QTimer.singleShot(0, look)


def button(dialog: object, words: str) -> QPushButton:
    return next(b for b in dialog.findChildren(QPushButton) if b.text() == words)  # type: ignore[attr-defined]


# Two windows


def test_a_second_window_opens_to_look_and_takes_over_when_the_first_has_gone(
    window: Window, hand: Hand, folder: Path, another: Callable[[Path], Window]
) -> None:
    second = another(folder)
    assert "Open only to look: open in another window since" in said(second)
    assert second.look_button.isVisible()
    assert "(to look)" in second.windowTitle()
    before = second.document.project
    second_hand = Hand(second)
    second_hand.drag(STRIKE, "body", 2)
    assert second.document.project == before
    assert "only to look" in said(second)
    QTest.keyClick(second, Key.Key_S, CONTROL)
    assert open_project(folder) == before
    # What the first saves is seen in the second as soon as that is looked at.
    to_front(window)
    hand.drag(STRIKE, "body", 2)
    assert window.save()
    to_front(second)
    until(lambda: second.document.project == window.document.project)
    assert not second.document.unsaved
    QTest.mouseClick(second.look_button, Qt.MouseButton.LeftButton)
    assert "Still open only to look" in said(second)
    let_go(window)
    window.close()
    QTest.mouseClick(second.look_button, Qt.MouseButton.LeftButton)
    assert not second.document.to_look
    second_hand.drag(STRIKE, "body", 1)
    assert second.save()
    assert open_project(folder) == second.document.project != before


# Changes on disk


def test_what_changed_on_disk_comes_in_when_the_window_comes_to_the_front(
    window: Window, folder: Path, another: Callable[[Path], Window], hand: Hand
) -> None:
    hand.drag(STRIKE, "body", 2)
    ours = window.document.project
    theirs = with_action(open_project(folder), "Thrust", blend_in=9)
    write(theirs, folder)
    window.look_at_disk()
    assert "Taken in from disk: the action Thrust." in said(window)
    assert {a.name: a.blend_in for a in window.document.project.actions}["Thrust"] == 9
    assert span_of(window.document.project, STRIKE) == span_of(ours, STRIKE)
    assert window.document.unsaved
    assert window.save()
    assert open_project(folder) == window.document.project
    # What others did is no step of one's own: it is gone round by undo and redo, and taken back by its name.
    for key in (Key.Key_Z, Key.Key_Y, Key.Key_Z):
        QTest.keyClick(window, key, CONTROL)
        assert {a.name: a.blend_in for a in window.document.project.actions}["Thrust"] == 9
        assert (window.document.project == ours) is False
        assert (window.document.done == []) is (key == Key.Key_Z)
    assert window.document.project == theirs
    window.acts["take_back_theirs"]()
    assert {a.name: a.blend_in for a in window.document.project.actions}["Thrust"] != 9
    assert window.document.done[-1].words == "What changed on disk, taken back"
    QTest.keyClick(window, Key.Key_Z, CONTROL)
    assert window.document.project == theirs


def test_undo_of_what_others_changed_as_well_leaves_theirs_and_says_so(
    window: Window, folder: Path, hand: Hand
) -> None:
    hand.drag(STRIKE, "body", 2)
    assert window.save()
    theirs = shifted(open_project(folder))
    write(theirs, folder)
    window.look_at_disk()
    QTest.keyClick(window, Key.Key_Z, CONTROL)
    assert window.document.project == theirs
    assert "left as it was changed on disk: the action Low sweep" in said(window)


def test_undo_beside_what_others_changed_of_the_same_action_takes_back_ones_own(
    window: Window, folder: Path, hand: Hand
) -> None:
    before = window.document.project
    hand.drag(STRIKE, "body", 2)
    assert window.save()
    write(with_action(open_project(folder), "Low sweep", blend_in=9), folder)
    window.look_at_disk()
    QTest.keyClick(window, Key.Key_Z, CONTROL)
    assert window.document.project == with_action(before, "Low sweep", blend_in=9)


def shifted(project: Project) -> Project:
    """The sweep's strike opened and closed a frame sooner than it is."""
    (strike,) = next(a for a in project.actions if a.name == "Low sweep").sections[1].strikes
    return with_section(project, "Low sweep", 1, strikes=(replace(strike, start=strike.start - 3, end=strike.end - 3),))


def test_what_both_changed_of_an_action_in_different_places_is_both(window: Window, folder: Path, hand: Hand) -> None:
    hand.drag(STRIKE, "body", 2)
    mine = window.document.project
    write(with_action(open_project(folder), "Low sweep", blend_in=9), folder)
    window.look_at_disk()
    assert window.document.project == with_action(mine, "Low sweep", blend_in=9)
    assert said(window) == "Taken in from disk: the action Low sweep."


def test_after_a_change_on_disk_was_taken_in_a_crash_loses_nothing(window: Window, folder: Path, hand: Hand) -> None:
    """The journal stands on what the folder has now, whether something was to be told before, after, or both."""
    hand.drag(STRIKE, "body", 2)
    for blend in (9, 7):
        write(with_action(open_project(folder), "Thrust", blend_in=blend), folder)
        window.look_at_disk()
        kept = window.document.kept
        assert kept is not None
        for _ in range(2):
            os.close(kept.journal._fd)
            kept.journal._fd = -1  # as a kill leaves it
            (left,) = left_behind(folder)
            assert not [step.why_not for step in left.onto(project_files(open_project(folder))) if step.why_not]
            assert left.take_back(project_files(open_project(folder)), folder) == window.document.project
            hand.drag(STRIKE, "body", 1)
    write(window.document.project, folder)
    window.look_at_disk()
    assert not window.document.unsaved
    assert not list(journal_folder().glob("*.journal"))


def write(project: object, folder: Path) -> None:
    """What a checkout leaves: the files of another state, written past the program."""
    from veergust.core.files.as_files import project_files

    for name, data in project_files(project).items():  # type: ignore[arg-type]
        (folder / name).write_bytes(data)


@pytest.mark.parametrize("side", ["mine", "from disk"])
def test_what_both_changed_is_asked_part_by_part_before_it_is_saved(
    window: Window, folder: Path, hand: Hand, side: str
) -> None:
    theirs = shifted(open_project(folder))
    hand.drag(STRIKE, "body", 2)
    mine = window.document.project
    write(theirs, folder)
    window.look_at_disk()
    assert "Changed here and on disk: the action Low sweep (sections › Swing › strikes › Sweep › start" in said(window)
    assert window.document.project == mine
    in_dialog(Settling, lambda page: QTest.mouseClick(button(page, "Not now"), Qt.MouseButton.LeftButton))
    assert not window.save()
    assert open_project(folder) == theirs
    seen: list[str] = []

    def settle(page: object) -> None:
        seen.extend(label.text() for label in page.findChildren(QLabel))  # type: ignore[attr-defined]
        QTest.mouseClick(button(page, side), Qt.MouseButton.LeftButton)
        QTest.mouseClick(button(page, "Use these"), Qt.MouseButton.LeftButton)

    in_dialog(Settling, settle)
    assert window.save()
    assert any(words.startswith("The action Low sweep (") for words in seen)
    assert open_project(folder) == window.document.project == (mine if side == "mine" else theirs)


def test_a_clip_that_was_exported_anew_is_read_again(window: Window, folder: Path) -> None:
    before = window.document.build.assets.motion("clips/idle.glb", "")
    assert before is not None
    data = (folder / "clips" / "walk.glb").read_bytes()
    (folder / "clips" / "new.glb").write_bytes(data.replace(b'"walk"', b'"idle"'))
    os.replace(folder / "clips" / "new.glb", folder / "clips" / "idle.glb")
    window.look_at_disk()
    assert "Read again" in said(window)
    after = window.document.build.assets.motion("clips/idle.glb", "")
    assert after is not None
    assert after.seconds != before.seconds
    assert not window.document.unsaved


def test_a_clip_that_was_renamed_on_disk_is_told_and_followed(
    window: Window, folder: Path, another: Callable[[Path], Window]
) -> None:
    project = window.document.project
    used = next(c for c in project.clips if c.name == "staff_sweep")
    os.replace(folder / used.file, folder / "clips" / "wide_sweep.glb")
    window.look_at_disk()
    assert said(window) == f"Changed on disk: {used.file} is called clips/wide_sweep.glb now."
    assert window.document.project == project
    assert window.document.build.clip("staff_sweep") is not None, "what was read of it plays on"
    press(window, "follow")
    assert {c.file for c in window.document.project.clips if c.file not in {c.file for c in project.clips}} == {
        "clips/wide_sweep.glb"
    }
    QTest.keyClick(window, Key.Key_Z, CONTROL)
    assert window.document.project == project
    # One that is gone is told as well, once, and read again when it is back.
    other = next(c for c in project.clips if c.name == "walk").file
    data = (folder / other).read_bytes()
    (folder / other).unlink()
    window.look_at_disk()
    assert f"{other} is no longer there" in said(window)
    window.notice.hide()
    window.look_at_disk()
    assert said(window) == ""
    (folder / other).write_bytes(data)
    window.look_at_disk()
    assert said(window) == f"Read again, for it changed on disk: {other}."


def test_a_folder_that_was_moved_is_said_and_can_be_saved_elsewhere(
    window: Window, hand: Hand, folder: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    hand.drag(STRIKE, "body", 2)
    os.replace(folder, tmp_path / "moved")
    assert not window.save()
    assert "is no longer there" in said(window)
    assert window.document.unsaved
    target = tmp_path / "again.veergust"
    monkeypatch.setattr("veergust.desk.shell.projects.QFileDialog.getSaveFileName", lambda *a: (str(target), ""))
    press(window, "save as…")
    assert open_project(target) == window.document.project
    assert not window.document.unsaved


def test_saving_over_something_else_is_refused(window: Window, tmp_path: Path) -> None:
    other = tmp_path / "other.veergust"
    shutil.copytree(DEMO, other)
    before = sorted(p.name for p in other.rglob("*"))
    assert not window.document.save(other)
    assert "is there already" in said(window)
    assert sorted(p.name for p in other.rglob("*")) == before


# Work that a crash left


def test_steps_of_a_crash_are_shown_with_their_words_and_those_that_fit_are_taken_back(
    window: Window, hand: Hand, folder: Path, another: Callable[[Path], Window]
) -> None:
    hand.drag(STRIKE, "body", 2)
    document = window.document
    document.apply(Edit(with_action(document.project, "Thrust", blend_in=9), "Thrust: blend in 9"))
    crash(window)
    save_project(with_action(open_project(folder), "Low sweep", blend_out=1), folder)
    second = another(folder)
    assert "2 changes from" in said(second)
    assert [b.text() for b in second.notice.buttons] == ["look at them…"]
    shown: list[tuple[str, bool]] = []

    def look(page: object) -> None:
        assert isinstance(page, LeftWork)
        rows = [page.list.item(i) for i in range(page.list.count())]
        shown.extend((row.text(), bool(row.flags() & Qt.ItemFlag.ItemIsEnabled)) for row in rows)
        QTest.mouseClick(page.bring_button, Qt.MouseButton.LeftButton)

    in_dialog(LeftWork, look)
    press(second, "look at them…")
    assert [fits for _, fits in shown] == [False, True]
    assert "does not fit: the action Low sweep changed since" in shown[0][0]
    assert shown[1][0] == "Thrust: blend in 9"
    assert {a.name: a.blend_in for a in second.document.project.actions}["Thrust"] == 9
    assert left_behind(folder) == []


def test_what_was_never_given_a_folder_is_offered_at_the_next_start(qtbot: QtBot, tmp_path: Path) -> None:
    def start(name: str) -> Window:
        made = make_window(QSettings(str(tmp_path / name), QSettings.Format.IniFormat))
        qtbot.addWidget(made, before_close_func=let_go)
        made.show()
        to_front(made)
        begin(made, None)
        return made

    first = start("first.ini")
    assert said(first) == ""
    QTest.keyClick(first, Key.Key_2, CONTROL)
    QTest.keyClick(first.ground, Key.Key_N)
    made = first.document.project
    assert len(made.locomotion.states) == 1
    second = start("second.ini")
    assert said(second) == "", "another window that is open offers nothing of it"
    crash(first)
    third = start("third.ini")
    assert "were never saved" in said(third)
    press(third, "bring them back")
    assert third.document.project == made
    assert third.document.save(tmp_path / "made.veergust")
    assert open_project(tmp_path / "made.veergust").locomotion == made.locomotion
    assert left_behind(None) == []
    assert said(start("fourth.ini")) == ""


def test_work_left_stays_until_it_is_answered_by_name(
    window: Window, hand: Hand, folder: Path, another: Callable[[Path], Window]
) -> None:
    hand.drag(STRIKE, "body", 2)
    crash(window)
    second = another(folder)
    Hand(second).drag(STRIKE, "end", 1)
    let_go(second)
    second.close()
    third = another(folder)
    assert "1 change from" in said(third)
    in_dialog(LeftWork, lambda page: QTest.mouseClick(page.throw_button, Qt.MouseButton.LeftButton))  # type: ignore[attr-defined]
    press(third, "look at them…")
    assert left_behind(folder) == []
    assert not third.document.unsaved


def test_a_journal_that_cannot_be_written_is_said_once(
    window: Window, hand: Hand, monkeypatch: pytest.MonkeyPatch
) -> None:
    spoken: list[str] = []
    window.document.said.connect(lambda words, error: spoken.append(words))
    for frames in (2, 1, 2):
        with monkeypatch.context() as patch:
            Disk(0, full=True).install(patch)
            hand.drag(STRIKE, "body", frames)
    assert [w for w in spoken if "journal cannot be written" in w] == [spoken[0]]
    hand.drag(STRIKE, "body", 1)
    assert len([w for w in spoken if "journal" in w]) == 1


def test_an_unfinished_save_of_another_state_is_said_and_thrown_away(
    another: Callable[[Path], Window], folder: Path
) -> None:
    (folder / ".saving").mkdir()
    (folder / ".saving" / "commit.json").write_text("[]")
    made = another(folder)
    assert "unfinished save" in said(made)
    made.document.apply(rename_action(made.document.project, "Thrust", "Lunge"))
    assert not made.save()
    made.say_what_was_found()
    press(made, "throw it away")
    assert made.save()
    assert not (folder / ".saving").exists()


def test_a_save_that_came_with_the_folder_is_finished_only_by_name(
    another: Callable[[Path], Window], folder: Path
) -> None:
    file = folder / "actions" / "thrust.json"
    new = file.read_bytes().replace(b'"Thrust"', b'"Their thrust"')
    (folder / ".saving" / "actions").mkdir(parents=True)
    (folder / ".saving" / "actions" / "thrust.json").write_bytes(new)
    change = {"replaces": digest(file.read_bytes()), "brings": digest(new)}
    (folder / ".saving" / "commit.json").write_text(plan(False, **{"actions/thrust.json": change}))
    made = another(folder)
    assert "not made here" in said(made)
    assert "would write actions/thrust.json" in said(made)
    assert file.read_bytes() != new
    press(made, "finish it")
    assert file.read_bytes() == new
    made.document.apply(rename_action(made.document.project, "Their thrust", "Lunge"))
    assert made.save()


def _is_still(window: Window) -> bool:
    return not window.arrivals.busy


@pytest.mark.parametrize("kind", ["a hook", "nothing yet, outside"])
def test_the_window_writes_through_no_link(another: Callable[[Path], Window], tmp_path: Path, kind: str) -> None:
    made: Window | None = None
    for i, place in enumerate(PLACES):
        folder = hostile(tmp_path / str(i), place, kind)
        before = [tree(folder.parent / "far"), tree(folder / ".git"), tree(folder / "shared")]
        if made is None:
            made = another(folder)
        made.open_project(folder)
        if made.document.folder == folder and not made.document.to_look:
            made.document.apply(rename_action(made.document.project, "Sweep", "Fresh"))
            (tmp_path / "figure.bvh").write_text(creature(1.0))
            made.arrivals.bring_in([tmp_path / "figure.bvh"])
            until(partial(_is_still, made))
            saved = made.document.save()
            if place in ("actions/fresh.json", "actions/sweep.json", "actions", "project.json"):
                assert not saved
                assert "is a link" in said(made)
            made.document.saved_project = made.document.project  # nothing is asked on leaving it
        assert [tree(folder.parent / "far"), tree(folder / ".git"), tree(folder / "shared")] == before


# What may not be, and what nobody foresaw


def test_what_could_not_be_opened_again_is_never_made(window: Window) -> None:
    document = window.document
    before = document.project
    assert not document.apply(Edit(with_action(before, "Thrust", speed=0.0), "Speed 0"))
    assert document.project == before
    assert "That cannot be: speed should be at least 0.001" in said(window)


@pytest.mark.parametrize("text", ["0,08", "0.08", " 0,080 m"])
def test_a_comma_and_a_point_mean_the_same(window: Window, qtbot: QtBot, text: str) -> None:
    got: list[float] = []
    field = NumberField("Radius", got.append, unit="m", decimals=3, high=10.0)
    qtbot.addWidget(field)
    field.show()
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Key.Key_Return)
    assert got == [0.08]


def test_names_are_shown_as_they_are_and_never_as_markup(window: Window, tmp_path: Path) -> None:
    picture = tmp_path / "secret.png"
    window.grab().save(str(picture))
    window.notice.say(f"<img src='{picture}'><b>bold</b>", False)
    label = window.notice.label
    assert label.textFormat() == Qt.TextFormat.PlainText
    for bench in ("Clips", "Spar", "Sheet"):
        window.show_bench(bench)
    assert all(other.textFormat() == Qt.TextFormat.PlainText for other in window.findChildren(QLabel))


def test_an_error_nobody_foresaw_is_said_kept_and_work_goes_on(
    window: Window, hand: Hand, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    say_errors(lambda words: window.notice.say(words, True))
    try:
        raise ValueError("an odd thing")
    except ValueError as error:
        sys.excepthook(ValueError, error, error.__traceback__)
    assert "ValueError: an odd thing" in said(window)
    log = Path(said(window).split(" is in ")[1].removesuffix("."))
    assert "test_an_error_nobody_foresaw" in log.read_text()
    hand.drag(STRIKE, "body", 2)
    assert window.document.unsaved


def test_without_opengl_the_sheet_the_lists_and_the_facts_still_work(
    monkeypatch: pytest.MonkeyPatch, another: Callable[[Path], Window], folder: Path
) -> None:
    monkeypatch.setattr(stage_view, "opengl_trouble", lambda: "The stage is empty: no OpenGL.")
    made = another(folder)
    assert made.sheet.stage.view.picture is None
    hand = Hand(made)
    hand.drag(STRIKE, "body", 2)
    assert made.sheet.facts.texts["startup"]
    for bench in ("Clips", "Spar", "Sheet"):
        made.show_bench(bench)
        QTest.qWait(50)
    QTest.keyClick(made, Key.Key_Space)
    QTest.qWait(80)
    QTest.keyClick(made, Key.Key_Space)
    view = made.sheet.stage.view
    image = view.grab().toImage()
    colours = {image.pixelColor(x, image.height() // 2).name() for x in range(image.width())}
    assert len(colours) > 3, "words are there"
    assert made.save()


OLD_GL = {"MESA_GL_VERSION_OVERRIDE": "2.1"}
NO_GL = {"QT_XCB_GL_INTEGRATION": "none"}
PROBE = """
from veergust.desk.app import make_application
from veergust.desk.stage.opengl import opengl_trouble
app = make_application(["x"])
print(opengl_trouble())
"""


@pytest.mark.parametrize(("given", "words"), [(OLD_GL, "has 2.1"), (NO_GL, "there is none on this display"), ({}, "")])
def test_opengl_that_is_too_old_or_not_there_is_told(qapp: QApplication, given: dict[str, str], words: str) -> None:
    ran = subprocess.run(
        [sys.executable, "-c", PROBE], env={**os.environ, **given}, capture_output=True, text=True, check=False
    )
    assert ran.returncode == 0
    assert words in ran.stdout
    assert bool(ran.stdout.strip()) == bool(words)


@pytest.mark.parametrize("display", ["", ":93"])
def test_no_display_is_a_sentence_and_no_core_dump(folder: Path, display: str) -> None:
    env = {k: v for k, v in os.environ.items() if k not in ("WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
    ran = subprocess.run(
        [sys.executable, "-m", "veergust", str(folder)], env={**env, "DISPLAY": display}, capture_output=True, text=True,
        check=False,
    )  # fmt: skip
    assert (ran.returncode, ran.stderr.count("\n")) == (2, 1), ran.stderr
    assert "No window can be opened here" in ran.stderr
    assert not (folder / ".lock").exists()


def test_a_save_that_takes_longer_than_a_moment_says_how_far_it_is(
    window: Window, folder: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    all_is_told(monkeypatch)
    shares: list[float] = []
    said_then: list[str] = []

    def hear(says: str, share: float, stop: object) -> None:
        if says:
            assert stop is None, "a save is not given up halfway"
            shares.append(share)
            said_then.append(said(window))

    window.document.working.connect(hear)
    window.document.apply(rename_action(window.document.project, "Thrust", "Lunge"))
    assert window.save()
    assert len(shares) >= 6, "two files written and moved, one removed, and what names them"
    assert shares == sorted(shares)
    assert shares[-1] == 1.0
    assert all(words.startswith("Saving …") and words.endswith("%") for words in said_then)
    assert "%" not in said(window)
    shares.clear()
    assert window.document.save(tmp_path / "elsewhere.veergust")
    assert len(shares) > 40


def test_what_takes_longer_than_a_moment_says_how_far_it_is(
    window: Window, folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    all_is_told(monkeypatch)
    monkeypatch.setattr("veergust.desk.document.keeping.core", read_by(load_assets))
    told: list[str] = []
    window.document.working.connect(lambda says, share, stop: told.append(said(window)))
    assert window.open_project(folder)
    assert len(told) > 5
    assert "Reading walk.glb …" in "".join(told)
    assert "%" not in said(window)


@pytest.mark.parametrize("way", ["button", "key"])
def test_opening_can_be_given_up_and_nothing_else_done_meanwhile(
    way: str, window: Window, folder: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    other = copy_demo(tmp_path / "other.veergust")
    all_is_told(monkeypatch)
    monkeypatch.setattr("veergust.desk.document.keeping.core", read_by(load_assets))
    action, project = window.document.action, window.document.project
    heard: list[str] = []

    def hear(says: str, share: float, stop: object) -> None:
        heard.append(says)
        if len(heard) == 3:
            QTimer.singleShot(0, by_hand)

    def by_hand() -> None:
        # What is done elsewhere is not done, neither now nor later; what was asked for is given up.
        QTest.keyClick(window.sheet.list, Key.Key_Down)
        QTest.keyClick(window, Key.Key_6, CONTROL)
        QTest.mouseClick(window.sheet.list.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(60, 200))
        window.close()
        if way == "key":
            QTest.keyClick(window.sheet.sheet, Key.Key_Escape)
        else:
            QTest.mouseClick(window.notice.buttons[0], Qt.MouseButton.LeftButton)

    window.document.working.connect(hear)
    assert not window.open_project(other)
    assert 3 < len(heard) < 8, "it goes on no further"
    assert said(window) == "other.veergust was not opened: it was given up."
    QApplication.processEvents()
    assert (window.document.action, window.document.project) == (action, project)
    assert window.isVisible()
    assert window.bench == "Sheet"
    assert not (other / ".lock").exists()
    window.document.working.disconnect(hear)
    assert window.open_project(other)


def test_progress_is_told_as_often_as_it_can_be_read(monkeypatch: pytest.MonkeyPatch) -> None:
    now = [100.0]
    monkeypatch.setattr("veergust.desk.document.progress.time.monotonic", lambda: now[0])
    told: list[float] = []
    work = Teller(lambda says, share, stop: told.append(now[0]), may_stop=True)
    for _ in range(4000):
        now[0] += 0.001
        work("Reading", 0.5)
    assert told[0] - 100.0 > SOON
    assert len(told) <= 3.5 * 10 + 1
    assert min(b - a for a, b in itertools.pairwise(told)) > 0.09


def all_is_told(monkeypatch: pytest.MonkeyPatch) -> None:
    """Works tell how far they are as often as they know it."""
    monkeypatch.setattr("veergust.desk.document.progress.SOON", -1.0)
    monkeypatch.setattr("veergust.desk.document.progress.EVERY", -1.0)
