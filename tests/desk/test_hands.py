"""For everybody's hands and eyes: where the keys are is seen, targets are large enough, keys mean the same in any
alphabet, and the system's colours are followed."""

from __future__ import annotations

import ctypes
import shutil
import subprocess
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, QRect, QSettings, Qt
from PySide6.QtGui import QGuiApplication, QKeyEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from tests.desk.conftest import STRIKE, Hand, focused, let_go, turn_wheel, until
from veergust.desk.app import make_window
from veergust.desk.keys.pressing import pressed
from veergust.desk.sheet.view import FOLDS
from veergust.desk.shell.window import Window
from veergust.desk.stage.view import StageView
from veergust.desk.widgets.focus_ring import FocusRing

Key = Qt.Key
LEFT = Qt.MouseButton.LeftButton
BENCHES = ["Clips", "Ground", "Sheet", "Layers", "Spar"]


def ring() -> FocusRing:
    app = QApplication.instance()
    assert app is not None
    found = app.findChild(FocusRing)
    assert found is not None
    return found


@pytest.fixture(autouse=True)
def by_keys(qapp: QApplication) -> None:
    """Keys that a test sends to a widget are not heard of by its window."""
    ring().by_keys = True


def place(widget: QWidget, window: QWidget) -> QRect:
    return QRect(widget.mapTo(window, QPoint(0, 0)), widget.size())


@pytest.mark.parametrize("bench", BENCHES)
def test_a_ring_is_seen_around_whatever_tab_leads_to(window: Window, bench: str) -> None:
    window.show_bench(bench)
    QApplication.processEvents()
    seen: list[QWidget] = []
    if bench == "Sheet":  # where Tab goes from span to span
        window.sheet.list.setFocus()
    for _ in range(60):
        before = QApplication.focusWidget()
        assert before is not None
        QTest.keyClick(before, Key.Key_Tab)
        now = QApplication.focusWidget()
        assert now is not None
        if now is before:
            break  # a canvas that goes from span to span by it
        if now.visibleRegion().isEmpty():
            continue
        seen.append(now)
        assert ring().around is now
        assert ring().is_shown, now
        edges = [place(edge, window) for edge in ring().edges]
        bounds = edges[0]
        for edge in edges[1:]:
            bounds = bounds.united(edge)
        inner = now.visibleRegion().boundingRect().translated(now.mapTo(window, QPoint(0, 0)))
        assert bounds == inner.adjusted(-2, -2, 2, 2).intersected(window.rect()), now
        assert all(min(e.width(), e.height()) == 2 for e in edges)
    assert seen, "there is something to go to by Tab"


def test_the_ring_goes_with_its_widget_and_not_after_the_mouse(window: Window) -> None:
    window.show_bench("Sheet")
    window.sheet.show_page(3)
    field = window.sheet.page_stack.action.speed
    field.setFocus(Qt.FocusReason.TabFocusReason)
    assert ring().is_shown
    before = [edge.geometry() for edge in ring().edges]
    window.resize(1400, 860)
    QApplication.processEvents()
    assert [edge.geometry() for edge in ring().edges] != before
    assert place(field, window).adjusted(-2, -2, 2, 2).contains(ring().edges[0].geometry().center())
    QTest.mousePress(window.sheet.list.viewport(), LEFT, pos=QPoint(40, 60))
    assert QApplication.focusWidget() is window.sheet.list
    assert not ring().is_shown
    QTest.mouseRelease(window.sheet.list.viewport(), LEFT, pos=QPoint(40, 60))


@pytest.mark.parametrize("bench", BENCHES)
def test_every_word_that_is_pressed_is_large_enough(window: Window, bench: str) -> None:
    """At least 24 points high and wide, or with as much room around it (WCAG 2.2, 2.5.8)."""
    window.show_bench(bench)
    QApplication.processEvents()
    small = [
        (b.text(), b.width(), b.height())
        for b in window.findChildren(QPushButton)
        if b.isVisible() and b.text() and b.height() < 24
    ]
    assert not small


# Keys in any alphabet


