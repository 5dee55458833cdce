"""The Clips bench by mouse and keys: find, prepare, root, join, feet, props, poses, mapping, coming in."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PySide6.QtCore import QObject, QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog, QPushButton, QWidget
from tools.made import DEMO
from tools.made.captures import blow, write_bvh
from tools.made.foreign import as_bvh, names_in, t_pose
from tools.made.rigs import shot_from

from tests.desk.conftest import Watch, arrived, type_in, until
from tests.desk.test_window import drop
from veergust.core.files.folder import open_project
from veergust.core.model import Clip
from veergust.core.motion import quat
from veergust.desk.clips.bench import ClipsBench
from veergust.desk.clips.cards.pose import PoseCard
from veergust.desk.clips.strips import Order, StripMaker
from veergust.desk.look.theme import Theme
from veergust.desk.running.work import BackgroundTask
from veergust.desk.shell.window import Window

Key = Qt.Key
CONTROL = Qt.KeyboardModifier.ControlModifier
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def bench(window: Window) -> ClipsBench:
    window.show_bench("Clips")
    window.document.choose_clip("staff_sweep")
    QApplication.processEvents()
    return window.clips


def clip(bench: ClipsBench, name: str = "") -> Clip:
    found = bench.document.build.clip(name or bench.document.clip)
    assert found is not None
    return found


def drag(widget: QWidget, start: QPointF, end: QPointF) -> None:
    QTest.mousePress(widget, LEFT, pos=start.toPoint())
    for share in (0.3, 0.7, 1.0):
        QTest.mouseMove(widget, (start + (end - start) * share).toPoint())
        QApplication.processEvents()
    QTest.mouseRelease(widget, LEFT, pos=end.toPoint())


def press(parent: QWidget, words: str) -> None:
    QApplication.processEvents()
    button = next(b for b in parent.findChildren(QPushButton) if b.text().startswith(words) and b.isVisible())
    QTest.mouseClick(button, LEFT)


def page(bench: ClipsBench, title: str) -> None:
    press(bench, title)
    assert bench.card.title == title
    QApplication.processEvents()


# The library


def test_a_clip_is_opened_by_mouse_and_by_arrows_and_found_by_a_part_of_its_name(bench: ClipsBench) -> None:
    view = bench.library.viewport()
    QTest.mouseClick(view, LEFT, pos=bench.library.point_of("hit_back"))
    assert bench.document.clip == "hit_back"
    bench.library.setFocus()
    names = [c.name for c in bench.library.clips]
    QTest.keyClick(bench.library, Key.Key_Down)
    assert bench.document.clip == names[names.index("hit_back") + 1]
    QTest.keyClicks(bench.side.find_line, "staff")
    assert {c.name for c in bench.library.clips} == {
        "staff_sweep", "staff_thrust", "staff_charge", "staff_jab", "overhead",
    }  # fmt: skip
    bench.side.find_line.clear()
    bench.library.order_by("length")
    lengths = [bench.library.entry(c).seconds for c in bench.library.clips if "ground" in c.tags]
    assert lengths == sorted(lengths, reverse=True)


def test_what_nothing_plays_is_marked_and_can_be_found_and_removed(bench: ClipsBench) -> None:
    bench.show_card(7)
    QTest.keyClicks(bench.side.find_line, "sweep")
    press(bench, "+ rough clip")
    assert bench.side.find_line.text() == ""
    assert "rough" in [c.name for c in bench.library.clips]
    QTest.keyClicks(bench.side.find_line, "unused")
    assert [c.name for c in bench.library.clips] == ["rough"]
    assert bench.library.entry(clip(bench, "rough")).uses == ()
    bench.library.setFocus()
    QTest.keyClick(bench.library, Key.Key_Delete)
    assert bench.document.build.clip("rough") is None
    bench.side.find_line.clear()
    bench.document.choose_clip("walk")
    QTest.keyClick(bench.library, Key.Key_Delete)
    assert bench.document.build.clip("walk") is not None
    assert bench.document.done[-1].words == "Remove clip rough"


def test_strips_are_made_aside_kept_on_disk_and_made_anew_when_the_clip_changes(
    bench: ClipsBench, tmp_path: Path, theme: Theme
) -> None:
    document = bench.document
    maker = StripMaker(tmp_path / "strips")

    def order(name: str) -> Order:
        assert document.mesh is not None
        ink, ghost = theme.colour("ink"), theme.colour("ink_faint")
        return Order(clip(bench, name), document.build.assets, document.mesh, document.build.roots, ink, ghost, 1.0)

    assert maker.strip(order("walk")) is None
    until(lambda: "walk" in maker.kept)
    first = maker.strip(order("walk"))
    assert first is not None
    dark = sum(first.pixelColor(x, y).alpha() > 150 for x in range(0, 176, 2) for y in range(0, 56, 2))
    assert dark > 100
    files = sorted((tmp_path / "strips").iterdir())
    assert len(files) == 1
    again = StripMaker(tmp_path / "strips")
    again.strip(order("walk"))
    until(lambda: "walk" in again.kept)
    assert sorted((tmp_path / "strips").iterdir()) == files
    document.choose_clip("walk")
    bench.prepare.change(mirror=True)
    maker.strip(order("walk"))
    until(lambda: len(list((tmp_path / "strips").iterdir())) == 2)
    for one in (maker, again):
        one.finish()


@pytest.fixture
def theme(window: Window) -> Theme:
    return window.theme


# Preparation


def test_in_and_out_are_set_by_key_by_handle_and_by_typing_and_undone_in_words(bench: ClipsBench) -> None:
    bench.library.setFocus()
    bench.playhead.move_to(12)
    QTest.keyClick(bench.library, Key.Key_I)
    assert clip(bench).start == pytest.approx(12 / 60)
    film = bench.film
    drag(film, QPointF(film.x_of(12) - 1, 4), QPointF(film.x_of(20), 4))
    assert clip(bench).start == pytest.approx(20 / 60)
    assert bench.playhead.frame == 20
    drag(film, QPointF(film.x_of(78) + 1, 4), QPointF(film.x_of(60), 4))
    assert clip(bench).end == pytest.approx(1.0)
    type_in(bench.prepare.end, "55")
    assert clip(bench).end == pytest.approx(55 / 60)
    assert [s.words for s in bench.document.done[-4:]] == [
        "staff_sweep: in at 12", "staff_sweep: in at 20", "staff_sweep: out at 60", "staff_sweep: out at 55",
    ]  # fmt: skip
    QTest.keyClick(bench.library, Key.Key_Z, CONTROL)
    assert bench.prepare.end.value() == 60
    assert "40 of 78 source frames: 0.67 s, 40 f" in bench.prepare.length.text()


def test_a_proposal_is_taken_with_a_click(bench: ClipsBench) -> None:
    bench.document.choose_clip("fall")
    press(bench.prepare, "tail: still from frame")
    end = clip(bench).end
    assert end is not None
    assert 0.6 < end < 0.8
    assert bench.playhead.frame == round(end * 60)


def test_loop_mirror_backwards_and_rate_change_what_every_bench_plays(bench: ClipsBench, window: Window) -> None:
    before = window.document.build.action("Low sweep")
    for words in ("loops", "mirrored", "backwards"):
        press(bench.prepare, words)
    type_in(bench.prepare.rate, "2")
    made = clip(bench)
    assert (made.loop, made.mirror, made.reverse, made.rate) == (True, True, True, 2.0)
    after = window.document.build.action("Low sweep")
    assert before is not None
    assert after is not None
    assert after.total < before.total
    assert after.sections[0].mirrored(0)


def test_the_best_loop_is_taken_whole(bench: ClipsBench) -> None:
    bench.document.choose_clip("overhead")
    says = bench.prepare.best.text()
    press(bench.prepare, "best for ")
    made = clip(bench)
    assert made.loop
    assert bench.document.done[-1].words.startswith("overhead: loops from")
    # "best: 2 to 58, 4.3 cm, 67 cm/s" is what the seam is from then on.
    assert bench.prepare.seam.text().split()[1] == says.split(", ")[1].split()[0]


def test_tags_group_the_library_and_a_new_name_is_followed(
    bench: ClipsBench, window: Window, monkeypatch: pytest.MonkeyPatch
) -> None:
    bench.prepare.tags.setFocus()
    bench.prepare.tags.selectAll()
    QTest.keyClicks(bench.prepare.tags, "quay, heavy")
    QTest.keyClick(bench.prepare.tags, Key.Key_Return)
    assert clip(bench).tags == ("quay", "heavy")
    assert "quay" in bench.library.table.rows
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("quay_sweep", True))
    QTest.keyClick(window, Key.Key_F2)
    assert bench.document.clip == "quay_sweep"
    action = bench.document.project.actions[0]
    assert {c.clip for s in action.sections for c in s.cuts} == {"quay_sweep"}


def test_playing_goes_over_the_used_part_and_over_again(bench: ClipsBench) -> None:
    watch = Watch()
    bench.playhead.clock = watch  # type: ignore[assignment]
    bench.document.choose_clip("walk")
    bench.prepare.change(start=0.2, end=0.8)
    bench.library.setFocus()
    bench.playhead.move_to(0)
    QTest.keyClick(bench.library, Key.Key_Space)
    assert bench.playhead.playing
    bench.playhead.timer.stop()
    seen = []
    for now in (0, 100, 300, 590, 700):
        watch.now = now
        bench.playhead._tick()
        seen.append(bench.playhead.frame)
    assert seen == [12, 18, 30, 47, 18]
    bench.playhead.timer.start()
    QTest.keyClick(bench.library, Key.Key_Period)
    assert not bench.playhead.playing


def test_an_action_is_made_of_the_clip_and_a_copy_written(bench: ClipsBench, window: Window, folder: Path) -> None:
    press(bench.prepare, "editable copy")
    assert bench.document.clip == "staff_sweep_copy"
    assert (folder / "clips" / "staff_sweep_copy.glb").is_file()
    assert bench.playhead.reading is not None
    press(bench.prepare, "make an action")
    assert window.bench == "Sheet"
    assert window.document.action == "Staff sweep copy"
    assert window.document.save()
    assert open_project(folder).clips[-1].name == "staff_sweep_copy"


# Root, join, feet


def test_what_travels_is_switched_and_the_stage_shows_way_body_and_what_is_left(bench: ClipsBench) -> None:
    bench.document.choose_clip("walk")
    page(bench, "Root")
    view = bench.stage.view
    assert view.scene.paths
    assert "ahead +1.20 m" in bench.root.goes.text()
    press(bench.root, "forward")
    assert not clip(bench).root.forward
    assert "ahead +0.00 m" in bench.root.goes.text()
    assert not view.scene.paths
    assert "ahead 1.20 m" in bench.root.stays.text()
    press(bench.root, "forward")
    type_in(bench.root.scale, "0.5")
    assert "ahead +0.60 m" in bench.root.goes.text()
    press(bench.root, "in place")
    assert "ahead +0.00 m" in bench.root.goes.text()
    count = len(view.scene.bodies)
    press(bench.stage, "beside")
    assert len(view.scene.bodies) == count + 1
    bench.root.joint.setCurrentIndex(1)
    bench.root.joint.activated.emit(1)
    assert clip(bench).root_joint == "hips"


def test_a_join_leads_to_its_best_frame_and_can_start_there(bench: ClipsBench) -> None:
    bench.document.choose_clip("run")
    page(bench, "Join")
    assert bench.join.other == "idle"
    assert bench.stage.view.scene.ghosts
    bench.playhead.move_to(5)
    before = bench.join.found
    assert before is not None
    press(bench.join, "nearest: frame")
    assert bench.playhead.frame == before.best
    assert bench.join.found is not None
    assert bench.join.found.overall == pytest.approx(before.best_overall)
    press(bench.join, "start there")
    assert clip(bench).start == pytest.approx(before.best / 60, abs=1e-3)


def test_feet_are_dragged_added_removed_and_found_again(bench: ClipsBench) -> None:
    bench.document.choose_clip("walk")
    page(bench, "Feet")
    film, reading = bench.film, bench.playhead.reading
    assert reading is not None
    i, contact = next((i, c) for i, c in enumerate(reading.contacts) if c.start > 0 and c.end < 60)
    y = film.lane_top(contact.joint) + 7
    drag(film, QPointF(film.x_of(contact.end), y), QPointF(film.x_of(contact.end - 8), y))
    own = clip(bench).contacts
    assert own is not None
    spans = [(c.joint, c.start, c.end) for c in bench.playhead.reading.contacts]  # type: ignore[union-attr]
    assert (contact.joint, contact.start, contact.end - 8) in spans
    bench.playhead.move_to(50)
    press(bench.feet, "+ left here")
    assert len(clip(bench).contacts or ()) == len(own) + 1
    bench.feet.list.setCurrentRow(i)
    bench.film.setFocus()
    QTest.keyClick(bench.film, Key.Key_Delete)
    assert len(clip(bench).contacts or ()) == len(own)
    press(bench.feet, "find again")
    assert clip(bench).contacts is None
    bench.root.change(in_place=True)
    assert "slides" in bench.feet.list.item(0).text()
    assert float(bench.feet.slide.text().split()[2]) > 25


# Props


def test_a_mount_is_dragged_on_the_stage_and_a_prop_carried_on_it(bench: ClipsBench, tmp_path: Path) -> None:
    page(bench, "Props")
    view = bench.stage.view
    rig = bench.document.project.rig
    before = next(m for m in rig.mounts if m.name == "foot R")
    start = bench.mount_tool.point(view, "foot R")
    drag(view, start, start + QPointF(0, -40))
    after = next(m for m in bench.document.project.rig.mounts if m.name == "foot R")
    assert after.offset != before.offset
    moved = bench.mount_tool.point(view, "foot R")
    assert abs(moved.y() - (start.y() - 40)) < 2
    assert bench.props.mount_name == "foot R"
    assert bench.document.done[-1].words == "Mount foot R: offset"
    source = tmp_path / "buckler.glb"
    source.write_bytes((DEMO / "clips" / "figure.glb").read_bytes())
    points = len(bench.document.mesh.points)  # type: ignore[union-attr]
    bench.props.bring(source)
    assert len(bench.document.mesh.points) > points  # type: ignore[union-attr]
    type_in(bench.props.scale, "0.2")
    assert bench.document.project.rig.props[0].scale == 0.2
    bench.document.undo()
    bench.document.undo()
    assert len(bench.document.mesh.points) == points  # type: ignore[union-attr]
    bench.document.redo()
    assert len(bench.document.mesh.points) > points  # type: ignore[union-attr]
    press(bench.props, "remove prop")
    assert bench.document.project.rig.props == ()


# Poses


@pytest.fixture
def posing(bench: ClipsBench) -> ClipsBench:
    bench.document.choose_clip("idle")
    page(bench, "Pose")
    press(bench, "+ rough clip")
    QApplication.processEvents()
    return bench


def turned(bench: ClipsBench, joint: str, act: Callable[[], None]) -> float:
    """Degrees by which a joint's own rotation changes."""
    j = bench.document.build.assets.skeleton.index[joint]
    before = bench.pose.pose()
    act()
    after = bench.pose.pose()
    assert before is not None
    assert after is not None
    return float(quat.angle_between(before.rotation[0, j], after.rotation[0, j]))


