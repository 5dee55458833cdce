"""A game beside the window: edits go there, what is played there is followed and comes here."""

from __future__ import annotations

from collections.abc import Generator
from contextlib import contextmanager
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from tests.conftest import OSSA
from tests.desk.conftest import STRIKE, pick, type_in, until
from tests.live.playing import game
from veergust.core.edit.spans import Edit, set_edges
from veergust.core.export.writing import export
from veergust.core.files.saving import save_project
from veergust.core.live.key import usual_key
from veergust.core.model import Project
from veergust.desk.shell.window import Window
from veergust.desk.spar.living import GamePage


@contextmanager
def connected(window: Window, tmp_path: Path) -> Generator[GamePage]:
    """The page, open and connected to a game that runs what the window has."""
    export(window.document.build, tmp_path / "out", mesh=False)
    window.show_bench("Spar")
    live = window.spar.live
    QTest.mouseClick(window.spar.live_button, Qt.MouseButton.LeftButton)
    assert live.isVisible()
    assert live.words.text().startswith("Not connected.")
    assert not live.stop_button.isEnabled()
    with game(tmp_path / "out", usual_key()) as port:
        type_in(live.port, str(port))
        QTest.mouseClick(live.connect_button, Qt.MouseButton.LeftButton)
        until(lambda: live.words.text() == "Connected: Lantern Quay runs.")
        until(lambda: "has what is here" in live.edits.text() or live.edits.text().startswith("Taken"))
        yield live
    until(lambda: live.words.text().startswith("The game has gone"))
    QTest.mouseClick(live.connect_button, Qt.MouseButton.LeftButton)
    assert live.line is None


def test_edits_go_there_and_what_is_played_there_is_followed_and_comes_here(window: Window, tmp_path: Path) -> None:
    with connected(window, tmp_path) as page:
        follow_change_and_bring(window, page)


def follow_change_and_bring(window: Window, page: GamePage) -> None:
    document = window.document
    document.choose_action("Low sweep")
    pick(page.fighter, OSSA)
    QTest.mouseClick(page.follow_switch, Qt.MouseButton.LeftButton)
    assert page.start_button.text() == "start Low sweep"
    edited = document.build.action("Low sweep")
    assert edited is not None
    # An edit is in the game once nobody plays what it changes; it says so.
    document.apply(set_edges(document.project, edited, STRIKE, 2, 7))
    until(lambda: page.edits.text().startswith("Taken: Lantern Quay") and "after it was made" in page.edits.text())
    # It is followed on the sheet, and touches as it does here.
    QTest.mouseClick(page.start_button, Qt.MouseButton.LeftButton)
    frames = set()

    def touched() -> bool:
        frames.add(document.frame)
        return page.watched.touches > 0

    until(touched)
    assert (document.action, len(frames) > 2) == ("Low sweep", True)
    QTest.mouseClick(page.stop_button, Qt.MouseButton.LeftButton)
    until(lambda: page.stop_button.text() == "go on")
    # Brought here it is a take like any other.
    QTest.mouseClick(page.bring_button, Qt.MouseButton.LeftButton)
    until(lambda: "came out as in the game" in page.apart.text())
    assert any(r.contacts for r in window.spar.session.records)
    takes = len(document.project.takes)
    QTest.mouseClick(window.spar.replay_button, Qt.MouseButton.LeftButton)
    QTest.mouseClick(window.spar.replay.keep_button, Qt.MouseButton.LeftButton)
    assert len(document.project.takes) == takes + 1
    # What is otherwise than it was played there is told with its frame.
    made = document.build.action("Low sweep")
    assert made is not None
    document.apply(set_edges(document.project, made, STRIKE, 9, 11))
    QTest.mouseClick(window.spar.live_button, Qt.MouseButton.LeftButton)
    QTest.mouseClick(page.bring_button, Qt.MouseButton.LeftButton)
    until(lambda: page.apart.text().startswith("Otherwise from frame"))
    QTest.mouseClick(page.over_button, Qt.MouseButton.LeftButton)
    QTest.mouseClick(page.step_button, Qt.MouseButton.LeftButton)
    until(lambda: bool(page.watched.ticks) and page.watched.ticks[-1].tick < 5)


def test_a_project_with_an_error_is_not_sent_and_says_why(window: Window, tmp_path: Path) -> None:
    project = window.document.project
    bad = replace(project, actions=(replace(project.actions[0], entry="Nowhere"), *project.actions[1:]))
    with connected(window, tmp_path) as page:
        window.document.apply(Edit(bad, "bad"))
        until(lambda: page.edits.text().startswith("Refused: not sent: "))
        window.document.undo()
        until(lambda: "Refused" not in page.edits.text())


def test_files_that_come_in_leave_the_line_and_another_project_does_not(window: Window, tmp_path: Path) -> None:
    document = window.document
    window.show_bench("Spar")
    page = window.spar.live
    QTest.mouseClick(window.spar.live_button, Qt.MouseButton.LeftButton)
    QTest.mouseClick(page.connect_button, Qt.MouseButton.LeftButton)
    assert page.line is not None
    document.receive(Edit(replace(document.project, name="more of it"), "files came in"), document.build.assets)
    assert page.line is not None
    other = tmp_path / "other.veergust"
    save_project(Project(name="other"), other)
    window.may_leave = lambda: True  # type: ignore[method-assign]
    assert window.open_project(other)
    assert page.line is None
    assert page.words.text().startswith("Not connected.")
