"""One table of commands: no two on one key, every key does what it says, and the README and the help are made of it."""

from __future__ import annotations

import re
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from tests.desk.conftest import STRIKE, Hand
from tests.desk.test_safe import in_dialog
from veergust.desk.keys.table import TABLE, as_markdown
from veergust.desk.sheet.keys import SheetKeys
from veergust.desk.shell.find import everything
from veergust.desk.shell.help import HelpPage
from veergust.desk.shell.window import Window
from veergust.desk.widgets.choose import Chooser

ROOT = Path(__file__).resolve().parents[2]


def test_no_two_commands_share_a_key_where_they_hold() -> None:
    assert len({c.name for c in TABLE}) == len(TABLE)
    taken: dict[tuple[str, str], str] = {}
    for command in TABLE:
        for keys in command.keys:
            assert QKeySequence(keys).toString() == keys, keys
            for where in (command.where, "everywhere") if command.where != "everywhere" else ("everywhere",):
                assert (where, keys) not in taken, (command.name, taken.get((where, keys)))
            taken[command.where, keys] = command.name


def test_the_readme_has_the_table_as_it_is() -> None:
    text = (ROOT / "README.md").read_text()
    assert text.split("<!-- keys -->\n")[1].split("<!-- end of keys -->")[0] == as_markdown(), (
        "write it anew with ./run shots keys"
    )


def test_every_key_that_holds_everywhere_is_bound_once(window: Window) -> None:
    bound = [s.key().toString() for s in window.findChildren(QShortcut)]
    bound += [k.toString() for action in window.actions() for k in action.shortcuts()]
    wanted = [keys for c in TABLE if c.where == "everywhere" for keys in c.keys]
    assert sorted(bound) == sorted(wanted)


def test_every_command_of_the_sheet_is_done_by_the_sheet_or_its_bench(window: Window, hand: Hand) -> None:
    window.document.select(STRIKE)
    acts = set(SheetKeys(window.sheet.sheet)._acts())
    assert {c.name for c in TABLE if c.where == "sheet"} == acts | set(window.sheet.acts()) | {"next_span"}


def test_every_command_of_clips_and_spar_is_done_by_its_bench(window: Window) -> None:
    assert {c.name for c in TABLE if c.where in ("clips", "pose")} == set(window.clips.acts()) | {
        "other_clip",
        "clip_steps",
        "clip_ends",
    }
    assert {c.name for c in TABLE if c.where == "mapping"} == set(window.clips.mapping.acts()) | {"other_pair"}
    assert {c.name for c in TABLE if c.where == "drive"} == set(window.ground.live.acts()) | {"drive_walk"}
    assert {c.name for c in TABLE if c.where == "spar"} == set(window.spar.acts()) | {"walk"}


def test_no_key_is_answered_that_is_not_in_the_table() -> None:
    """A widget asks the table what keys stand for; only who is driven, a list’s own line, and what gives up a work, know a key by themselves."""
    desk = ROOT / "src" / "veergust" / "desk"
    own = {"driving.py", "choose.py", "only.py"}
    by_key = {p.name for p in desk.rglob("*.py") if "Key.Key_" in p.read_text().replace("Key.Key_Shift", "")}
    assert by_key == own
    compared = re.compile(r"""keys (?:==|in) \(?["']|keys in STEPS""")
    assert {p.name for p in desk.rglob("*.py") if compared.search(p.read_text())} <= {
        "live.py",
        "bench.py",
        "keys.py",
        "joint_table.py",
        "pressing.py",
        "view.py",
    }


def test_whatever_holds_everywhere_is_done_from_the_list_of_everything(window: Window) -> None:
    """Each is there with its keys, but for the list itself; one is looked up and done."""
    lines = {f.does: f.says for f in everything(window.document.project) if f.does}
    assert set(lines) == {c.name for c in TABLE if c.where == "everywhere"} - {"find"}
    assert set(lines) <= set(window.acts)
    night = window.theme.look.name == "night"

    def choose(page: object) -> None:
        assert isinstance(page, Chooser)
        QTest.keyClicks(page.line, "day to night")
        QTest.keyClick(page.line, Qt.Key.Key_Return)

    in_dialog(Chooser, choose)
    QTest.keyClick(window, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
    QApplication.processEvents()
    assert (window.theme.look.name == "night") is not night


def test_the_help_page_finds_a_key_by_what_it_does(window: Window) -> None:
    seen: list[list[str]] = []

    def look(page: object) -> None:
        assert isinstance(page, HelpPage)
        seen.append([c.name for c in page.shown])
        QTest.keyClicks(page.line, "mirror")
        seen.append([c.name for c in page.shown])
        page.grab()
        QTest.keyClick(page, Qt.Key.Key_Escape)

    in_dialog(HelpPage, look)
    QTest.keyClick(window, Qt.Key.Key_F1)
    QApplication.processEvents()
    assert seen == [[c.name for c in TABLE], ["mirror"]]