def test_a_joint_is_taken_on_the_stage_and_turned_about_a_ring(posing: ClipsBench) -> None:
    bench, view, tool = posing, posing.stage.view, posing.pose_tool
    head = bench.document.build.assets.skeleton.index["head"]
    at = tool.joint_point(view, head).toPoint()
    QTest.mouseClick(view, LEFT, pos=at)
    assert tool.joint == head
    assert bench.pose.joint == head
    pose = bench.pose.pose()
    assert pose is not None
    ring = tool.ring(view, tool._world(pose), head, 1)
    spot = max(ring, key=lambda p: p.x())
    other = max(ring, key=lambda p: p.y())
    for start in (spot, other):
        way = QPointF(0, 30) if start is spot else QPointF(30, 0)
        if turned(bench, "head", lambda s=start, w=way: drag(view, s, s + w)) > 3:  # type: ignore[misc]
            break
    assert "head turned about" in bench.document.done[-1].words
    assert len(clip(bench).poses) == 2
    type_in(bench.pose.angles.fields[0], "20")
    assert bench.document.done[-1].words.startswith("rough: head at 20")
    press(bench.pose, "reset joint")
    assert bench.pose.angles.fields[0].value() == 0.0


def test_a_foot_is_pulled_and_the_leg_follows(posing: ClipsBench) -> None:
    bench, view, tool = posing, posing.stage.view, posing.pose_tool
    bones = bench.document.build.assets.skeleton
    foot = bones.index["foot_right"]
    start = tool.joint_point(view, foot)
    bend = turned(bench, "shin_right", lambda: drag(view, start, start + QPointF(0, -30)))
    assert bend > 3.0
    assert abs(tool.joint_point(view, foot).y() - (start.y() - 30)) < 4
    assert bench.document.done[-1].words == "rough: foot_right pulled"
    assert turned(bench, "shin_right", bench.document.undo) > 3.0


