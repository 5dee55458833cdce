"""The card of a span through the window: hitboxes with keys, commands in turn, parts of the body, payloads."""

from __future__ import annotations

from typing import Any

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton, QWidget

from tests.desk.conftest import STRIKE, type_in
from veergust.core.edit.spans import Edit, SpanRef, add, span_of
from veergust.core.model import Reaction
from veergust.desk.sheet.cards.span import SpanPage
from veergust.desk.shell.window import Window

COMBO = SpanRef("Low sweep", 1, "exits", 0)
DUST = SpanRef("Low sweep", 1, "events", 1)


@pytest.fixture
def page(window: Window) -> SpanPage:
    window.sheet.show_page(1)
    return window.sheet.page_stack.span


def click(parent: QWidget, words: str) -> None:
    QApplication.processEvents()
    button = next(b for b in parent.findChildren(QPushButton) if b.text() == words and b.isVisible())
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)


def pick(field: Any, word: str) -> None:
    """Choose by the keyboard."""
    field.setFocus()
    here, there = field.currentIndex(), field.findData(word)
    assert there >= 0
    for _ in range(abs(there - here)):
        QTest.keyClick(field, Qt.Key.Key_Down if there > here else Qt.Key.Key_Up)


def choose(field: Any, word: str) -> None:
    """Choose from the list as it drops down, without passing the words before it."""
    field.setCurrentIndex(field.findData(word))
    field.activated.emit(field.currentIndex())


def test_hitboxes_are_added_chosen_shaped_and_taken_away(window: Window, page: SpanPage) -> None:
    def boxes() -> Any:
        return span_of(window.document.project, STRIKE).boxes

    window.document.select(STRIKE)
    form = page.widgets["boxes"]
    click(form, "+ hitbox")
    assert len(boxes()) == 2
    pick(form.which, "1")
    pick(form.shape, "box")
    assert form.half.fields[0].isVisible()
    assert not form.to.fields[0].isVisible()
    type_in(form.half.fields[0], "0.3")
    assert (boxes()[1].shape, boxes()[1].size[0]) == ("box", 0.3)
    assert boxes()[0].shape == "capsule"
    click(form, "remove hitbox")
    assert len(boxes()) == 1
    assert form.to.fields[0].isVisible()


def test_keys_are_set_where_the_playhead_is(window: Window, page: SpanPage) -> None:
    document = window.document
    document.select(STRIKE)
    form = page.widgets["boxes"]
    document.move_to(9)
    click(form, "+ key here")
    document.move_to(12)
    type_in(form.radius, "0.5")
    assert [k.tick for k in span_of(document.project, STRIKE).boxes[0].keys] == [1, 4]
    assert form.key_words.text() == "Keys on 9, 12. What is set now holds on 12."
    start = form.radius.value()
    document.move_to(9)
    assert form.radius.value() < start  # the card shows the frame that is looked at
    document.move_to(12)
    click(form, "remove key")
    assert [k.tick for k in span_of(document.project, STRIKE).boxes[0].keys] == [1]


def test_commands_in_turn_are_put_together_and_written_on_the_sheet(window: Window, page: SpanPage) -> None:
    window.document.select(COMBO)
    field = page.widgets["sequence"]
    for word in ("heavy", "light"):
        choose(field.add, word)
    assert span_of(window.document.project, COMBO).sequence == ("heavy", "light")
    window.document.move_to(15)
    assert any(i.says.startswith("heavy, light until") for i in window.sheet.now.now.items)
    click(field, "heavy ×")
    assert span_of(window.document.project, COMBO).sequence == ("light",)


def test_a_shield_over_parts_of_the_body(window: Window, page: SpanPage) -> None:
    document = window.document
    edit, ref = add(document.project, SpanRef("Low sweep", 1, "shields", 0), 0, 4)
    document.apply(edit)
    document.select(ref)
    field = page.widgets["hurtboxes"]
    names = [h.name for h in document.project.rig.hurtboxes]
    choose(field.add, names[0])
    assert span_of(document.project, ref).hurtboxes == (names[0],)
    assert field.add.findData(names[0]) == -1  # not twice
    click(field, f"{names[0]} ×")
    assert span_of(document.project, ref).hurtboxes == ()


def test_a_payload_is_pairs_and_other_text_stays_text(window: Window, page: SpanPage) -> None:
    document = window.document

    def payload() -> str:
        return str(span_of(document.project, DUST).payload)

    document.select(DUST)
    pick(page.widgets["kind"], "spawn")
    field = page.widgets["payload"]
    for _ in range(2):
        click(field, "+ pair")
    assert payload() == "speed=1, up=1"
    type_in(field.rows[0].children()[2], "9")
    assert payload() == "speed=9, up=1"
    click(field.rows[1], "×")
    assert payload() == "speed=9"
    click(field.rows[0], "×")
    type_in(field.text, "as the bell rings")
    assert payload() == "as the bell rings"
    assert field.text.isVisible()
    assert not field.add.isVisible()


def test_a_press_counts_as_usual_or_for_so_many_frames(window: Window, page: SpanPage) -> None:
    """An exit's own buffer: typed, and given up again by going below its least."""
    document = window.document
    document.select(COMBO)
    field = page.widgets["buffer"]
    assert (span_of(document.project, COMBO).buffer, field.text()) == (None, "as usual")
    type_in(field, "3")
    assert span_of(document.project, COMBO).buffer == 3
    field.setFocus()
    for _ in range(4):
        QTest.keyClick(field, Qt.Key.Key_Down)
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert (span_of(document.project, COMBO).buffer, field.text()) == (None, "as usual")


def test_a_boxs_size_is_keyed_on_the_frame_that_is_looked_at(window: Window, page: SpanPage) -> None:
    document = window.document
    document.select(STRIKE)
    form = page.widgets["boxes"]
    pick(form.shape, "box")
    document.move_to(9)
    click(form, "+ key here")
    document.move_to(12)
    type_in(form.half.fields[2], "0.8")
    box = span_of(document.project, STRIKE).boxes[0]
    assert [k.size[2] if k.size else None for k in box.keys] == [box.size[2], 0.8]
    document.move_to(9)
    assert form.half.fields[2].value() == pytest.approx(box.size[2])


def test_a_hitbox_is_never_nowhere_by_itself(window: Window, page: SpanPage) -> None:
    """The first one of a strike that has none is on what strikes; on nothing it is said and is an error."""
    document = window.document
    document.select(STRIKE)
    form = page.widgets["boxes"]
    click(form, "remove hitbox")
    assert span_of(document.project, STRIKE).boxes == ()
    click(form, "+ hitbox")
    weapon = document.project.rig.weapon
    assert weapon is not None
    assert span_of(document.project, STRIKE).boxes[0].mount == weapon.base
    assert "hitbox-nowhere" not in {f.code for f in document.derived.findings()}
    choose(form.mount, "")
    assert form.which.currentText() == "1 nowhere"
    assert "hitbox-nowhere" in {f.code for f in document.derived.findings()}


def test_what_an_action_answers_is_told_and_not_taken_away(window: Window) -> None:
    document = window.document
    reel = document.project.reactions[0].action
    more = Reaction(action=reel, strength="light", situation="air")
    document.apply(Edit(replace(document.project, reactions=(*document.project.reactions, more)), "a row more"))
    before = document.project.reactions
    document.choose_action(reel)
    window.sheet.show_page(3)
    field = window.sheet.page_stack.action.answers
    assert not field.isEnabled()
    assert "rows of the table" in field.currentText()
    assert "hit" in field.toolTip()
    assert document.project.reactions == before
