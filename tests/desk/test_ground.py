"""The Ground bench driven with the real mouse and real keys."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from tests.desk.conftest import pick, turn_wheel, type_in, until
from veergust.core.edit.locomotion import add_state, add_transition, remove_transition, set_transition
from veergust.core.kinds.conditions import sentence
from veergust.core.model import ANYWHERE, Condition, Parameter, State
from veergust.core.play.state import Input
from veergust.desk.ground.bench import GroundBench
from veergust.desk.shell.window import Window

Key = Qt.Key
CTRL, ALT, SHIFT = (
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
    Qt.KeyboardModifier.ShiftModifier,
)


@pytest.fixture
def ground(window: Window) -> GroundBench:
    QTest.keyClick(window, Key.Key_2, CTRL)
    assert window.bench == "Ground"
    QTest.qWait(30)
    return window.ground


def tag(ground: GroundBench, name: str) -> QPoint:
    x, y = ground.chart.layout_.tags[name].middle
    return QPoint(round(x), round(y))


def label(ground: GroundBench, place: int) -> QPoint:
    arrow = next(a for a in ground.chart.layout_.arrows if a.place == place)
    x, y, w, h = arrow.label
    return QPoint(round(x + w / 2), round(y + h / 2))


def cell(ground: GroundBench, start: str, to: str) -> QPoint:
    grid = ground.grid
    grid.scrollTo(grid.cell(start, to))
    return grid.visualRect(grid.cell(start, to)).center()


def place_of(ground: GroundBench, start: str, to: str) -> int:
    there = ground.document.project.locomotion.transitions
    return next(i for i, t in enumerate(there) if (t.start, t.to) == (start, to))


def button(ground: GroundBench, words: str) -> QPushButton:
    return next(b for b in ground.findChildren(QPushButton) if b.text() == words)


def test_every_state_and_transition_is_on_the_paper_and_in_the_grid(ground: GroundBench) -> None:
    there = ground.document.project.locomotion
    assert {s.name for s in there.states} <= set(ground.chart.layout_.tags)
    assert len(ground.chart.layout_.arrows) == len(there.transitions)
    assert sum(len(p) for p in ground.grid.table.cells.values()) == len(there.transitions)
    assert f"{len(there.states)} states" in ground.counts.text()


def seen_cells(ground: GroundBench) -> dict[tuple[int, int], bytes]:
    """The picture of every cell, as a grid that is drawn whole has it."""
    grid, out = ground.grid, {}
    picture = grid.viewport().grab().toImage()
    for row in range(grid.table.rowCount()):
        for column in range(grid.table.columnCount()):
            part = picture.copy(grid.visualRect(grid.table.index(row, column)))
            out[row, column] = bytes(part.constBits())
    return out


def test_an_edit_has_the_cells_drawn_that_are_otherwise_and_no_others(ground: GroundBench) -> None:
    ground.grid.resize(2000, 1200)
    document, heard = ground.document, list[tuple[int, int]]()
    document.apply(add_state(document.base, State(name="pit")))
    ground.grid.table.dataChanged.connect(lambda first, last: heard.append((first.row(), first.column())))
    place = place_of(ground, "walk", "idle")
    for make in (
        lambda p: set_transition(p, place, "longer", ticks=33),
        lambda p: add_transition(p, "idle", "pit"),
        lambda p: remove_transition(p, place),
        lambda p: remove_transition(p, 0),
    ):
        before = seen_cells(ground)
        heard.clear()
        assert document.apply(make(document.base))
        ground.selection.choose("idle")
        after = seen_cells(ground)
        changed = sorted(at for at in after if after[at] != before[at])
        assert sorted(heard) == changed
        assert 0 < len(changed) < 6


def test_a_tag_is_chosen_by_mouse_and_by_arrows_and_its_page_opens(ground: GroundBench) -> None:
    QTest.mouseClick(ground.chart, Qt.MouseButton.LeftButton, pos=tag(ground, "idle"))
    assert ground.page is ground.state_page
    assert ground.state_page.name.text() == "idle"
    QTest.keyClick(ground.chart, Key.Key_Right)
    assert ground.selection.name == "walk"
    QTest.keyClick(ground.chart, Key.Key_Left)
    assert ground.selection.name == "idle"
    QTest.keyClick(ground.chart, Key.Key_Down)
    assert ground.selection.name not in ("idle", "")


def test_an_arrow_drawn_from_tag_to_tag_is_a_transition_and_a_click_on_its_words_chooses_it(
    ground: GroundBench,
) -> None:
    before = len(ground.document.project.locomotion.transitions)
    QTest.mousePress(ground.chart, Qt.MouseButton.LeftButton, pos=tag(ground, "guard"))
    QTest.mouseMove(ground.chart, tag(ground, "guard walk") - QPoint(90, 0))
    QTest.mouseMove(ground.chart, tag(ground, "run"))
    QTest.mouseRelease(ground.chart, Qt.MouseButton.LeftButton, pos=tag(ground, "run"))
    there = ground.document.project.locomotion.transitions
    assert len(there) == before + 1
    assert (there[-1].start, there[-1].to) == ("guard", "run")
    assert ground.page is ground.transition_page
    ground.selection.choose("idle")
    QTest.mouseClick(ground.chart, Qt.MouseButton.LeftButton, pos=label(ground, before))
    assert ground.selection.place == before
    type_in(ground.transition_page.ticks, "21")
    assert ground.document.project.locomotion.transitions[-1].ticks == 21
    ground.chart.setFocus()
    QTest.keyClick(ground.chart, Key.Key_Delete)
    assert len(ground.document.project.locomotion.transitions) == before
    ground.document.undo()
    assert ground.document.project.locomotion.transitions[-1].ticks == 21


def test_an_empty_cell_makes_a_transition_and_a_filled_one_is_edited(ground: GroundBench) -> None:
    before = len(ground.document.project.locomotion.transitions)
    point = cell(ground, "idle", "run")
    QTest.mouseClick(ground.grid.viewport(), Qt.MouseButton.LeftButton, pos=point)
    there = ground.document.project.locomotion.transitions
    assert (there[-1].start, there[-1].to) == ("idle", "run")
    assert len(there) == before + 1
    page = ground.transition_page
    pick(page.enters, "foot to foot")
    assert ground.document.project.locomotion.transitions[-1].enters == "foot"
    QTest.mouseClick(ground.grid.viewport(), Qt.MouseButton.LeftButton, pos=cell(ground, "run", "walk"))
    assert ground.selection.place == place_of(ground, "run", "walk")
    # By keys: to the next cell, and a new one there.
    ground.grid.setFocus()
    land = ground.grid.cell("idle", "land")
    ground.grid.setCurrentIndex(land.siblingAtColumn(land.column() - 1))
    QTest.keyClick(ground.grid, Key.Key_Right)
    QTest.keyClick(ground.grid, Key.Key_N)
    there = ground.document.project.locomotion.transitions
    assert (there[-1].start, there[-1].to) == ("idle", "land")


def test_the_whole_grid_is_reached_by_its_bars_the_wheel_and_keys(ground: GroundBench) -> None:
    grid = ground.grid
    assert grid.horizontalScrollBar().maximum() > 0
    assert grid.verticalScrollBar().maximum() > 0
    grid.setCurrentIndex(grid.cell("idle", "idle"))
    for _ in range(grid.table.columnCount()):
        QTest.keyClick(grid, Key.Key_Right)
    for _ in range(grid.table.rowCount()):
        QTest.keyClick(grid, Key.Key_Down)
    last = grid.table.index(grid.table.rowCount() - 1, grid.table.columnCount() - 1)
    assert grid.currentIndex() == last
    assert grid.viewport().rect().contains(grid.visualRect(last))
    there = grid.horizontalScrollBar().value()
    turn_wheel(grid.viewport(), QPointF(200, 60), 240, Qt.KeyboardModifier.ShiftModifier)
    assert grid.horizontalScrollBar().value() < there
    # A press chooses, wherever the mouse is let go.
    at, away = (grid.visualRect(grid.table.index(last.row() - up, last.column() - 1)).center() for up in (0, 2))
    QTest.mousePress(grid.viewport(), Qt.MouseButton.LeftButton, pos=at)
    pressed = grid.currentIndex()
    QTest.mouseMove(grid.viewport(), away)
    QApplication.processEvents()
    QTest.mouseRelease(grid.viewport(), Qt.MouseButton.LeftButton, pos=away)
    assert grid.currentIndex() == pressed
    QTest.mouseClick(
        grid.verticalHeader().viewport(), Qt.MouseButton.LeftButton, pos=QPoint(20, grid.visualRect(last).center().y())
    )
    assert ground.selection.name == grid.table.starts[-1]


def test_a_changed_transition_is_in_its_cell_and_the_rows_stay(ground: GroundBench) -> None:
    grid, gone = ground.grid, list[bool]()
    grid.table.modelReset.connect(lambda: gone.append(True))
    at = grid.cell("idle", "run")
    assert at.data() == "no transition"
    before = grid.grab().toImage()
    ground.join("idle", "run")
    assert at.data() == "always" or at.data() == sentence(ground.document.project.locomotion.transitions[-1].conditions)
    assert grid.table.places(at) == [len(ground.document.project.locomotion.transitions) - 1]
    assert grid.grab().toImage() != before
    assert gone == []
    ground.document.undo()
    assert at.data() == "no transition"


def test_what_has_no_way_back_is_marked(ground: GroundBench, window: Window) -> None:
    assert not ground.grid.table.lost
    place = place_of(ground, "slide", "idle")
    ground.selection.choose_transition(place)
    ground.chart.setFocus()
    QTest.keyClick(ground.chart, Key.Key_Delete)
    codes = {f.code for f in window.document.derived.findings()}
    assert ("slide", "run") not in ground.grid.table.lost  # anywhere leads on, in the air
    assert "state-kept" not in codes
    for start in ("*",):
        while any(t.start == start for t in ground.document.project.locomotion.transitions):
            at = next(i for i, t in enumerate(ground.document.project.locomotion.transitions) if t.start == start)
            ground.selection.choose_transition(at)
            ground.transition_page.remove()
    assert ("slide", "run") in ground.grid.table.lost
    assert "state-kept" in {f.code for f in window.document.derived.findings()}


def test_conditions_are_built_from_parts_and_order_decides(ground: GroundBench) -> None:
    place = place_of(ground, "walk", "run")
    ground.selection.choose_transition(place)
    page = ground.transition_page
    QTest.mouseClick(page.conditions.add_button, Qt.MouseButton.LeftButton)
    conditions = ground.document.project.locomotion.transitions[place].conditions
    assert len(conditions) == 2
    assert conditions[1].test == "held"
    assert "and" in page.conditions.words.text()
    order = [t.to for t in ground.document.project.locomotion.transitions if t.start == "walk"]
    assert order == ["run", "idle"]
    ground.chart.setFocus()
    QTest.keyClick(ground.chart, Key.Key_Down, ALT)
    order = [t.to for t in ground.document.project.locomotion.transitions if t.start == "walk"]
    assert order == ["idle", "run"]
    assert "number 2 of the 2" in page.order.text()
    assert ground.selection.transition is not None
    assert ground.selection.transition.to == "run"


def test_a_state_is_made_named_and_removed_and_what_names_it_follows(ground: GroundBench) -> None:
    ground.selection.choose("walk")
    ground.chart.setFocus()
    QTest.keyClick(ground.chart, Key.Key_N)
    assert ground.selection.name == "state"
    made = ground.document.project.locomotion.states[-1]
    assert made.group == "on the floor"
    ground.selection.choose("walk")
    type_in(ground.state_page.name, "stroll")
    there = ground.document.project.locomotion
    assert "walk" not in {n for t in there.transitions for n in (t.start, t.to)}
    assert any(t.to == "stroll" for t in there.transitions)
    sweep = next(a for a in ground.document.project.actions if a.name == "Low sweep")
    assert "stroll" in sweep.start.states
    assert ground.selection.name == "stroll"
    ground.selection.choose("state")
    ground.chart.setFocus()
    QTest.keyClick(ground.chart, Key.Key_Delete)
    assert "state" not in {s.name for s in ground.document.project.locomotion.states}


def test_a_group_is_made_around_a_state_folds_and_is_entered_otherwise(ground: GroundBench) -> None:
    ground.selection.choose("slide")
    ground.chart.setFocus()
    QTest.keyClick(ground.chart, Key.Key_N, SHIFT)
    assert ground.selection.name == "group"
    assert ground.document.build.chart.members["group"] == ["slide"]
    pick(ground.group_page.enters, "where it was left")
    assert ground.document.build.chart.groups["group"].enters == "last"
    ground.chart.setFocus()
    QTest.keyClick(ground.chart, Key.Key_Z)
    assert "slide" not in ground.chart.layout_.tags
    QTest.mouseDClick(ground.chart, Qt.MouseButton.LeftButton, pos=tag(ground, "group"))
    assert "slide" in ground.chart.layout_.tags


def test_the_figure_is_driven_and_says_why_it_went_over(ground: GroundBench, qtbot: QtBot) -> None:
    live = ground.live
    live.setFocus()
    QTest.keyPress(live, Key.Key_Left)
    qtbot.waitUntil(lambda: live.fighter is not None and live.fighter.locomotion[-1].state == "walk")
    live.hold()
    QTest.keyRelease(live, Key.Key_Left)
    ground.open_page(type(ground.live_page))
    assert ground.live_page.state.text() == "walk"
    assert "idle → walk: speed > 0.1 m/s" in ground.live_page.log.text()
    assert "%" in ground.live_page.mixed.text()


def test_a_guard_held_when_the_keys_go_elsewhere_is_let_go(ground: GroundBench) -> None:
    live = ground.live
    live.setFocus()
    QTest.keyPress(live, Key.Key_V)
    live.hold()
    live.session.tick()
    assert live.fighter is not None
    assert "guard" in live.fighter.held
    ground.chart.setFocus()
    live.session.tick()
    assert live.fighter.held == ()


def test_time_is_held_on_a_transition_and_goes_a_frame_back_and_on(ground: GroundBench) -> None:
    live = ground.live
    QTest.mouseClick(live.stops, Qt.MouseButton.LeftButton)
    live.session.give(Input(live.session.fighter, axis="move", value=(-0.3, 0.0)))
    live.run()
    until(lambda: not live.running)
    fighter = live.fighter
    assert fighter is not None
    assert fighter.locomotion[-1].state == "walk"
    assert fighter.locomotion[-1].age == 1
    live.setFocus()
    QTest.keyClick(live, Key.Key_Comma)
    assert live.fighter is not None
    assert live.fighter.locomotion[-1].state == "idle"
    QTest.keyClick(live, Key.Key_Period)
    assert live.fighter.locomotion[-1].state == "walk"


def test_a_measure_is_taken_in_hand_and_let_go(ground: GroundBench) -> None:
    ground.open_page(type(ground.live_page))
    slider = ground.live_page.sliders["speed"]
    slider.setFocus()
    for _ in range(30):
        QTest.keyClick(slider, Key.Key_Right)
    assert slider.held
    for _ in range(30):
        ground.live.session.tick()
    fighter = ground.live.fighter
    assert fighter is not None
    assert fighter.locomotion[-1].state == "run"
    assert float(np.hypot(fighter.velocity[0], fighter.velocity[2])) == 0.0  # only told so: nobody walks
    QTest.keyClick(slider, Key.Key_Delete)
    for _ in range(60):
        ground.live.session.tick()
    assert not slider.held
    assert ground.live.fighter is not None
    assert ground.live.fighter.locomotion[-1].state == "idle"


def test_a_parameter_is_made_renamed_everywhere_and_set_by_the_tester(ground: GroundBench) -> None:
    page = ground.parameters_page
    ground.open_page(type(page))
    type_in(page.new, "mood")
    assert ground.document.project.locomotion.parameters == (Parameter(name="mood"),)
    ground.join("idle", "land")
    place = len(ground.document.project.locomotion.transitions) - 1
    asks = (Condition(test="parameter", name="mood", op=">", value=0.5),)
    ground.selection.choose_transition(place)
    ground.transition_page.change("conditions", conditions=asks)
    ground.open_page(type(page))
    assert "idle → land" in page.asks.text()
    type_in(page.name, "temper")
    assert ground.document.project.locomotion.transitions[place].conditions[0].name == "temper"
    assert page.name.text() == "temper"
    QTest.mouseClick(page.gone, Qt.MouseButton.LeftButton)
    assert ground.document.project.locomotion.parameters  # it is asked for: it stays, and that is said
    ground.open_page(type(ground.live_page))
    slider = ground.live_page.sliders["temper"]
    QTest.mouseClick(slider, Qt.MouseButton.LeftButton, pos=QPoint(slider.width() - 100, 12))
    ground.live.session.tick()
    assert ground.live.fighter is not None
    assert ground.live.fighter.locomotion[-1].state == "land"


def test_numbers_of_the_body_are_set_and_play_at_once(ground: GroundBench) -> None:
    page = ground.body_page
    ground.open_page(type(page))
    type_in(page.fields["jump", "height"], "2")
    assert ground.document.project.locomotion.jump.height == 2.0
    type_in(page.fields["", "run_speed"], "6")
    live = ground.live
    live.restart()
    live.session.give(Input(live.session.fighter, axis="move", value=(0.0, 1.0)))
    for _ in range(40):
        live.session.tick()
    assert live.fighter is not None
    assert float(np.hypot(live.fighter.velocity[0], live.fighter.velocity[2])) == pytest.approx(6.0)


def test_the_usual_set_is_proposed_made_and_taken_back_in_one_step(ground: GroundBench) -> None:
    before = ground.document.project.locomotion
    QTest.mouseClick(button(ground, "usual set…"), Qt.MouseButton.LeftButton)
    page = ground.usual_page
    assert page.clips["guard left"] == "guard_left"
    QTest.mouseClick(page.make, Qt.MouseButton.LeftButton)
    there = ground.document.project.locomotion
    assert [s.name for s in there.states][:3] == ["idle", "walk", "run"]
    assert there.run_speed == pytest.approx(4.2, abs=0.05)
    assert not [f for f in ground.document.derived.findings() if f.at.part == "locomotion"]
    live = ground.live
    live.restart()
    seen = set()
    for t in range(200):
        if t == 10:
            live.session.give(Input(live.session.fighter, axis="move", value=(0.0, -1.0)))
        if t == 80:
            live.session.give(Input(live.session.fighter, axis="move", value=(0.0, 0.0)))
        live.session.tick(shown=False)
        seen.add(live.session.simulation.fighters[0].locomotion[-1].state)
    assert {"idle", "walk", "run"} <= seen
    ground.document.undo()
    assert ground.document.project.locomotion == before


def test_a_finding_leads_to_its_transition(ground: GroundBench, window: Window) -> None:
    ground.join("idle", "walk")
    ground.transition_page.change("conditions", conditions=(Condition(test="speed", op="<", value=0.0),))
    found = next(f for f in window.document.derived.findings() if f.code == "condition-never")
    window.show_bench("Sheet")
    window.go_to(found.at)
    assert window.bench == "Ground"
    assert ground.selection.transition is not None
    assert ground.selection.transition.conditions[0].value == 0.0


def test_a_blend_is_made_of_clips_and_its_feet_are_shown(ground: GroundBench) -> None:
    ground.selection.choose("run")
    page = ground.state_page
    assert page.feet.isVisible()
    assert len(page.feet.slides) > 4
    assert "cm" in page.feet_words.text()
    pick(page.add, "guard_ahead")
    state = ground.document.build.chart.states["run"]
    assert state.blend[-1].clip == "guard_ahead"
    assert state.blend[-1].at[0] == pytest.approx(0.9, abs=0.05)
    pick(page.over[1], "direction")
    assert ground.document.build.chart.states["run"].over == ("speed", "direction")
    assert ANYWHERE in ground.grid.table.starts