def test_poses_are_keyed_copied_mirrored_eased_moved_and_time_put_between(posing: ClipsBench) -> None:
    bench = posing
    document = bench.document

    def keys() -> list[int]:
        return [round(k.time * 60) for k in clip(bench).poses]

    bench.film.setFocus()
    QTest.keyClick(bench.film, Key.Key_C, CONTROL)
    bench.playhead.move_to(10)
    QTest.keyClick(bench.film, Key.Key_Return)
    assert keys() == [0, 10, 24]
    press(bench.pose, "mirror")
    assert document.done[-1].words == "rough: pose mirrored at frame 10"
    side = bench.pose.pose()
    QTest.keyClick(bench.film, Key.Key_V, CONTROL)
    assert side is not None
    back = bench.pose.pose()
    assert back is not None
    assert quat.angle_between(side.rotation, back.rotation).max() > 1.0
    bench.pose.ease.setCurrentIndex(4)
    bench.pose.ease.activated.emit(4)
    assert clip(bench).poses[1].ease == "hold"
    type_in(bench.pose.at, "8")
    assert keys() == [0, 8, 24]
    assert bench.playhead.frame == 8
    film = bench.film
    y = 26 + 10
    drag(film, QPointF(film.x_of(8), y), QPointF(film.x_of(14), y))
    assert keys() == [0, 14, 24]
    bench.playhead.move_to(14)
    press(bench.pose, "insert")
    assert keys() == [0, 16, 26]
    press(bench.pose, "take out")
    assert keys() == [0, 14, 24]
    QTest.keyClick(film, Key.Key_Right, CONTROL)
    assert bench.playhead.frame == 24
    QTest.keyClick(film, Key.Key_Left, CONTROL)
    QTest.keyClick(film, Key.Key_Delete)
    assert keys() == [0, 24]


