"""What is done a hundred times a day, in few inputs: strings, commands, new spans, numbers as people have them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from tools.made.edits import replace

from tests.desk.conftest import Hand, focused, pick, type_in
from tests.desk.test_safe import in_dialog, press, said
from veergust.core.edit.spans import Edit, SpanRef
from veergust.core.kinds.commands import listed_commands
from veergust.core.model import Command, Exit, Project
from veergust.desk.sheet.new_command import NEW, NewCommand
from veergust.desk.sheet.together import Together
from veergust.desk.shell.window import Window
from veergust.desk.widgets.choose import Chooser

Key = Qt.Key
CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
LEFT = Qt.MouseButton.LeftButton


def ask(kind: type, act: Callable[[Any], None]) -> None:
    in_dialog(kind, act)


def take(dialog: Any, row: int) -> None:
    """Click a line of a list."""
    rect = dialog.list.visualItemRect(dialog.list.item(row))
    QTest.mouseClick(dialog.list.viewport(), LEFT, pos=rect.center())


def plain(window: Window) -> None:
    """The demo without its exits and start rules."""
    project = window.document.project
    actions = tuple(
        replace(a, start=replace(a.start, commands=()), sections=tuple(replace(s, exits=()) for s in a.sections))
        for a in project.actions
    )
    window.document.apply(Edit(replace(project, actions=actions), "plain"))


# Strings


def test_a_string_of_three_is_two_keys(window: Window) -> None:
    plain(window)
    window.document.choose_action("Low sweep")
    shown: list[str] = []

    def look(dialog: Together) -> None:
        shown.append(dialog.told.text())
        assert dialog.list.currentItem().text().startswith("1  Low sweep")
        QTest.keyClick(dialog.list, Key.Key_Space)
        assert dialog.names == ["Thrust", "Overhead hook"]
        QTest.keyClick(dialog.list, Key.Key_Space)
        dialog.names.sort(key=["Low sweep", "Thrust", "Overhead hook"].index)
        dialog.renew()
        # Return on the list, where the keys are, makes it and takes nobody in or out.
        QTest.keyClick(dialog.list, Key.Key_Return)

    ask(Together, look)
    QTest.keyClick(window, Key.Key_G, CONTROL | SHIFT)
    first = listed_commands(window.document.project)[0]
    names = ("Low sweep", "Thrust", "Overhead hook")
    assert shown[0].splitlines()[0] == f"{first} starts Low sweep"
    assert f"of Thrust → {names[2]}" in shown[0]
    by_name = {a.name: a for a in window.document.project.actions}
    led = [[e.to for s in by_name[n].sections for e in s.exits] for n in names]
    assert led == [["Thrust"], ["Overhead hook"], []]
    assert [by_name[n].start.commands for n in names] == [(first,), (), ()]
    assert said(window).startswith("Put together")
    QTest.keyClick(window, Key.Key_Z, CONTROL)
    assert all(not s.exits for a in window.document.project.actions for s in a.sections), "one step back"


def test_which_and_how_is_chosen_by_mouse_and_shown_before_it_is_made(window: Window) -> None:
    plain(window)
    window.document.choose_action("Low sweep")

    def look(dialog: Together) -> None:
        take(dialog, 1)
        take(dialog, 2)
        assert not dialog.make_button.isEnabled()
        assert "choose two to" in dialog.told.text()
        names = [a.name for a in window.document.project.actions]
        take(dialog, names.index("Duck roll"))
        take(dialog, names.index("Cover"))
        assert dialog.names == ["Low sweep", "Duck roll", "Cover"]
        pick(dialog.how, "one of them by chance")
        pick(dialog.command.add, "heavy")
        assert "heavy starts one of them" in dialog.told.text()
        assert not dialog.memory.isEnabled()
        QTest.mouseClick(dialog.make_button, LEFT)

    ask(Together, look)
    QTest.mouseClick(window.sheet.together_button, LEFT)
    pool = window.document.project.pools[-1]
    assert [i.name for i in pool.items] == ["Low sweep", "Duck roll", "Cover"]
    assert "heavy" in pool.commands
    # What a pool starts on is seen and changed on its page.
    window.sheet.show_page(5)
    page = window.sheet.page_stack.pools
    pick(page.which, pool.name)
    pick(page.commands.add, "guard")
    assert "guard" in window.document.project.pools[-1].commands


def test_one_action_and_its_twin_are_a_pair_in_few_inputs(window: Window) -> None:
    plain(window)
    window.document.choose_action("Low sweep")

    def look(dialog: Together) -> None:
        take(dialog, 1)
        take(dialog, 2)
        QTest.mouseClick(dialog.twins, LEFT)
        pick(dialog.how, "round and round")
        assert "of Low sweep mirrored → Low sweep" in dialog.told.text()
        QTest.mouseClick(dialog.make_button, LEFT)

    ask(Together, look)
    QTest.keyClick(window, Key.Key_G, CONTROL | SHIFT)
    names = [a.name for a in window.document.project.actions]
    assert names[names.index("Low sweep") + 1] == "Low sweep mirrored"


# Start rules


def test_a_start_rule_is_made_on_the_page_of_the_action(window: Window) -> None:
    document = window.document
    document.choose_action("Thrust")
    window.sheet.show_page(3)
    page = window.sheet.page_stack.action

    def start() -> Any:
        return next(a.start for a in document.project.actions if a.name == "Thrust")

    before = start()
    pick(page.commands.add, "brace")
    assert start().commands == (*before.commands, "brace")
    state = next(s.name for s in document.project.locomotion.states if s.name not in before.states)
    pick(page.states.add, state)
    assert start().states == (*before.states, state)
    QTest.mouseClick(page.conditions.add_button, LEFT)
    assert len(start().conditions) == len(before.conditions) + 1
    type_in(page.memory, "0.5 s")
    assert start().string_memory == 30
    type_in(page.cooldown, "+12")
    assert start().cooldown == before.cooldown + 12
    for _ in range(5):
        QTest.keyClick(window, Key.Key_Z, CONTROL)
    assert start() == before


def test_a_command_is_made_in_place_and_its_key_pressed(window: Window) -> None:
    document = window.document
    document.choose_action("Thrust")
    window.sheet.show_page(3)
    page = window.sheet.page_stack.action
    light = next(c for c in document.project.commands if c.name == "light")

    def look(dialog: NewCommand) -> None:
        assert not dialog.make_button.isEnabled()
        QTest.keyClicks(dialog.line, "kick")
        dialog.key.setFocus()
        QTest.keyClick(dialog.key, QKeySequence(light.keys[0])[0].key())  # type: ignore[index]
        assert f"{light.keys[0]} is the key of light" in dialog.told.text()
        assert not dialog.make_button.isEnabled()
        dialog.over.click()
        assert dialog.make_button.isEnabled()
        QTest.mouseClick(dialog.make_button, LEFT)

    ask(NewCommand, look)
    pick(page.commands.add, NEW)
    project = document.project
    assert next(c for c in project.commands if c.name == "kick") == Command(name="kick", keys=light.keys[:1])
    assert next(c for c in project.commands if c.name == "light").keys == light.keys[1:]
    assert next(a for a in project.actions if a.name == "Thrust").start.commands[-1] == "kick"


def test_commands_stand_in_one_order_wherever_they_are_listed(window: Window) -> None:
    project = window.document.project
    order = listed_commands(project)
    assert sorted(order) == sorted(c.name for c in project.commands)
    firsts = [next((i for i, a in enumerate(project.actions) if n in a.start.commands), 99) for n in order]
    assert firsts == sorted(firsts)
    window.show_bench("Spar")
    told = window.spar.keys_label.text()
    assert [told.index(f" {n}") for n in order] == sorted(told.index(f" {n}") for n in order)
    window.show_bench("Sheet")
    window.sheet.show_page(3)
    add = window.sheet.page_stack.action.commands.add
    offered = [add.itemText(i) for i in range(1, add.count())]
    assert offered == [n for n in [*order, NEW] if n in offered]


def test_a_key_that_starts_nothing_says_so_and_leads_to_where_it_is_changed(window: Window) -> None:
    window.document.apply(Edit(_with_idle_command(window.document.project), "idle"))
    window.show_bench("Spar")
    QTest.keyClick(window.spar, Key.Key_Z)
    assert said(window) == "kick starts nothing yet."
    window.spar.hold()

    def choose(dialog: Chooser) -> None:
        QTest.keyClicks(dialog.line, "Overhead")
        QTest.keyClick(dialog, Key.Key_Return)

    ask(Chooser, choose)
    press(window, "choose an action for it")
    assert window.bench == "Sheet"
    assert window.document.action == "Overhead hook"
    assert "kick" in next(a for a in window.document.project.actions if a.name == "Overhead hook").start.commands
    window.show_bench("Spar")
    window.notice.hide()
    QTest.keyClick(window.spar, Key.Key_Z)
    assert said(window) == ""
    window.spar.hold()


def _with_idle_command(project: Project) -> Project:
    return replace(project, commands=(*project.commands, Command(name="kick", keys=("Z",))))


def test_a_new_action_is_of_the_open_clip_and_opens_on_the_sheet(window: Window) -> None:
    window.document.choose_clip("staff_jab")
    window.show_bench("Clips")
    ask(Chooser, lambda dialog: QTest.keyClick(dialog, Key.Key_Return))
    QTest.keyClick(window, Key.Key_N, CONTROL | SHIFT)
    assert window.bench == "Sheet"
    assert window.document.action == "Staff jab 2"
    assert said(window) == "New action Staff jab 2, of the clip staff_jab."


# New spans


def test_an_exit_that_is_right_is_one_key(window: Window, hand: Hand) -> None:
    plain(window)
    document = window.document
    document.choose_action("Low sweep")
    hand.sheet.column = "exits"
    document.move_to(12)
    hand.keys(Key.Key_N)
    assert document.selection is not None
    section = next(a for a in document.project.actions if a.name == "Low sweep").sections[1]
    compiled = document.compiled
    assert compiled is not None
    assert section.exits == (
        Exit(start=section.strikes[0].end, end=compiled.sections[1].ticks, kind="combo",
             command=listed_commands(document.project)[0], to="Thrust"),
    )  # fmt: skip
    assert said(window).startswith("A combo: ")
    hand.sheet.column = "holds"
    document.move_to(3)
    QTest.keyClick(hand.sheet, Key.Key_N, SHIFT)
    selected = document.selection
    assert selected is not None
    assert selected.kind == "holds"
    hold = document.project.actions[0].sections[0].holds[-1]
    assert (hold.start, hold.end) == (0, compiled.sections[0].ticks)


# Fields


def test_a_field_takes_numbers_as_people_have_them(window: Window) -> None:
    document = window.document
    document.choose_action("Low sweep")
    window.sheet.show_page(3)
    field = window.sheet.page_stack.action.blend_in
    for text, frames in (
        ("9", 9), ("f 9", 9), ("0.2 s", 12), ("0,2s", 12), ("+3", 6), ("-1", 2), ("200 %", 6), ("nine", 3), ("", 3),
    ):  # fmt: skip
        assert field.value() == 3
        type_in(field, text)
        assert document.project.actions[0].blend_in == frames, text
        assert field.text() == f"{frames} f"
        if document.done:
            document.undo()
            field.lineEdit().setModified(False)
            window.sheet.page_stack.action.renew()


def test_an_edge_is_typed_as_a_share_of_its_section(window: Window) -> None:
    document = window.document
    ref = SpanRef("Low sweep", 1, "strikes", 0)
    document.select(ref)
    window.sheet.show_page(1)
    page = window.sheet.page_stack.span
    compiled = document.compiled
    assert compiled is not None
    first, ticks = compiled.start_of(1), compiled.sections[1].ticks
    type_in(page.widgets["end"], "75%")
    assert document.project.actions[0].sections[1].strikes[0].end == round(0.75 * ticks)
    assert page.widgets["end"].value() == first + round(0.75 * ticks)


@pytest.mark.parametrize(("typed", "frame"), [("12", 12), ("0.2s", 12), ("+2", None), ("75%", None)])
def test_an_edge_is_typed_on_the_sheet_in_any_of_these(
    window: Window, hand: Hand, typed: str, frame: int | None
) -> None:
    document = window.document
    ref = SpanRef("Low sweep", 1, "strikes", 0)
    document.select(ref)
    compiled = document.compiled
    assert compiled is not None
    first, ticks = compiled.start_of(1), compiled.sections[1].ticks
    before = document.project.actions[0].sections[1].strikes[0].end
    wanted = {"+2": before + 2, "75%": round(0.75 * ticks)}.get(typed, (frame or 0) - first)
    hand.sheet.edge = "end"
    QTest.keyClicks(hand.sheet, typed)
    QTest.keyClick(hand.sheet, Key.Key_Return)
    assert document.project.actions[0].sections[1].strikes[0].end == wanted


def test_escape_gives_up_what_was_typed_and_tab_does_not_bring_it_back(window: Window) -> None:
    document = window.document
    document.choose_action("Low sweep")
    window.sheet.show_page(3)
    page = window.sheet.page_stack.action
    before = document.project
    for field in (page.blend_in, page.group):
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, "17")
        QTest.keyClick(field, Key.Key_Escape)
        QTest.keyClick(focused(), Key.Key_Tab)
        assert document.project == before
        assert not document.done
    QApplication.processEvents()
    assert page.blend_in.text() == "3 f"
    assert page.group.text() == document.project.actions[0].group


def test_dialogs_of_commands_refuse_while_a_project_is_only_looked_at(
    window: Window, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(Together, "exec", lambda _: pytest.fail("asked what cannot be done"))
    kept = window.document.kept
    assert kept is not None
    kept.let_go()
    kept.why_not = "it is open elsewhere"
    QTest.keyClick(window, Key.Key_G, CONTROL | SHIFT)
    assert "open only to look" in said(window)


# Finding and selecting


@pytest.mark.parametrize(
    ("bench", "typed", "there"),
    [
        ("Sheet", "Overh", lambda w: w.document.action == "Overhead hook"),
        ("Ground", "run", lambda w: w.ground.selection.name == "run"),
        ("Layers", "Arm", lambda w: w.layers.selection.name.startswith("Arm")),
        ("Spar", "Overh", lambda w: w.document.action == "Overhead hook"),
    ],
)
def test_ctrl_f_finds_in_what_is_before_one(
    window: Window, bench: str, typed: str, there: Callable[[Window], bool]
) -> None:
    window.show_bench(bench)

    def choose(dialog: Chooser) -> None:
        QTest.keyClicks(dialog.line, typed)
        QTest.keyClick(dialog, Key.Key_Return)

    ask(Chooser, choose)
    QTest.keyClick(window, Key.Key_F, CONTROL)
    assert there(window)


def test_ctrl_f_on_clips_is_the_line_of_the_library(window: Window) -> None:
    window.show_bench("Clips")
    QTest.keyClick(window, Key.Key_F, CONTROL)
    assert focused() is window.clips.side.find_line


def test_every_span_of_a_section_is_selected_copied_and_removed_at_once(window: Window, hand: Hand) -> None:
    document = window.document
    document.choose_action("Low sweep")
    document.move_to(12)
    before = document.project.actions[0].sections[1]
    many = sum(len(getattr(before, k)) for k in ("gates", "strikes", "exits", "shields", "holds", "drives", "events"))
    hand.sheet.setFocus()
    QTest.keyClick(hand.sheet, Key.Key_A, CONTROL)
    assert len(document.selected) == many
    window.sheet.show_page(1)
    assert window.sheet.page_stack.span.head.text() == f"{many} spans of several kinds"
    QTest.keyClick(hand.sheet, Key.Key_C, CONTROL)
    assert len(hand.sheet.carried) == many
    QTest.keyClick(hand.sheet, Key.Key_Delete)
    after = document.project.actions[0].sections[1]
    assert (after.strikes, after.exits, after.holds, after.drives, after.events) == ((), (), (), (), ())
    assert document.project.actions[0].sections[2] == window.document.saved_project.actions[0].sections[2]
    QTest.keyClick(window, Key.Key_Z, CONTROL)
    assert document.project.actions[0].sections[1] == before, "one step back"


def test_shift_and_drag_on_the_curves_chooses_a_part_of_the_film(window: Window) -> None:
    window.show_bench("Clips")
    window.document.choose_clip("staff_sweep")
    clips = window.clips
    QApplication.processEvents()
    curves = clips.curves
    ends = [QPoint(round(curves.x_of(f)), curves.height() // 3) for f in (20, 45)]
    QTest.mousePress(curves, LEFT, SHIFT, ends[0])
    QTest.mouseMove(curves, ends[1])
    QTest.mouseRelease(curves, LEFT, SHIFT, ends[1])
    assert clips.playhead.selection == (20, 45)
    QTest.mousePress(curves, LEFT, pos=ends[0])
    QTest.mouseRelease(curves, LEFT, pos=ends[0])
    assert clips.playhead.frame == 20
    assert clips.playhead.selection == (20, 45), "to look at a frame chooses nothing else"
