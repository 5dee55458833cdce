"""What was changed, in the window: listed since it was saved, gone to, taken back by itself."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from tools.made import DEMO
from tools.made.edits import action, with_action

from tests.desk.conftest import STRIKE, Hand, pick
from veergust.core.edit.actions import rename_action
from veergust.core.edit.fields import set_fields
from veergust.core.files.folder import open_project
from veergust.core.files.saving import save_project
from veergust.desk.shell.changed import ChangedPage
from veergust.desk.shell.window import Window

LEFT = Qt.MouseButton.LeftButton


def shown(window: Window) -> ChangedPage:
    page = ChangedPage(window.document, window.go_to, window)
    page.show()
    QApplication.processEvents()
    return page


def rows(page: ChangedPage) -> list[str]:
    return [page.list.item(n).text() for n in range(page.list.count())]


def test_what_a_hand_did_is_listed_and_one_thing_of_it_taken_back(window: Window, hand: Hand) -> None:
    document = window.document
    page = shown(window)
    assert (page.words.text(), rows(page)) == ("Nothing was changed.", [])
    assert not page.back_button.isEnabled()
    page.close()
    hand.drag(STRIKE, "body", 2)
    document.apply(set_fields(document.base, [STRIKE], damage=20.0))
    document.apply(rename_action(document.base, "Jarred", "Shaken"))
    page = shown(window)
    found = rows(page)
    assert found[0] == "Shaken: renamed Jarred → Shaken"
    assert not page.back_button.isEnabled()
    assert any(row.startswith("Low sweep: starts up in ") for row in found), "what it comes to is told too"
    at = found.index("Low sweep: Swing › Sweep damage 13 → 20")
    page.list.setCurrentRow(at)
    QTest.mouseClick(page.back_button, LEFT)
    assert action(document.project, "Low sweep").sections[1].strikes[0].damage == 13.0
    assert "Low sweep: Swing › Sweep damage 13 → 20" not in rows(page)
    assert found[0] in rows(page)
    document.undo()
    assert action(document.project, "Low sweep").sections[1].strikes[0].damage == 20.0


def test_a_change_is_gone_to(window: Window) -> None:
    document = window.document
    document.apply(set_fields(document.base, [STRIKE], damage=20.0))
    document.choose_action("Thrust")
    window.show_bench("Spar")
    page = shown(window)
    page.list.setCurrentRow(0)
    QTest.keyClick(page.list, Qt.Key.Key_Return)
    assert not page.isVisible()
    assert (window.bench, document.action) == ("Sheet", "Low sweep")
    assert document.selected == [STRIKE]


def test_another_project_is_held_against_it_and_one_that_cannot_be_read_is_said(window: Window, tmp_path: Path) -> None:
    other = tmp_path / "other.veergust"
    shutil.copytree(DEMO, other)
    save_project(with_action(open_project(other), "Thrust", blend_in=9), other)
    page = shown(window)
    page.hold_against(other)
    assert page.head.text() == "Against other.veergust"
    assert rows(page) == ["Thrust: fades in over 9 → 4 f"]
    page.hold_against(tmp_path / "nothing")
    assert "is not a project folder" in page.words.text()


def test_a_key_opens_it(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    seen: list[ChangedPage] = []
    monkeypatch.setattr(ChangedPage, "exec", lambda page: seen.append(page))
    QTest.keyClick(window, Qt.Key.Key_E, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert len(seen) == 1


def test_one_thing_is_flipped_to_how_it_was_and_back(window: Window) -> None:
    document = window.document
    document.apply(set_fields(document.base, [STRIKE], damage=20.0))
    page = shown(window)
    page.list.setCurrentRow(0)

    def damage() -> float:
        return action(document.project, "Low sweep").sections[1].strikes[0].damage

    QTest.mouseClick(page.flip_button, LEFT)
    assert (damage(), document.dragging) == (13.0, True)
    QTest.mouseClick(page.flip_button, LEFT)
    assert (damage(), document.dragging) == (20.0, False)
    QTest.mouseClick(page.flip_button, LEFT)
    page.close()
    assert (damage(), document.dragging) == (20.0, False), "nothing of it stays"
    page = shown(window)
    QTest.mouseClick(page.flip_button, LEFT)
    QTest.mouseClick(page.back_button, LEFT)
    assert damage() == 13.0
    assert len(document.done) == 2


def test_a_version_of_the_open_action_is_held_against_it(window: Window) -> None:
    document = window.document
    document.choose_action("Low sweep")
    page = shown(window)
    kept = [k for k in action(document.project, "Low sweep").kept if k.name == "heavier"]
    assert kept
    pick(page.version, "the version heavier")
    assert page.head.text() == "Low sweep against its version heavier"
    was = kept[0].action.sections[1].strikes[0].damage
    assert f"Low sweep: Swing › Sweep damage {was:g} → 13" in rows(page)
    assert all(row.startswith("Low sweep: ") for row in rows(page))