def test_the_first_pose_is_snapped_to_idle_and_a_source_is_mended_without_touching_it(
    bench: ClipsBench, folder: Path
) -> None:
    page(bench, "Pose")
    bench.document.choose_clip("drop")
    raw = (folder / "clips" / "drop.glb").read_bytes()
    press(bench.pose, "first from idle")
    pose, idle = bench.pose.pose(), bench.document.derived.idle_pose()
    assert pose is not None
    assert idle is not None
    assert quat.angle_between(pose.rotation, idle.rotation).max() < 1e-4
    assert [round(k.time * 60) for k in clip(bench).poses] == [0, 3]
    assert "laid over the source" in bench.pose.what.text()
    assert bench.document.save()
    assert (folder / "clips" / "drop.glb").read_bytes() == raw


# Coming in


def bvh(window: Window, tmp_path: Path, name: str, **options: Any) -> Path:
    assets = window.document.build.assets
    motion = assets.motion(f"clips/{name}.glb", name)
    assert motion is not None
    path = tmp_path / f"far_{name}.bvh"
    options.setdefault("names", names_in("camel"))
    path.write_text(as_bvh(assets, motion, bind=t_pose(assets.skeleton), **options))
    return path


def test_a_foreign_file_asks_for_its_mapping_once_and_the_person_mends_it_by_clicking(
    window: Window, tmp_path: Path
) -> None:
    drop(window, bvh(window, tmp_path, "staff_sweep"))
    mapping = window.clips.mapping
    assert window.bench == "Clips"
    assert mapping.isVisible()
    assert mapping.figure is not None
    bones, theirs = mapping.figure, mapping.source_map.skeleton
    assert theirs is not None
    window.grab()

    def click(side: str, joint: int) -> None:
        rig = mapping.source_map if side == "source" else mapping.figure_map
        QTest.mouseClick(rig, LEFT, pos=rig.point(joint).toPoint())

    assert mapping.pairs["head"] == "Head"
    # The hat shall follow what the file has above the head.
    click("figure", bones.index["hat"])
    assert mapping.figure_map.selected == bones.index["hat"]
    click("source", theirs.index["Head end"])
    assert mapping.pairs["hat"] == "Head end"
    assert mapping.reasons["hat"] == "hand"
    mapping.figure_map.setFocus()
    click("figure", bones.index["thigh_left"])
    QTest.keyClick(mapping, Key.Key_Delete)
    assert "thigh_left" not in mapping.pairs
    click("figure", bones.index["thigh_left"])
    click("source", theirs.index["LeftUpLeg"])
    assert mapping.pairs["thigh_left"] == "LeftUpLeg"
    QTest.keyClick(mapping, Key.Key_Return, CONTROL)
    arrived(window)
    assert not mapping.isVisible()
    assert window.document.clip == "far_staff_sweep"
    assert ("Head end", "hat") in window.document.project.sources[0].joints
    drop(window, bvh(window, tmp_path, "walk"))
    assert not mapping.isVisible()
    assert window.document.clip == "far_walk"
    window.document.undo()
    assert window.document.build.clip("far_walk") is None
    window.document.redo()
    assert window.document.derived.reading("far_walk") is not None


