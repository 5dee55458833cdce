"""What a touch does, set through the window: what a strike runs, rows that ask for more, and how a body stands."""

from __future__ import annotations

from typing import Any

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton, QWidget

from tests.desk.conftest import STRIKE, pick, type_in
from veergust.core.edit.fields import set_fields
from veergust.core.edit.spans import SpanRef, add, span_of
from veergust.core.model import Outcome, Strike
from veergust.desk.sheet.cards.reactions import SAID, ReactionsPage
from veergust.desk.sheet.pages import TITLES
from veergust.desk.shell.window import Window
from veergust.desk.widgets.fields import ChoiceField, TextField

LEFT = Qt.MouseButton.LeftButton


def click(parent: QWidget, words: str) -> None:
    QApplication.processEvents()
    QTest.mouseClick(next(b for b in parent.findChildren(QPushButton) if b.text() == words and b.isVisible()), LEFT)


def page(window: Window, title: str) -> Any:
    window.document.choose_action("Low sweep")
    QTest.mouseClick(window.sheet.page_buttons[TITLES.index(title)], LEFT)
    return getattr(window.sheet.page_stack, title.lower())


def field(parent: QWidget, called: str) -> Any:
    QApplication.processEvents()
    return next(f for f in parent.findChildren(QWidget) if f.accessibleName() == called and f.isVisible())


def test_what_a_strike_runs_is_put_together_row_by_row(window: Window) -> None:
    card = page(window, "Span")
    window.document.select(STRIKE)
    runs = card.widgets["runs"]

    def there() -> tuple[Outcome, ...]:
        strike = span_of(window.document.project, STRIKE)
        assert isinstance(strike, Strike)
        return strike.runs

    click(runs, "+ something")
    type_in(field(runs, "Runs 1: name"), "sparks")
    assert there() == (Outcome(name="sparks"),)
    click(runs, "+ something")
    pick(field(runs, "Runs 2: when"), "missed")
    assert not field(runs, "Runs 2: on whom").isEnabled(), "nobody is there to be touched"
    pick(field(runs, "Runs 2: what"), "parameter")
    type_in(field(runs, "Runs 2: name"), "anger = 3")
    assert there()[1] == Outcome(when="missed", kind="parameter", name="anger", payload="3")
    pick(field(runs, "Runs 1: on whom"), "on itself")
    click(runs.rows[1], "×")
    assert there() == (Outcome(whose="attacker", name="sparks"),)
    assert isinstance(field(runs, "Runs 1: name"), TextField)


def test_numbers_that_may_have_none_of_their_own_are_set_and_given_back(window: Window) -> None:
    card = page(window, "Span")
    window.document.select(STRIKE)
    for name in ("stun", "guard_stun", "victim_stop"):
        number = card.widgets[name]
        assert number.text() in ("as it reels", "the same")
        type_in(number, "12")
        assert getattr(span_of(window.document.project, STRIKE), name) == 12
        type_in(number, "-1")
        assert getattr(span_of(window.document.project, STRIKE), name) is None


def test_a_row_that_asks_for_more_goes_before_the_plain_one(window: Window) -> None:
    reactions: ReactionsPage = page(window, "Reactions")
    asking, before = reactions.asking, window.document.project.reactions
    assert not asking.body.isVisible()
    click(asking, "+ row that asks for more")
    first = window.document.project.reactions[0]
    assert (first.action, first.plain) == ("Low sweep", False)
    assert window.document.project.reactions[1:] == before
    pick(asking.answers, "Fall")
    pick(asking.region, "any part")
    type_in(asking.near, "0.5")
    type_in(asking.far, "1.5")
    click(asking, "+ condition")
    made = window.document.project.reactions[0]
    assert (made.action, made.region, made.near, made.far, len(made.conditions)) == ("Fall", "any", 0.5, 1.5, 1)
    pick(asking.region, "head")
    assert window.document.project.reactions[0].region == "head"
    pick(asking.region, "any part")
    assert asking.which.currentText().startswith("1: 0.5 to 1.5 m, if")
    # The dial still shows what answers where no more is known.
    answer = reactions.dial.answer()
    assert answer is None or answer.row.plain
    type_in(asking.far, "0")
    assert window.document.project.reactions[0].far is None
    click(asking, "take the row away")
    assert window.document.project.reactions == before


@pytest.mark.parametrize("situation", ["down", "guard broken", "deflected"])
def test_every_situation_has_its_dial(window: Window, situation: str) -> None:
    reactions: ReactionsPage = page(window, "Reactions")
    pick(reactions.situation, SAID[situation])
    pick(reactions.action_field, "Flinch")
    hit = reactions.dial.hit()
    first = next(r for r in window.document.project.reactions if r.situation == situation)
    assert (first.action, first.side, first.strength, first.plain) == ("Flinch", hit.side, hit.strength, True)


def test_how_a_body_stands_is_chosen_of_sections_states_and_hurtboxes(window: Window) -> None:
    document = window.document
    section = page(window, "Section")
    pick(section.posture, "ducking")
    assert document.project.actions[0].sections[0].posture == "ducking"
    QTest.keyClick(window, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
    state = document.project.locomotion.states[0].name
    window.ground.selection.choose(state)
    QApplication.processEvents()
    body = next(f for f in window.ground.findChildren(ChoiceField) if f.accessibleName() == "Stands" and f.isVisible())
    pick(body, "lying")
    assert document.project.locomotion.states[0].posture == "down"


def test_a_spawned_event_is_made_to_fly_set_and_seen_on_the_stage(window: Window) -> None:
    document = window.document
    document.choose_action("Lantern toss")
    QTest.mouseClick(window.sheet.page_buttons[TITLES.index("Span")], LEFT)
    card = window.sheet.page_stack.span
    edit, ref = add(document.project, SpanRef("Lantern toss", 1, "events", 0), 3, 4)
    document.apply(edit)
    document.select(ref)
    form = card.widgets["flies"]
    assert not form.isVisible(), "an effect does not fly"
    document.apply(set_fields(document.project, [ref], kind="spawn", name="jug", mount="palm L"))
    click(form, "let it fly")
    thing = document.project.thrown[-1]
    assert thing.name == "jug"
    type_in(form.fields["speed"], "4")
    type_in(form.fields["damage"], "3")
    type_in(form.fields["stun"], "12")
    pick(form.fields["aims"], "target")
    assert form.fields["limit"].isEnabled()
    thing = document.project.thrown[-1]
    assert (thing.speed, thing.strike.damage, thing.strike.stun, thing.aims) == (4.0, 3.0, 12, "target")
    compiled = document.compiled
    assert compiled is not None
    document.move_to(compiled.start_of(1) + 12)
    balls = [t for t in window.sheet.stage.view.scene.tubes if t.role == "event" and t.radius == thing.radius]
    assert len(balls) >= 1
    click(form, "no more")
    assert "jug" not in [t.name for t in document.project.thrown]
    assert form.make.isVisible()