@pytest.mark.parametrize(
    ("key", "scan", "text", "means"),
    [
        (0x041D, 57, "н", "N"),  # Cyrillic, on the place of N
        (0x041D, 29, "н", "Y"),  # and where a Russian layout has it
        (0x03A6, 41, "φ", "F"),  # Greek
        (Key.Key_N, 57, "n", "N"),
        (Key.Key_Z, 29, "z", "Z"),  # a Latin layout of another order keeps its letters
        (0x044D, 48, "э", "'"),
    ],
)
def test_a_letter_of_another_alphabet_is_the_key_of_its_place(key: int, scan: int, text: str, means: str) -> None:
    none = Qt.KeyboardModifier.NoModifier
    assert pressed(QKeyEvent(QEvent.Type.KeyPress, key, none, scan, 0, 0, text)) == means
    held = Qt.KeyboardModifier.ShiftModifier
    if means.isalpha():
        event = QKeyEvent(QEvent.Type.KeyPress, key, held, scan, 0, 0, text.upper())
        assert pressed(event) == f"Shift+{means}"


def test_the_sheet_and_the_fighter_answer_in_cyrillic(window: Window) -> None:
    window.show_bench("Sheet")
    sheet = window.sheet.sheet
    sheet.setFocus()
    sheet.column = "holds"
    none = Qt.KeyboardModifier.NoModifier
    before = window.document.project
    QApplication.sendEvent(sheet, QKeyEvent(QEvent.Type.KeyPress, 0x0422, none, 57, 0, 0, "т"))
    assert window.document.project != before, "N puts a span there"
    window.show_bench("Spar")
    key = next(c.keys[0] for c in window.document.project.commands if c.name == "light")
    scan = {"A": 38}[key]
    QApplication.sendEvent(window.spar, QKeyEvent(QEvent.Type.KeyPress, 0x0424, none, scan, 0, 0, "ф"))
    assert window.spar.driver.first.held == {"light"}
    QApplication.sendEvent(window.spar, QKeyEvent(QEvent.Type.KeyRelease, 0x0424, none, scan, 0, 0, "ф"))
    assert window.spar.driver.first.held == set()
    window.spar.hold()


# The system