def test_giving_the_mapping_up_imports_nothing(window: Window, tmp_path: Path, folder: Path) -> None:
    before = window.document.project
    drop(window, bvh(window, tmp_path, "walk", names=names_in("short")))
    QTest.keyClick(window.clips.mapping, Key.Key_Escape)
    assert window.document.project is before
    assert not (folder / "clips" / "far_walk.bvh").exists()
    assert "Nothing was imported" in window.notice.label.text()
    assert not window.arrivals.busy


def test_long_work_tells_how_far_it_is_and_can_be_given_up(window: Window) -> None:
    told: list[tuple[str, float]] = []
    ended: list[str] = []

    def act(progress: Callable[[str, float], None]) -> None:
        for i in range(10**7):
            progress("Reading", min(i / 1000, 1.0))
            QObject().thread()

    def watch(says: str, share: float) -> None:
        told.append((says, share))
        window.notice.progress(says, share, work.stop)

    work = BackgroundTask(act, watch, lambda _: ended.append("done"), ended.append, window)
    work.start()
    until(lambda: len(told) > 3)
    assert "Reading" in window.notice.label.text()
    QTest.mouseClick(window.notice.buttons[0], LEFT)
    until(lambda: bool(ended))
    assert ended == [""]


def test_a_clip_is_seen_at_every_size_of_the_window_and_in_both_themes(bench: ClipsBench, window: Window) -> None:
    for name in ("Prepare", "Root", "Join", "Feet", "Props", "Pose"):
        page(bench, name)
        for button in bench.card.findChildren(QPushButton):
            if button.isVisible():
                assert button.width() >= button.fontMetrics().horizontalAdvance(button.text()), button.text()
        horizontal = bench.card.page.width() - bench.card.viewport().width()
        assert horizontal <= 0, name
    QTest.keyClick(window, Key.Key_T, CONTROL | Qt.KeyboardModifier.ShiftModifier)
    image = bench.film.grab().toImage()
    assert image.pixelColor(4, bench.film.height() - 3).name() == window.theme.look.paper
    assert np.isfinite(bench.film.x_of(3))
    assert bench.film.mapToGlobal(QPoint(0, 0)).y() > 0


