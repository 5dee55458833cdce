"""Stages made by mouse, and takes kept, in the window."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton, QWidget

from tests.conftest import OSSA, TARN
from tests.desk.conftest import pick, type_in
from veergust.core.files.folder import open_project
from veergust.core.play.state import Input
from veergust.desk.shell.window import Window
from veergust.desk.spar.bench import SparBench
from veergust.desk.spar.moving import FLOORS

LEFT = Qt.MouseButton.LeftButton
SHIFT = Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def spar(window: Window) -> SparBench:
    window.show_bench("Spar")
    window.spar.hold()
    return window.spar


def press(page: QWidget, words: str) -> None:
    QApplication.processEvents()
    button = next(b for b in page.findChildren(QPushButton) if b.text() == words and b.isVisible())
    QTest.mouseClick(button, LEFT)


def handle(spar: SparBench, key: str) -> QPoint:
    found = {k: point for k, _, point in spar.standing.tool.handles(spar.stage.view)}
    return found[key].toPoint()


def drag(spar: SparBench, key: str, by: tuple[int, int]) -> None:
    view, at = spar.stage.view, handle(spar, key)
    QTest.mousePress(view, LEFT, pos=at)
    QTest.mouseMove(view, at + QPoint(by[0] // 2, by[1] // 2))
    QTest.mouseMove(view, at + QPoint(*by))
    QTest.mouseRelease(view, LEFT, pos=at + QPoint(*by))


def test_a_stage_is_made_and_what_stands_on_it_moved_by_mouse(spar: SparBench, window: Window) -> None:
    document = window.document
    press(spar, "who and where")
    press(spar.standing, "+ stage")
    type_in(spar.standing.stages.name, "Yard")
    assert [s.name for s in document.project.stages] == ["Rope gallery", "Quay, near the edge"]
    assert {d.stage for d in document.project.drills} == {"Quay, near the edge"}
    before = next(f for f in document.project.stage.fighters if f.name == TARN).position
    drag(spar, f"fighter {TARN}", (60, 0))
    fighter = next(f for f in document.project.stage.fighters if f.name == TARN)
    assert fighter.position[0] > before[0] + 0.2
    assert (fighter.position[1], fighter.position[2]) == (before[1], pytest.approx(before[2], abs=0.05))
    assert spar.standing.name.text() == TARN
    record = spar.session.record
    assert record is not None
    assert record.fighter(TARN).position[0] == pytest.approx(fighter.position[0], abs=0.05)
    # Under the mouse: the handle went as far as the mouse did.
    camera = spar.stage.view.camera
    press(spar.standing, "+ ramp")
    assert spar.standing.chosen == FLOORS + "ramp 2"
    type_in(spar.standing.fields["rise"], "0.5")
    pick(spar.standing.along, "z")
    made = next(f for f in document.project.stage.floors if f.name == "ramp 2")
    assert (made.rise, made.along) == (0.5, "z")
    was = handle(spar, FLOORS + "ramp 2")
    drag(spar, FLOORS + "ramp 2", (-80, 6))
    floor = next(f for f in document.project.stage.floors if f.name == "ramp 2")
    assert floor.low[0] < made.low[0] - 0.2
    assert floor.high[0] - floor.low[0] == pytest.approx(made.high[0] - made.low[0])
    assert spar.stage.view.camera == camera
    now = handle(spar, FLOORS + "ramp 2")
    assert abs(now.x() - was.x() + 80) <= 3
    document.undo()
    assert next(f for f in document.project.stage.floors if f.name == "ramp 2") == made
    pick(spar.standing.stages.which, "Quay, near the edge")
    assert spar.stage.title.text() == "Quay, near the edge"
    assert [s.name for s in document.project.stages] == ["Rope gallery", "Yard"]


def test_a_list_that_is_open_when_another_is_chosen_changes_nothing(spar: SparBench, window: Window) -> None:
    press(spar, "who and where")
    press(spar.standing, "+ ramp")
    spar.standing.along.showPopup()
    QTest.keyClick(spar.standing.along.view(), Qt.Key.Key_Down)
    pick(spar.standing.which, TARN)
    steps, project = len(window.document.done), window.document.project
    QTest.keyClick(spar.standing.along.view(), Qt.Key.Key_Return)
    assert (len(window.document.done), window.document.project) == (steps, project)


def test_a_drill_of_another_stage_is_shown_there(spar: SparBench, window: Window) -> None:
    press(spar, "who and where")
    press(spar.standing, "+ stage")
    press(spar, "drills")
    press(spar.drills, "show it")
    assert spar.session.build.project.stage.name == "Quay, near the edge"
    assert spar.stage.title.text() == "Quay, near the edge"
    press(spar, "start over")
    assert spar.stage.title.text() == "Stage"


def test_a_take_is_kept_saved_played_and_told_of(spar: SparBench, window: Window) -> None:
    document, session = window.document, spar.session
    kept = [t.name for t in document.project.takes]
    session.restart()
    session.give(Input(OSSA, "light"))
    for _ in range(60):
        session.tick(shown=False)
    session.look_at(55)
    press(spar, "replay")
    press(spar.replay, "keep this take")
    assert len(session.records) == 61  # what was played stays as it was
    type_in(spar.replay.name, "First sweep")
    assert document.project.takes[-1].name == "First sweep"
    assert document.project.takes[-1].ticks == 56
    document.save()
    assert document.folder is not None
    assert open_project(document.folder).takes == document.project.takes
    press(spar.replay, "play it")
    assert spar.replay.words.text() == "First sweep came out as it was kept."
    assert session.at == 0
    press(spar, "start over")
    for _ in range(60):
        session.tick(shown=False)
    press(spar.replay, "hold this against it")
    shown = [spar.replay.list.item(n).text() for n in range(spar.replay.list.count())]
    assert shown[0] == f"{OSSA} begins Low sweep: 1 → –"
    press(spar.replay, "remove")
    assert [t.name for t in document.project.takes] == kept


def test_a_part_of_the_take_is_played_round_and_round(spar: SparBench) -> None:
    session, strip = spar.session, spar.strip
    session.restart()
    for _ in range(200):
        session.tick(shown=False)
    spar.strip.update()
    first, last = (QPointF(strip.x_of(t), 15).toPoint() for t in (40, 60))
    QTest.mousePress(strip, LEFT, SHIFT, first)
    QApplication.sendEvent(
        strip, QMouseEvent(QEvent.Type.MouseMove, QPointF(last), strip.mapToGlobal(QPointF(last)), LEFT, LEFT, SHIFT)
    )
    QTest.mouseRelease(strip, LEFT, SHIFT, last)
    assert session.loop is not None
    low, high = session.loop
    assert (abs(low - 40) <= 1, abs(high - 60) <= 1) == (True, True)
    seen = []
    session.look_at(high - 2)
    for _ in range(6):
        spar.tick()
        seen.append(session.at)
    assert seen == [high - 1, high, low, low + 1, low + 2, low + 3]
    assert len(session.records) == 201
    QTest.keyClick(spar, Qt.Key.Key_A)  # whoever presses plays on from here
    spar.hold()
    assert session.loop is None
    spar.tick()
    assert len(session.records) < 201


def test_a_platform_is_made_and_ridden_and_the_camera_rises_with_it_and_not_with_a_jump(
    spar: SparBench, window: Window
) -> None:
    document = window.document
    press(spar, "who and where")
    pick(spar.standing.stages.which, "Rope gallery")
    # The floor is 2 m up: those on it are in the picture all the same.
    view = spar.stage.view
    assert 0 < view.camera.on_picture(np.array([0.0, 3.8, 0.0]), view.width(), view.height())[1] < view.height() / 2
    press(spar.standing, "+ platform")
    assert spar.standing.chosen == FLOORS + "platform"
    fields = spar.standing.fields
    for name, value in (("x from", "-30"), ("x to", "30"), ("z from", "-30"), ("z to", "30"), ("floor height", "2.2"),
                        ("goes x", "0.6"), ("goes y", "1.4"), ("takes", "40"), ("floor rests", "0")):  # fmt: skip
        type_in(fields[name], value)
    made = document.project.stage.floors[-1]
    assert (made.low, made.high, made.goes, made.takes, made.rests) == ((-30, -30), (30, 30), (0.6, 1.4, 0), 40, 0)
    press(spar, "start over")
    spar.hold()
    before = view.camera.target[1]
    while spar.session.records[-1].tick < 40:
        spar.session.tick()
    spar.session.moved.emit()
    record = spar.session.record
    assert record is not None
    rider = record.fighter(OSSA)
    assert rider.grounded
    assert rider.position[1] == pytest.approx(3.6, abs=1e-6)
    risen = rider.position[1] - spar.session.records[0].fighter(OSSA).position[1]
    assert view.camera.target[1] - before == pytest.approx(risen, abs=1e-6)
    scene = view.scene
    assert scene.floors[-1].height == pytest.approx(3.6)
    type_in(fields["goes x"], "0")
    type_in(fields["goes y"], "0")
    assert not fields["takes"].isEnabled()
    press(spar, "start over")
    spar.hold()
    before = view.camera.target[1]
    spar.session.give(Input(OSSA, "jump"))
    for _ in range(16):
        spar.session.tick()
    spar.session.moved.emit()
    record = spar.session.record
    assert record is not None
    assert record.fighter(OSSA).position[1] > 2.5
    assert view.camera.target[1] == pytest.approx(before, abs=1e-6)
