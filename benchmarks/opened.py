"""The demo, open in a real window with places of its own, for whatever measures a person at work."""

from __future__ import annotations

import os
import shutil
import tempfile
from collections.abc import Generator
from contextlib import contextmanager
from pathlib import Path

from PySide6.QtCore import QSettings
from PySide6.QtTest import QTest

from veergust.desk.app import make_application, make_window
from veergust.desk.shell.window import Window

DEMO = Path(__file__).resolve().parents[1] / "demo" / "lantern_quay.veergust"


@contextmanager
def demo_window() -> Generator[tuple[Window, Path]]:
    """The window, and a folder that goes with it."""
    home = Path(tempfile.mkdtemp())
    for name in ("STATE", "DATA", "CONFIG", "CACHE"):
        os.environ[f"XDG_{name}_HOME"] = str(home / name.lower())
    make_application(["veergust"])
    shutil.copytree(DEMO, home / DEMO.name)
    window = make_window(QSettings(str(home / "settings.ini"), QSettings.Format.IniFormat))
    window.may_leave = lambda: True  # type: ignore[method-assign]
    try:
        window.open_project(home / DEMO.name)
        window.resize(1280, 800)
        window.show()
        QTest.qWaitForWindowActive(window)
        yield window, home
    finally:
        window.close()
        shutil.rmtree(home)