def test_a_rate_typed_on_prepare_keeps_the_pose_under_every_strike(bench: ClipsBench) -> None:
    """Twice as fast: the sweep's strike opens in half the frames, on the same source time, and the words say so."""
    document = bench.document
    document.choose_clip("staff_sweep")
    page(bench, "Prepare")

    def opens() -> tuple[int, float]:
        compiled = document.build.action("Low sweep")
        assert compiled is not None
        i, part = next((i, p) for i, p in enumerate(compiled.sections) if p.section.strikes)
        start = part.section.strikes[0].start
        return compiled.start_of(i) + start, float(part.source[start])

    frame, source = opens()
    type_in(bench.prepare.rate, "2")
    now, shown = opens()
    assert abs(now - frame / 2) <= 1
    assert shown == pytest.approx(source, abs=0.76 * 2 / 60)
    assert "went with their poses" in document.done[-1].words
    document.undo()
    assert opens() == (frame, source)


def test_the_curve_shows_whose_speed_is_chosen(bench: ClipsBench) -> None:
    bench.document.choose_clip("staff_sweep")
    bench.curves.repaint()
    assert [name for name, _ in bench.curves.speeds()] == ["head", "hand_left", "hand_right", "foot_left", "foot_right"]
    for action in bench.curves.choices.actions():
        action.trigger()
        [(name, values), *more] = bench.curves.speeds()
        assert more or name == action.data()
        assert len(values) == len(bench.playhead.reading.times)  # type: ignore[union-attr]
        bench.curves.repaint()
    assert bench.curves.choice.text() == "body"


