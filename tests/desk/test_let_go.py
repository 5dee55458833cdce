"""A window that is closed leaves nothing of itself behind."""

from __future__ import annotations

import gc
import weakref
from pathlib import Path

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QEvent, QObject, QSettings
from PySide6.QtWidgets import QApplication

from tests.desk.conftest import let_go, until
from veergust import core
from veergust.core.files.demo import copy_demo
from veergust.core.files.folder import open_project
from veergust.core.files.saving import save_project
from veergust.desk.app import make_window
from veergust.desk.shell.benches import BENCHES
from veergust.desk.shell.window import Window


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
    assert len(ours) > 150
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


@pytest.mark.pictured
def test_what_was_made_of_a_project_is_gone_once_another_is_open(
    window: Window, tmp_path: Path, qapp: QApplication, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Whatever was asked of it on whatever page, seen or not by now: clips of a studio are hundreds of megabytes."""
    for place in ("keeping", "derived"):
        monkeypatch.setattr(f"veergust.desk.document.{place}.core", core)  # nothing is kept for other tests
    folder = copy_demo(tmp_path / "other.veergust")
    project = open_project(folder)
    shorter = replace(project, clips=tuple(replace(c, rate=0.9) for c in project.clips), drills=project.drills[:2])
    save_project(shorter, folder)
    window.open_project(folder)
    build = window.document.build
    left = weakref.ref(build), weakref.ref(build.action(project.actions[0].name))
    del build
    for name in BENCHES:
        window.show_bench(name)
        qapp.processEvents()
    spar = window.spar
    spar.show_drills(True)
    spar.drills.run_all()
    until(lambda: not spar.drills.left)
    for _ in range(20):
        spar.session.tick()
    spar.show_replay(True)
    spar.replay.replay()
    spar.show_rehearsal(True)
    spar.rehearsal.rehearse()
    until(lambda: spar.rehearsal.seen is not None)
    window.findings_button.check()
    window.show_bench("Sheet")
    window.open_project(copy_demo(tmp_path / "another.veergust"))
    qapp.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    def gone() -> bool:
        qapp.processEvents()
        gc.unfreeze()
        gc.collect()
        return not any(ref() is not None for ref in left)

    until(gone)
