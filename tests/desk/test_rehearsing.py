"""A drill over a bad connection, on Spar: whose screen is looked at, where they differ, how far it carries."""

from __future__ import annotations

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QTableWidgetItem

from tests.conftest import OSSA
from tests.desk.conftest import pick, type_in, until
from veergust.core.edit.spans import Edit
from veergust.core.rehearse.carrying import carried, of_take, pair
from veergust.core.rehearse.line import Quality
from veergust.core.rehearse.rehearsal import rehearse
from veergust.core.rehearse.telling import differs
from veergust.core.scene.view import record_scene
from veergust.desk.shell.window import Window
from veergust.desk.spar import rehearsing
from veergust.desk.spar.rehearsing import COUNTED, NOBODY, RehearsalPage

LEFT = Qt.MouseButton.LeftButton
DRILL = "Sweep touches"


@pytest.fixture
def page(window: Window) -> RehearsalPage:
    window.show_bench("Spar")
    spar = window.spar
    spar.timer.setInterval(10**6)
    QTest.mouseClick(spar.rehearsal_button, LEFT)
    assert spar.rehearsal.isVisible()
    pick(spar.rehearsal.drill, DRILL)
    return spar.rehearsal


def rehearsed(page: RehearsalPage, delay: str) -> None:
    type_in(page.delay, delay)
    QTest.mouseClick(page.go, LEFT)
    until(lambda: page.work is None)


def test_each_screen_is_looked_at_and_what_differs_is_gone_to(window: Window, page: RehearsalPage) -> None:
    document, session = window.document, window.spar.session
    rehearsed(page, "100")
    drill = next(d for d in document.project.drills if d.name == DRILL)
    made = rehearse(document.build, drill, Quality(100.0))
    rows = differs(made)
    assert [page.list.item(n).text() for n in range(page.list.count())] == [
        f"{d.start}–{d.end}  {d.says}" for d in rows
    ]
    assert rows
    assert [b.text() for b in page.who] == [f"{made.names[0]} saw", f"{made.names[1]} saw", COUNTED]
    # What is on the stage is what that end saw.
    screens = {made.players[0].name: made.players[0].shown, made.players[1].name: made.players[1].shown,
               COUNTED: made.records}  # fmt: skip
    for button, (name, records) in zip(page.who, screens.items()):
        QTest.mouseClick(button, LEFT)
        assert [b.isChecked() for b in page.who] == [b is button for b in page.who], name
        assert [r.line() for r in session.records] == [r.line() for r in records]
    # A difference that is chosen is looked at, whoever's screen it is.
    page.list.setCurrentRow(len(rows) - 1)
    assert session.at == rows[-1].start
    QTest.mouseClick(page.who[0], LEFT)
    assert session.at == rows[-1].start
    # The lanes say it as well, and are dragged along.
    told = page.lanes.told()
    assert [row.name for row in told] == list(screens)
    assert [row.value.partition(", ")[2] for row in told] == [
        f"{sum(d.whose == name for d in rows)} differ" for name in screens
    ]
    QTest.mouseClick(page.lanes, LEFT, pos=QPoint(round(page.lanes.x_of(30.5)), 10))
    assert session.at == 30
    # From its end it is played on.
    session.look_at(len(session.records) - 1)
    session.tick()
    assert session.records[-1].tick == session.records[-2].tick + 1
    session.look_at(30)
    # It is played on from there like any other take.
    state = session.records[30].fighter(OSSA).position.tolist()
    session.tick()
    assert (session.at, len(session.records)) == (31, 32)
    assert session.records[30].fighter(OSSA).position.tolist() == state


def test_all_three_are_seen_from_one_camera_as_long_as_the_stage_has_the_rehearsal(
    window: Window, page: RehearsalPage
) -> None:
    spar, session = window.spar, window.spar.session
    rehearsed(page, "100")
    made = page.seen.made if page.seen is not None else None
    assert made is not None
    main = spar.stage.view
    alone = main.height()
    assert not spar.seen_stages.shown
    QTest.mouseClick(page.beside, LEFT)
    QApplication.processEvents()
    over, under = spar.seen_stages.views
    assert [n.text() for n in spar.seen_stages.names] == [f"{made.names[0]} saw", COUNTED, f"{made.names[1]} saw"]
    assert alone / 2 > main.height() > 150
    assert max(abs(v.height() - main.height()) for v in (over, under)) <= 2
    order = [w.mapTo(window, QPoint(0, 0)).y() for w in (over, main, under)]
    assert order == sorted(order)
    # Each has its own tick, and one that is over keeps its last.
    one, other = (p.shown for p in made.players)
    apart = next(n for n, (a, b) in enumerate(zip(one, other)) if a.line()["fighters"] != b.line()["fighters"])
    for tick in (apart, 40):
        session.look_at(tick)
        for view, player in zip((over, under), made.players):
            joints = [b.joints for b in view.scene.bodies]
            wanted = record_scene(window.document.build, player.shown[tick]).bodies
            assert all(np.array_equal(a, b.joints) for a, b in zip(joints, wanted))
        same = all(np.array_equal(a.joints, b.joints) for a, b in zip(over.scene.bodies, under.scene.bodies))
        assert same == (tick != apart)
    # Whichever is turned, all are, and all follow.
    assert over.camera == main.camera == under.camera
    under.look_from("front")
    assert over.camera == main.camera == under.camera
    assert main.camera.distance < 5.0
    # Another screen on the stage: the other two beside it.
    QTest.mouseClick(page.who[1], LEFT)
    assert [n.text() for n in spar.seen_stages.names] == [f"{made.names[0]} saw", f"{made.names[1]} saw", COUNTED]
    # Played on, or with another page, the stage is alone, as large as it was, and seen from as far.
    session.look_at(20)
    assert spar.seen_stages.shown
    session.tick()
    assert not spar.seen_stages.shown
    QTest.mouseClick(page.who[2], LEFT)
    assert spar.seen_stages.shown
    QTest.mouseClick(spar.drills_button, LEFT)
    assert not spar.seen_stages.shown
    QTest.mouseClick(spar.rehearsal_button, LEFT)
    assert spar.seen_stages.shown
    QTest.mouseClick(page.beside, LEFT)
    QApplication.processEvents()
    assert main.height() == alone
    assert main.camera.distance >= 5.0


