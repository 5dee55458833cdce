"""A sheet of drawings to a touch in Spar, by mouse and keys; boxes and points drawn on the picture."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget
from tools.made.drawings import ARMS, drawing, drawn_project, write_pair

from tests.desk.conftest import Hand, arrived, type_in
from tests.desk.test_from_nothing import Person, empty, under_mouse
from tests.desk.test_window import drop
from veergust.core.edit.whole_cells import borders
from veergust.core.files.folder import open_project
from veergust.core.model import Strike
from veergust.core.motion.drawn import seen_on
from veergust.core.study.facts import facts
from veergust.desk.shell.window import Window

__all__ = ["empty"]
Key = Qt.Key
CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
LEFT = Qt.MouseButton.LeftButton


def bare_sheet(path: Path) -> Path:
    cells = [np.pad(drawing(arm), ((0, 0), (0, 4), (0, 0))) for arm in ARMS]
    Image.fromarray(np.concatenate(cells, axis=1), "RGBA").save(path)
    return path


@pytest.fixture
def paper(untitled: Window, tmp_path: Path) -> Window:
    """A window on a figure that is drawn, whose jab is open."""
    untitled.open_project(drawn_project(tmp_path)[0])
    untitled.show_bench("Sheet")
    QApplication.processEvents()
    return untitled


def on_stage(window: Window, up: float, ahead: float) -> QPoint:
    """Where a place of the drawing (m) is on the stage, by the camera alone."""
    document, view = window.document, window.sheet.stage.view
    compiled = document.compiled
    assert compiled is not None
    from veergust.core.scene.view import body_at

    body = body_at(compiled, document.frame)
    at = body[:3, 3] + view.camera.axes[0] * ahead + np.array([0.0, up, 0.0])
    x, y, _ = view.camera.on_picture(at, view.width(), view.height())
    return QPoint(round(x), round(y))


def drag(window: Window, a: tuple[float, float], b: tuple[float, float]) -> None:
    view = window.sheet.stage.view
    start, end = on_stage(window, *a), on_stage(window, *b)
    QTest.mousePress(view, LEFT, pos=start)
    QTest.mouseMove(view, (start + end) / 2)
    QTest.mouseMove(view, end)
    QTest.mouseRelease(view, LEFT, pos=end)
    QApplication.processEvents()


def move(widget: QWidget, at: QPoint, modifier: Qt.KeyboardModifier) -> None:
    """Move the mouse with the button down; the toolkit's own way leaves the keys out."""
    spot = QPointF(at)
    QApplication.sendEvent(
        widget,
        QMouseEvent(QEvent.Type.MouseMove, spot, widget.mapToGlobal(spot), Qt.MouseButton.NoButton, LEFT, modifier),
    )
    QApplication.processEvents()


def test_on_the_first_page_a_sheet_is_asked_about_in_sight(untitled: Window, tmp_path: Path) -> None:
    """What says that there is nothing yet does not lie over what is asked."""
    person = Person(untitled)
    person.drop(bare_sheet(tmp_path / "puppet.png"))
    page = untitled.clips.cells_page
    for widget in (page.map, page.hold, page.take):
        assert under_mouse(widget, widget.rect().center())
    person.click(page.take)
    arrived(untitled)
    assert [c.name for c in untitled.document.project.clips] == ["puppet", "stand"]


def test_files_and_folders_of_pictures_are_brought_in_together(empty: Window, tmp_path: Path) -> None:
    folder = tmp_path / "wave"
    folder.mkdir()
    for n, arm in enumerate(ARMS):
        Image.fromarray(drawing(arm), "RGBA").save(folder / f"wave_{n:02}.png")
    drop(empty, folder, bare_sheet(tmp_path / "puppet.png"))
    page, names = empty.clips.cells_page, []
    while page.isVisible():
        names.append(page.draft.name)  # type: ignore[union-attr]
        QTest.mouseClick(page.take, LEFT)
        arrived(empty)
    assert names == ["wave", "puppet"]
    assert [c.name for c in empty.document.project.clips] == ["wave", "puppet", "stand"]


