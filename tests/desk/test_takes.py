"""One long take in the window: found, looked at, chosen, marked and made into clips, by mouse and keys."""

from __future__ import annotations

import shutil
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QPoint, QPointF, QRectF, QSettings, Qt
from PySide6.QtGui import QPainter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot
from tools.made.captures import write_bvh
from tools.made.takes import long_take

from tests.desk.conftest import let_go, turn_wheel, until
from tests.desk.test_window import drop
from veergust.core.files.saving import save_project
from veergust.core.model import Project
from veergust.desk.app import make_window
from veergust.desk.clips.curves import outline
from veergust.desk.clips.timeline import LEFT, Timeline
from veergust.desk.shell.window import Window

Key = Qt.Key
LEFT_BUTTON = Qt.MouseButton.LeftButton
SHIFT = Qt.KeyboardModifier.ShiftModifier


@pytest.fixture(scope="module")
def harbour(qapp: QApplication, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A project from nothing with a take of 40 seconds of a foreign rig, brought in and saved by a window."""
    place = tmp_path_factory.mktemp("harbour")
    home = place / "harbour.veergust"
    save_project(Project(name="harbour"), home)
    window = make_window(QSettings(str(place / "settings.ini"), QSettings.Format.IniFormat))
    let_go(window)
    window.open_project(home)
    window.arrivals.bring_in([write_bvh(place, long_take(seconds=40.0)[0], "evening.bvh")])
    until(lambda: bool(window.document.project.clips))
    window.save()
    window.close()
    return home


@pytest.fixture
def taken(qtbot: QtBot, tmp_path: Path, harbour: Path) -> Window:
    """That take, open on its page."""
    shutil.copytree(harbour, tmp_path / harbour.name)
    window = make_window(QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(window, before_close_func=let_go)
    window.open_project(tmp_path / harbour.name)
    window.resize(1280, 800)
    window.show()
    window.show_bench("Clips")
    window.document.choose_clip("evening")
    window.clips.show_card(1)
    QApplication.processEvents()
    return window


@given(st.integers(0, 2**32 - 1), st.integers(1, 400), st.integers(2, 60), st.integers(0, 200), st.integers(0, 500))
def test_what_is_drawn_of_a_curve_has_its_peaks_and_is_no_more_than_there_is_room_for(
    seed: int, count: int, most: int, start: int, end: int
) -> None:
    curve = np.random.default_rng(seed).normal(size=count)
    values = curve.tolist()
    rows = outline(curve, start, end, most)
    there = range(start, min(end, len(values)))
    assert list(rows) == sorted(set(rows) & set(there))
    assert len(rows) <= most + 2
    if there:
        assert {rows[0], rows[-1]} == {there[0], there[-1]}
        long = -(-len(there) // (most // 2))
        for n in there:
            near = [values[m] for m in rows if abs(m - n) < 2 * long]
            assert min(near) <= values[n] <= max(near)


def test_curves_are_drawn_once_while_the_playhead_moves(taken: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    curves, drawn = taken.clips.curves, list[str]()
    plot = curves._plot

    def noted(p: QPainter, place: QRectF, words: tuple[str, str, str], *rest: Any) -> None:
        drawn.append(words[1])
        plot(p, place, words, *rest)

    monkeypatch.setattr(curves, "_plot", noted)
    before = curves.grab().toImage()
    drawn.clear()
    for frame in (100, 101, 300):
        taken.clips.playhead.move_to(frame)
        assert curves.grab().toImage() != before
    assert drawn == []
    taken.clips.playhead.timeline.zoom(0.5, 300.0)
    QApplication.processEvents()
    curves.grab()
    drawn.clear()
    taken.clips.playhead.timeline.pan(40.0)
    curves.grab()
    assert drawn == ["m/s", "m"]


def wheel(
    window: Window, x: float, turned: int, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier
) -> None:
    turn_wheel(window.clips.film, QPointF(x, 20), turned, modifier)


def test_moves_are_found_looked_at_and_become_clips(taken: Window) -> None:
    bench, document = taken.clips, taken.document
    card = bench.take
    QTest.mouseClick(card.find_button, LEFT_BUTTON)
    assert len(card.found) >= 8
    first = card.found[0]
    assert card.list.item(0).text().startswith(f"evening_01  {first.start}–{first.end}  {first.joint}")
    row = card.list.visualItemRect(card.list.item(1)).center()
    QTest.mouseClick(card.list.viewport(), LEFT_BUTTON, pos=row)
    move = card.found[1]
    assert bench.playhead.selection == (move.start, move.end)
    assert bench.playhead.frame == move.strike
    line = bench.playhead.timeline
    assert line.low < move.start < move.end < line.high < line.last
    card.list.item(0).setCheckState(Qt.CheckState.Unchecked)
    card.name.setFocus()
    card.name.selectAll()
    QTest.keyClicks(card.name, "cut")
    QTest.keyClick(card.name, Key.Key_Return)
    QTest.mouseClick(card.take_button, LEFT_BUTTON)
    names = [c.name for c in document.project.clips if c.name.startswith("cut_")]
    assert names == [f"cut_{n:02d}" for n in range(2, len(card.found) + 1)]
    reading = bench.playhead.reading
    assert reading is not None
    made = next(c for c in document.project.clips if c.name == "cut_02")
    assert made.end is not None
    assert (reading.frame_of(made.start), reading.frame_of(made.end)) == (move.start, move.end)
    assert [n for n, _, _ in bench.film.parts()] == names, "the film shows what of the take is used"
    document.undo()
    assert [c.name for c in document.project.clips if c.name.startswith("cut_")] == []


def test_the_wheel_zooms_about_the_mouse_and_goes_along(taken: Window) -> None:
    film, line = taken.clips.film, taken.clips.playhead.timeline
    assert line.whole
    assert not taken.clips.along.isVisible()
    x = LEFT + 0.25 * (film.width() - LEFT)
    before = film.frame_at(x)
    for _ in range(8):
        wheel(taken, x, 120)
    assert abs(film.frame_at(x) - before) <= 2, "the frame under the mouse stays there"
    assert line.high - line.low < 0.25 * line.last
    assert taken.clips.along.isVisible()
    low = line.low
    wheel(taken, x, -120, SHIFT)
    assert line.low > low
    for _ in range(40):
        wheel(taken, x, -120)
    assert line.whole


def test_a_part_is_chosen_and_marked_and_made_a_clip_by_keys(taken: Window) -> None:
    bench, document = taken.clips, taken.document
    film = bench.film
    a, b = QPoint(round(film.x_of(600)), 40), QPoint(round(film.x_of(900)), 40)
    QTest.mousePress(film, LEFT_BUTTON, SHIFT, a)
    QTest.mouseMove(film, b)
    QTest.mouseRelease(film, LEFT_BUTTON, SHIFT, b)
    assert bench.playhead.selection == (film.frame_at(a.x()), film.frame_at(b.x()))
    film.setFocus()
    QTest.keyClick(film, Key.Key_F)
    line = bench.playhead.timeline
    assert 400 < line.low < 600 < 900 < line.high < 1100
    bench.playhead.move_to(700)
    QTest.keyClick(film, Key.Key_M)
    bench.playhead.move_to(800)
    QTest.keyClick(film, Key.Key_M)
    QTest.keyClick(film, Key.Key_Left, Qt.KeyboardModifier.AltModifier)
    assert bench.playhead.frame == 700
    clip = document.build.clip("evening")
    assert clip is not None
    assert len(clip.marks) == 2
    start, end = bench.playhead.selection or (0, 0)
    QTest.keyClick(film, Key.Key_N)
    made = document.build.clip("evening_2")
    reading = bench.playhead.reading
    assert made is not None
    assert made.end is not None
    assert reading is not None
    assert (reading.frame_of(made.start), reading.frame_of(made.end)) == (start, end)
    assert bench.playhead.selection is None
    QTest.keyClick(film, Key.Key_F, SHIFT)
    assert line.whole
    QTest.keyClick(film, Key.Key_Plus, SHIFT)
    assert not line.whole
    film.grab()


def test_the_playhead_is_never_out_of_sight(taken: Window) -> None:
    line = taken.clips.playhead.timeline
    line.show(100, 200)
    taken.clips.playhead.move_to(3000)
    assert line.low <= 3000 <= line.high
    assert line.high - line.low < 200


def test_a_timeline_keeps_within_its_source() -> None:
    line = Timeline()
    line.reset(1000)
    for act in (lambda: line.zoom(0.1, 50), lambda: line.pan(-500), lambda: line.show(990, 999), lambda: line.pan(900),
                lambda: line.zoom(1e-9, 400), lambda: line.zoom(1e9, 400)):  # fmt: skip
        act()
        assert 0.0 <= line.low < line.high <= line.last
    assert line.whole
    for frame in (0, 400, 999):
        assert line.frame_at(line.x_of(frame, 900), 900) == frame
    line.reset(1)
    assert line.frame_at(line.x_of(0, 900), 900) == 0


def test_a_part_is_cleaned_and_seen_as_it_was(taken: Window) -> None:
    """By its fields and buttons; the curves and the stage show the source under it, and a step back takes it away."""
    bench, document = taken.clips, taken.document
    bench.show_card(2)
    card = bench.clean
    bench.playhead.move_to(500)
    assert card.result.text() == "Nothing is changed."
    assert bench._before() is None
    QTest.mouseClick(card.usual, LEFT_BUTTON)
    clip = document.build.clip("evening")
    assert clip is not None
    assert (clip.clean.trunk, clip.clean.arms, clip.clean.legs) == (8.0, 10.0, 8.0)
    reading, raw = bench.playhead.reading, document.derived.uncleaned("evening")
    assert reading is not None
    assert raw is not None
    shake = [float(np.abs(np.diff(r.joints[200:400], 3, axis=0)).mean()) for r in (raw, reading)]
    assert shake[1] < 0.2 * shake[0]
    assert bench._before() is not None
    assert len(bench.stage.view.scene.ghosts) > 0
    assert "Joints go" in card.result.text()
    QTest.mouseClick(card.feet, LEFT_BUTTON)
    QTest.mouseClick(card.stand, LEFT_BUTTON)
    clip = document.build.clip("evening")
    assert clip is not None
    assert clip.clean.feet
    assert clip.clean.floor != 0.0
    assert card.stand.isHidden(), "its feet stand at the figure's own height now"
    bench.curves.grab()
    for _ in range(3):
        document.undo()
    assert card.result.text() == "Nothing is changed."


def test_two_clips_are_held_against_each_other_and_cut_where_they_meet(taken: Window) -> None:
    bench, document = taken.clips, taken.document
    bench.take.look_for_moves()
    bench.take.take()
    names = [c.name for c in document.project.clips if c.name.startswith("evening_")]
    document.choose_clip(names[0])
    bench.show_card(4)
    card = bench.join
    card._choose(names[1])
    QTest.mouseClick(card.pair, LEFT_BUTTON)
    assert card.found_pair is not None
    here, there, far = card.found_pair
    assert bench.playhead.frame == here
    assert far < 0.2
    assert str(here) in card.pair.text()
    QTest.mouseClick(card.cut_there, LEFT_BUTTON)
    one, two = (document.build.clip(n) for n in names[:2])
    reading = bench.playhead.reading
    assert one is not None
    assert two is not None
    assert reading is not None
    assert reading.frame_of(one.end or 0.0) == here
    assert reading.frame_of(two.start) == there
    document.undo()
    assert [document.build.clip(n) for n in names[:2]] != [one, two]


def test_a_long_take_that_is_taken_back_under_the_playhead_leaves_it_on_a_frame_there_is(
    window: Window, tmp_path: Path, qtbot: QtBot
) -> None:
    short = len(window.document.project.clips)
    drop(window, write_bvh(tmp_path, long_take(seconds=30.0)[0], "night_watch.bvh"))
    bench = window.clips
    qtbot.waitUntil(lambda: bench.mapping.isVisible() or len(window.document.project.clips) > short, timeout=20_000)
    if bench.mapping.isVisible():
        bench.mapping.accept()
    qtbot.waitUntil(lambda: len(window.document.project.clips) > short, timeout=20_000)
    window.document.choose_clip("night_watch")
    bench.playhead.move_to(10**6)
    late = bench.playhead.frame
    while len(window.document.project.clips) > short:
        window.document.undo()
    reading = bench.playhead.reading
    assert bench.playhead.frame < late
    assert bench.playhead.frame <= (len(reading.times) - 1 if reading is not None else 0)
