"""A window that is closed leaves nothing of itself behind."""

from __future__ import annotations

import gc
import weakref
from pathlib import Path

import pytest
from PySide6.QtCore import QEvent, QObject, QSettings
from PySide6.QtWidgets import QApplication

from tests.desk.conftest import let_go, until
from veergust.desk.app import make_window
from veergust.desk.shell.benches import BENCHES


@pytest.mark.pictured
def test_what_a_closed_window_made_is_gone_with_it(qapp: QApplication, folder: Path, tmp_path: Path) -> None:
    """Every object of ours, on every bench: one that stays is held by a connection that nobody ends, and holds what it
    knows, a project with its clips and pictures, until the program ends."""
    window = make_window(QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat))
    let_go(window)
    window.open_project(folder)
    window.show()
    for name in BENCHES:
        window.show_bench(name)
        qapp.processEvents()
    ours = [thing for thing in window.findChildren(QObject) if type(thing).__module__.startswith("veergust.")]
    assert len(ours) > 300
    left = [weakref.ref(thing) for thing in [window, *ours]]
    window.close()
    window.deleteLater()
    del window, ours
    qapp.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    def gone() -> bool:
        gc.unfreeze()
        gc.collect()
        return not any(ref() is not None for ref in left)

    until(gone)
