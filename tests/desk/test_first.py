"""The first page: how to begin, what was worked on lately, and projects that have no place yet."""

from __future__ import annotations

import os
import re
import subprocess
import sys
from collections.abc import Callable, Iterator
from datetime import date, datetime
from pathlib import Path

import pytest
from PySide6.QtCore import QSettings, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QMessageBox, QPushButton
from pytestqt.qtbot import QtBot
from tools.made import DEMO
from tools.made.captures import blow, stagger, write_bvh

from tests.desk.conftest import arrived, at_rest, let_go
from tests.desk.test_safe import button, in_dialog, said
from tests.desk.test_window import crash
from veergust.core.edit.spans import Edit
from veergust.core.files.drafts import left_drafts
from veergust.core.files.folder import open_project
from veergust.core.files.importing import put_in_place
from veergust.core.files.places import drafts_folder
from veergust.core.model import Project
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.trouble import Trouble
from veergust.desk.app import begin, make_window
from veergust.desk.shell.first import BEGINNINGS, WAY, FirstPage, LateCard
from veergust.desk.shell.help import HelpPage
from veergust.desk.shell.lately import lately
from veergust.desk.shell.window import Window

Key = Qt.Key
CONTROL = Qt.KeyboardModifier.ControlModifier
LEFT = Qt.MouseButton.LeftButton


STARTS = """
import sys
from PySide6.QtCore import QSettings
from veergust.desk.app import begin, make_application, make_window
from veergust.desk.running.ahead import Ahead
app = make_application(["veergust"])
window = make_window(QSettings(sys.argv[1], QSettings.Format.IniFormat))
window.show()
app.processEvents()
print(*(name for name in sys.modules if name.split(".")[0] in ("numpy", "scipy") or name.startswith("veergust.core.")))
begin(window, None)
while window.findChild(Ahead):
    app.processEvents()
print("veergust.core.play.simulation" in sys.modules, "veergust.desk.sheet.bench" in sys.modules)
"""


def test_a_first_window_needs_nothing_of_the_core_and_the_rest_comes_while_nobody_waits(tmp_path: Path) -> None:
    done = subprocess.run([sys.executable, "-c", STARTS, str(tmp_path / "settings.ini")], capture_output=True, text=True,
                          timeout=60, check=True)  # fmt: skip
    first, then = done.stdout.splitlines()
    heavy = {name for name in first.split() if not name.startswith("veergust.core.model")}
    assert {name.split(".")[2] for name in heavy} <= {"files", "model", "trouble", "typed", "wording"}, heavy
    files = {name for name in heavy if name.startswith("veergust.core.files.")}
    assert files <= {f"veergust.core.files.{name}" for name in ("demo", "formats", "places")}
    assert then == "True True"


@pytest.fixture
def start(qtbot: QtBot, tmp_path: Path) -> Iterator[Callable[..., Window]]:
    """Starts the program, all with the same settings."""
    made: list[Window] = []

    def start(*files: Path, project: Path | None = None) -> Window:
        window = make_window(QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat))
        qtbot.addWidget(window, before_close_func=let_go)
        window.show()
        with qtbot.waitActive(window):
            window.activateWindow()
        begin(window, project, files)
        arrived(window)
        made.append(window)
        return window

    yield start
    for window in made:
        if "Spar" in window._made:
            window.spar.hold()


def cards(window: Window) -> list[LateCard]:
    return [card for card in window.first.findChildren(LateCard) if card.isVisible()]


def click(widget: QPushButton | None) -> None:
    assert widget is not None
    QTest.mouseClick(widget, LEFT)


def save_as(window: Window, monkeypatch: pytest.MonkeyPatch, place: Path) -> None:
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(place), ""))
    QTest.keyClick(window, Key.Key_S, CONTROL)


def test_it_stays_the_same_window_when_the_first_stage_is_made(start: Callable[..., Window]) -> None:
    """Qt makes a window anew that finds out late that something in it draws by OpenGL: it would lose the keys."""
    window = start()
    before = window.winId()
    window.show_bench("Sheet")
    QTest.keyClick(window, Key.Key_N, CONTROL)
    assert window.isActiveWindow()
    assert window.winId() == before
    assert window.is_first


