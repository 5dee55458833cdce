"""From an empty folder and two captures of a rig nobody has seen to a blow that touches, by mouse and keys."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QFileDialog, QPushButton, QScrollArea, QWidget
from pytestqt.qtbot import QtBot
from tools.made.captures import blow, gait, leap, stagger, write_bvh

from tests.desk.conftest import Hand, arrived
from tests.desk.test_window import drop
from veergust.core.edit.spans import SpanRef
from veergust.core.files.folder import open_project
from veergust.core.files.saving import save_project
from veergust.core.model import Fighter, Project
from veergust.core.motion.skeleton import forward
from veergust.core.play.contact.contact import Contact
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.study.coverage import swing_of
from veergust.core.study.facts import facts
from veergust.desk.shell.window import Window
from veergust.desk.widgets.choose import Chooser
from veergust.desk.widgets.listed import AddField

Key = Qt.Key
CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
LEFT = Qt.MouseButton.LeftButton


class Person:
    """Who does things by mouse and keys, one after the other; how many there were is counted."""

    def __init__(self, window: Window) -> None:
        self.window = window
        self.inputs = 0

    def key(self, widget: QWidget, key: Any, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        self.inputs += 1
        QTest.keyClick(widget, key, modifier)
        QApplication.processEvents()

    def click(self, widget: QWidget, at: QPointF | None = None) -> None:
        self.inputs += 1
        where = at.toPoint() if at is not None else widget.rect().center()
        assert under_mouse(widget, where), f"{widget.accessibleName() or widget} is there, but cannot be clicked"
        QTest.mouseClick(widget, LEFT, pos=where)
        QApplication.processEvents()

    def press(self, words: str) -> None:
        """Click the button that says so."""
        there = self.window.findChildren(QPushButton)
        self.click(next(b for b in there if b.text().startswith(words) and b.isVisible()))

    def drop(self, path: Path) -> None:
        self.inputs += 1
        drop(self.window, path)

    def add(self, box: AddField, words: str) -> None:
        """Open a list to add from, and take an entry by the arrow keys."""
        self.key(box, Key.Key_Down)
        for _ in range(box.findText(words) - box.currentIndex()):
            self.key(box.view(), Key.Key_Down)
        self.key(box.view(), Key.Key_Return)

    def pick(self, box: QComboBox, words: str) -> None:
        """Take an entry of a list of choices by the arrow keys."""
        box.setFocus()
        if isinstance(box, AddField):
            self.add(box, words)
            return
        wanted = box.findText(words)
        assert wanted >= 0, [box.itemText(i) for i in range(box.count())]
        for _ in range(12):
            if box.currentIndex() == wanted:
                break
            self.key(box, Key.Key_Down if box.currentIndex() < wanted else Key.Key_Up)

    def walk_up_and_strike(self, ticks: int) -> tuple[int, list[tuple[int, Contact]]]:
        """On Spar, go up to the other until it stops one, strike with A, and let time run; the tick on which that was
        pressed, and every touch with its tick."""
        spar = self.window.spar
        spar.timer.setInterval(10**6)
        self.inputs += 1
        QTest.keyPress(spar, Key.Key_Right)
        while spar.session.record is None or not spar.session.record.fighters[0].blocked:
            spar.session.tick()
            assert spar.session.at < 300
        QTest.keyRelease(spar, Key.Key_Right)
        self.key(spar, Key.Key_A)
        pressed = spar.session.at + 1
        for _ in range(ticks):
            spar.session.tick()
        return pressed, [(r.tick, c) for r in spar.session.records for c in r.contacts]


def under_mouse(widget: QWidget, at: QPoint) -> bool:
    """Whether a click at a place of a widget comes to it: nothing lies over it. What is scrolled away is scrolled to."""
    parent = widget.parentWidget()
    while parent is not None and not parent.isWindow():
        if isinstance(parent, QScrollArea):
            QApplication.processEvents()
            parent.ensureWidgetVisible(widget)
            QApplication.processEvents()
        parent = parent.parentWidget()
    window = widget.window()
    hit = window.childAt(widget.mapTo(window, at))
    return widget is window or (hit is not None and (hit is widget or widget.isAncestorOf(hit)))


def types_into_choosers(person: Person, words: list[str], monkeypatch: pytest.MonkeyPatch) -> None:
    """Have the next of some words typed into each list to choose from, and taken."""

    def choose(dialog: Chooser) -> int:
        dialog.show()
        person.inputs += 2
        QTest.keyClicks(dialog.line, words.pop(0))
        QTest.keyClick(dialog, Key.Key_Return)
        return dialog.result()

    monkeypatch.setattr(Chooser, "exec", choose)


@pytest.fixture
def empty(untitled: Window, tmp_path: Path) -> Window:
    home = tmp_path / "harbour.veergust"
    save_project(Project(name="harbour"), home)
    untitled.open_project(home)
    return untitled


def test_every_bench_of_an_empty_project_says_what_to_do(empty: Window) -> None:
    for bench in ("Clips", "Sheet", "Spar"):
        empty.show_bench(bench)
        QApplication.processEvents()
    assert "Drop" in empty.spar.stage.view.scene.labels[0].text
    assert "light" not in empty.spar.keys_label.text()


def test_no_page_shows_anything_of_the_project_before(window: Window, tmp_path: Path) -> None:
    """On an empty project fields of clips are not there, rather than those of the clip that was open."""
    window.show_bench("Clips")
    window.document.choose_clip("staff_sweep")
    clips = window.clips
    for n in range(len(clips.pages.kinds)):
        clips.show_card(n)
        assert not clips.card.page.isHidden()
    empty = tmp_path / "empty.veergust"
    save_project(Project(name="empty"), empty)
    assert window.open_project(empty)
    for n in range(len(clips.pages.kinds)):
        clips.show_card(n)
        card = clips.card
        of_clips = card not in (clips.props, clips.pose, clips.body)
        assert card.page.isHidden() == of_clips, card.title
        assert card.nothing.isVisible() == of_clips, card.title


def test_a_figure_is_on_every_stage_before_there_is_an_action(empty: Window, tmp_path: Path) -> None:
    drop(empty, write_bvh(tmp_path, blow(), "night_blow.bvh"))
    empty.show_bench("Sheet")
    QApplication.processEvents()
    assert len(empty.sheet.stage.view.scene.bodies) == 1
    empty.show_bench("Spar")
    QApplication.processEvents()
    shown = empty.spar.stage.view.scene
    assert len(shown.bodies) == 2
    assert len(shown.posts) == 1
    project = empty.document.project
    assert [c.name for c in project.commands] == ["dodge", "jump", "guard", "heavy", "light"]
    assert {"light", "heavy"} <= set(empty.spar.keys_label.text().replace("·", " ").split())
    assert len(project.rig.hurtboxes) > 10
    # Both stand where they are said to, not where the capture was shot.
    for body, fighter in zip(shown.bodies, project.stage.fighters):
        hips = body.joints[empty.document.build.roots.hips, :3, 3]
        assert np.hypot(hips[0] - fighter.position[0], hips[2] - fighter.position[2]) < 0.1


def test_from_the_first_page_to_a_blow_that_touches(
    untitled: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The first hour: no file, two captures, and at the end a saved project with a touch; nothing is refused."""
    empty = untitled
    person = Person(empty)
    words: list[str] = []
    refused: list[str] = []
    empty.document.said.connect(lambda says, error: refused.append(says) if error else None)
    assert empty.is_first

    types_into_choosers(person, words, monkeypatch)
    document = empty.document
    files = [write_bvh(tmp_path, blow(), "night_blow.bvh"), write_bvh(tmp_path, stagger(), "night_stagger.bvh")]
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([str(f) for f in files], ""))
    person.inputs += 2
    person.click(empty.first.cards[0])
    arrived(empty)
    # Both are cut: in on a frame, out on another.
    person.key(empty, Key.Key_1, CONTROL)
    film = empty.clips.film
    for name, first, last in (("night_blow", 30, 150), ("night_stagger", 12, 100)):
        names = [c.name for c in document.project.clips]
        for _ in range(3):
            if document.clip != name:
                down = names.index(document.clip) < names.index(name)
                person.key(empty.clips.library, Key.Key_Down if down else Key.Key_Up)
        assert document.clip == name
        for frame, key in ((first, Key.Key_I), (last, Key.Key_O)):
            person.click(film, QPointF(film.x_of(frame), 12))
            person.key(film, key)
        clip = document.build.clip(name)
        assert clip is not None
        assert (clip.start, clip.end) == (pytest.approx(first / 120, abs=0.02), pytest.approx(last / 120, abs=0.02))
    # A blow of one, the reaction of the other.
    person.key(empty, Key.Key_3, CONTROL)
    for name in ("night_stagger", "night_blow"):
        words.append(name)
        person.key(empty, Key.Key_N, CONTROL | SHIFT)
    assert [a.name for a in document.project.actions] == ["Night stagger", "Night blow"]
    # A strike on the hand where it is fastest.
    hand = Hand(empty)
    column = empty.sheet.sheet.layout_.columns["strikes"][0] + 12
    way = swing_of(document.build).speed(document.build, document.compiled)  # type: ignore[arg-type]
    frame = int(np.argmax(way)) - 1
    at = hand.point(column, empty.sheet.sheet.layout_.y(frame) + 4)
    person.inputs += 1
    QTest.mouseDClick(empty.sheet.sheet.viewport(), LEFT, pos=at)
    QApplication.processEvents()
    strike = document.project.actions[1].sections[0].strikes[0]
    assert strike.boxes[0].mount == "right hand"
    assert document.selection == SpanRef("Night blow", 0, "strikes", 0)
    # It starts on light; the other answers any hit.
    person.press("Action")
    person.pick(empty.sheet.page_stack.action.commands.add, "light")
    at = empty.sheet.list.visualRect(empty.sheet.list.row_of("Night stagger")).center()
    person.click(empty.sheet.list.viewport(), QPointF(at))
    assert document.action == "Night stagger"
    person.pick(empty.sheet.page_stack.action.answers, "any hit")
    # On the stage: up to the other one, and strike.
    person.key(empty, Key.Key_6, CONTROL)
    pressed, touches = person.walk_up_and_strike(60)
    numbers = facts(document.build, "Night blow")
    assert numbers is not None
    assert numbers.startup is not None
    assert len(touches) == 1
    tick, touch = touches[0]
    assert (touch.victim, touch.result, touch.damage) == ("Other", "hit", strike.damage)
    assert pressed + numbers.startup <= tick < pressed + numbers.startup + numbers.active
    after = empty.spar.session.records[tick].fighter("Other")
    assert after.health == 100.0 - strike.damage
    assert [v.compiled.action.name for v in after.live()] == ["Night stagger"]
    assert str(tick) in empty.spar.news.text()
    # Saved where the person says, and the same when opened again.
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "mine.veergust"), ""))
    person.inputs += 2
    person.key(empty, Key.Key_S, CONTROL)
    assert not document.unsaved
    assert document.folder == tmp_path / "mine.veergust"
    assert open_project(document.folder) == document.project
    assert empty.windowTitle().startswith("mine")
    assert not refused
    assert person.inputs <= 60, person.inputs


