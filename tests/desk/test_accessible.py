"""What is painted is in the tree that screen readers walk: every canvas with its rows, cells, places and what is chosen."""

from __future__ import annotations

from typing import Any

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QAccessible, QAccessibleInterface
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractItemView, QApplication, QComboBox, QWidget

from tests.desk.conftest import STRIKE
from veergust.core.model import ANYWHERE
from veergust.core.study.playout import outline
from veergust.desk.shell.benches import BENCHES
from veergust.desk.shell.window import Window
from veergust.desk.widgets import accessible

NAME, VALUE = QAccessible.Text.Name, QAccessible.Text.Value
PAINTED_WITHOUT_ROWS = {"Curves", "Overview", "StageView", "Words", "YieldingLabel"}
"""What has no rows: pictures of what other widgets tell, and labels, which are told as such."""


def of(widget: QWidget) -> QAccessibleInterface:
    found = QAccessible.queryAccessibleInterface(widget)
    assert found is not None
    return found


def rows(widget: QWidget) -> list[tuple[str, str]]:
    """Name and value of every row, as a screen reader is given them."""
    over = of(widget)
    return [(child.text(NAME), child.text(VALUE)) for child in children(over)]


def children(over: QAccessibleInterface) -> list[QAccessibleInterface]:
    found = [over.child(i) for i in range(over.childCount())]
    assert all(child is not None for child in found)
    return [child for child in found if child is not None]


def test_the_list_of_actions_is_a_tree_of_groups_that_says_how_long_each_lasts(window: Window) -> None:
    listed = window.sheet.list
    over = of(listed)
    assert over.role() == QAccessible.Role.Tree
    assert over.text(NAME) == "Actions"
    lines = [c for c in children(over) if c.role() != QAccessible.Role.ColumnHeader]
    assert {c.role() for c in lines} == {QAccessible.Role.TreeItem}
    actions, build = window.document.project.actions, window.document.build
    groups = list(dict.fromkeys(a.group for a in actions))
    assert [c.text(NAME) for c in lines] == [
        name for group in groups for name in (group, *(a.name for a in actions if a.group == group))
    ]
    said = {c.text(NAME): c.text(QAccessible.Text.Description) for c in lines}
    for action in actions:
        compiled = build.action(action.name)
        assert compiled is not None
        assert said[action.name] == f"{outline(build, compiled)[0]} frames"
    [chosen] = [c for c in lines if c.state().selected]
    assert chosen.text(NAME) == window.document.action
    # It is found where it is painted: a click there opens it.
    other = next(c for c in lines if c.text(NAME) == "Overhead hook")
    at = listed.viewport().mapFromGlobal(other.rect().center())
    QTest.mouseClick(listed.viewport(), Qt.MouseButton.LeftButton, pos=at)
    assert window.document.action == "Overhead hook"


def test_lists_that_are_painted_have_their_rows_with_what_is_chosen_and_where_it_stands(window: Window) -> None:
    window.show_bench("Clips")
    QApplication.processEvents()
    listed = window.clips.library
    over = of(listed)
    assert over.role() == QAccessible.Role.List
    lines = children(over)
    said = {c.text(NAME): c.text(QAccessible.Text.Description) for c in lines}
    assert sorted(name for name, says in said.items() if says != "heading") == sorted(
        c.name for c in window.document.project.clips
    )
    assert all(says == "heading" or " frames, " in says for says in said.values())
    [chosen] = [c for c in lines if c.state().selected]
    assert chosen.text(NAME) == window.document.clip
    other = lines[1]
    at = listed.viewport().mapFromGlobal(other.rect().center())
    QTest.mouseClick(listed.viewport(), Qt.MouseButton.LeftButton, pos=at)
    assert window.document.clip == other.text(NAME)


