"""The card of a span through the window: hitboxes with keys, commands in turn, parts of the body, payloads."""

from __future__ import annotations

from typing import Any

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton, QWidget

from tests.desk.conftest import STRIKE, type_in
from veergust.core.edit.spans import SpanRef, add, span_of
from veergust.desk.sheet.cards.span import SpanPage
from veergust.desk.shell.window import Window

COMBO = SpanRef("Low sweep", 1, "exits", 0)
DUST = SpanRef("Low sweep", 1, "events", 1)


@pytest.fixture
def page(window: Window) -> SpanPage:
    window.sheet.show_page(1)
    return window.sheet.span_page


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
