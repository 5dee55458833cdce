"""The page of touches: the map is pointed into, the target stands there, and other maps are seen beside it."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from tests.desk.conftest import STRIKE, pick, type_in, until
from veergust.core.edit.fields import set_fields
from veergust.core.edit.hitboxes import set_key
from veergust.core.edit.spans import WHOLE, Edit, span_of
from veergust.core.edit.whole import set_action
from veergust.core.model import Hitbox, Strike
from veergust.core.play.contact.answers import EIGHTHS
from veergust.core.study.coverage import covered, excess
from veergust.core.study.floor_map import NEVER
from veergust.desk.sheet.cards.touches import TouchesPage
from veergust.desk.sheet.drawing import DrawTool
from veergust.desk.sheet.hit_tool import HitTool
from veergust.desk.sheet.layout import ROW
from veergust.desk.sheet.pages import TITLES
from veergust.desk.sheet.paint.marks import InkMark
from veergust.desk.shell.window import Window
from veergust.desk.stage.view import StageView

Key = Qt.Key
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def page(window: Window) -> TouchesPage:
    window.document.choose_action("Low sweep")
    button = window.sheet.page_buttons[TITLES.index("Touches")]
    QTest.mouseClick(button, LEFT)
    page = window.sheet.page_stack.touches
    until(lambda: page.view.isVisible() and bool(page.view.maps))
    return page


def at(page: TouchesPage, x: float, z: float) -> None:
    """Click on a place of the floor."""
    QTest.mouseClick(page.view, LEFT, pos=page.view.inks()[0].point(x, z).toPoint())


def test_pointing_at_a_place_puts_the_target_there_on_the_frame_of_the_touch(window: Window, page: TouchesPage) -> None:
    stage = window.sheet.stage.view
    assert [b.tone for b in stage.scene.bodies] == ["body"]
    at(page, -0.5, 1.5)
    found, cell = page.view.maps[0], page.view.chosen
    assert cell is not None
    x, z = found.origin[0] + cell[1] * found.step, found.origin[1] + cell[0] * found.step
    assert (x, z) == pytest.approx((-0.5, 1.5), abs=found.step)
    assert window.document.frame == found.first[cell] != NEVER
    target = stage.scene.bodies[1]
    assert target.tone == "partner"
    # Looking to the right from above: ahead is to the right, left is up.
    ink = page.view.inks()[0]
    assert ink.point(0.0, 1.0).x() > ink.point(0.0, 0.0).x()
    assert ink.point(1.0, 0.0).y() < ink.point(0.0, 0.0).y()
    # The action goes along +x on the stage, with its left at −z.
    hips = target.joints[window.document.build.roots.hips, [0, 2], 3]
    assert np.hypot(*(hips - [z, -x])) < 0.3
    assert not stage.scene.posts
    # The right arrow is ahead, the up arrow to the left; each step is a step of the floor.
    page.view.setFocus()
    for key, way in ((Key.Key_Right, (1, 0)), (Key.Key_Up, (0, 1)), (Key.Key_Left, (-1, 0)), (Key.Key_Down, (0, -1))):
        before = page.view.chosen
        QTest.keyClick(page.view, key)
        assert before is not None
        assert page.view.chosen == (before[0] + way[0], before[1] + way[1])
    # Another frame is looked at, and the target stays; on another page, or after Esc, it is gone.
    window.document.move_to(2)
    assert len(stage.scene.bodies) == 2
    QTest.mouseClick(window.sheet.page_buttons[0], LEFT)
    assert len(stage.scene.bodies) == 1
    QTest.mouseClick(window.sheet.page_buttons[TITLES.index("Touches")], LEFT)
    assert len(stage.scene.bodies) == 2
    QTest.keyClick(page.view, Key.Key_Escape)
    assert len(stage.scene.bodies) == 1


def test_the_map_follows_the_action_the_stance_and_the_speed(window: Window, page: TouchesPage) -> None:
    first = page.view.maps[0]
    pick(page.stance, "Duck roll")
    crouched = page.view.maps[0]
    assert not np.array_equal(crouched.first, first.first)
    pick(page.stance, "as it stands")
    type_in(page.speed, "3")
    walking = page.view.maps[0]
    assert walking.target.speed == 3.0
    assert walking.farthest is not None
    assert first.farthest is not None
    assert walking.farthest[0] > first.farthest[0]
    type_in(page.speed, "0")
    assert page.view.maps[0] is first, "what was worked out a moment ago is still known"
    window.document.choose_action("Duck roll")
    page.renew()
    assert page.view.maps[0].ticks is None
    assert "Nobody" in page.view.accessibleDescription()


def test_two_versions_are_seen_beside_each_other(window: Window, page: TouchesPage) -> None:
    kept = [k.name for k in window.document.project.actions[0].kept]
    pick(page.version, kept[0])
    assert len(page.view.maps) == 2
    one, other = page.view.inks()
    assert one.point(0, 0).x() < page.view.width() / 2 < other.point(0, 0).x()
    assert page.told.heads == ["as it is", kept[0]]
    document = window.document
    document.apply(set_action(document.project, "Low sweep", "bare", kept=(), version="first"))
    assert len(page.view.maps) == 1
    assert not page.version.isEnabled()


@pytest.mark.parametrize("ending", ["png", "csv"])
def test_the_map_is_written(page: TouchesPage, tmp_path: Path, ending: str, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / f"map.{ending}"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    QTest.mouseClick(page.write, LEFT)
    assert path.read_bytes()[:4] == (b"\x89PNG" if ending == "png" else b"x,z,")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "map.doc"), ""))
    said: list[str] = []
    page.document.said.connect(lambda words, error: said.append(words))
    QTest.mouseClick(page.write, LEFT)
    assert ".png or .csv" in said[-1]


def test_hitboxes_are_fitted_by_key_and_by_button(window: Window) -> None:
    document, sheet = window.document, window.sheet.sheet
    document.choose_action("Low sweep")
    document.move_to(2)
    sheet.setFocus()
    said: list[str] = []
    document.said.connect(lambda words, error: said.append(words))
    QTest.keyClick(sheet, Key.Key_B)
    assert "Select a strike" in said[-1]
    document.move_to(10)
    QTest.keyClick(sheet, Key.Key_B)
    assert document.selection == STRIKE
    strike = span_of(document.project, STRIKE)
    assert isinstance(strike, Strike)
    assert [b.radius for b in strike.boxes] == [pytest.approx(0.029, abs=0.002)]
    # From the page, on another mount and with another share.
    QTest.mouseClick(window.sheet.page_buttons[1], LEFT)
    form = window.sheet.page_stack.span.widgets["boxes"]
    pick(form.mount, "foot R")
    type_in(form.cover, "60")
    QTest.mouseClick(form.fit, LEFT)
    strike = span_of(document.project, STRIKE)
    assert isinstance(strike, Strike)
    assert {b.mount for b in strike.boxes} == {"foot R"}
    assert "the limb sweeps" in document.done[-1].words
    assert int(document.done[-1].words.split("fitted, ")[1].split("%")[0]) < 75
    document.undo()
    document.undo()
    document.undo()
    assert not document.unsaved


def test_strikes_are_opened_wide_with_what_they_cover(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    """Two curves beside the spans: a share lies as far to the right as it is large, and nothing covers closed rows."""
    document, view = window.document, window.sheet.sheet
    document.choose_action("Overhead hook")
    view.setFocus()
    narrow = view.layout_.columns["strikes"][1]
    QTest.keyClick(view, Key.Key_W)
    layout, compiled = view.layout_, document.compiled
    assert compiled is not None
    assert layout.columns["strikes"][1] > 2 * narrow
    lanes = layout.curves()
    assert lanes is not None
    placed = next(p for p in layout.placed if p.ref.kind == "strikes")
    assert placed.rect.right() < lanes[0][0] < lanes[0][0] + lanes[0][1] < lanes[1][0]
    assert lanes[1][0] + lanes[1][1] <= sum(layout.columns["strikes"])
    section = placed.ref.section
    strike = compiled.sections[section].section.strikes[0]
    drawn: list[InkMark] = []
    monkeypatch.setattr(view.painter.bands, "draw", lambda p, marks: drawn.extend(marks))
    view.resize(view.width() + 1, view.height())
    view.repaint()
    layout, lanes = view.layout_, view.layout_.curves()
    assert lanes is not None
    marks = {m.kind: m for m in drawn if m.kind in ("covered", "too much")}
    for kind, (left, width), share in zip(("covered", "too much"), lanes, (covered, excess)):
        _, points, open_ = marks[kind].drawn
        assert [n for n, there in enumerate(open_) if there] == list(range(strike.start, strike.end))
        for tick, (x, _) in enumerate(points):
            value = share(document.build, compiled, section, tick) if open_[tick] else 0.0
            assert x == pytest.approx(left + width * (value or 0.0), abs=0.06)
    # The spans are still taken where they are drawn, and W closes the column again.
    at = view.widget_point(placed.rect.center().x(), placed.rect.center().y()).toPoint()
    QTest.mouseClick(view.viewport(), LEFT, pos=at)
    assert document.selection == placed.ref
    QTest.keyClick(view, Key.Key_W)
    assert view.layout_.curves() is None
    assert view.layout_.columns["strikes"][1] == pytest.approx(narrow, abs=2.0)


def test_a_hurtbox_is_made_a_box_and_put_on_a_prop_on_its_page(window: Window) -> None:
    window.show_bench("Clips")
    document, clips = window.document, window.clips
    document.choose_clip("idle")
    QTest.mouseClick(next(b for b in clips.page_buttons if b.text() == "Body"), LEFT)
    body = clips.body
    pick(body.which, "head")
    before = len([t for t in clips.stage.view.scene.tubes if t.role == "hurt"])
    assert (body.ends.isVisible(), body.sizes.isVisible()) == (True, False)
    pick(body.shape, "box")
    # Twelve edges in place of one capsule, and its own fields.
    assert len([t for t in clips.stage.view.scene.tubes if t.role == "hurt"]) == before + 11
    assert (body.sizes.isVisible(), body.ends.isVisible(), body.radius.isEnabled()) == (True, False, False)
    type_in(body.half.fields[1], "0.25")
    box = next(h for h in document.project.rig.hurtboxes if h.name == "head")
    assert (box.size or (0, 0))[1] == 0.25
    weapon = document.project.rig.weapon
    assert weapon is not None
    QTest.mouseClick(body.new_button, LEFT)
    pick(body.joint, f"{weapon.base} (mount)")
    assert document.project.rig.hurtboxes[-1].joint == weapon.base
    QTest.mouseClick(body.new_button, LEFT)
    assert document.project.rig.hurtboxes[-1].to != (0.0, 0.0, 0.0)
    pick(body.which, "head")
    pick(body.shape, "capsule")
    assert next(h for h in document.project.rig.hurtboxes if h.name == "head").size is None
    assert (body.ends.isVisible(), body.radius.isEnabled()) == (True, True)


def test_hurtboxes_are_made_changed_and_mirrored_on_their_page(window: Window) -> None:
    window.show_bench("Clips")
    document, clips = window.document, window.clips
    some = replace(document.project.rig, hurtboxes=document.project.rig.hurtboxes[:11])
    document.apply(Edit(replace(document.project, rig=some), "fewer"))
    document.choose_clip("idle")
    QTest.mouseClick(next(b for b in clips.page_buttons if b.text() == "Body"), LEFT)
    body = clips.body
    tubes = clips.stage.view.scene.tubes
    assert sum(t.role == "hurt" for t in tubes) == len(document.project.rig.hurtboxes) == 11
    QTest.mouseClick(body.make_button, LEFT)
    assert len(document.project.rig.hurtboxes) == 20
    assert sum(t.role == "hurt" for t in clips.stage.view.scene.tubes) == 20
    pick(body.which, "thigh_left")
    filled = [t for t in clips.stage.view.scene.tubes if t.role == "hurt" and t.filled]
    assert len(filled) == 1
    type_in(body.radius, "0.2")
    type_in(body.factor, "0.5")
    type_in(body.called, "ham")
    QTest.mouseClick(body.other, LEFT)
    boxes = {h.name: h for h in document.project.rig.hurtboxes}
    assert boxes["ham"].radius == boxes["thigh_right"].radius == 0.2
    assert {r.name: r.factor for r in document.project.rig.regions}["leg"] == 0.5
    type_in(body.region, "thigh")
    assert body.factor.value() == 1.0
    QTest.mouseClick(body.gone, LEFT)
    assert "ham" not in {h.name for h in document.project.rig.hurtboxes}
    QTest.mouseClick(body.new_button, LEFT)
    assert len(document.project.rig.hurtboxes) == 20
    for _ in range(8):
        document.undo()
    assert len(document.project.rig.hurtboxes) == 11
    document.undo()
    assert not document.unsaved
    assert len(document.project.rig.hurtboxes) == 20


def pull(view: StageView, at: QPoint, by: QPoint) -> None:
    """Take something on the stage, drag it in two steps and let go."""
    QTest.mousePress(view, LEFT, pos=at)
    QTest.mouseMove(view, at + by / 2)
    QTest.mouseMove(view, at + by)
    QTest.mouseRelease(view, LEFT, pos=at + by)


def tool_of(window: Window) -> HitTool:
    tool = window.sheet.stage.view.tool
    assert isinstance(tool, DrawTool)
    return tool.handles


def strike_of(window: Window) -> Strike:
    span = span_of(window.document.project, STRIKE)
    assert isinstance(span, Strike)
    return span


@pytest.mark.parametrize("mirror", [False, True])
def test_a_hitbox_is_pulled_at_its_ends_its_middle_and_its_edge(window: Window, mirror: bool) -> None:
    document, view, tool = window.document, window.sheet.stage.view, tool_of(window)
    document.choose_action("Low sweep")
    if mirror:
        document.move_to(9)
        window.sheet.page_stack.section.turn_mirror()
    document.move_to(2)
    assert tool.held() == []
    document.move_to(10)
    assert [h.at for h in tool.held()] == [0]
    steps = len(document.done)
    for part, by in (
        ("to", QPoint(14, -20)),
        ("from", QPoint(-8, 12)),
        ("middle", QPoint(0, 16)),
        ("edge", QPoint(0, -12)),
    ):
        before, start = strike_of(window).boxes[0], tool.point(view, 0, part).toPoint()
        parts = {name: tool.point(view, 0, name) for name in ("from", "to")}
        pull(view, start, by)
        after, now = strike_of(window).boxes[0], tool.point(view, 0, part)
        # The edge goes only away from the hitbox, or to it.
        assert part == "edge" or (now - start - by).manhattanLength() < 5.0, part
        steps += 1
        assert len(document.done) == steps, "one step"
        if part == "edge":
            assert after.radius > before.radius
            assert replace(after, radius=before.radius) == before
        elif part != "middle":
            other = "from" if part == "to" else "to"
            assert (tool.point(view, 0, other) - parts[other]).manhattanLength() < 0.5
    # A click without a drag changes nothing, and beside every handle the camera is turned.
    QTest.mouseClick(view, LEFT, pos=tool.point(view, 0, "to").toPoint())
    assert len(document.done) == steps
    yaw = view.camera.yaw
    pull(view, QPoint(20, 20), QPoint(30, 0))
    assert view.camera.yaw != yaw
    assert len(document.done) == steps


def test_the_hitbox_that_is_taken_is_the_one_whose_fields_are_shown(window: Window) -> None:
    document, view, tool = window.document, window.sheet.stage.view, tool_of(window)
    document.choose_action("Low sweep")
    cube = Hitbox(mount="foot L", shape="box", offset=(0.0, 0.3, 0.0), size=(0.1, 0.1, 0.1))
    document.apply(set_fields(document.project, [STRIKE], boxes=(*strike_of(window).boxes, cube)))
    document.select(STRIKE)
    document.move_to(10)
    window.sheet.show_page(1)
    form = window.sheet.page_stack.span.widgets["boxes"]
    assert form.at == 0
    pull(view, tool.point(view, 1, "side x").toPoint(), QPoint(12, 0))
    assert form.at == tool.at == 1
    wide = strike_of(window).boxes[1].size[0]
    assert form.half.fields[0].value() == pytest.approx(wide, abs=1e-3)
    assert abs(wide - 0.1) > 0.01
    assert strike_of(window).boxes[1].size[1:] == (0.1, 0.1)
    # While it is played, nothing lies over the picture that could be taken.
    document.undo()
    assert strike_of(window).boxes[1] == cube


def test_a_hitbox_with_keys_is_pulled_on_the_frame_that_is_looked_at(
    window: Window, monkeypatch: pytest.MonkeyPatch
) -> None:
    document, view, tool = window.document, window.sheet.stage.view, tool_of(window)
    document.choose_action("Low sweep")
    document.apply(set_key(document.project, STRIKE, 0, 1))
    document.move_to(12)
    tick = 12 - document.compiled.start_of(1)  # type: ignore[union-attr]
    pull(view, tool.point(view, 0, "edge").toPoint(), QPoint(0, -10))
    box = strike_of(window).boxes[0]
    assert [k.tick for k in box.keys] == [1, tick]
    assert box.keys[1].radius > box.keys[0].radius == 0.09
    # How it goes on is chosen on its page, and its keys stand on the strike.
    document.select(STRIKE)
    window.sheet.show_page(1)
    form = window.sheet.page_stack.span.widgets["boxes"]
    document.move_to(11)
    pick(form.ease, "holds")
    assert [k.ease for k in strike_of(window).boxes[0].keys] == ["hold", "even"]
    drawn: list[InkMark] = []
    sheet = window.sheet.sheet
    monkeypatch.setattr(sheet.painter.bands, "draw", lambda p, marks: drawn.extend(marks))
    sheet.resize(sheet.width() + 1, sheet.height())
    sheet.repaint()
    placed = sheet.layout_.find(STRIKE)
    assert placed is not None
    rows = sorted({m.drawn[1] for m in drawn if m.kind == "key"})
    first = document.compiled.start_of(1)  # type: ignore[union-attr]
    assert rows == [pytest.approx(sheet.layout_.y(first + t) + ROW / 2) for t in (1, tick)]


def test_the_dial_says_who_answers_and_is_set_by_mouse_and_keys(
    window: Window, monkeypatch: pytest.MonkeyPatch
) -> None:
    document = window.document
    document.choose_action("Low sweep")
    QTest.mouseClick(window.sheet.page_buttons[TITLES.index("Reactions")], LEFT)
    page = window.sheet.page_stack.reactions
    dial = page.dial
    until(dial.isVisible)
    # Each cell is where its side is seen from above, its nose up: left of it on the left.
    heavy = dial.strengths[-1]
    middle = dial.rect().center()
    assert dial.middle_of("left", heavy).x() < middle.x() < dial.middle_of("right", heavy).x()
    assert dial.middle_of("front", heavy).y() < middle.y() < dial.middle_of("back", heavy).y()
    for side in EIGHTHS:
        for strength in dial.strengths:
            assert dial.cell_at(dial.middle_of(side, strength)) == (side, strength)
    QTest.mouseClick(dial, LEFT, pos=dial.middle_of("front left", heavy).toPoint())
    assert page.head.text() == f"front left · {heavy}"
    assert "answers, by row" in page.words.text()
    rows = document.project.reactions
    pick(page.action_field, "Flinch")
    found = dial.answer()
    assert found is not None
    assert (found.row.action, found.own) == ("Flinch", True)
    straight = dial.answer("front", heavy)
    assert straight is not None
    assert (straight.row.action, straight.own) == ("Launched", False)
    dial.setFocus()
    QTest.keyClick(dial, Key.Key_Right)
    assert (dial.side, dial.strength) == ("front", heavy)
    QTest.keyClick(dial, Key.Key_Down)
    assert dial.strength == dial.strengths[-2]
    QTest.keyClick(dial, Key.Key_Up)
    QTest.keyClick(dial, Key.Key_Left)
    QTest.keyClick(dial, Key.Key_Delete)
    assert document.project.reactions == rows
    said: list[str] = []
    document.said.connect(lambda words, error: said.append(words))
    QTest.keyClick(dial, Key.Key_Delete)
    assert "another row answers" in said[-1]
    # A situation of its own; rows all round from clips; the action is opened.
    pick(page.situation, "guarding")
    monkeypatch.setattr("veergust.desk.sheet.cards.reactions.choose_clips", lambda *_: ["hit_left", "hit_right"])
    QTest.mouseClick(page.round_button, LEFT)
    left = dial.answer("left", dial.strength)
    assert left is not None
    assert (left.row.action, left.row.situation, left.own) == ("Reel left", "guarding", True)
    at = dial.middle_of("left", dial.strength).toPoint()
    QTest.mouseDClick(dial, LEFT, pos=at)
    QTest.mouseRelease(dial, LEFT, pos=at)
    assert document.action == "Reel left"


def test_what_stands_for_the_whole_action_has_its_place_on_the_sheet(window: Window) -> None:
    """Made by keys in the column one is in, once beside all sections; chosen by mouse, set on its page, taken away."""
    document, view = window.document, window.sheet.sheet
    document.choose_action("Overhead hook")
    bare = view.layout_.columns["all"][1]
    assert bare == 0.0
    for column in ("exits", "shields"):
        view.setFocus()
        view.column = column
        QTest.keyClick(view, Key.Key_N, Qt.KeyboardModifier.AltModifier)
    action = next(a for a in document.project.actions if a.name == "Overhead hook")
    assert (len(action.exits), len(action.shields)) == (1, 1)
    staves = [p for p in view.layout_.placed if p.ref.section == WHOLE]
    assert [p.ref.kind for p in staves] == ["exits", "shields"]
    left, wide = view.layout_.columns["all"]
    for placed in staves:
        assert (placed.rect.top(), placed.rect.height()) == (0.0, view.layout_.height)
        assert left <= placed.rect.left() < placed.rect.right() <= left + wide
    assert staves[0].rect.right() < staves[1].rect.left()
    # A drag on one moves nothing; it is chosen, and its page has no edges but says what it is.
    frame, steps = document.frame, len(document.done)
    at = view.widget_point(staves[1].rect.center().x(), 60.0).toPoint()
    QTest.mousePress(view.viewport(), LEFT, pos=at)
    QTest.mouseMove(view.viewport(), at + QPoint(0, 50))
    QTest.mouseRelease(view.viewport(), LEFT, pos=at + QPoint(0, 50))
    assert document.selection == staves[1].ref
    assert (document.frame, len(document.done)) == (frame, steps)
    window.sheet.show_page(1)
    card = window.sheet.page_stack.span
    assert card.for_all.isVisible()
    assert not card.edges.isVisible()
    pick(card.widgets["kind"], "armour")
    type_in(card.widgets["strength"], "7")
    shield = next(a for a in document.project.actions if a.name == "Overhead hook").shields[0]
    assert (shield.kind, shield.strength) == ("armour", 7.0)
    assert any("for the whole action" in str(row) for row in view.told())
    # Keys that stretch and move do nothing to it; Del takes it away; a strike cannot be one.
    view.setFocus()
    for key in (Key.Key_Down, Key.Key_Up):
        QTest.keyClick(view, key, Qt.KeyboardModifier.ShiftModifier)
        QTest.keyClick(view, key, Qt.KeyboardModifier.AltModifier)
    assert next(a for a in document.project.actions if a.name == "Overhead hook").shields == (shield,)
    QTest.keyClick(view, Key.Key_Delete)
    assert [p.ref.kind for p in view.layout_.placed if p.ref.section == WHOLE] == ["exits"]
    said: list[str] = []
    document.said.connect(lambda words, error: said.append(words))
    view.column = "strikes"
    QTest.keyClick(view, Key.Key_N, Qt.KeyboardModifier.AltModifier)
    assert "cannot stand for the whole action" in said[-1]
    # A section's own span is on its page with its edges again.
    document.select(next(p.ref for p in view.layout_.placed if p.ref.kind == "strikes"))
    assert card.edges.isVisible()
    assert not card.for_all.isVisible()
