"""A bench that has nothing yet says what to do first, and has the buttons for it."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog
from tools.made.captures import blow, write_bvh

from tests.desk.conftest import arrived
from tests.desk.test_safe import in_dialog
from veergust.desk.frame.empty import EmptyPage
from veergust.desk.shell.window import Window
from veergust.desk.widgets.choose import Chooser

Key = Qt.Key
BENCHES = ["Clips", "Ground", "Sheet", "Layers", "Spar"]


def page_of(window: Window, bench: str) -> EmptyPage:
    page = window.bench_of(bench).findChild(EmptyPage)
    assert isinstance(page, EmptyPage)
    return page


@pytest.mark.parametrize("bench", BENCHES)
def test_the_page_covers_an_empty_bench_and_goes_with_the_first_file(
    untitled: Window, bench: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    untitled.show_bench(bench)
    QApplication.processEvents()
    page = page_of(untitled, bench)
    assert page.isVisible()
    assert page.geometry() == untitled.bench_of(bench).rect()
    untitled.resize(1030, 780)
    QApplication.processEvents()
    assert page.geometry() == untitled.bench_of(bench).rect(), "nothing of what is under it is seen"
    file = write_bvh(tmp_path, blow(), "night_blow.bvh")
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([str(file)], ""))
    assert page.buttons[0].text().startswith("Bring motion in")
    QTest.mouseClick(page.buttons[0], Qt.MouseButton.LeftButton)
    arrived(untitled)
    untitled.show_bench(bench)
    assert page.isVisible() == (bench == "Sheet"), "on the Sheet an action is missing still"


def test_the_sheet_asks_for_an_action_once_there_are_clips(untitled: Window, tmp_path: Path) -> None:
    untitled.arrivals.bring_in([write_bvh(tmp_path, blow(), "night_blow.bvh")])
    arrived(untitled)
    untitled.show_bench("Sheet")
    page = page_of(untitled, "Sheet")
    assert page.isVisible()
    assert [b.accessibleName() for b in page.buttons] == ["New action…", "Bring motion in…"]
    in_dialog(Chooser, lambda dialog: QTest.keyClick(dialog, Key.Key_Return))  # type: ignore[call-overload]
    QTest.mouseClick(page.buttons[0], Qt.MouseButton.LeftButton)
    assert not page.isVisible()
    assert untitled.document.action == "Night blow"
    # Taken back, it asks again.
    QTest.keyClick(untitled, Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert page.isVisible()


def test_a_project_with_everything_shows_no_such_page(window: Window) -> None:
    for bench in BENCHES:
        window.show_bench(bench)
        QApplication.processEvents()
        assert not page_of(window, bench).isVisible()