def test_it_says_how_to_begin_and_every_word_of_it_leads_somewhere(
    start: Callable[..., Window], monkeypatch: pytest.MonkeyPatch
) -> None:
    window = start()
    assert window.is_first
    assert not window._made, "no bench is built that nobody sees"
    assert not any(b.isVisible() for b in window.bench_buttons)
    assert [c.accessibleName() for c in window.first.cards] == [words for _, _, words, _ in BEGINNINGS]
    asked: list[str] = []

    def ask(which: str, answer: object) -> Callable[..., object]:
        def asked_for(*_: object) -> object:
            asked.append(which)
            return answer

        return asked_for

    monkeypatch.setattr(QFileDialog, "getOpenFileNames", ask("import", ([], "")))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", ask("open_project", ""))
    for card in window.first.cards[:2]:
        click(card)
    assert asked == ["import", "open_project"]
    for bench in WAY:
        click(window.first.ways[bench])
        assert window.bench == bench
        assert not window.is_first
        assert all(b.isVisible() for b in window.bench_buttons)
        QTest.keyClick(window, Key.Key_N, CONTROL)
        assert window.is_first
    QTest.keyClick(window.first, Key.Key_D)
    assert window.document.project.name == "Lantern Quay"
    assert not window.is_first


def test_the_recipes_are_a_press_away(start: Callable[..., Window]) -> None:
    window = start()
    seen: list[str] = []

    def look(page: HelpPage) -> None:
        seen.append(page.tabs.tabText(page.tabs.currentIndex()))
        seen.append(page.recipes.toPlainText())
        page.reject()

    link = next(b for b in window.first.findChildren(QPushButton) if b.text().startswith("twenty-five recipes"))
    in_dialog(HelpPage, look)  # type: ignore[arg-type]
    click(link)
    assert seen[0] == "Recipes"
    titles = re.findall(r"^## (.*)", (DEMO.parents[1] / "docs" / "guide.md").read_text(), re.M)
    assert len(titles) == 25
    assert all(title in seen[1] for title in titles)
    in_dialog(HelpPage, look)  # type: ignore[arg-type]
    QTest.keyClick(window, Key.Key_F1)
    assert seen[2] == "Keys"


def test_files_come_in_before_there_is_a_place_and_a_save_asks_for_one(
    start: Callable[..., Window], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = start(write_bvh(tmp_path, blow(), "night_blow.bvh"))
    document = window.document
    assert window.bench == "Clips"
    assert [c.name for c in document.project.clips] == ["night_blow", "stand"]
    assert document.is_untitled
    assert document.unsaved
    assert window.windowTitle().startswith("Untitled •")
    window.arrivals.bring_in([write_bvh(tmp_path, stagger(), "night_stagger.bvh")])
    arrived(window)
    home = tmp_path / "harbour.veergust"
    save_as(window, monkeypatch, home)
    assert not document.unsaved
    assert window.windowTitle().startswith("harbour —")
    found = open_project(home)
    assert found.name == "harbour"
    assert len(found.clips) == 3
    assert all((home / clip.file).is_file() for clip in found.clips if clip.file)
    assert list(drafts_folder().iterdir()) == [], "what it was kept in meanwhile is gone"
    # No step takes the name back, and the next save asks nothing.
    QTest.keyClick(window, Key.Key_Z, CONTROL)
    assert document.project.name == "harbour"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: pytest.fail("asked again"))
    QTest.keyClick(window, Key.Key_S, CONTROL)
    assert len(open_project(home).clips) == 2


def test_a_name_of_its_own_stays(window: Window, tmp_path: Path) -> None:
    """Only a project that is called by its folder, or not at all, is called by the folder it is saved in."""
    assert window.document.save(tmp_path / "copy.veergust")
    assert window.document.project.name == "Lantern Quay"
    window.document.begin_anew()
    assert window.document.save(tmp_path / "mine.veergust")
    assert window.document.save(tmp_path / "yours.veergust")
    assert open_project(tmp_path / "yours.veergust").name == "yours"
    assert open_project(tmp_path / "mine.veergust").name == "mine"