@pytest.mark.pictured
def test_from_four_captures_to_somebody_who_is_driven_over_the_quay(
    empty: Window, tmp_path: Path, qtbot: QtBot
) -> None:
    person = Person(empty)
    shots = {
        "sway": blow(),
        "pace": gait(1.2, 1.1, 0.6),
        "rush": gait(4.0, 1.6, 0.33, high=0.84, lift=0.16, turned=-20.0),
        "aloft": leap(),
    }
    for name, taken in shots.items():
        person.drop(write_bvh(tmp_path, taken, f"{name}.bvh"))
    qtbot.waitUntil(lambda: len(empty.document.project.clips) == 5, timeout=20_000)
    person.key(empty, Key.Key_2, CONTROL)
    person.press("usual set…")
    ground = empty.ground
    assert {p: c for p, c in ground.usual_page.clips.items() if c} == {
        "idle": "stand", "walk": "pace", "run": "rush", "fall": "aloft",
    }  # fmt: skip
    person.click(ground.usual_page.make)
    document = empty.document
    assert not [f for f in document.derived.findings() if f.at.part == "locomotion" and f.level != "note"]
    assert all(s in ground.chart.layout_.tags for s in ("idle", "walk", "run", "fall"))
    live = ground.live
    person.press("▸ drive")
    seen: set[str] = set()

    def went(*wanted: str) -> bool:
        assert live.fighter is not None
        seen.update(v.state for v in live.fighter.locomotion)
        return set(wanted) <= seen

    QTest.keyPress(live, Key.Key_Up)
    qtbot.waitUntil(lambda: went("idle", "walk"), timeout=20_000)
    QTest.keyPress(live, Key.Key_Shift)
    qtbot.waitUntil(lambda: went("run"), timeout=20_000)
    jump = next(c for c in document.project.commands if c.name == document.project.locomotion.jump.command)
    QTest.keyClick(live, getattr(Key, f"Key_{jump.keys[0]}"))
    qtbot.waitUntil(lambda: went("fall"), timeout=20_000)
    QTest.keyRelease(live, Key.Key_Shift)
    QTest.keyRelease(live, Key.Key_Up)
    live.hold()
    person.key(empty, Key.Key_S, CONTROL)
    assert document.folder is not None
    assert open_project(document.folder) == document.project
    assert person.inputs < 12


