"""In a window of 1,024 × 768 everything is there, and what has no room folds."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton

from tests.desk.conftest import Hand
from veergust.core.edit.spans import SpanRef
from veergust.core.play.state import Input
from veergust.desk.shell.window import Window

Key = Qt.Key
LEFT = Qt.MouseButton.LeftButton


@pytest.mark.parametrize("bench", ["Clips", "Ground", "Sheet", "Layers", "Spar"])
def test_every_bench_fits_into_a_small_window_with_every_button_in_sight(window: Window, bench: str) -> None:
    window.show_bench(bench)
    # With something said wherever anything is said.
    for tick in range(30):
        window.spar.session.give(*([Input(window.spar.session.fighter, "light")] if tick == 5 else []))
        window.spar.session.tick()
    there = window.bench_of(bench)
    buttons = there.findChildren(QPushButton)
    pages: list[QPushButton | None] = [b for b in buttons if b.objectName() == "switch" and b.isVisible()]
    for page in [None, *pages]:
        if page is not None:
            QTest.mouseClick(page, LEFT)
        # What a window may not be smaller than is worked out when it is next laid out, which may be later.
        needs = there.minimumSizeHint()
        assert needs.width() <= 1024, page and page.text()
        assert needs.height() <= 768 - there.mapTo(window, there.rect().topLeft()).y(), page and page.text()
        window.resize(1024, 768)
        QApplication.processEvents()
        assert window.width() <= 1024
        assert window.height() <= 768
        right = window.rect().right()
        for button in buttons:
            if button.isVisible() and not button.visibleRegion().isEmpty():
                at = button.mapTo(window, button.rect().topRight())
                assert at.x() <= right + 1, button.text()


def test_the_list_of_actions_folds_in_a_small_window_and_comes_over_the_sheet(window: Window, hand: Hand) -> None:
    side = window.sheet.side
    assert side.is_shown
    wide = window.sheet.sheet.width()
    window.resize(1024, 768)
    QApplication.processEvents()
    assert not side.is_shown
    assert side.strip.isVisible()
    lies = window.sheet.sheet.geometry()
    QTest.keyClick(window, Key.Key_F9)
    assert side.is_shown
    assert window.sheet.list.hasFocus()
    assert window.sheet.sheet.geometry() == lies, "nothing moves for it"
    names = [a.name for a in window.document.project.actions]
    QTest.keyClick(window.sheet.list, Key.Key_Down)
    assert window.document.action == names[names.index("Low sweep") + 1]
    assert side.is_shown, "the keys go on through it"
    at = window.sheet.list.visualRect(window.sheet.list.currentIndex())
    QTest.mouseClick(window.sheet.list.viewport(), LEFT, pos=at.center())
    assert not side.is_shown
    QTest.mouseClick(side.strip, LEFT)
    assert side.is_shown
    window.resize(1300, 800)
    QApplication.processEvents()
    assert side.is_shown
    assert not side.strip.isVisible()
    assert window.sheet.sheet.width() >= wide
    # In a wide window it stays away once it was folded by hand.
    QTest.keyClick(window, Key.Key_F9)
    assert not side.is_shown
    window.resize(1024, 768)
    QApplication.processEvents()
    window.resize(1300, 800)
    QApplication.processEvents()
    assert not side.is_shown
    # What is done on the sheet is done in a small window as well.
    window.resize(1024, 768)
    QApplication.processEvents()
    window.document.choose_action("Low sweep")
    strike = window.document.project.actions[0].sections[1].strikes[0]
    hand.drag(SpanRef("Low sweep", 1, "strikes", 0), "body", 2)
    assert window.document.project.actions[0].sections[1].strikes[0].start == strike.start + 2