def test_a_save_that_fails_leaves_the_name_and_the_files_where_they_were(
    start: Callable[..., Window], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = start(write_bvh(tmp_path, blow(), "night_blow.bvh"))
    taken = tmp_path / "taken.veergust"
    taken.mkdir()
    (taken / "theirs.txt").write_text("theirs")
    save_as(window, monkeypatch, taken)
    assert "is there already" in said(window)
    assert window.document.project.name == Project().name
    assert window.document.is_untitled
    assert window.document.unsaved
    assert window.document.folder is not None
    assert (window.document.folder / window.document.project.clips[0].file).is_file()


def test_what_a_crash_left_of_a_project_without_a_place_is_on_the_first_page(
    start: Callable[..., Window], tmp_path: Path
) -> None:
    window = start(write_bvh(tmp_path, blow(), "night_blow.bvh"))
    made = window.document.project
    assert left_drafts() == [], "one that is open is nobody else's to bring back"
    crash(window)
    second = start()
    assert [(c.late.name, c.late.never_saved) for c in cards(second)] == [("Untitled", "never saved")]
    click(cards(second)[0].back_button)
    assert second.document.project == made
    assert second.document.unsaved
    # It is there until it is saved or given up: a window that looks and goes loses nothing of it.
    crash(second)
    third = start()
    click(cards(third)[0])
    assert third.document.project == made
    in_dialog(QMessageBox, lambda box: click(button(box, "Leave without saving")))
    assert third.close()
    assert left_drafts() == []
    assert cards(start()) == []


def test_looking_at_a_draft_and_leaving_it_unanswered_keeps_it(start: Callable[..., Window], tmp_path: Path) -> None:
    window = start(write_bvh(tmp_path, blow(), "night_blow.bvh"))
    made = window.document.project
    crash(window)
    second = start()
    draft = cards(second)[0].late.folder
    assert second.open_project(draft)
    assert "never saved" in said(second)
    second.close()
    third = start()
    click(cards(third)[0].back_button)
    assert third.document.project == made
    clip = made.clips[0]
    assert CompiledProject(made, third.document.build.assets).clip(clip.name) is not None
    assert third.document.build.assets.files


def test_projects_opened_lately_stand_there_with_their_poses(
    start: Callable[..., Window], folder: Path, tmp_path: Path
) -> None:
    window = start(project=folder)
    window.document.choose_action("Low sweep")
    QTest.keyClick(window, Key.Key_N, CONTROL)
    (card,) = cards(window)
    late = card.late
    assert (late.name, late.folder, late.never_saved) == ("Lantern Quay", folder, "")
    assert " · 31 actions" in late.says
    assert late.poses is not None
    inked = [
        sum(
            late.poses.pixelColor(x, y).alpha() > 128
            for x in range(n * 168, n * 168 + 168, 3)
            for y in range(0, 188, 3)
        )
        for n in range(5)
    ]
    assert min(inked) > 100, "a pose in each"
    click(card)
    assert window.document.folder == folder
    # Work that a crash left of it is told there, and brought back by the word.
    window.document.apply(Edit(_without_takes(window.document.project), "Take Fall away"))
    made = window.document.project
    crash(window)
    second = start()
    (card,) = cards(second)
    assert card.late.never_saved == "1 change never saved"
    click(card.back_button)
    assert second.document.project == made


@pytest.mark.parametrize(
    ("today", "said"),
    [
        (date(2026, 3, 1), "today"),
        (date(2026, 3, 2), "yesterday"),
        (date(2026, 3, 3), "1 March"),
        (date(2027, 3, 1), "1 March 2026"),
    ],
)
def test_the_day_of_a_project_is_told_as_people_tell_it(folder: Path, today: date, said: str) -> None:
    """At one minute to midnight and the minute after it."""
    for minute in (0, 24 * 60 - 1):
        at = datetime(2026, 3, 1, minute // 60, minute % 60).timestamp()
        os.utime(folder / "project.json", (at, at))
        (late,) = lately([str(folder)], today)
        assert late.says == said


def _without_takes(project: Project) -> Project:
    from msgspec.structs import replace

    return replace(project, actions=tuple(a for a in project.actions if a.name != "Cover"))


def test_a_project_that_is_gone_or_broken_is_no_reason_not_to_start(start: Callable[..., Window], folder: Path) -> None:
    window = start(project=folder)
    (folder / "project.json").write_text("{")
    QTest.keyClick(window, Key.Key_N, CONTROL)
    (card,) = cards(window)
    click(card)
    assert "was not opened" in said(window)
    assert window.is_first
    (folder / "project.json").unlink()
    assert cards(start()) == []


# A file that is there already


def test_a_file_of_a_name_that_is_there_asks_whether_it_takes_its_place(
    start: Callable[..., Window], tmp_path: Path
) -> None:
    """What it replaces is kept beside it, its clips play what is new, and nothing else changes."""
    window = start(write_bvh(tmp_path, blow(), "night_blow.bvh"))
    document = window.document
    folder = document.folder
    assert folder is not None
    project, before = document.project, (folder / "clips" / "night_blow.bvh").read_bytes()
    other = tmp_path / "later"
    other.mkdir()
    file = write_bvh(other, stagger(), "night_blow.bvh")
    frames = document.build.assets.motions[("clips/night_blow.bvh", project.clips[0].animation)].seconds

    # Left out, the others that came with it come in all the same.
    beside = write_bvh(other, blow(), "night_beside.bvh")
    in_dialog(QMessageBox, lambda box: click(button(box, "Leave it out")))
    window.arrivals.bring_in([file, beside])
    arrived(window)
    assert (folder / "clips" / "night_blow.bvh").read_bytes() == before
    project = document.project
    assert "night_beside" in {c.name for c in project.clips}

    in_dialog(QMessageBox, lambda box: click(button(box, "Take its place")))
    window.arrivals.bring_in([file])
    arrived(window)
    assert said(window).startswith("Read again: night_blow.bvh")
    assert document.project == project
    assert (folder / "clips" / "night_blow.bvh").read_bytes() == file.read_bytes()
    assert (folder / "clips" / "night_blow (before 1).bvh").read_bytes() == before
    now = document.build.assets.motions[("clips/night_blow.bvh", project.clips[0].animation)].seconds
    assert now != frames
    # The same again is no question; one with another skeleton does not fit.
    window.arrivals.bring_in([file])
    arrived(window)
    assert not (folder / "clips" / "night_blow (before 2).bvh").exists()
    odd = other / "odd"
    odd.mkdir()
    text = file.read_text().replace("JOINT ", "JOINT odd ", 1)
    assert text != file.read_text()
    (odd / "night_blow.bvh").write_text(text)
    in_dialog(QMessageBox, lambda box: click(button(box, "Take its place")))
    window.arrivals.bring_in([odd / "night_blow.bvh"])
    arrived(window)
    assert "has another skeleton" in said(window)
    assert (folder / "clips" / "night_blow.bvh").read_bytes() == file.read_bytes()


def test_what_an_old_file_needs_is_never_overwritten(tmp_path: Path) -> None:
    """A .gltf whose buffer has the name of the one that is there would leave the old file with the wrong numbers."""
    folder = tmp_path / "mine.veergust"
    (folder / "clips").mkdir(parents=True)
    text = (
        '{"asset":{"version":"2.0"},"buffers":[{"byteLength":4,"uri":"b.bin"}],"nodes":[{"name":"a","children":[1]},'
        '{"name":"b"}],"scenes":[{"nodes":[0]}],"scene":0,"skins":[{"joints":[0,1]}]%s}'
    )
    for place, more, data in ((folder / "clips", "", b"old!"), (tmp_path, ',"extras":{}', b"new!")):
        (place / "w.gltf").write_text(text % more)
        (place / "b.bin").write_bytes(data)
    before = {p.name: p.read_bytes() for p in (folder / "clips").iterdir()}
    with pytest.raises(Trouble, match="needs the one that is there"):
        put_in_place(folder, tmp_path / "w.gltf")
    assert {p.name: p.read_bytes() for p in (folder / "clips").iterdir()} == before
    (tmp_path / "b.bin").write_bytes(b"old!")
    assert put_in_place(folder, tmp_path / "w.gltf")[1] == "clips/w (before 1).gltf"


def test_the_first_page_is_made_where_it_is_seen(qtbot: QtBot, folder: Path, tmp_path: Path) -> None:
    """A window that opens a project does without it; where that cannot be opened, it is there."""
    made = make_window(QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(made, before_close_func=let_go)
    made.opens = True
    made.show()
    begin(made, folder)
    assert made.document.project.actions
    assert not made.is_first
    assert made.findChildren(FirstPage) == []
    at_rest(made)
    other = make_window(QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(other, before_close_func=let_go)
    other.opens = True
    other.show()
    begin(other, tmp_path / "nothing.veergust")
    assert other.is_first
    assert "nothing.veergust" in other.notice.label.text()