def test_the_capture_stands_over_its_capsule_and_looks_ahead(empty: Window, tmp_path: Path) -> None:
    drop(empty, write_bvh(tmp_path, blow(), "night_blow.bvh"))
    pose = empty.document.derived.idle_pose()
    assert pose is not None
    bones = empty.document.build.assets.skeleton
    hips = forward(bones, pose.rotation, pose.translation)[0, empty.document.build.roots.hips]
    assert np.hypot(hips[0, 3], hips[2, 3]) < 0.02
    assert abs(np.degrees(np.arctan2(hips[0, 2], hips[2, 2]))) < 5.0


def test_from_two_captures_to_a_strike_that_is_fitted_and_answered(
    untitled: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A rig nobody has seen: hurtboxes in one step, a strike by fit, two reactions by side, a guard, and what is thrown."""
    empty, document = untitled, untitled.document
    person = Person(empty)
    words: list[str] = []

    types_into_choosers(person, words, monkeypatch)
    for file in (write_bvh(tmp_path, blow(), "night_blow.bvh"), write_bvh(tmp_path, stagger(), "night_stagger.bvh")):
        person.drop(file)
        arrived(empty)
    # Where the figure can be touched, by its bones: a capture has no skin.
    person.key(empty, Key.Key_1, CONTROL)
    person.press("Body")
    person.press("make from the figure")
    assert document.done[-1].words.endswith("hurtboxes from its joints")
    boxes = document.project.rig.hurtboxes
    assert {b.region for b in boxes} >= {"head", "arm", "leg", "trunk"}
    # An action of each; a strike where the hand is fastest, fitted to it.
    person.key(empty, Key.Key_3, CONTROL)
    for name in ("night_stagger", "night_blow"):
        words.append(name)
        person.key(empty, Key.Key_N, CONTROL | SHIFT)
    sheet = empty.sheet.sheet
    person.key(sheet, Key.Key_A)
    person.key(sheet, Key.Key_B)
    strike = document.project.actions[1].sections[0].strikes[0]
    assert {b.mount for b in strike.boxes} == {"right hand"}
    assert 0.02 < max(b.radius for b in strike.boxes) < 0.12
    found = facts(document.build, "Night blow")
    assert found is not None
    assert found.coverage is not None
    assert found.coverage >= 0.88
    assert found.reach is not None
    # Who answers: from before and from behind, on the dial.
    person.press("Reactions")
    dial = empty.sheet.page_stack.reactions.dial
    for side in ("front", "back"):
        person.click(dial, dial.middle_of(side, "light"))
        person.pick(empty.sheet.page_stack.reactions.action_field, "Night stagger")
    assert [(r.side, r.strength, r.action) for r in document.project.reactions] == [
        (side, "light", "Night stagger") for side in ("front", "back")
    ]
    # A guard, over the whole of an action of its own, which only stands.
    words.append("stand")
    person.key(empty, Key.Key_N, CONTROL | SHIFT)
    guard = document.action
    sheet.column = "shields"
    sheet.setFocus()
    person.key(sheet, Key.Key_N, Qt.KeyboardModifier.AltModifier)
    empty.sheet.show_page(1)
    person.inputs += 1
    span = empty.sheet.page_stack.span
    person.pick(span.widgets["kind"], "guard")
    # And something that the same hand throws.
    document.choose_action("Night blow")
    sheet.column = "events"
    sheet.setFocus()
    person.inputs += 1
    person.key(sheet, Key.Key_N)
    person.pick(span.widgets["kind"], "spawn")
    person.pick(span.widgets["mount"], "right hand")
    person.press("let it fly")
    [thing] = document.project.thrown
    assert person.inputs <= 80, person.inputs
    bare = document.build.renew(replace(document.project, thrown=()))
    # Played: whoever stands at nine tenths of its reach is hit and reels, from behind too; guarding it is guarded.
    for turned, plays, result in ((180.0, "", "hit"), (0.0, "", "hit"), (180.0, guard, "guarded")):
        me, you = Fighter(name="Me", facing=0.0), Fighter(name="You", position=(0, 0, 0.9 * found.reach), facing=turned)
        simulation = Simulation(bare, fighters=(me, you))
        inputs = [Input("Me", action="Night blow"), *([Input("You", action=plays)] if plays else [])]
        seen: list[tuple[str, str]] = []
        reels = False
        for tick in range(found.total or 0):
            record = simulation.tick(inputs if tick == 0 else [])
            seen += [(c.result, c.region) for c in record.contacts if not c.thing]
            reels |= any(v.compiled.action.name == "Night stagger" for v in record.fighter("You").live())
        assert [r for r, _ in seen] == [result], (turned, plays)
        assert seen[0][1]
        assert reels == (result == "hit")
    far = Fighter(name="Far", position=(0, 0, found.reach + 1.0), facing=180.0)
    simulation = Simulation(document.build, fighters=(Fighter(name="Me", facing=0.0), far))
    records = [simulation.tick([Input("Me", action="Night blow")] if t == 0 else []) for t in range(120)]
    assert [(c.strike.name, c.result) for r in records for c in r.contacts] == [(thing.name, "hit")]
