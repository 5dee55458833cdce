"""Pages of fields: made when they are opened, gone through by Tab as one reads, and always of what there is now."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractSpinBox, QApplication, QPushButton, QWidget

from tests.desk.conftest import STRIKE, at_rest, focused, type_in
from veergust.core.edit.layers import remove_layer
from veergust.core.edit.whole import set_action
from veergust.desk.frame.page import FieldPage
from veergust.desk.layers.cards.hands import HandsPage
from veergust.desk.sheet.pages import TITLES
from veergust.desk.shell.window import Window
from veergust.desk.widgets.fields import ChoiceField

SWITCHES = ("standing", "commands", "drills", "replay", "rehearsal", "live")


def opened(window: Window, bench: str) -> Iterator[FieldPage]:
    """Every page of a bench, opened as a person opens it."""
    window.show_bench(bench)
    if bench == "Spar":
        at_rest(window)
        for name in SWITCHES:
            button = getattr(window.spar, f"{name}_button")
            QTest.mouseClick(button, Qt.MouseButton.LeftButton)
            page = window.spar.beside.seen
            assert page is not None
            yield page
            QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    elif bench == "Sheet":
        window.document.choose_action("Low sweep")
        window.document.select(STRIKE)
        for index in range(1, len(TITLES)):
            window.sheet.show_page(index)
            yield window.sheet.page_stack.page(index)
    else:
        made: Any = window.bench_of(bench)
        words: list[QPushButton] = made.page_buttons if bench == "Clips" else made.pages.words
        for word in words:
            QTest.mouseClick(word, Qt.MouseButton.LeftButton)
            yield made.card if bench == "Clips" else made.page


BEFORE = {
    "Clips": lambda w: w.clips.page_buttons[-1],
    "Ground": lambda w: w.ground.pages.words[-1],
    "Sheet": lambda w: w.sheet.stage.follow_button,
    "Layers": lambda w: w.layers.pages.words[-1],
    "Spar": lambda w: w.spar.stage.follow_button,
}
"""What the keys are on before they come to the fields."""


def gone_through(page: FieldPage, before: QWidget) -> list[QWidget]:
    """What Tab comes by on a page, once it has come to it from ``before``."""
    before.setFocus(Qt.FocusReason.TabFocusReason)
    out: list[QWidget] = []
    for _ in range(150):
        QTest.keyClick(focused(), Qt.Key.Key_Tab)
        if page.isAncestorOf(focused()):
            out += [focused()] if focused() not in out else []  # a table is gone through cell by cell
        elif out:
            return out
    return out


def there_to_go_to(page: FieldPage) -> set[QWidget]:
    """What can be gone to by Tab on a page."""
    able = [w for w in page.findChildren(QWidget) if w.focusPolicy() & Qt.FocusPolicy.TabFocus and w.isEnabled()]
    return {
        w
        for w in able
        if w.isVisibleTo(page) and w.focusProxy() is None and not isinstance(w.parent(), QAbstractSpinBox)
    }


@pytest.mark.parametrize("bench", list(BEFORE))
def test_tab_goes_through_a_page_as_one_reads_it(window: Window, bench: str) -> None:
    seen = 0
    for page in opened(window, bench):
        QApplication.processEvents()
        fields = gone_through(page, BEFORE[bench](window))
        seen += len(fields)
        assert set(fields) == there_to_go_to(page), page.title
        for one, other in zip(fields, fields[1:]):
            at, then = (w.mapTo(page.page, QPoint(0, 0)) for w in (one, other))
            below = then.y() >= at.y() + one.height() // 2
            beside = then.x() > at.x() and then.y() > at.y() - other.height()
            assert below or beside, (page.title, one.accessibleName(), other.accessibleName())
    assert seen > 12


def test_a_page_is_made_when_it_is_first_opened(window: Window) -> None:
    """Hundreds of fields that nobody looks at took longer to make than all that is looked at."""
    for bench in ("Clips", "Ground", "Layers", "Spar"):
        window.show_bench(bench)
        QApplication.processEvents()
        assert len(window.bench_of(bench).findChildren(FieldPage)) == (0 if bench == "Spar" else 1), bench
        pages = list(opened(window, bench))
        assert len(set(pages)) == len(pages)
        assert set(window.bench_of(bench).findChildren(FieldPage)) == set(pages)


def test_a_page_that_is_opened_again_shows_what_there_is(window: Window) -> None:
    """What was edited while another page was open is on it; what is set on it is done."""
    window.show_bench("Ground")
    ground, word = window.ground, window.ground.pages.words

    def most() -> float:
        return next(s.most for s in window.document.project.locomotion.states if s.name == "walk")

    ground.selection.choose("walk")
    QTest.mouseClick(word[1], Qt.MouseButton.LeftButton)
    field = ground.state_page.most
    before = most()
    type_in(field, str(before + 0.5))
    assert most() == before + 0.5 == field.value()
    QTest.mouseClick(word[0], Qt.MouseButton.LeftButton)
    window.document.undo()
    QTest.mouseClick(word[1], Qt.MouseButton.LeftButton)
    assert field.value() == most() == before


@pytest.mark.parametrize("opened_before", [False, True])
def test_a_key_does_the_same_whether_its_page_was_ever_opened(window: Window, opened_before: bool) -> None:
    """A layer that is removed by its key gives its actions to another one, though nobody looked at the page that says
    to which; and to one that is still there."""
    window.show_bench("Layers")
    layers, document = window.layers, window.document
    if opened_before:
        list(opened(window, "Layers"))
        layers.show_page(0)
    layers.double()
    twin = layers.selection.name
    for action in [a.name for a in document.project.actions if a.layer == "Arms"][:1]:
        document.apply(set_action(document.project, action, "moved", layer=twin))
    users = [a.name for a in document.project.actions if a.layer == twin]
    assert users
    while len(document.project.layers) > 2:
        layers.selection.choose(twin)
        gone, *left = [y.name for y in document.project.layers if y.name != twin]
        document.apply(remove_layer(document.project, gone, left[0]))
        layers.stack.setFocus()
        QTest.keyClick(layers.stack, Qt.Key.Key_Delete)
        there = {y.name for y in document.project.layers}
        assert twin not in there
        assert {a.layer for a in document.project.actions} <= there
        twin = next(a.layer for a in document.project.actions if a.name == users[0])


@pytest.mark.parametrize("bench", list(BEFORE))
def test_no_list_stays_open_over_a_project_that_is_another_now(window: Window, bench: str) -> None:
    """It is closed by whatever changes: nothing can be chosen from it of a row that has gone."""
    document, seen = window.document, 0
    window.show_bench("Layers")
    window.layers.open_page(HandsPage)
    add = next(b for b in window.layers.hands_page.findChildren(QPushButton) if b.text() == "+ hand")
    QTest.mouseClick(add, Qt.MouseButton.LeftButton)
    assert document.project.grips
    for page in opened(window, bench):
        for field in [f for f in page.findChildren(ChoiceField) if f.isVisible() and f.isEnabled() and f.count()][:3]:
            field.showPopup()
            QApplication.processEvents()
            rows = field.view()
            assert rows.isVisible()
            document.undo()
            assert not rows.isVisible(), (page.title, field.accessibleName())
            document.redo()
            QApplication.processEvents()
            seen += 1
    assert seen > 1
