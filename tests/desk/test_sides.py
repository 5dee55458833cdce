"""Where the system's language goes from right to left, panels change sides, and nothing in them."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QLocale, QPoint, QRect, QSettings, Qt
from PySide6.QtWidgets import QApplication, QScrollArea, QSplitter, QSplitterHandle, QStackedWidget, QWidget
from pytestqt.qtbot import QtBot

from veergust.desk.app import make_window
from veergust.desk.shell.window import Window
from veergust.desk.widgets.sides import SIDES


def panels(whole: QWidget) -> list[QWidget]:
    """The panels of a bench that are to be seen, from its splitters down to what is whole by itself."""
    out: list[QWidget] = []
    for part in whole.findChildren(QWidget, options=Qt.FindChildOption.FindDirectChildrenOnly):
        if isinstance(part, (QSplitter, QStackedWidget)) or part.objectName() == SIDES:
            out += panels(part)
        elif part.isVisible() and not isinstance(part, QSplitterHandle):
            out.append(part)
    return out


@pytest.mark.parametrize("bench", ["Clips", "Ground", "Sheet", "Layers", "Spar"])
def test_from_right_to_left_the_panels_change_sides_and_what_is_in_them_stays(window: Window, bench: str) -> None:
    """No number stands where a word does: all that is in a panel keeps its place there, and is written and drawn from
    left to right, as whatever is drawn into a picture first is."""
    window.show_bench(bench)
    there = window.bench_of(bench)
    QApplication.processEvents()
    parts = [p for p in panels(there) if p.width() > 20]
    assert len(parts) > 2

    def lies(widget: QWidget, within: QWidget) -> QRect:
        return QRect(widget.mapTo(within, QPoint(0, 0)), widget.size())

    def inner() -> list[list[QRect]]:
        return [[lies(w, p) for w in p.findChildren(QWidget) if w.isVisible()] for p in parts]

    lay, own, wide = [lies(p, there) for p in parts], inner(), there.width()
    window.setLayoutDirection(Qt.LayoutDirection.RightToLeft)
    QApplication.processEvents()
    for part, was in zip(parts, lay):
        now = lies(part, there)
        assert (now.size(), now.y()) == (was.size(), was.y())
        assert abs(now.x() - (wide - was.x() - was.width())) <= 1
        drawn = [part, *part.findChildren(QWidget)]
        assert {w.layoutDirection() for w in drawn} == {Qt.LayoutDirection.LeftToRight}
    assert inner() == own
    assert any(was.width() < wide - 20 for was in lay)
    assert QApplication.layoutDirection() == Qt.LayoutDirection.LeftToRight


def test_the_window_goes_the_way_of_the_systems_language(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    class Arabic:
        @staticmethod
        def system() -> QLocale:
            return QLocale("ar_EG")

    monkeypatch.setattr("veergust.desk.shell.window.QLocale", Arabic)
    made = make_window(QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(made)
    assert made.layoutDirection() == Qt.LayoutDirection.RightToLeft
    made.show()
    # The first page, too: what comes first stands at the right, and its words begin at the left.
    begins, way = made.first.findChildren(QScrollArea)[:2]
    assert begins.mapTo(made, QPoint(0, 0)).x() > way.mapTo(made, QPoint(0, 0)).x()
    assert {begins.layoutDirection(), way.layoutDirection()} == {Qt.LayoutDirection.LeftToRight}
