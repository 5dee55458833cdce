"""Gamepads in the real window, by a simulated pad that goes through the library as a plugged one does."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QPushButton

from tests.conftest import OSSA, TARN
from tests.desk.conftest import pick, until
from veergust.core.edit.spans import Edit
from veergust.core.edit.staging import set_fighter
from veergust.core.model import Command
from veergust.desk.pads.pads import Pads, shared_pads
from veergust.desk.pads.simulated import SimulatedPad
from veergust.desk.shell.window import Window
from veergust.desk.spar.bench import SparBench

LEFT, RIGHT = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton


@pytest.fixture
def spar(window: Window) -> SparBench:
    window.show_bench("Spar")
    window.spar.hold()
    until(lambda: shared_pads().sdl is not None)
    return window.spar


@pytest.fixture
def pads(spar: SparBench) -> Pads:
    return shared_pads()


@pytest.fixture
def pad(pads: Pads) -> Iterator[SimulatedPad]:
    made = SimulatedPad(pads)
    assert made.plug()
    pads.poll()
    yield made
    made.unplug()
    pads.poll()


def do(pads: Pads, pad: SimulatedPad, button: str) -> None:
    """Press and let go."""
    for down in (True, False):
        pad.press(button, down)
        pads.poll()


def acts(spar: SparBench, who: str = OSSA) -> list[str]:
    record = spar.session.record
    assert record is not None
    return [v.compiled.action.name for v in record.fighter(who).live()]


def command(window: Window, name: str) -> Command:
    return next(c for c in window.document.project.commands if c.name == name)


def bind(spar: SparBench, pads: Pads, pad: SimulatedPad, name: str, button: str) -> None:
    page = spar.commands
    pick(page.which, name)
    page.key.setFocus()
    assert pads.taken
    do(pads, pad, button)
    spar.setFocus()
    assert not pads.taken


def ticks(spar: SparBench, count: int) -> None:
    spar.hold()
    for _ in range(count):
        spar.tick(shown=False)
    spar.session.moved.emit()


def free(window: Window) -> None:
    """No command on any button of a pad."""
    project = window.document.base
    commands = tuple(replace(c, keys=tuple(k for k in c.keys if not k.startswith("pad "))) for c in project.commands)
    window.document.apply(Edit(replace(project, commands=commands), "free"))


def test_bind_play_a_string_unplug_plug_in_play_on(
    spar: SparBench, window: Window, pads: Pads, pad: SimulatedPad
) -> None:
    free(window)
    QTest.mouseClick(spar.commands_button, LEFT)
    bind(spar, pads, pad, "light", "west")
    bind(spar, pads, pad, "guard", "right trigger")
    assert "pad west" in command(window, "light").keys
    assert "pad right trigger" in command(window, "guard").keys
    # Bound already: said, and taken over only when that is asked for.
    bind(spar, pads, pad, "heavy", "west")
    assert spar.commands.told.text() == "pad west is the key of light."
    assert "pad west" not in command(window, "heavy").keys
    assert not spar.running, "what is pressed to be bound is not played"
    spar.commands.choose("light")
    spar.session.restart()
    do(pads, pad, "west")
    assert spar.running
    ticks(spar, 19)
    assert acts(spar) == ["Low sweep"]
    do(pads, pad, "west")
    ticks(spar, 14)
    assert acts(spar) == ["Thrust"]
    # In the middle of it, with a trigger and the stick held: all is let go of, and nothing goes on by itself.
    pad.press("right trigger")
    pad.move(1.0, 0.0)
    pads.poll()
    ticks(spar, 2)
    record = spar.session.record
    assert record is not None
    assert record.fighter(OSSA).stick == (1.0, 0.0)
    assert spar.driver.first.held == {"guard"}
    pad.unplug()
    pads.poll()
    assert pads.there == []
    assert spar.driver.first.held == set()
    ticks(spar, 90)
    record = spar.session.record
    assert record is not None
    assert record.fighter(OSSA).stick == (0.0, 0.0)
    at = record.fighter(OSSA).position.tolist()
    ticks(spar, 30)
    record = spar.session.record
    assert record is not None
    assert record.fighter(OSSA).position.tolist() == pytest.approx(at, abs=1e-6)
    assert pad.plug()
    pads.poll()
    do(pads, pad, "west")
    ticks(spar, 4)
    assert acts(spar) == ["Low sweep"]


def test_the_stick_has_a_dead_zone_a_curve_and_its_own_way(
    spar: SparBench, window: Window, pads: Pads, pad: SimulatedPad
) -> None:
    pads.dead, pads.curve = 0.2, 2.0

    def stick(x: float, y: float) -> tuple[float, float]:
        pad.move(x, y)
        pads.poll()
        ticks(spar, 1)
        record = spar.session.record
        assert record is not None
        return record.fighter(OSSA).stick

    assert stick(0.15, -0.1) == (0.0, 0.0)
    x, z = stick(0.6, 0.0)
    assert (x, z) == (pytest.approx(0.25, abs=1e-3), 0.0)
    x, z = stick(0.6, -0.8)
    assert (x, z) == (pytest.approx(0.6, abs=1e-3), pytest.approx(-0.8, abs=1e-3))
    QTest.mouseClick(spar.commands_button, LEFT)
    spar.commands.which_pads.curve.setValue(1.0)
    assert stick(0.0, 0.6)[1] == pytest.approx(0.5, abs=1e-3)
    again = Pads()
    again.use(window.settings)
    assert (again.dead, again.curve) == (0.2, 1.0)
    assert stick(0.0, 0.0) == (0.0, 0.0)
    # The four buttons of a cross are a stick as well.
    pad.press("left")
    pads.poll()
    ticks(spar, 1)
    record = spar.session.record
    assert record is not None
    assert record.fighter(OSSA).stick == (-1.0, 0.0)
    pad.press("left", False)
    pads.poll()


def test_a_second_player_has_a_pad_or_keys_of_their_own(
    spar: SparBench, window: Window, pads: Pads, pad: SimulatedPad
) -> None:
    free(window)
    document = window.document
    QTest.mouseClick(spar.commands_button, LEFT)
    bind(spar, pads, pad, "light", "west")
    document.apply(set_fighter(document.base, TARN, plays="second"))
    page = spar.commands
    pick(page.player, "the second player")
    page.key.setFocus()
    QTest.keyClick(page.key, Qt.Key.Key_M)
    assert command(window, "light").second == ("M",)
    page.key.setFocus()
    QTest.keyClick(page.key, Qt.Key.Key_A)
    assert page.told.text() == "A is the key of light."
    assert command(window, "light").second == ("M",)
    assert "Tarn" in page.which_pads.words.text()
    spar.setFocus()
    do(pads, pad, "west")  # one pad: the second player's, for the first has the keys
    ticks(spar, 3)
    assert (acts(spar), acts(spar, TARN)) == ([], ["Low sweep"])
    ticks(spar, 90)
    QTest.keyClick(spar, Qt.Key.Key_M)
    ticks(spar, 3)
    assert acts(spar, TARN) == ["Low sweep"]
    other = SimulatedPad(pads)
    other.plug()
    pads.poll()
    ticks(spar, 120)
    do(pads, pad, "west")  # two pads: the first is the first player's
    ticks(spar, 3)
    assert (acts(spar), acts(spar, TARN)) == (["Low sweep"], [])
    ticks(spar, 120)
    do(pads, other, "west")
    ticks(spar, 3)
    assert acts(spar, TARN) == ["Low sweep"]
    other.unplug()
    pads.poll()
    QTest.keyClick(spar, Qt.Key.Key_8, Qt.KeyboardModifier.KeypadModifier)
    assert spar.driver.second.down == {}


def test_a_button_of_the_mouse_is_bound_and_leaves_the_camera_alone(spar: SparBench, window: Window) -> None:
    QTest.mouseClick(spar.commands_button, LEFT)
    page, view = spar.commands, spar.stage.view
    pick(page.which, "heavy")
    page.key.setFocus()
    QTest.mouseClick(page.key.findChildren(QLineEdit)[0], RIGHT)
    assert "mouse right" in command(window, "heavy").keys
    camera = view.camera
    QTest.mousePress(view, RIGHT, pos=QPoint(90, 90))
    assert spar.driver.first.held == {"heavy"}
    QTest.mouseRelease(view, RIGHT, pos=QPoint(140, 90))
    assert spar.driver.first.held == set()
    ticks(spar, 2)
    assert acts(spar) == ["Overhead hook"]
    assert view.camera == camera


def test_a_pad_on_the_screen_is_plugged_in_by_a_switch_and_played_by_mouse(
    spar: SparBench, window: Window, pads: Pads
) -> None:
    QTest.mouseClick(spar.commands_button, LEFT)
    card = spar.commands.which_pads
    QApplication.processEvents()
    assert card.words.text() == "None is plugged in."
    QTest.mouseClick(card.plug, LEFT)
    pads.poll()
    QApplication.processEvents()
    assert card.on_screen.isVisible()
    assert "Ossa Renn" in card.words.text()
    stick = card.on_screen.stick
    QTest.mousePress(stick, LEFT, pos=QPoint(stick.width() - 2, stick.height() // 2))
    pads.poll()
    ticks(spar, 2)
    record = spar.session.record
    assert record is not None
    assert record.fighter(OSSA).stick[0] == pytest.approx(1.0, abs=0.01)
    QTest.mouseRelease(stick, LEFT)
    pads.poll()
    ticks(spar, 1)
    record = spar.session.record
    assert record is not None
    assert record.fighter(OSSA).stick == (0.0, 0.0)
    button: QPushButton = card.on_screen.buttons["west"]
    QTest.mousePress(button, LEFT)
    pads.poll()
    assert [p.held for p in pads.there] == [{"west"}]
    QTest.mouseRelease(button, LEFT)
    QTest.mouseClick(card.plug, LEFT)
    pads.poll()
    assert pads.there == []


def test_pads_are_heard_only_where_they_drive(window: Window, spar: SparBench, pads: Pads, pad: SimulatedPad) -> None:
    before = len(spar.session.records)
    window.show_bench("Sheet")
    QApplication.processEvents()
    do(pads, pad, "west")
    assert not spar.running
    assert len(spar.session.records) == before
