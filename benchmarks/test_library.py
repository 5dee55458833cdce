"""Scrolling a library of 300 clips while its strips are made aside: how long each picture takes."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QEventLoop, QSettings, QTimer
from PySide6.QtWidgets import QApplication

from veergust.core.edit.spans import Edit
from veergust.core.files.demo import copy_demo
from veergust.desk.app import make_application, make_window
from veergust.desk.clips.library import ROW
from veergust.desk.shell.window import Window


@pytest.fixture(scope="session")
def qapp() -> QApplication:
    return make_application(["veergust"])


@pytest.fixture
def window(qapp: QApplication, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Window:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    copy_demo(tmp_path / "quay.veergust")
    made = make_window(QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat))
    made.may_leave = lambda: True  # type: ignore[method-assign]
    made.open_project(tmp_path / "quay.veergust")
    project = made.document.project
    many = tuple(
        replace(c, name=f"{c.name}_{n:02}", start=0.01 * n, mirror=bool(n % 2))
        for n in range(24)
        for c in project.clips
    )
    made.document.apply(Edit(replace(project, clips=(*project.clips, *many)[:300]), "Many clips"))
    made.show()
    made.show_bench("Clips")
    return made


@pytest.mark.parametrize("strips", ["being made", "kept"])
def test_a_step_of_scrolling(benchmark: Any, window: Window, strips: str) -> None:
    library = window.clips.library
    bar = library.verticalScrollBar()
    if strips == "kept":
        for top in range(0, bar.maximum() + ROW, ROW * 8):
            bar.setValue(top)
            library.viewport().grab()
            loop = QEventLoop()
            QTimer.singleShot(600, loop.quit)
            loop.exec()
    bar.setValue(0)

    def step() -> None:
        bar.setValue((bar.value() + ROW // 2) % max(bar.maximum(), 1))
        library.viewport().grab()

    benchmark.pedantic(step, rounds=200, iterations=1)
