"""The project handed over in the window: looked at first, written, given up, and stopped by an error."""

from __future__ import annotations

import json
import threading
from importlib import import_module
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from tools.made.edits import with_section

from tests.core.export.test_export import files
from tests.desk.conftest import pick, type_in, until
from veergust.core.edit.spans import Edit
from veergust.core.export.clips import clip_file
from veergust.core.model import Exit
from veergust.desk.shell.handing import HandOver
from veergust.desk.shell.window import Window

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def page(window: Window) -> HandOver:
    made = HandOver(window.document, window.settings, window.go_to, None, window)
    made.show()
    QApplication.processEvents()
    return made


def rows(page: HandOver) -> list[str]:
    return [page.list.item(n).text() for n in range(page.list.count())]


def test_what_will_be_written_is_said_first_and_then_it_is(page: HandOver, tmp_path: Path, window: Window) -> None:
    out = tmp_path / "game"
    assert page.words.text() == "Choose the folder that the game reads."
    assert not page.write_button.isEnabled()
    type_in(page.folder, str(out))
    until(lambda: page.work is None)
    assert not out.exists(), "looking writes nothing"
    assert "actions.json   is written" in rows(page)
    page.mesh.setChecked(False)
    pick(page.unit, "centimetres")
    until(lambda: page.work is None)
    QTest.mouseClick(page.write_button, LEFT)
    assert not page.write_button.isEnabled()
    assert page.bar.isVisible()
    until(lambda: page.work is None)
    assert json.loads((out / "manifest.json").read_text())["axes"]["unit"] == "cm"
    written = [row for row in rows(page) if row.endswith("was written")]
    assert len(written) + 1 == len(files(out))
    before = files(out)
    QTest.mouseClick(page.look_button, LEFT)
    until(lambda: page.work is None)
    assert page.words.text() == f"0 to write, 0 to go, {len(written)} the same."
    assert files(out) == before
    # What was chosen is there the next time.
    again = HandOver(window.document, window.settings, window.go_to, None, window)
    assert (again.folder.text(), again.axes.unit, again.mesh.isChecked()) == (str(out), "cm", False)
    until(lambda: again.work is None)


def test_given_up_the_folder_is_as_it_was(page: HandOver, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """In the middle of a clip, which does not end before it is given up."""
    out = tmp_path / "game"
    type_in(page.folder, str(out))
    until(lambda: page.work is None)
    begun, over, made = threading.Event(), threading.Event(), clip_file

    def waits(*given: Any) -> bytes:
        begun.set()
        over.wait(30)
        return made(*given)

    monkeypatch.setattr(import_module("veergust.core.export.documents"), "clip_file", waits)
    QTest.mouseClick(page.write_button, LEFT)
    until(begun.is_set)
    QTest.mouseClick(page.give_up_button, LEFT)
    over.set()
    until(lambda: page.work is None)
    assert page.words.text() == "Given up; the folder is as it was."
    assert files(out) == {}
    assert page.write_button.isEnabled()


def test_a_folder_that_cannot_be_is_said(page: HandOver, window: Window) -> None:
    assert window.document.folder is not None
    type_in(page.folder, str(window.document.folder))
    until(lambda: page.work is None)
    assert "is a project, and an export goes elsewhere" in page.words.text()


def test_an_error_stops_it_and_leads_to_its_place(window: Window, tmp_path: Path) -> None:
    document = window.document
    bad = with_section(document.base, "Thrust", 1, exits=(Exit(start=1, end=4, command="nothing", to="Low sweep"),))
    document.apply(Edit(bad, "spoilt"))
    page = HandOver(document, window.settings, window.go_to, None, window)
    page.show()
    assert "stop" in page.words.text()
    type_in(page.folder, str(tmp_path / "game"))
    assert not page.write_button.isEnabled()
    assert page.work is None
    page.list.setCurrentRow(0)
    QTest.keyClick(page.list, Qt.Key.Key_Return)
    assert not page.isVisible()
    assert document.action == "Thrust"


def test_a_key_opens_it(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    seen: list[HandOver] = []
    monkeypatch.setattr(HandOver, "exec", lambda page: seen.append(page))
    QTest.keyClick(window, Qt.Key.Key_E, Qt.KeyboardModifier.ControlModifier)
    assert len(seen) == 1