def test_the_systems_colours_are_followed_until_somebody_says_otherwise(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    now = ["night"]
    monkeypatch.setattr("veergust.desk.shell.window.system_theme", lambda: now[0])

    def turns(to: str) -> None:
        now[0] = to
        QGuiApplication.styleHints().colorSchemeChanged.emit(Qt.ColorScheme.Unknown)

    made = make_window(QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(made, before_close_func=let_go)
    assert made.theme.look.name == "night"
    turns("day")
    assert made.theme.look.name == "day"
    made.turn_theme()
    assert made.theme.look.name == "night"
    turns("night")
    turns("day")
    assert made.theme.look.name == "night", "the person has said which"
    again = make_window(QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(again, before_close_func=let_go)
    assert again.theme.look.name == "night"


# A real keyboard


@pytest.fixture
def layout() -> Iterator[Callable[[str], None]]:
    """Sets the layout of the X server's keyboard."""
    if shutil.which("setxkbmap") is None:
        pytest.skip("setxkbmap is not there (x11-xkb-utils)")

    def use(name: str) -> None:
        subprocess.run(["setxkbmap", "-layout", name], check=True)

    yield use
    use("us")


def strike(code: int) -> None:
    """A key of the X server goes down and up, by its place (XTEST)."""
    try:
        x11, test = ctypes.CDLL("libX11.so.6"), ctypes.CDLL("libXtst.so.6")
    except OSError:
        pytest.skip("XTEST is not there (libxtst6)")
    x11.XOpenDisplay.restype = ctypes.c_void_p
    display = ctypes.c_void_p(x11.XOpenDisplay(None))
    for down in (1, 0):
        test.XTestFakeKeyEvent(display, code, down, 0)
    x11.XSync(display, 0)
    x11.XCloseDisplay(display)


def test_the_ring_comes_with_a_real_key_and_not_before(window: Window) -> None:
    ring().by_keys = False
    window.show_bench("Spar")
    window.show_bench("Sheet")
    window.sheet.list.setFocus()
    assert not ring().is_shown
    strike(23)  # Tab
    until(lambda: ring().is_shown)
    assert ring().around is QApplication.focusWidget()


@pytest.mark.parametrize("name", ["us", "ru", "gr"])
def test_keys_of_the_sheet_are_answered_by_a_real_keyboard_in_any_alphabet(
    window: Window, layout: Callable[[str], None], name: str
) -> None:
    layout(name)
    window.show_bench("Sheet")
    sheet = window.sheet.sheet
    sheet.setFocus()
    sheet.column = "holds"
    window.document.move_to(3)
    QTest.qWait(100)
    before = window.document.project
    strike(57)  # N: put a span here
    until(lambda: window.document.project != before)
    strike(46)  # L: play
    until(lambda: window.sheet.playing)
    strike(45)  # K: stop
    until(lambda: not window.sheet.playing)


# Everything by keys


@pytest.mark.parametrize("bench", BENCHES)
def test_a_stage_that_tab_leads_to_is_turned_and_moved_by_keys(window: Window, bench: str) -> None:
    window.show_bench(bench)
    QApplication.processEvents()
    stage = next(s for s in window.bench_of(bench).findChildren(StageView) if s.isVisible())
    stage.setFocus(Qt.FocusReason.TabFocusReason)
    before = stage.camera
    QTest.keyClick(stage, Key.Key_Left)
    QTest.keyClick(stage, Key.Key_Up)
    assert stage.camera.yaw > before.yaw
    assert stage.camera.pitch > before.pitch
    QTest.keyClick(stage, Key.Key_Plus)
    assert stage.camera.distance < before.distance
    QTest.keyClick(stage, Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert stage.camera.target != before.target
    QTest.keyClick(stage, Key.Key_3)
    assert stage.camera.pitch == 89.0


def test_who_clicks_on_the_stage_of_spar_goes_on_walking(window: Window) -> None:
    window.show_bench("Spar")
    stage = window.spar.stage.view
    QTest.mouseClick(stage, LEFT)
    before = stage.camera
    QTest.keyPress(focused(), Key.Key_Right)
    assert stage.camera == before
    assert Key.Key_Right in window.spar.driver.first.down
    QTest.keyRelease(focused(), Key.Key_Right)
    window.spar.hold()


def test_the_take_is_scrubbed_by_keys(window: Window) -> None:
    window.show_bench("Spar")
    spar = window.spar
    spar.hold()
    for _ in range(200):
        spar.session.tick()
    strip = spar.strip
    strip.setFocus(Qt.FocusReason.TabFocusReason)
    for key, at in (
        (Key.Key_Home, 0), (Key.Key_Right, 1), (Key.Key_PageDown, 61), (Key.Key_Left, 60), (Key.Key_PageUp, 0),
    ):  # fmt: skip
        QTest.keyClick(strip, key)
        assert spar.session.at == at
    QTest.keyClick(strip, Key.Key_End)
    assert spar.session.at == len(spar.session.records) - 1


def test_a_part_of_the_film_is_chosen_by_keys(window: Window) -> None:
    window.show_bench("Clips")
    window.document.choose_clip("staff_sweep")
    film, head = window.clips.film, window.clips.playhead
    film.setFocus()
    head.move_to(12)
    QTest.keyClick(film, Key.Key_BracketLeft)
    head.move_to(33)
    QTest.keyClick(film, Key.Key_BracketRight)
    assert head.selection == (12, 33)
    before = window.document.project.clips
    QTest.keyClick(film, Key.Key_N)
    (made,) = [c for c in window.document.project.clips if c not in before]
    assert made.end is not None
    assert 0.0 < made.start < made.end


@pytest.mark.parametrize(("parts", "folds"), [((-120,), 1), ((-3,) * 40, 1), ((-3,) * 39, 0), ((-3,) * 80, 2)])
def test_fine_scrolling_folds_a_step_where_a_wheel_does(window: Window, parts: tuple[int, ...], folds: int) -> None:
    window.show_bench("Sheet")
    sheet = window.sheet.sheet
    before = FOLDS.index(sheet.fold)
    for part in parts:
        at = QPointF(sheet.viewport().rect().center())
        turn_wheel(sheet.viewport(), at, part, Qt.KeyboardModifier.ControlModifier)
    assert FOLDS.index(sheet.fold) == before + folds


def test_fine_scrolling_goes_by_pixels(window: Window) -> None:
    window.show_bench("Sheet")
    window.document.choose_action("Braced charge")
    QApplication.processEvents()
    sheet = window.sheet.sheet
    bar = sheet.verticalScrollBar()
    assert bar.maximum() > 50
    before = bar.value()
    turn_wheel(sheet.viewport(), QPointF(sheet.viewport().rect().center()), -14, pixels=-7)
    assert bar.value() == before + 7


def test_to_look_at_another_frame_is_not_to_let_go_of_a_span(window: Window, hand: Hand) -> None:
    window.document.select(STRIKE)
    left, _ = hand.sheet.layout_.columns["frame"]
    at = QPointF(left + 20, hand.sheet.layout_.y(5) + 4)
    hand.press(at)
    hand.release(at)
    assert window.document.frame == 5
    assert window.document.selection == STRIKE
