"""The real window on a large project, 200 actions of 8 sections and 60 spans each: an edit on screen, and opening."""

from __future__ import annotations

from collections.abc import Callable
from itertools import cycle
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QEventLoop, QSettings, QTimer
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QApplication, QWidget

from veergust.core.edit.cuts import retime_cut
from veergust.core.edit.spans import SpanRef, set_edges
from veergust.core.model import Project
from veergust.desk.app import make_application, make_window
from veergust.desk.shell.window import Window

STRIKE = SpanRef("Attack 3", 2, "strikes", 0)


def settle(milliseconds: int) -> None:
    loop = QEventLoop()
    QTimer.singleShot(milliseconds, loop.quit)
    loop.exec()


@pytest.fixture(scope="session")
def qapp() -> QApplication:
    return make_application(["veergust"])


@pytest.fixture
def window(qapp: QApplication, folder: Path, tmp_path: Path) -> Any:
    made = make_window(QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat))
    made.may_leave = lambda: True  # type: ignore[method-assign]
    made.resize(1280, 800)
    made.show()
    made.open_project(folder)
    made.show_bench("Sheet")
    made.document.choose_action("Attack 3")
    settle(500)
    yield made
    made.close()


def painted(*widgets: QWidget) -> Callable[[], None]:
    """Paints widgets where nothing waits for the stage's picture."""
    papers = [QPixmap(widget.size()) for widget in widgets]

    def paint() -> None:
        for widget, paper in zip(widgets, papers):
            widget.render(paper)

    return paint


def drag(window: Window, project: Callable[[], Project]) -> Callable[[], None]:
    """A step of a drag, with all it changes on the sheet, the facts strip and the Now card."""
    sheet, document = window.sheet, window.document
    paint = painted(sheet.sheet.viewport(), sheet.facts, sheet.now)
    frames = cycle((43, 44))

    def step() -> None:
        document.preview(project())
        document.move_to(next(frames))
        paint()

    return step


def test_an_edge_dragged_is_on_screen(benchmark: Any, window: Window) -> None:
    document = window.document
    compiled = document.compiled
    assert compiled is not None
    ends = cycle((7, 8))
    benchmark(drag(window, lambda: set_edges(document.base, compiled, STRIKE, 4, next(ends)).project))


def test_a_cut_retimed_is_on_screen(benchmark: Any, window: Window) -> None:
    document = window.document
    ticks = cycle((17, 16))
    assets = document.build.assets
    benchmark(drag(window, lambda: retime_cut(document.base, assets, "Attack 3", 2, 0, next(ticks)).project))


def test_the_scene_of_a_frame(benchmark: Any, window: Window) -> None:
    document = window.document
    frames = cycle((43, 44))

    def scene() -> None:
        document.move_to(next(frames))
        assert window.sheet.stage.view.scene.bodies

    benchmark(scene)


def test_opening_in_the_window(benchmark: Any, window: Window, folder: Path) -> None:
    paint = painted(window.sheet.sheet.viewport(), window.sheet.facts, window.sheet.now)

    def load() -> None:
        window.open_project(folder)
        paint()

    benchmark.pedantic(load, rounds=5)