def test_the_film_and_the_library_answer_the_keys_the_table_has_for_them(window: Window) -> None:
    window.show_bench("Clips")
    window.document.choose_clip("staff_sweep")
    head, film = window.clips.playhead, window.clips.film
    film.setFocus()
    first, last = head.used()
    QTest.keyClick(film, Qt.Key.Key_End)
    assert head.frame == last
    QTest.keyClick(film, Qt.Key.Key_Home)
    assert head.frame == first
    QTest.keyClick(film, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert head.frame == first + 10
    QTest.keyClick(film, Qt.Key.Key_Left)
    assert head.frame == first + 9
    names = [c.name for c in window.clips.library.clips]
    window.document.choose_clip(names[0])
    window.clips.library.setFocus()
    QTest.keyClick(window.clips.library, Qt.Key.Key_PageDown)
    assert window.document.clip == names[8]
    QTest.keyClick(window.clips.library, Qt.Key.Key_Up)
    assert window.document.clip == names[7]


@pytest.mark.parametrize("away", [(0.0, 0.0), (5.0, -9.0), (40.0, 25.0)])
def test_a_pose_is_in_sight_wherever_its_clip_was_shot(
    untitled: Window, tmp_path: Path, away: tuple[float, float]
) -> None:
    drop(untitled, write_bvh(tmp_path, shot_from(blow(), away, 77.0), "jabs.bvh"))
    untitled.show_bench("Clips")
    untitled.document.choose_clip("jabs")
    bench, view = untitled.clips, untitled.clips.stage.view
    bench.show_card(bench.pages.kinds.index(PoseCard))
    for frame in (0, 20, 60, 120):
        bench.playhead.move_to(frame)
        for joint in range(len(untitled.document.build.assets.skeleton.names)):
            point = bench.pose_tool.joint_point(view, joint)
            assert view.rect().contains(point.toPoint()), (frame, joint)
