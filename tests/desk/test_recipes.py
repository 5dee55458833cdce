"""Every recipe of docs/guide.md, done by mouse and keys as it stands there, its inputs counted."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from shutil import copytree
from typing import Any

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QWidget
from tools.made import DEMO
from tools.made.edits import replace

from tests.conftest import TARN
from tests.desk.conftest import arrived, until
from tests.desk.test_drawn import bare_sheet, drag
from tests.desk.test_from_nothing import Person
from tests.desk.test_safe import in_dialog
from veergust.core.edit.actions import new_action
from veergust.core.edit.spans import Edit, SpanRef, span_of
from veergust.core.model import Action, Project
from veergust.core.study.findings import findings
from veergust.desk.sheet.new_command import NEW, NewCommand
from veergust.desk.sheet.together import Together
from veergust.desk.shell.window import Window
from veergust.desk.widgets.choose import Chooser
from veergust.desk.widgets.listed import AddField

Key = Qt.Key
CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
NONE = Qt.KeyboardModifier.NoModifier
LEFT = Qt.MouseButton.LeftButton
GUIDE = Path(__file__).resolve().parents[2] / "docs" / "guide.md"
PAPER = DEMO.parent / "paper_theatre.veergust"
MOST = {
    "A string of three from three clips": 20,
    "Four variants on one key": 12,
    "A held loop": 25,
    "A slide that falls": 35,
    "A throw on the run": 12,
}
"""What is promised of some."""


def recipes() -> dict[str, tuple[int, list[str]]]:
    """Of each recipe of the guide, how many inputs it says it takes, and its steps."""
    out = {}
    for part in GUIDE.read_text().split("\n## ")[1:]:
        title, _, rest = part.partition("\n")
        told = re.search(r"^\*(\d+) inputs\*$", rest, re.M)
        assert told is not None, title
        out[title] = int(told[1]), re.findall(r"^\d+\. (.*(?:\n   .*)*)", rest, re.M)
    return out


class Reader(Person):
    """Who goes by a recipe, step by step."""

    def __init__(self, window: Window, title: str) -> None:
        super().__init__(window)
        self.title = title
        self.told, self.steps = recipes()[title]
        self.at = -1

    def step(self, number: int, *words: str) -> None:
        """Read a step; it has these words."""
        assert number == self.at + 2, "one step after the other"
        self.at += 1
        for word in words:
            assert word in self.steps[self.at], (word, self.steps[self.at])

    def done(self) -> None:
        """All was read, and it took no more than is said."""
        assert self.at == len(self.steps) - 1, "there are more steps"
        assert self.inputs == self.told, f"{self.title} takes {self.inputs} inputs"
        assert self.inputs <= MOST.get(self.title, 99)

    # Ways to do things

    @property
    def action(self) -> Action:
        compiled = self.window.document.compiled
        assert compiled is not None
        return compiled.action

    def new(self, *clips: str) -> None:
        """New actions of clips, by typing one or clicking several."""

        def choose(dialog: Chooser) -> None:
            if len(clips) == 1:
                self.inputs += 2
                QTest.keyClicks(dialog.line, clips[0])
                QTest.keyClick(dialog, Key.Key_Return)
                return
            for clip in clips:
                self.inputs += 1
                at = dialog.shown.index(dialog.names.index(clip), 0)
                dialog.list.scrollTo(at)
                QTest.mouseClick(dialog.list.viewport(), LEFT, CONTROL, dialog.list.visualRect(at).center())
            assert dialog.all_chosen() == sorted(clips, key=dialog.names.index)
            self.inputs += 1
            QTest.keyClick(dialog, Key.Key_Return)

        in_next(Chooser, choose)
        self.key(self.window, Key.Key_N, CONTROL | SHIFT)

    def page(self, words: str) -> Any:
        """A page of the Sheet, by its word."""
        self.press(words)
        return self.window.sheet.page_stack.currentWidget()

    def choose(self, box: QComboBox, words: str) -> None:
        """Choose from a list as it drops down."""
        self.inputs += 2
        wanted = box.findText(words)
        assert wanted >= 0, [box.itemText(i) for i in range(box.count())]
        box.setFocus()
        if isinstance(box, AddField):
            QTest.keyClick(box, Key.Key_Down)
        else:
            box.showPopup()
        view = box.view()
        view.setCurrentIndex(box.model().index(wanted, box.modelColumn()))
        QTest.keyClick(view, Key.Key_Return)
        QApplication.processEvents()

    def frame(self, frame: int, column: str = "") -> None:
        """Click a frame of the sheet, in the column of the frames or another."""
        sheet = self.window.sheet.sheet
        sheet.verticalScrollBar().setValue(max(0, int(sheet.layout_.y(frame)) - 200))
        left, width = sheet.layout_.columns[column or "frame"]
        at = sheet.widget_point(left + width / 2, sheet.layout_.y(frame) + sheet.layout_.pitch / 2)
        self.click(sheet.viewport(), QPointF(at))

    def on_sheet(self, key: Key, held: Qt.KeyboardModifier = NONE) -> None:
        self.key(self.window.sheet.sheet, key, held)

    def type(self, widget: QWidget, text: str) -> None:
        """Type something and settle it."""
        self.inputs += 2
        QTest.keyClicks(widget, text)
        QTest.keyClick(widget, Key.Key_Return)
        QApplication.processEvents()


def in_next(kind: type, act: Any) -> None:
    """Do something in the next dialog of a kind."""
    in_dialog(kind, act)


def none_yet(project: Project) -> Project:
    """The demo before there is any action."""
    fighters = tuple(replace(f, answer="", plays="keys" if n == 0 else "stands") for n, f in
                     enumerate(project.stage.fighters))  # fmt: skip
    return replace(project, actions=(), reactions=(), pools=(), drills=(),
                   stage=replace(project.stage, fighters=fighters))  # fmt: skip


@pytest.fixture
def bare(window: Window) -> Iterator[Window]:
    """A project with clips, somebody who walks, and no action."""
    document = window.document
    states = tuple(replace(s, action="") for s in document.project.locomotion.states)
    project = none_yet(document.project)
    project = replace(project, locomotion=replace(project.locomotion, states=states))
    document.apply(Edit(project, "none yet"))
    window.show_bench("Sheet")
    yield window
    if "Spar" in window._made:
        window.spar.hold()


def played(window: Window, ticks: int) -> set[str]:
    """What the fighter plays within so many ticks on Spar."""
    spar = window.spar
    spar.timer.setInterval(10**6)
    out: set[str] = set()
    for _ in range(ticks):
        spar.session.tick()
        record = spar.session.record
        assert record is not None
        out |= {v.compiled.action.name for v in record.fighters[0].live()}
    return out


def test_every_recipe_is_done_here() -> None:
    done = re.findall(r'Reader\(\w+, "([^"]+)"\)', Path(__file__).read_text())
    assert sorted(done) == sorted(recipes())


def test_an_attack_of_a_clip(bare: Window) -> None:
    reader = Reader(bare, "An attack of a clip")
    reader.step(1, "Ctrl+Shift+N", "Return")
    reader.new("staff_jab")
    reader.step(2, "**A**")
    reader.on_sheet(Key.Key_A)
    assert len(reader.action.sections[0].strikes) == 1
    reader.step(3, "**Action**", "**Starts on**")
    reader.choose(reader.page("Action").commands.add, "light")
    reader.step(4, "**Ctrl+6**")
    reader.key(bare, Key.Key_6, CONTROL)
    light = next(c.keys[0] for c in bare.document.project.commands if c.name == "light")
    reader.key(bare.spar, getattr(Key, f"Key_{light}"))
    assert played(bare, 5) == {"Staff jab"}
    reader.done()


def test_a_string_of_three(bare: Window) -> None:
    reader = Reader(bare, "A string of three from three clips")
    reader.step(1, "**Ctrl+Shift+N**", "Ctrl+click")
    reader.new("staff_sweep", "staff_thrust", "overhead")
    names = [a.name for a in bare.document.project.actions]
    assert len(names) == 3
    reader.step(2, "**A**", "**Down**")
    reader.on_sheet(Key.Key_A)
    for _ in range(2):
        reader.key(bare.sheet.list, Key.Key_Down)
        reader.on_sheet(Key.Key_A)
    assert [len(a.sections[0].strikes) for a in bare.document.project.actions] == [1, 1, 1]
    reader.step(3, "first", "**Ctrl+Shift+G**", "Return")
    reader.key(bare.sheet.list, Key.Key_Home)
    reader.inputs += 1
    in_next(Together, lambda dialog: QTest.keyClick(dialog.list, Key.Key_Return))
    reader.key(bare, Key.Key_G, CONTROL | SHIFT)
    led = {a.name: [e.to for s in a.sections for e in s.exits] for a in bare.document.project.actions}
    assert led == {names[0]: [names[1]], names[1]: [names[2]], names[2]: []}
    reader.done()


def test_four_variants(bare: Window) -> None:
    reader = Reader(bare, "Four variants on one key")
    reader.step(1, "Ctrl+click four")
    reader.new("hit_front", "hit_back", "hit_left", "hit_right")

    def choose(dialog: Together) -> None:
        reader.inputs += 1
        rect = dialog.list.visualItemRect(dialog.list.item(3))
        QTest.mouseClick(dialog.list.viewport(), LEFT, pos=rect.center())
        reader.step(3, "**How**", "*one of them by chance*")
        reader.choose(dialog.how, "one of them by chance")
        reader.inputs += 1
        QTest.mouseClick(dialog.make_button, LEFT)

    reader.step(2, "**Ctrl+Shift+G**", "fourth")
    in_next(Together, choose)
    reader.key(bare, Key.Key_G, CONTROL | SHIFT)
    (pool,) = bare.document.project.pools
    assert len(pool.items) == 4
    assert len(pool.commands) == 1
    reader.done()


def test_a_held_loop(bare: Window) -> None:
    reader = Reader(bare, "A held loop")
    reader.step(1, "**Ctrl+Shift+N**", "**Starts on**")
    reader.new("staff_charge")
    reader.choose(reader.page("Action").commands.add, "brace")
    reader.step(2, "**Shift+X**")
    for frame in (30, 60):
        reader.frame(frame)
        reader.on_sheet(Key.Key_X, SHIFT)
    assert len(reader.action.sections) == 3
    middle = reader.action.sections[1].name
    reader.step(3, "middle", "**Then**", "itself")
    reader.frame(40)
    reader.choose(reader.page("Section").then, f"{middle} (loops)")
    reader.step(4, "**G**")
    reader.on_sheet(Key.Key_G)
    compiled = bare.document.compiled
    assert compiled is not None
    section = compiled.sections[1]
    (gate,) = section.section.gates
    assert (gate.start, gate.end) == (0, section.ticks)
    assert section.section.then == middle
    assert not [f for f in findings(bare.document.build) if f.code == "loop-without-end"]
    reader.done()


def test_a_slide_that_falls(bare: Window) -> None:
    reader = Reader(bare, "A slide that falls")
    reader.step(1, "**Ctrl+Shift+N**", "**Starts on**")
    reader.new("slide")
    reader.choose(reader.page("Action").commands.add, "slide")
    reader.step(2, "*exits*", "**Shift+N**")
    reader.frame(5, "exits")
    reader.on_sheet(Key.Key_N, SHIFT)
    reader.step(3, "**Kind** *break*", "**Leads to** *ground*", "**+ condition**", "*on the floor*", "*not*")
    page = bare.sheet.page_stack.span
    assert page.isVisible()
    reader.choose(page.widgets["kind"], "break")
    reader.choose(page.widgets["to_kind"], "ground")
    reader.click(page.widgets["conditions"].add_button)
    test, *_ = page.widgets["conditions"].rows[0].findChildren(QComboBox)
    reader.choose(test, "on the floor")
    yes = page.widgets["conditions"].rows[0].findChildren(QComboBox)[-1]
    reader.choose(yes, "not")
    (exit_,) = reader.action.sections[0].exits
    assert (exit_.kind, exit_.to_kind, exit_.start) == ("break", "ground", 0)
    assert [(c.test, c.value) for c in exit_.conditions] == [("on_floor", 0.0)]
    reader.done()


def test_a_throw_on_the_run(bare: Window) -> None:
    reader = Reader(bare, "A throw on the run")
    reader.step(1, "**Ctrl+Shift+N**")
    reader.new("lantern_toss")
    reader.step(2, "**Layer** *Arms*", "**Starts on**")
    page = reader.page("Action")
    reader.choose(page.layer, "Arms")
    reader.choose(page.commands.add, "toss")
    reader.step(3, "*events*", "**N**", "*spawn*")
    reader.frame(24, "events")
    reader.on_sheet(Key.Key_N)
    reader.choose(bare.sheet.page_stack.span.widgets["kind"], "spawn")
    (event,) = reader.action.sections[0].events
    assert (event.tick, event.kind) == (24, "spawn")
    assert reader.action.layer == "Arms"
    reader.done()


def test_what_is_thrown_hits(window: Window) -> None:
    window.document.apply(Edit(replace(window.document.project, thrown=()), "nothing flies"))
    window.document.choose_action("Lantern toss")
    reader = Reader(window, "What is thrown hits")
    reader.step(1, "event that spawns it")
    placed = next(p for p in window.sheet.sheet.layout_.placed if p.ref == SpanRef("Lantern toss", 1, "events", 0))
    window.sheet.sheet.verticalScrollBar().setValue(max(0, int(placed.rect.top()) - 200))
    reader.click(
        window.sheet.sheet.viewport(),
        QPointF(window.sheet.sheet.widget_point(placed.rect.left() + 12, placed.rect.center().y())),
    )
    reader.step(2, "*let it fly*", "**Damage**")
    window.sheet.show_page(1)
    reader.press("let it fly")
    damage = window.sheet.page_stack.span.widgets["flies"].fields["damage"]
    damage.selectAll()
    reader.type(damage, "4")
    [thing] = window.document.project.thrown
    assert (thing.name, thing.strike.damage) == ("lantern", 4.0)
    reader.done()


def test_a_roll_out_of_a_capture(bare: Window) -> None:
    reader = Reader(bare, "A roll out of a capture")
    reader.step(1, "**Ctrl+1**", "**Ctrl+F**", "Return")
    reader.key(bare, Key.Key_1, CONTROL)
    reader.key(bare, Key.Key_F, CONTROL)
    reader.type(bare.clips.side.find_line, "roll")
    assert bare.document.clip == "dodge_roll"
    reader.step(2, "Shift", "**N**")
    curves = bare.clips.curves
    ends = [QPoint(round(curves.x_of(f)), curves.height() // 3) for f in (10, 40)]
    reader.inputs += 1
    QTest.mousePress(curves, LEFT, SHIFT, ends[0])
    QTest.mouseMove(curves, ends[1])
    QTest.mouseRelease(curves, LEFT, SHIFT, ends[1])
    before = len(bare.document.project.clips)
    reader.key(bare.clips.film, Key.Key_N)
    assert len(bare.document.project.clips) == before + 1
    made = bare.document.clip
    reader.step(3, "**Ctrl+Shift+N**", "Return")
    reader.inputs += 1
    in_next(Chooser, lambda dialog: QTest.keyClick(dialog, Key.Key_Return))
    reader.key(bare, Key.Key_N, CONTROL | SHIFT)
    assert [cut.clip for s in reader.action.sections for cut in s.cuts] == [made]
    reader.step(4, "*shield*", "**Shift+N**")
    reader.frame(3, "shields")
    reader.on_sheet(Key.Key_N, SHIFT)
    (shield,) = reader.action.sections[0].shields
    assert (shield.start, shield.kind) == (0, "invulnerable")
    reader.done()


def strike_of(window: Window) -> Any:
    action = next(a for a in window.document.project.actions if a.name == "Low sweep")
    return action.sections[1].strikes[0]


def test_the_window_two_frames_later(window: Window) -> None:
    window.document.choose_action("Low sweep")
    reader = Reader(window, "The window two frames later")
    before = strike_of(window)
    reader.step(1, "Click the span")
    reader.frame(10, "strikes")
    assert span_of(window.document.project, window.document.selection) == before  # type: ignore[arg-type]
    reader.step(2, "**+2**", "Return", "**E**")
    window.sheet.sheet.edge = "start"
    reader.on_sheet(Key.Key_E)
    reader.type(window.sheet.sheet, "+2")
    assert strike_of(window).end == before.end + 2
    reader.done()


def test_faster(window: Window) -> None:
    window.document.choose_action("Low sweep")
    window.document.move_to(10)
    reader = Reader(window, "Faster")
    compiled = window.document.compiled
    assert compiled is not None
    before, pose = compiled.sections[1].ticks, strike_of(window)
    at = compiled.sections[1].source[pose.start]
    reader.step(1, "**R**")
    reader.on_sheet(Key.Key_R)
    reader.step(2, "**80%**", "Return")
    reader.type(window.sheet.sheet, "80%")
    compiled = window.document.compiled
    assert compiled is not None
    assert compiled.sections[1].ticks == round(0.8 * before)
    assert abs(compiled.sections[1].source[strike_of(window).start] - at) < 1 / 60
    reader.done()


def test_this_version_against_the_last(window: Window) -> None:
    window.document.choose_action("Low sweep")
    window.document.move_to(10)
    reader = Reader(window, "This version against the last")
    reader.step(1, "**Versions**", "Return")
    page = reader.page("Versions")
    field = page.label
    field.setFocus()
    reader.type(field, "slow")
    assert [k.name for k in reader.action.kept]
    reader.step(2, "Change")
    before = strike_of(window)
    window.document.select(None)
    reader.inputs += 1
    hand_moves(window)
    assert strike_of(window) != before
    reader.step(3, "**F**")
    reader.on_sheet(Key.Key_F)
    assert strike_of(window) == before
    reader.done()


def hand_moves(window: Window) -> None:
    """Drag the strike a little."""
    from tests.desk.conftest import STRIKE, Hand

    Hand(window).drag(STRIKE, "body", 2)


def test_a_strike_that_fits(window: Window) -> None:
    hand_moves(window)
    reader = Reader(window, "A strike that fits its swing")
    reader.step(1, "*strikes*")
    reader.frame(11, "strikes")
    reader.step(2, "**B**", "**W**")
    before = window.document.project
    reader.on_sheet(Key.Key_B)
    assert window.document.project != before
    reader.on_sheet(Key.Key_W)
    assert window.sheet.sheet.layout_.curves() is not None
    reader.step(3, "**Touches**")
    page = reader.page("Touches")
    reader.click(page.view, page.view.inks()[0].point(-0.2, 1.6))
    assert len(window.sheet.stage.view.scene.bodies) == 2
    reader.done()


def test_where_a_figure_can_be_touched(window: Window) -> None:
    reader = Reader(window, "Where a figure can be touched")
    reader.step(1, "**Ctrl+1**", "**Body**", "*make from the figure*")
    reader.key(window, Key.Key_1, CONTROL)
    reader.press("Body")
    reader.press("make from the figure")
    assert {r.name for r in window.document.project.rig.regions} == {"head", "trunk", "arm", "leg"}
    reader.done()


def test_reactions_from_every_side(bare: Window) -> None:
    window = bare
    window.document.apply(new_action(window.document.project, window.document.build.assets, "staff_sweep")[0])
    reader = Reader(window, "Reactions from every side")
    reader.step(1, "**Reactions**", "*from clips…*", "Ctrl+click")
    page = reader.page("Reactions")

    def choose(dialog: Chooser) -> None:
        for clip in ("hit_front", "hit_back", "hit_left", "hit_right"):
            reader.inputs += 1
            at = dialog.shown.index(dialog.names.index(clip), 0)
            dialog.list.scrollTo(at)
            QTest.mouseClick(dialog.list.viewport(), LEFT, CONTROL, dialog.list.visualRect(at).center())
        reader.inputs += 1
        QTest.keyClick(dialog, Key.Key_Return)

    in_next(Chooser, choose)
    reader.press("from clips")
    rows = {r.side: r.action for r in window.document.project.reactions}
    assert rows == {"front": "Hit front", "left": "Hit left", "back": "Hit back", "right": "Hit right"}
    assert page.dial.answer("left") is not None
    reader.done()


def test_a_reaction_to_a_hit(bare: Window) -> None:
    reader = Reader(bare, "A reaction to a hit")
    reader.step(1, "**Ctrl+Shift+N**")
    reader.new("hit_front")
    reader.step(2, "**Answers**", "*a hit from the front*")
    reader.choose(reader.page("Action").answers, "a hit from the front")
    (row,) = bare.document.project.reactions
    assert (row.action, row.side) == ("Hit front", "front")
    reader.done()


def test_a_dodge_out_of_it(window: Window) -> None:
    window.document.choose_action("Overhead hook")
    reader = Reader(window, "A dodge out of it")
    before = sum(len(s.exits) for s in reader.action.sections)
    reader.step(1, "*exits*")
    reader.frame(2, "exits")
    reader.step(2, "**N**", "cancel")
    reader.on_sheet(Key.Key_N)
    assert sum(len(s.exits) for s in reader.action.sections) == before + 1
    exit_ = span_of(window.document.project, window.document.selection)  # type: ignore[arg-type]
    assert exit_.kind == "cancel"
    reader.done()


def test_a_command_of_its_own(window: Window) -> None:
    window.document.choose_action("Thrust")
    reader = Reader(window, "A command of its own")
    reader.step(1, "**Starts on**", "*a new one…*")

    def make(dialog: NewCommand) -> None:
        reader.step(2, "name", "key", "tick")
        reader.inputs += 2
        QTest.keyClicks(dialog.line, "kick")
        dialog.key.setFocus()
        reader.key(dialog.key, Key.Key_A)
        reader.click(dialog.over, QPointF(8, dialog.over.height() / 2))
        reader.click(dialog.make_button)

    in_next(NewCommand, make)
    reader.choose(reader.page("Action").commands.add, NEW)
    assert reader.action.start.commands[-1] == "kick"
    assert next(c for c in window.document.project.commands if c.name == "kick").keys == ("A",)
    reader.done()


def test_armour_while_it_winds_up(window: Window) -> None:
    window.document.choose_action("Low sweep")
    reader = Reader(window, "Armour while it winds up")
    reader.step(1, "*shield*", "**Shift+N**")
    reader.frame(3, "shields")
    reader.on_sheet(Key.Key_N, SHIFT)
    reader.step(2, "**Kind** *armour*")
    reader.choose(window.sheet.page_stack.span.widgets["kind"], "armour")
    (shield,) = reader.action.sections[0].shields
    assert (shield.kind, shield.start) == ("armour", 0)
    reader.done()


def test_a_guard_that_throws_strikes_back(window: Window) -> None:
    window.document.choose_action("Duck roll")
    reader = Reader(window, "A guard that throws strikes back")
    reader.step(1, "*shield*", "**N**")
    reader.frame(3, "shields")
    reader.on_sheet(Key.Key_N)
    reader.step(2, "**Kind** *guard*", "**Deflects for**")
    widgets = window.sheet.page_stack.span.widgets
    reader.choose(widgets["kind"], "guard")
    widgets["deflects"].selectAll()
    reader.type(widgets["deflects"], "5")
    shield = span_of(window.document.project, window.document.selection)  # type: ignore[arg-type]
    assert (shield.kind, shield.deflects) == ("guard", 5)
    reader.step(3, "**Situation** *its own, deflected*", "**Answers**")
    page = reader.page("Reactions")
    reader.choose(page.situation, "its own, deflected")
    reader.choose(page.action_field, "Flinch")
    hit = page.dial.hit()
    first = next(r for r in window.document.project.reactions if r.situation == "deflected")
    assert (first.action, first.side) == ("Flinch", hit.side)
    reader.done()


def test_a_sound_on_its_frame(window: Window) -> None:
    window.document.choose_action("Thrust")
    reader = Reader(window, "A sound on its frame")
    reader.step(1, "*events*", "**N**")
    reader.frame(9, "events")
    reader.on_sheet(Key.Key_N)
    reader.step(2, "**Kind** *sound*")
    reader.choose(window.sheet.page_stack.span.widgets["kind"], "sound")
    event = span_of(window.document.project, window.document.selection)  # type: ignore[arg-type]
    assert event.kind == "sound"
    reader.done()


def test_a_fighter_of_drawings(untitled: Window, tmp_path: Path) -> None:
    reader = Reader(untitled, "A fighter of drawings")
    document = untitled.document
    reader.step(1, "Drop the sheet", "**Ctrl+Return**")
    reader.drop(bare_sheet(tmp_path / "puppet.png"))
    reader.key(untitled.clips.cells_page, Key.Key_Return, CONTROL)
    arrived(untitled)
    reader.step(2, "**make an action**")
    reader.press("make an action")
    reader.step(3, "**hitbox**", "drag a rectangle")
    reader.frame(16)
    reader.press("hitbox")
    drag(untitled, (0.95, 0.75), (1.25, 1.25))
    reader.inputs += 2
    (strike,) = document.project.actions[0].sections[0].strikes
    assert (strike.start, strike.end) == (15, 20)
    reader.done()


def test_against_somebody_of_another_project(window: Window, folder: Path) -> None:
    copytree(PAPER, folder.parent / "paper.veergust")
    reader = Reader(window, "Against somebody of another project")
    reader.step(1, "**Ctrl+6**")
    reader.key(window, Key.Key_6, CONTROL)
    reader.step(2, "**who and where**", "**Comes from**")
    spar = window.spar
    reader.click(spar.standing_button)
    reader.choose(spar.standing.which, TARN)
    reader.choose(spar.standing.project, "paper")
    assert [f.project for f in window.document.project.stage.fighters] == ["", "paper.veergust"]
    spar.session.tick()
    record = spar.session.record
    assert record is not None
    assert spar.session.build.of(record.fighter(TARN).setup).project.rig.sheets
    reader.done()


def test_a_lift_on_the_stage(window: Window) -> None:
    reader = Reader(window, "A lift on the stage")
    reader.step(1, "**Ctrl+6**", "**who and where**", "**+ platform**")
    reader.key(window, Key.Key_6, CONTROL)
    spar = window.spar
    reader.click(spar.standing_button)
    reader.press("+ platform")
    reader.step(2, "**Goes y**: 2.5", "**Takes**: 90")
    for name, value in (("goes y", "2.5"), ("takes", "90")):
        spar.standing.fields[name].selectAll()
        reader.type(spar.standing.fields[name], value)
    made = window.document.project.stage.floors[-1]
    assert (made.name, made.goes, made.takes) == ("platform", (0.0, 2.5, 0.0), 90)
    reader.step(3, "**start over**")
    reader.click(spar.again_button)
    spar.hold()
    reader.done()
    (x, z), (wide, deep) = made.low, made.high
    on_it = replace(window.document.project.stage.fighters[0], position=((x + wide) / 2, made.height, (z + deep) / 2))
    spar.session.begin([], (on_it,))
    for _ in range(made.rests + made.takes):
        spar.session.tick()
    record = spar.session.record
    assert record is not None
    assert record.fighters[0].position[1] == pytest.approx(made.height + 2.5, abs=0.01)


def test_over_a_bad_connection(window: Window) -> None:
    reader = Reader(window, "Over a bad connection")
    reader.step(1, "**Ctrl+6**", "**bad connection**", "**Delay**: 120")
    reader.key(window, Key.Key_6, CONTROL)
    spar = window.spar
    reader.click(spar.rehearsal_button)
    page = spar.rehearsal
    reader.pick(page.drill, page.drill.itemText(1))
    page.delay.selectAll()
    reader.type(page.delay, "120")
    assert page.delay.value() == 120.0
    reader.step(2, "**rehearse**")
    reader.click(page.go)
    until(lambda: page.work is None)
    assert page.words.text()
    page.list.setFocus()
    assert page.seen is not None
    made = page.seen.made
    reader.step(3, "**Tarn saw**")
    reader.click(page.who[made.names.index(TARN)])
    shown = made.players[made.names.index(TARN)].shown
    assert [r.line() for r in spar.session.records] == [r.line() for r in shown]
    reader.done()


def test_what_is_wrong_with_it(window: Window) -> None:
    project = window.document.project
    project = replace(project, commands=tuple(c for c in project.commands if c.name != "light"))
    window.document.apply(Edit(project, "a command that is gone"))
    until(lambda: window.findings_button.found is not None)
    reader = Reader(window, "What is wrong with it")
    reader.step(1, "**F8**")
    found = window.findings_button.found
    assert found

    def go(dialog: Chooser) -> None:
        reader.step(2, "Return")
        reader.key(dialog, Key.Key_Down)
        reader.key(dialog, Key.Key_Return)

    in_next(Chooser, go)
    reader.key(window, Key.Key_F8)
    assert window.document.action == found[1].at.name
    reader.done()
