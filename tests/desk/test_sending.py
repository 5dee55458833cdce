"""Reports and moving pictures from the window."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from tests.desk.conftest import STRIKE, until
from veergust.core.study.facts import facts
from veergust.desk.shell import sending
from veergust.desk.shell.window import Window

Key = Qt.Key
BOTH = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier


def chosen(monkeypatch: pytest.MonkeyPatch, path: Path | None) -> None:
    """What the person answers when asked where to."""
    answer = (str(path) if path is not None else "", "")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: answer)


def test_a_table_of_the_project_as_it_is_now_is_written(
    window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    out = tmp_path / "moves.csv"
    chosen(monkeypatch, out)
    QTest.keyClick(window, Key.Key_R, BOTH)
    until(lambda: window.sent is None)
    with out.open(newline="", encoding="utf-8") as file:
        rows = {row["name"]: row for row in csv.DictReader(file)}
    found = facts(window.document.build, "Thrust")
    assert found is not None
    assert rows["Thrust"]["startup"] == str(found.startup)
    assert str(out) in window.notice.label.text()


def test_the_span_that_is_selected_or_the_whole_action_is_sent_as_it_moves(
    window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    out = tmp_path / "a.webp"
    chosen(monkeypatch, out)
    document = window.document
    window.show_bench("Sheet")
    document.choose_action("Low sweep")
    document.select(STRIKE)
    QTest.keyClick(window, Key.Key_P, BOTH)
    until(lambda: window.sent is None)
    compiled = document.compiled
    assert compiled is not None
    strike = compiled.sections[1].section.strikes[0]
    assert Image.open(out).n_frames == strike.end - strike.start  # type: ignore[attr-defined]
    chosen(monkeypatch, None)
    before = out.read_bytes()
    QTest.keyClick(window, Key.Key_P, BOTH)
    assert window.sent is None
    assert out.read_bytes() == before, "asked where to and given no answer, nothing is written"
    plain = Image.open(out).size
    chosen(monkeypatch, out)
    QTest.keyClick(window, Key.Key_P, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
    until(lambda: window.sent is None)
    assert Image.open(out).size[0] == plain[0]
    assert Image.open(out).size[1] > plain[1] + 20, "its spans are under it"
    window.show_bench("Clips")
    out.unlink()
    QTest.keyClick(window, Key.Key_P, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
    assert "A clip has no spans" in window.notice.label.text()
    assert not out.exists()


def test_a_clip_is_sent_from_its_bench_and_a_place_that_cannot_be_is_said(
    window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.show_bench("Clips")
    window.document.choose_clip("land")
    monkeypatch.setattr(sending, "MOST", 6)
    window.send_picture(tmp_path / "land.gif")
    until(lambda: window.sent is None)
    assert 3 <= Image.open(tmp_path / "land.gif").n_frames <= 6  # type: ignore[attr-defined]
    window.send_picture(tmp_path / "nowhere" / "deep" / "a.webp")
    window.send_report(tmp_path / "b.txt")
    assert "still being drawn" in window.notice.label.text()
    until(lambda: window.sent is None)
    assert not (tmp_path / "b.txt").exists()