def test_from_nothing_a_sheet_of_drawings_to_a_touch_with_the_right_numbers(empty: Window, tmp_path: Path) -> None:
    person, document = Person(empty), empty.document
    person.drop(bare_sheet(tmp_path / "puppet.png"))
    page = empty.clips.cells_page
    assert page.isVisible()
    assert [c.at[0] for c in page.draft.said.cells] == [24 + 100 * n for n in range(6)]  # type: ignore[union-attr]
    # The first drawing is left out: chosen already, a click drops it. Each is held for four frames.
    person.click(page.map, page.map.cell_rect(0).center())
    person.inputs += 2
    type_in(page.hold, "4")
    assert page.order == [1, 2, 3, 4, 5]
    person.key(page, Key.Key_Return, CONTROL)
    arrived(empty)
    assert not page.isVisible()
    assert [c.name for c in document.project.clips] == ["puppet", "stand"]
    assert not document.project.actions
    person.press("make an action")
    compiled = document.compiled
    assert empty.bench == "Sheet"
    assert compiled is not None
    assert compiled.total == 20
    # To the cell on which the arm is out, and a rectangle about its fist.
    for _ in range(9):
        person.key(empty.sheet.sheet, Key.Key_Down)
    person.press("hitbox")
    drag(empty, (0.95, 0.75), (1.25, 1.25))
    person.inputs += 1
    strike = document.project.actions[0].sections[0].strikes[0]
    assert (strike.start, strike.end) == (8, 12)
    assert document.project.rig.hurtboxes[0].spans
    assert strike.boxes[0].offset[1:] == pytest.approx((1.1, 1.0), abs=0.02)
    assert strike.boxes[0].size[1:] == pytest.approx((0.15, 0.25), abs=0.02)
    person.press("Action")
    person.pick(empty.sheet.page_stack.action.commands.add, "light")
    person.key(empty, Key.Key_6, CONTROL)
    pressed, touches = person.walk_up_and_strike(40)
    numbers = facts(document.build, "Puppet")
    assert numbers is not None
    assert (numbers.startup, numbers.active, numbers.total) == (8, 4, 20)
    assert [(c.victim, c.result, c.damage) for _, c in touches] == [("Other", "hit", 10.0)]
    assert pressed + 8 <= touches[0][0] < pressed + 12
    person.key(empty, Key.Key_S, CONTROL)
    assert document.folder is not None
    assert open_project(document.folder) == document.project
    assert person.inputs <= 70, person.inputs


def test_a_sheet_is_cut_and_ordered_by_keys(empty: Window, tmp_path: Path) -> None:
    drop(empty, bare_sheet(tmp_path / "puppet.png"))
    page = empty.clips.cells_page
    page.map.setFocus()
    for key, modifier in ((Key.Key_Right, None), (Key.Key_Right, SHIFT), (Key.Key_Right, None), (Key.Key_Delete, None)):
        QTest.keyClick(page.map, key, modifier or Qt.KeyboardModifier.NoModifier)
    assert page.order == [0, 1, 3, 4, 5]
    QTest.keyClick(page.map, Key.Key_Delete)
    QTest.keyClick(page.map, Key.Key_Left, SHIFT)
    assert page.order == [0, 2, 1, 3, 4, 5]
    at = page.map.feet_point(page.at)
    QTest.mousePress(page.map, LEFT, pos=at.toPoint())
    QTest.mouseMove(page.map, (at + QPointF(4 * page.map.scale, 0)).toPoint())
    QTest.mouseRelease(page.map, LEFT, pos=at.toPoint())
    assert page.across.value() == pytest.approx(13.0, abs=0.5)
    page.by.setFocus()
    page.by.chosen("grid")
    assert (page.columns.value(), page.rows_.value()) == (6, 1)
    type_in(page.columns, "3")
    assert page.draft is not None
    assert page.draft.said.cell[0] == 200
    QTest.keyClick(page, Key.Key_Escape)
    assert not page.isVisible()
    assert empty.document.project.clips == ()
    assert not empty.arrivals.busy


def test_a_pair_comes_in_without_a_question(empty: Window, tmp_path: Path) -> None:
    drop(empty, write_pair(tmp_path / "in"))
    assert not empty.clips.cells_page.isVisible()
    assert [a.name for a in empty.document.project.actions] == ["jab"]


def test_what_is_drawn_is_on_the_cell_alone_and_one_step_back(paper: Window) -> None:
    document = paper.document
    row = paper.sheet.drawing
    assert row.isVisible()
    before = document.project
    QTest.mouseClick(row.buttons["hurtbox"], LEFT)
    row.tool.name = "head"
    document.move_to(6)
    drag(paper, (0.4, -0.3), (0.9, 0.1))
    build = document.build
    joints = build.assets.skeleton.index
    box = next(h for h in document.project.rig.hurtboxes if h.name == "head")
    compiled = document.compiled
    assert compiled is not None
    for tick in range(30):
        pair = [joints[box.joint], joints[box.spans]]
        low, high = np.sort(compiled.world_of(0)[tick][pair, 1:3, 3], axis=0)
        if 5 <= tick < 10:
            assert [*low, *high] == pytest.approx([0.4, -0.3, 0.9, 0.1], abs=0.02)
        else:
            assert [*low, *high] == pytest.approx([1.5, -7 / 40, 1.9, 7 / 40], abs=0.001)
    QTest.keyClick(paper, Key.Key_Z, CONTROL)
    assert document.project == before
    # A new one is made, and is nowhere but on this cell.
    row.tool.name = "(new)"
    drag(paper, (0.1, 0.5), (0.3, 0.9))
    new = document.project.rig.hurtboxes[-1]
    assert new.name == "box"
    index = document.build.assets.skeleton.index
    compiled = document.compiled
    assert compiled is not None
    there = [np.ptp(compiled.world_of(0)[t][[index[new.joint], index[new.spans]], 1:3, 3]) > 0.1 for t in range(30)]
    assert there == [5 <= t < 10 for t in range(30)]