def test_tables_have_their_rows_and_cells(window: Window) -> None:
    window.show_bench("Layers")
    over = of(window.layers.stack)
    assert over.role() == QAccessible.Role.Table
    first = children(over)[0]
    assert first.role() == QAccessible.Role.Row
    layers = [y.name for y in reversed(window.document.project.layers)]
    assert [c.text(NAME) for c in children(over)] == [*layers, "locomotion"]
    cells = children(first)
    assert {c.role() for c in cells} == {QAccessible.Role.Cell}
    said = set()
    for row, name in zip(children(over), layers):
        compiled, states = window.document.build.layers[name], window.document.build.states
        plain = {c.text(NAME): c.text(VALUE) for c in children(row) if c.text(NAME) in states}
        assert plain
        assert plain == {state: compiled.rule(state) for state in plain}
        said |= set(plain.values())
    assert len(said) > 1
    assert cells[0].parent() is first
    window.show_bench("Ground")
    there = {(t.start, t.to) for t in window.document.project.locomotion.transitions}
    grid = window.ground.grid.table
    said_of = {
        tuple(cell.text(NAME).split(": ")[0].split(" to ")): cell.text(NAME).split(": ")[1]
        for cell in children(of(window.ground.grid))
        if cell.role() == QAccessible.Role.Cell
    }
    assert len(said_of) == grid.rowCount() * grid.columnCount()
    named = {(start.replace("anywhere", ANYWHERE), to): says for (start, to), says in said_of.items()}
    assert {ends for ends, says in named.items() if says != "no transition"} == there
    window.show_bench("Layers")
    window.layers.selection.choose("Arms")
    QApplication.processEvents()
    joints = window.layers.masks.table
    cells = [c for c in children(of(joints)) if c.role() == QAccessible.Role.Cell]
    assert [c.text(NAME) for c in cells] == [
        says for row in joints.rows for says in (row.name, f"{row.weight:.2f}", row.who)
    ]


def test_the_sheet_and_the_film_tell_what_stands_on_them(window: Window) -> None:
    window.document.select(STRIKE)
    said = dict(rows(window.sheet.sheet))
    strike = window.document.project.actions[0].sections[1].strikes[0]
    first = window.document.build.action("Low sweep").start_of(1)  # type: ignore[union-attr]
    assert said[strike.name] == f"strike, frames {first + strike.start} to {first + strike.end}"
    [chosen] = [c for c in children(of(window.sheet.sheet)) if c.state().selected]
    assert chosen.text(NAME) == strike.name
    window.show_bench("Clips")
    film = dict(rows(window.clips.film))
    first, last = window.clips.playhead.used()
    assert (film["in"], film["out"]) == (f"frame {first}", f"frame {last}")


def test_what_changes_is_said_once_somebody_listens(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    told: list[tuple[str, QAccessible.Event, int]] = []

    def hear(canvas: QWidget, what: QAccessible.Event, child: int = -1) -> None:
        told.append((canvas.accessibleName(), what, child))

    monkeypatch.setattr(accessible, "announce", hear)
    window.show_bench("Layers")
    stack = window.layers.stack
    window.layers.selection.choose("Arms")
    QApplication.processEvents()
    assert told == []
    of(stack)
    QApplication.processEvents()
    window.layers.selection.choose("Flinch")
    QApplication.processEvents()
    at = [name for name, _ in rows(stack)].index("Flinch")
    assert (stack.accessibleName(), QAccessible.Event.Focus, at) in told


def test_every_canvas_of_every_bench_tells_its_rows(window: Window) -> None:
    """Whatever paints itself and takes the keys has something to tell; nothing told is nameless."""
    silent, seen = set(), set()
    for name in BENCHES:
        window.show_bench(name)
        QApplication.processEvents()
        for widget in window.findChildren(QWidget):
            kind: Any = type(widget)
            if isinstance(widget, (QComboBox, QAbstractItemView)):  # which tell what they have by themselves
                continue
            if not kind.__module__.startswith("veergust.") or "paintEvent" not in kind.__dict__:
                continue
            if not hasattr(widget, "told"):
                silent |= {kind.__name__}
            elif widget.isVisible():
                seen |= {kind.__name__}
                assert of(widget).childCount() == len(widget.told())
                assert all(row.name for row in widget.told()), kind.__name__
    assert silent == PAINTED_WITHOUT_ROWS
    assert {"StackView", "ChartView", "SheetView", "Film"} <= seen


def test_a_label_that_gives_way_is_told_whole(window: Window) -> None:
    window.show_bench("Spar")
    keys = window.spar.keys_label
    keys.setFixedWidth(40)
    assert of(keys).role() is QAccessible.Role.StaticText
    assert of(keys).text(NAME) == keys.text()
    assert "light" in keys.text()
