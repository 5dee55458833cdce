"""The Layers bench driven with the real mouse and real keys."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog, QPushButton, QWidget
from pytestqt.qtbot import QtBot
from tools.made.captures import capture, write_bvh

from tests.desk.conftest import Watch, arrived, focused, pick, type_in, until
from veergust.core.files.saving import save_project
from veergust.core.kinds.finding import Ref
from veergust.core.model import Layer, Mask, Project
from veergust.core.motion.naming import parts_of
from veergust.core.motion.quat import angle_between
from veergust.core.play.state import Input
from veergust.core.study.trial import BEFORE, Trying
from veergust.desk.layers.bench import LayersBench
from veergust.desk.layers.cards.layer import LayerPage
from veergust.desk.layers.joint_table import JointTable
from veergust.desk.shell.window import Window
from veergust.desk.widgets.fields import NumberField

Key = Qt.Key
CTRL, ALT, SHIFT = (
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
    Qt.KeyboardModifier.ShiftModifier,
)
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def layers(window: Window) -> LayersBench:
    QTest.keyClick(window, Key.Key_4, CTRL)
    assert window.bench == "Layers"
    QTest.qWait(30)
    window.layers.selection.choose("Arms")
    return window.layers


def names(bench: LayersBench) -> list[str]:
    """From the bottom up."""
    return [y.name for y in bench.document.project.layers]


def layer(bench: LayersBench, name: str) -> Layer:
    return next(y for y in bench.document.project.layers if y.name == name)


def mask(bench: LayersBench, name: str = "upper body") -> Mask:
    return next(m for m in bench.document.project.masks if m.name == name)


def weights(bench: LayersBench) -> dict[str, float]:
    bones = bench.document.build.assets.skeleton
    return dict(zip(bones.names, (round(float(w), 3) for w in bench.masks.weights)))


def sheet(bench: LayersBench, name: str) -> QPoint:
    return bench.stack.sheet(bench.stack.names.index(name)).center().toPoint()


def cell(bench: LayersBench, name: str, state: str) -> QPoint:
    column = [c.name for c in bench.stack.columns].index(state)
    return bench.stack.cell(bench.stack.names.index(name), column).center().toPoint()


def button(bench: QWidget, words: str) -> QPushButton:
    return next(b for b in bench.findChildren(QPushButton) if b.text() == words)


def joint(bench: LayersBench, name: str) -> QPoint:
    front, _ = bench.masks.map.points()
    return front[bench.document.build.assets.skeleton.index[name]].toPoint()


# The stack


def test_a_sheet_is_chosen_and_dragged_above_another_and_back_by_keys(layers: LayersBench) -> None:
    QTest.mouseClick(layers.stack, LEFT, pos=sheet(layers, "Body"))
    assert layers.selection.name == "Body"
    start, over = sheet(layers, "Body"), sheet(layers, "Arms")
    QTest.mousePress(layers.stack, LEFT, pos=start)
    QTest.mouseMove(layers.stack, (start + over) / 2)
    QTest.mouseMove(layers.stack, over - QPoint(0, 30))
    QTest.mouseRelease(layers.stack, LEFT, pos=over - QPoint(0, 30))
    assert names(layers) == ["Arms", "Body", "Flinch", "Reactions"]
    QTest.keyClick(layers.stack, Key.Key_Down, ALT)
    assert names(layers) == ["Body", "Arms", "Flinch", "Reactions"]
    QTest.keyClick(layers.stack, Key.Key_Up)
    assert layers.selection.name == "Arms"
    layers.document.undo()
    layers.document.undo()
    assert names(layers)[0] == "Body"


def test_a_sheet_is_let_go_where_it_was_and_nothing_happens(layers: LayersBench) -> None:
    steps = len(layers.document.done)
    at = sheet(layers, "Arms")
    QTest.mousePress(layers.stack, LEFT, pos=at)
    QTest.mouseMove(layers.stack, at + QPoint(0, 20))
    QTest.mouseRelease(layers.stack, LEFT, pos=at + QPoint(0, 20))
    assert len(layers.document.done) == steps


def test_layers_are_made_doubled_named_and_removed_by_keys(window: Window, layers: LayersBench) -> None:
    QTest.keyClick(layers.stack, Key.Key_N)
    assert names(layers) == ["Body", "Arms", "Layer", "Flinch", "Reactions"]
    assert layers.selection.name == "Layer"
    QTest.keyClick(window, Key.Key_F2)
    until(lambda: layers.layer_page.name.hasFocus())
    type_in(layers.layer_page.name, "Head")
    assert names(layers)[2] == layers.selection.name == "Head"
    layers.stack.setFocus()
    QTest.keyClick(layers.stack, Key.Key_D)
    assert names(layers)[3] == "Head 2"
    QTest.keyClick(layers.stack, Key.Key_Delete)
    assert "Head 2" not in names(layers)


def test_a_layer_with_actions_says_which_and_offers_another(window: Window, layers: LayersBench) -> None:
    layers.show_page(1)
    assert "Lantern toss" in layers.layer_page.users.text()
    others = [layers.layer_page.onto.itemData(i) for i in range(layers.layer_page.onto.count())]
    assert others == ["Body", "Flinch", "Reactions"]
    pick(layers.layer_page.onto, "its actions to Reactions")
    button(layers.layer_page, "remove").click()
    there = {a.name: a.layer for a in layers.document.project.actions}
    assert "Arms" not in names(layers)
    assert there["Lantern toss"] == "Reactions"
    layers.document.undo()
    assert layers.document.project.actions[6].layer == "Arms"


# The scope


def test_a_cell_goes_from_rule_to_rule_by_clicks_keys_and_its_menu(layers: LayersBench) -> None:
    at = cell(layers, "Arms", "slide")
    seen = []
    for _ in range(4):
        QTest.mouseClick(layers.stack, LEFT, pos=at)
        seen.append(layers.document.build.layers["Arms"].rule("slide"))
    assert seen == ["may", "fades", "finishes", "keeps out"]
    QTest.keyClick(layers.stack, Key.Key_Return)
    assert layers.document.build.layers["Arms"].rule("slide") == "may"
    QTest.keyClick(layers.stack, Key.Key_Return, SHIFT)
    assert layers.document.build.layers["Arms"].rule("slide") == "keeps out"
    QTest.keyClick(layers.stack, Key.Key_Delete)
    assert layers.document.build.layers["Arms"].rule("slide") == "may"
    row, column = layers.stack.names.index("Arms"), layers.stack.column
    menu = layers.stack.rules_menu(row, column)
    next(a for a in menu.actions() if a.text() == "finishes").trigger()
    assert layers.document.build.layers["Arms"].rule("slide") == "finishes"


def test_a_group_opens_to_its_states_and_what_is_said_of_it_is_said_of_them(layers: LayersBench) -> None:
    columns = [c.name for c in layers.stack.columns]
    assert columns == ["on the floor", "slide", "on guard", "in the air"]
    head = layers.stack.head(0).center().toPoint()
    QTest.mouseClick(layers.stack, LEFT, pos=head)
    assert [c.name for c in layers.stack.columns][:5] == ["on the floor", "idle", "walk", "run", "land"]
    QTest.mouseClick(layers.stack, LEFT, pos=cell(layers, "Arms", "run"))
    built = layers.document.build.layers["Arms"]
    assert (built.rule("run"), built.rule("walk")) == ("fades", "may")
    # The group is mixed now; a click on it makes it one.
    QTest.mouseClick(layers.stack, LEFT, pos=cell(layers, "Arms", "on the floor"))
    built = layers.document.build.layers["Arms"]
    assert {built.rule(s) for s in ("idle", "walk", "run", "land")} == {"may"}
    assert all(row.state not in ("run", "on the floor") for row in layer(layers, "Arms").scope)
    QTest.mouseClick(layers.stack, LEFT, pos=head)
    assert len(layers.stack.columns) == 4


# Masks


def test_a_joint_is_painted_from_here_on_with_a_feather_and_taken_away(layers: LayersBench) -> None:
    map_ = layers.masks.map
    QTest.mouseClick(map_, Qt.MouseButton.RightButton, pos=joint(layers, "upper_arm_left"))
    got = weights(layers)
    assert (got["upper_arm_left"], got["hand_left"], got["upper_arm_right"]) == (0, 0, 1)
    button(layers.masks, "both sides").click()
    assert weights(layers)["hand_left"] == 1
    button(layers.masks, "nothing").click()
    assert set(weights(layers).values()) == {0.0}
    layers.masks.feather.setValue(3)
    QTest.mouseClick(map_, LEFT, pos=joint(layers, "spine"))
    got = weights(layers)
    assert (got["waist"], got["spine"], got["chest"], got["neck"]) == (0, 0.25, 0.5, 0.75)
    assert (mask(layers).joint, mask(layers).feather, mask(layers).weights) == ("spine", 3, ())
    button(layers.masks, "from here on").click()
    QTest.mouseClick(map_, LEFT, pos=joint(layers, "thigh_left"))
    assert (weights(layers)["thigh_left"], weights(layers)["shin_left"]) == (1, 0)
    while layers.document.done:
        layers.document.undo()
    assert (mask(layers).joint, mask(layers).feather) == ("waist", 1)


def test_a_mask_is_painted_with_the_keys_alone(layers: LayersBench) -> None:
    map_ = layers.masks.map
    map_.setFocus()
    bones = layers.document.build.assets.skeleton
    for _ in range(bones.index["head"] + 1):
        QTest.keyClick(map_, Key.Key_Right)
    assert layers.selection.joint == bones.index["head"]
    QTest.keyClick(map_, Key.Key_Delete)
    assert (weights(layers)["head"], weights(layers)["hat"], weights(layers)["neck"]) == (0, 0, 1)
    QTest.keyClick(map_, Key.Key_Return)
    assert weights(layers)["hat"] == 1


def table_row(table: JointTable, name: str) -> int:
    return next(n for n, row in enumerate(table.rows) if row.name == name)


def test_a_weight_is_typed_and_dragged_and_a_drag_is_one_step(layers: LayersBench) -> None:
    table = layers.masks.table
    row = table_row(table, "chest")
    at = table.visualRect(table.table.index(row, 0)).center()
    QTest.mouseClick(table.viewport(), LEFT, pos=QPoint(20, at.y()))
    assert layers.document.build.assets.skeleton.names[layers.selection.joint] == "chest"
    QTest.keyClicks(table, "0")
    field = focused()
    row_rect = table.visualRect(table.table.index(row, 1))
    assert (field.width(), field.y()) == (54, row_rect.y())
    QTest.keyClicks(field, ".35")
    QTest.keyClick(field, Key.Key_Return)
    QApplication.processEvents()
    assert weights(layers)["chest"] == 0.35
    assert focused() is table
    steps = len(layers.document.done)
    bar = table.bar(row)
    ends = [QPointF(bar.left() + share * bar.width(), bar.center().y()).toPoint() for share in (0.9, 0.6, 0.8)]
    QTest.mousePress(table.viewport(), LEFT, pos=ends[0])
    for point in ends[1:]:
        QTest.mouseMove(table.viewport(), point)
    assert layers.document.dragging
    QTest.mouseRelease(table.viewport(), LEFT, pos=ends[-1])
    assert weights(layers)["chest"] == pytest.approx(0.8)
    assert len(layers.document.done) == steps + 1
    QTest.keyClick(table, Key.Key_Minus)
    assert weights(layers)["chest"] == pytest.approx(0.7)


def test_two_sides_stand_in_one_row_while_they_are_alike(layers: LayersBench) -> None:
    table = layers.masks.table
    rows = [row.name for row in table.rows]
    assert "upper arm L / R" in rows
    QTest.mouseClick(layers.masks.map, Qt.MouseButton.RightButton, pos=joint(layers, "hand_left"))
    rows = [row.name for row in table.rows]
    assert "hand_left" in rows
    assert "hand_right" in rows


def test_a_mask_is_made_shared_renamed_and_removed(layers: LayersBench, monkeypatch: pytest.MonkeyPatch) -> None:
    assert "also Flinch" in layers.masks.said.text()
    button(layers.masks, "+ mask").click()
    assert layer(layers, "Arms").mask == "upper body 2"
    assert layer(layers, "Flinch").mask == "upper body"
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("arms", True))
    button(layers.masks, "rename").click()
    assert layer(layers, "Arms").mask == "arms"
    button(layers.masks, "remove").click()
    assert layer(layers, "Arms").mask == ""
    assert "every joint" in layers.masks.said.text()
    pick(layers.masks.which, "upper body")
    assert layer(layers, "Arms").mask == "upper body"
    layers.selection.choose("Flinch")
    button(layers.masks, "remove").click()
    assert layer(layers, "Flinch").mask == "upper body", "another layer has it still"


def test_a_mask_of_another_figure_says_what_it_lost_and_takes_the_nearest(layers: LayersBench) -> None:
    foreign = Mask(name="upper body", joint="mixed:RightArm")
    from msgspec.structs import replace

    from veergust.core.edit.spans import Edit

    layers.document.apply(Edit(replace(layers.document.project, masks=(foreign,)), "Another's mask"))
    assert "upper_arm_right" in layers.masks.said.text()
    button(layers.masks, "take the nearest").click()
    assert mask(layers).joint == "upper_arm_right"


# Trying


def test_the_mix_is_played_round_and_round_and_told_joint_by_joint(layers: LayersBench) -> None:
    pick(layers.try_page.state, "walk")
    pick(layers.try_page.fields["Arms"], "Lantern toss")
    assert layers.trying.trying.actions == (("Arms", "Lantern toss"),)
    stage = layers.trying
    until(lambda: stage.trial is not None and stage.trial.ticks is not None)
    stage.clock = Watch()  # type: ignore[assignment]
    QTest.keyClick(layers.stack, Key.Key_Space)
    assert stage.running
    stage.clock.now = 1000 // 60 * 4  # type: ignore[attr-defined]
    stage._beat()
    QTest.keyClick(layers.stack, Key.Key_Space)
    assert not stage.running
    at = stage.at
    assert at >= 3
    QTest.keyClick(layers.stack, Key.Key_Period)
    assert stage.at == at + 1
    QTest.keyClick(layers.stack, Key.Key_Comma)
    assert stage.at == at
    stage.look_at(BEFORE + 20)
    rows = {row.name: row.who for row in layers.masks.table.rows}
    assert rows["chest"] == "Lantern toss"
    assert rows["hips"] == "walk"
    assert rows["waist"] == "walk 50 · Lantern toss 50"
    assert layers.stack.plays["Arms"].startswith("Lantern toss 21 of 60")
    assert stage.trial is not None
    assert stage.trial.ticks is not None
    stage.look_at(stage.trial.ticks)
    assert stage.at == 0


def test_an_edit_is_seen_at_once_on_the_frame_that_is_looked_at(layers: LayersBench) -> None:
    stage = layers.trying
    stage.try_out(Trying("walk", 1.2, (("Arms", "Lantern toss"),)))
    stage.look_at(BEFORE + 24)
    was = stage.fighter
    layers.open_page(LayerPage)
    type_in(layers.layer_page.weight, "0")
    now = stage.fighter
    assert was is not None
    assert was.pose is not None
    assert now is not None
    assert now.pose is not None
    arm = layers.document.build.assets.skeleton.index["upper_arm_left"]
    assert angle_between(was.pose.rotation[0, arm], now.pose.rotation[0, arm]) > 20.0
    # Played anew, it is the same.
    until(lambda: not stage.settle.isActive())
    stage._anew()
    again = stage.fighter
    assert again is not None
    assert again.pose is not None
    assert angle_between(again.pose.rotation[0], now.pose.rotation[0]).max() < 0.5


def test_both_ways_to_mix_stand_side_by_side(layers: LayersBench) -> None:
    stage = layers.trying
    stage.try_out(Trying("run", 4.2, (("Arms", "Lantern toss"),)))
    stage.look_at(BEFORE + 24)
    QTest.keyClick(layers.stack, Key.Key_B)
    scene = stage.stage.view.scene
    assert [label.text for label in scene.labels] == ["in body space", "joint by joint"]
    one, two = scene.bodies
    bones = layers.document.build.assets.skeleton
    assert not np.allclose(one.joints[bones.index["head"], :3, :3], two.joints[bones.index["head"], :3, :3])
    button(layers.try_page, "joint by joint").click()
    assert layer(layers, "Arms").space == "joint"
    QTest.keyClick(layers.stack, Key.Key_B)
    assert len(stage.stage.view.scene.bodies) == 1


def test_a_layer_that_keeps_out_says_so_where_it_is_tried(layers: LayersBench) -> None:
    layers.trying.try_out(Trying("slide", 0.0, (("Arms", "Lantern toss"),)))
    assert layers.try_page.notes["Arms"].text() == "keeps out in slide"  # type: ignore[attr-defined]


def test_a_take_of_spar_is_read_tick_by_tick(window: Window, layers: LayersBench) -> None:
    spar = window.spar
    spar.session.restart()
    spar.session.give(Input(spar.session.fighter, "toss"))
    for _ in range(30):
        spar.session.tick()
    button(layers.try_page, "read the take of Spar").click()
    layers.trying.look_at(20)
    assert layers.trying.take
    assert "take of Spar" in layers.trying.where.text()
    assert layers.stack.plays["Arms"].startswith("Lantern toss")


def test_fields_of_a_layer_change_it(layers: LayersBench) -> None:
    page = layers.layer_page
    layers.show_page(1)
    for field, word, name, value in (
        (page.mode, "adds to it", "mode", "additive"),
        (page.adds, "the pose at its start", "adds", "start"),
        (page.covered, "waits", "covered", "waits"),
        (page.under, "both play", "under", "both play"),
        (page.taken, "newer is refused", "taken", "refused"),
        (page.elsewhere, "finishes", "elsewhere", "finishes"),
        (page.pressed, "is lost", "pressed", "nothing"),
    ):
        pick(field, word)
        assert getattr(layer(layers, "Arms"), name) == value
    type_in(page.acts, "0.3")
    type_in(page.blend_in, "9")
    assert (layer(layers, "Arms").acts, layer(layers, "Arms").blend_in) == (0.3, 9)


def test_a_hand_is_kept_changed_and_let_go(layers: LayersBench) -> None:
    page = layers.hands_page
    layers.show_page(2)
    assert len(page.rows) == 1
    button(page, "+ hand").click()
    grips = layers.document.project.grips
    assert len(grips) == 2
    assert (grips[1].hand, grips[1].layers) == ("hand_left", ("Arms",))
    pick(page.rows[1]["hand"], "hand_right")
    pick(page.rows[1]["mount"], "palm L")
    pick(page.rows[1]["while"], "always")
    type_in(page.rows[1]["ticks"], "9")
    type_in(page.rows[1]["weight"], "0.5")
    grip = layers.document.project.grips[1]
    assert (grip.hand, grip.mount, grip.layers, grip.ticks, grip.weight) == ("hand_right", "palm L", (), 9, 0.5)
    next(b for b in page.findChildren(QPushButton) if b.text() == "let go").click()
    assert layers.document.project.grips == (grip,)
    assert len(page.rows) == 1
    layers.document.undo()
    assert len(page.rows) == 2


def test_a_finding_of_a_layer_or_mask_leads_here(window: Window, layers: LayersBench) -> None:
    QTest.keyClick(window, Key.Key_3, CTRL)
    window.go_to(Ref("layer", "Flinch", ("layer Flinch",)))
    assert (window.bench, layers.selection.name) == ("Layers", "Flinch")
    window.go_to(Ref("mask", "upper body", ("mask upper body",)))
    assert layers.selection.name == "Arms"


def test_from_nothing_with_another_rig_a_mask_is_made_and_tried(window: Window, qtbot: QtBot, tmp_path) -> None:  # type: ignore[no-untyped-def]
    """A capture of another rig, an action of it, a layer over it with a mask painted on that rig: all by the window."""
    folder = tmp_path / "made.veergust"
    save_project(Project(name="made"), folder)
    window.open_project(folder)
    window.arrivals.bring_in([write_bvh(tmp_path, capture())])
    arrived(window)
    window.make_action(window.document.project.clips[0].name)
    QTest.keyClick(window, Key.Key_4, CTRL)
    bench = window.layers
    assert names(bench) == ["Body"]
    QTest.keyClick(bench.stack, Key.Key_N)
    QTest.keyClick(bench.stack, Key.Key_N, SHIFT)
    button(bench.masks, "nothing").click()
    bones = bench.document.build.assets.skeleton
    spine = bones.names[next(j for j, part in enumerate(parts_of(bones)) if part.kind == "spine")]
    QTest.mouseClick(bench.masks.map, LEFT, pos=joint(bench, spine))
    got = weights(bench)
    assert got[spine] == 1
    assert got[bones.names[0]] == 0
    action = bench.document.project.actions[0].name
    from veergust.core.edit.layers import put_on

    bench.document.apply(put_on(bench.document.project, action, bench.selection.name))
    pick(bench.try_page.fields[bench.selection.name], action)
    bench.trying.look_at(BEFORE + 20)
    rows = {row.name: row.who for row in bench.masks.table.rows}
    assert rows[spine] == action
    assert bench.stack.plays[bench.selection.name].startswith(action)


def test_an_empty_project_says_what_to_do(window: Window, tmp_path) -> None:  # type: ignore[no-untyped-def]
    folder = tmp_path / "nothing.veergust"
    save_project(Project(name="nothing", layers=()), folder)
    QTest.keyClick(window, Key.Key_4, CTRL)
    bench = window.layers
    bench.trying.look_at(30)
    assert bench.stack.plays
    window.open_project(folder)
    QTest.keyClick(window, Key.Key_4, CTRL)
    # Nothing of the project before is left to be seen.
    assert (bench.stack.plays, bench.stack.present, bench.trying.strip.ticks, bench.masks.table.rows) == (
        {},
        "",
        [],
        [],
    )
    assert "Drop a figure" in bench.trying.stage.view.scene.labels[0].text
    QTest.keyClick(bench.stack, Key.Key_N)
    QTest.keyClick(bench.stack, Key.Key_Space)
    QTest.keyClick(bench.stack, Key.Key_B)
    bench.grab()
    assert names(bench) == ["Layer"]


def test_a_layer_is_made_to_aim_by_clips_and_its_poses_are_set(
    window: Window, layers: LayersBench, monkeypatch: pytest.MonkeyPatch
) -> None:
    document = window.document
    QTest.mouseClick(layers.stack, LEFT, pos=sheet(layers, "Arms"))
    QTest.keyClick(layers.stack, Key.Key_F2)
    form = layers.layer_page.aim
    until(form.isVisible)
    assert not form.body.isVisible()
    monkeypatch.setattr(
        "veergust.desk.layers.cards.aiming.choose_clips", lambda *_: ["staff_thrust", "hit_left", "hit_right"]
    )
    QTest.mouseClick(form.add, LEFT)

    def points() -> list[tuple[str, float, float]]:
        aim = next(y for y in document.project.layers if y.name == "Arms").aim
        return [(p.clip, p.side, p.time) for p in aim.points] if aim is not None else []

    assert points() == [("staff_thrust", 0.0, 0.0), ("hit_left", 60.0, 0.0), ("hit_right", -60.0, 0.0)]
    QApplication.processEvents()

    def number(name: str) -> NumberField:
        QApplication.processEvents()
        return next(f for f in form.findChildren(NumberField) if f.accessibleName() == name and f.isVisible())

    type_in(number("Pose 2 to the left"), "45")
    type_in(number("Pose 1 at"), "0.2")
    type_in(number("Aim turns"), "120")
    assert points()[:2] == [("staff_thrust", 0.0, 0.2), ("hit_left", 45.0, 0.0)]
    aims = document.build.aims
    assert [(a.layer, a.aim.rate) for a in aims] == [("Arms", 120.0)]
    for _ in range(3):
        QApplication.processEvents()
        gone = next(
            b for b in form.findChildren(QPushButton) if b.accessibleName() == "Remove pose 1" and b.isVisible()
        )
        QTest.mouseClick(gone, LEFT)
    assert points() == []
    assert not form.body.isVisible()