def test_how_far_it_carries_is_a_map_each_of_whose_lines_is_rehearsed(
    window: Window, page: RehearsalPage, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(rehearsing, "DELAYS", (0.0, 100.0))
    monkeypatch.setattr(rehearsing, "LOSSES", (0.0,))
    QTest.mouseClick(page.far, LEFT)
    assert page.far.text() == "give up"
    until(lambda: page.work is None)
    drill = next(d for d in window.document.project.drills if d.name == DRILL)
    rows = list(carried(window.document.build, drill, (0.0, 100.0), (0.0,)))
    cells: list[QTableWidgetItem] = [page.map.item(0, n) for n in range(2)]  # type: ignore[misc]
    assert [c.text() for c in cells] == [f"{r.touches[1] + r.dodges[1]}/{r.touches[0] + r.dodges[0]}" for r in rows]
    assert "nobody can answer it by seeing it" in page.follows.text()
    page.map.itemActivated.emit(cells[1])
    until(lambda: page.work is None)
    assert (page.delay.value(), page.list.count() > 0) == (100.0, True)
    # What was told is of the project as it was.
    project = window.document.project
    window.document.apply(Edit(replace(project, drills=project.drills[:-1]), "a drill fewer"))
    assert page.seen is None
    assert page.list.count() == 0
    assert not page.map.isVisible()


def test_it_can_be_given_up_and_says_what_cannot_be_rehearsed(window: Window, page: RehearsalPage) -> None:
    QTest.mouseClick(page.far, LEFT)
    QTest.mouseClick(page.far, LEFT)
    until(lambda: page.work is None)
    assert page.words.text() == "Given up."
    assert page.go.isEnabled()


def test_what_came_late_is_said_and_where_nothing_is_touched_that_is(
    page: RehearsalPage, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(rehearsing, "DELAYS", (0.0,))
    monkeypatch.setattr(rehearsing, "LOSSES", (0.0,))
    rehearsed(page, "120")
    assert page.seen is not None
    late = sum(d.what == "event" and "after it counted" in d.says for d in page.seen.rows if d.whose == "Tarn")
    assert f"On Tarn's screen {late} of " in page.words.text()
    assert "2 of 2 touches that were seen counted." in page.words.text()
    pick(page.drill, "Roll goes under the thrust")
    rehearsed(page, "0")
    assert page.words.text() == NOBODY
    QTest.mouseClick(page.far, LEFT)
    until(lambda: page.work is None)
    assert page.words.text() == f"{NOBODY} There is nothing to count."
    assert not page.map.isVisible()


def test_two_actions_are_rehearsed_against_each_other(window: Window, page: RehearsalPage) -> None:
    document = window.document
    assert not page.attack.isVisible()
    pick(page.drill, "two actions against each other")
    assert page.attack.isVisible()
    pick(page.attack, "Thrust")
    pick(page.answer, "Duck roll")
    type_in(page.after, "4")
    rehearsed(page, "60")
    made = rehearse(document.build, pair(document.build, "Thrust", "Duck roll", 4), Quality(60.0))
    QTest.mouseClick(page.who[1], LEFT)
    assert [r.line() for r in window.spar.session.records] == [r.line() for r in made.players[1].shown]
    # An action that goes is not left chosen, and nobody alone is rehearsed.
    project = document.project
    fewer = tuple(a for a in project.actions if a.name != "Thrust")
    document.apply(Edit(replace(project, actions=fewer), "an action fewer"))
    assert page.attack.currentText() == fewer[0].name
    alone = replace(document.project.stage, fighters=document.project.stage.fighters[:1])
    document.apply(Edit(replace(document.project, stage=alone), "nobody else"))
    assert not page.go.isEnabled()
    assert not page.far.isEnabled()


def test_a_kept_take_is_rehearsed_as_well(window: Window, page: RehearsalPage) -> None:
    take = window.document.project.takes[0]
    pick(page.drill, f"take {take.name}")
    rehearsed(page, "60")
    made = rehearse(window.document.build, of_take(take), Quality(60.0))
    assert page.seen is not None
    assert [r.line() for r in page.seen.made.records] == [r.line() for r in made.records]