def test_a_point_and_the_body_are_drawn(paper: Window) -> None:
    document, row = paper.document, paper.sheet.drawing
    QTest.mouseClick(row.buttons["point"], LEFT)
    document.move_to(16)
    at = on_stage(paper, 0.5, 0.7)
    QTest.mouseClick(paper.sheet.stage.view, LEFT, pos=at)
    compiled = document.compiled
    assert compiled is not None
    fist = document.build.assets.skeleton.index["fist"]
    assert compiled.world_of(0)[16][fist, 1:3, 3] == pytest.approx([0.5, 0.7], abs=0.02)
    assert compiled.world_of(0)[19][fist, 1:3, 3] != pytest.approx([0.5, 0.7], abs=0.02)
    QTest.mouseClick(row.buttons["body"], LEFT)
    drag(paper, (0.0, -0.4), (1.5, 0.4))
    assert document.project.rig.capsule.height == pytest.approx(1.5, abs=0.02)
    assert document.project.rig.capsule.radius == pytest.approx(0.4, abs=0.02)


def test_a_strike_that_is_open_gets_a_box_for_the_cell(paper: Window) -> None:
    document, row = paper.document, paper.sheet.drawing
    document.move_to(19)
    QTest.mouseClick(row.buttons["hitbox"], LEFT)
    drag(paper, (1.4, 1.0), (1.8, 1.6))
    strike: Strike = document.project.actions[0].sections[0].strikes[0]
    assert len(document.project.actions[0].sections[0].strikes) == 1
    assert [k.tick for k in strike.boxes[0].keys] == [15, 18]
    assert strike.boxes[0].keys[1].offset[1:] == pytest.approx((1.6, 1.3), abs=0.02)
    assert strike.boxes[0].keys[0].offset[1:] == pytest.approx(((80 - 33) / 40, (81 - 33) / 40), abs=0.01)


def test_a_cut_of_drawings_is_trimmed_by_whole_ones_and_says_how_they_are_held(paper: Window) -> None:
    document, sheet = paper.document, paper.sheet.sheet
    clip = document.build.clip("jab")
    there = borders(document.build.assets, clip)
    assert there == pytest.approx(np.cumsum([0, 5, 5, 5, 3, 4, 8]) / 60, abs=1e-5)
    column = sheet.layout_.columns["cut"][0] + 20

    hand = Hand(paper)

    def drag_end(to: int, modifier: Qt.KeyboardModifier) -> None:
        compiled = document.compiled
        assert compiled is not None
        start = hand.point(column, sheet.layout_.y(compiled.total) - 2)
        end = hand.point(column, sheet.layout_.y(to) + 1)
        view = sheet.viewport()
        QTest.mousePress(view, LEFT, modifier, start)
        for at in ((start + end) / 2, end):
            move(view, at, modifier)
        QTest.mouseRelease(view, LEFT, modifier, end)

    none = Qt.KeyboardModifier.NoModifier
    drag_end(21, none)
    out = document.project.actions[0].sections[0].cuts[0].end
    assert out == pytest.approx(22 / 60, abs=1e-5)
    said: list[str] = []
    document.said.connect(lambda words, _: said.append(words))
    drag_end(33, CONTROL)
    compiled = document.compiled
    assert compiled is not None
    bones = document.build.assets.skeleton
    shown = [seen_on(bones, compiled.world_of(0)[t])[1] for t in range(compiled.total)]
    held = [shown.count(n) for n in range(5)]
    assert sum(held) == compiled.total
    assert any(f"Its drawings are held {' '.join(map(str, held))} f." in words for words in said)


def test_pages_that_need_joints_say_so(paper: Window) -> None:
    paper.show_bench("Clips")
    clips = paper.clips
    for n in range(len(clips.pages.kinds)):
        clips.show_card(n)
        card = clips.card
        assert card.nothing.isVisible() == bool(card.needs_joints), card.title
        assert card.page.isHidden() == bool(card.needs_joints), card.title
    clips.show_card(clips.pages.kinds.index(type(clips.join)))
    assert "lies" in clips.join.overall.text()
    assert "its feet stand 0 cm from there" in clips.join.overall.text()
    paper.show_bench("Ground")
    page = paper.ground.body_page
    page.renew()
    assert not page.fields["feet", "weight"].isEnabled()
    assert page.fields["", "run_speed"].isEnabled()


def test_a_figure_with_joints_has_nothing_to_draw_on(window: Window) -> None:
    window.show_bench("Sheet")
    assert not window.sheet.drawing.isVisible()
