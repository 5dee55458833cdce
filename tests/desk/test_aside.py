"""What goes on beside the windows: threads that outlive what they work for, and what nobody holds any more."""

from __future__ import annotations

import math
import re
import subprocess
import sys
import threading
import time
import weakref
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtWidgets import QApplication, QWidget

from veergust import desk
from veergust.desk.running.frame_timer import FrameTimer
from veergust.desk.running.tidying import CALM, WHOLE, Tidying

ENDS = """
from PySide6.QtCore import QCoreApplication, QTimer
from veergust.desk.running.work import BackgroundTask, end_all

app = QCoreApplication([])


def act(progress):
    for n in range(10**9):
        progress(f"step {n}", 0.5)


task = BackgroundTask(act, lambda *_: None, lambda _: None, lambda _: None, app)
task.start()
QTimer.singleShot(100, app.quit)
app.exec()
end_all()
"""


def test_the_program_ends_quietly_while_something_still_goes_on() -> None:
    """A thread that tells how far it is, while what it tells of is taken down, would take the program along."""
    for _ in range(2):
        done = subprocess.run([sys.executable, "-c", ENDS], capture_output=True, text=True, timeout=60, check=False)
        assert (done.returncode, done.stderr) == (0, "")


GONE = """
import sys
import time
from PySide6.QtCore import QCoreApplication, QObject
from shiboken6 import delete
from veergust.desk.running.work import BackgroundTask, end_all

sys.setswitchinterval(0.0002)  # the threads take turns as often as they can
app = QCoreApplication([])
told = []


def act(progress):
    while True:
        progress("step", 0.5)


for n in range(300):
    owner = QObject()
    there = [True]
    say = lambda *_: told.append(there[0])
    task = BackgroundTask(act, say, say, say, owner)
    task.start()
    time.sleep(0.0003 * (n % 5))
    app.processEvents()
    delete(owner)
    there[0] = False
    while not task.stopped:
        app.processEvents()
end_all()
print(len(told) > 50, all(told))
"""


STRIPS = """
import time
import numpy as np
from dataclasses import dataclass
from types import SimpleNamespace as There
from PySide6.QtCore import QCoreApplication, QObject
from PySide6.QtGui import QColor, QImage
from shiboken6 import delete
from veergust.desk.clips import strips
from veergust.desk.running.work import end_all

app = QCoreApplication([])
strips.strip_poses = lambda *_: np.zeros((1, 1, 3, 4))
strips._Bench._from_cache = lambda *_: QImage(8, 8, QImage.Format.Format_RGB32)
made = []
for n in range(300):
    owner = QObject()
    maker = strips.StripMaker(None, owner)
    maker.made.connect(lambda *_: made.append(there[0]))
    there = [True]
    for i in range(60):
        clip = There(name=f"clip {i}")
        maker.strip(strips.Order(clip, owner, None, None, QColor("red"), QColor("blue"), 1.0))
    time.sleep(0.0003 * (n % 5))
    app.processEvents()
    delete(owner)
    there[0] = False
    app.processEvents()
end_all()
print(len(made) > 50, all(made))
"""


@pytest.mark.parametrize("program", [GONE, STRIPS], ids=["work", "strips"])
def test_an_owner_that_goes_while_something_is_made_for_it_hears_no_more_and_takes_nothing_down(program: str) -> None:
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, timeout=60, check=False)
    assert (done.returncode, done.stdout, done.stderr) == (0, "True True\n", "")


def test_threads_are_made_in_one_place() -> None:
    """Whoever makes one elsewhere may have it touch what goes meanwhile."""
    made = [
        path.name for path in Path(desk.__file__).parent.rglob("*.py") if re.search(r"\bQ?Thread\(", path.read_text())
    ]
    assert made == ["work.py"]


class Ring(QWidget):
    """A widget that only itself holds."""

    def __init__(self, fate: list[str]) -> None:
        super().__init__()
        self.me = self
        weakref.finalize(self, lambda: fate.append(threading.current_thread().name))


def test_what_nobody_holds_goes_on_the_thread_of_the_windows_only(qapp: QApplication) -> None:
    """A widget that is taken down on another thread takes the program with it."""
    tidying = qapp.findChild(Tidying)
    assert tidying is not None
    fate: list[str] = []
    Ring(fate)
    churning = threading.Thread(target=lambda: [[[]] for _ in range(500_000)], name="beside")
    churning.start()
    churning.join()
    assert fate == []
    tidying.whole()
    assert fate == ["MainThread"]


def test_the_young_are_searched_often_and_everything_only_while_nothing_plays(
    qapp: QApplication, monkeypatch: pytest.MonkeyPatch
) -> None:
    tidying = Tidying(qapp)
    tidying._timer.stop()
    fate: list[str] = []
    kept: list[list[Any]] = [[] for _ in range(2500)]
    Ring(fate)
    tidying.due = math.inf
    tidying.look()
    assert fate == ["MainThread"]
    held = Ring(fate)
    tidying.whole()
    del held
    for _ in range(200):
        kept += [[] for _ in range(2500)]
        tidying.look()
    assert len(fate) == 1
    playing = FrameTimer(qapp)
    playing.start()
    tidying.due = 0.0
    tidying.look()
    assert len(fate) == 1
    playing.stop()
    tidying.look()
    assert len(fate) == 2
    assert tidying.due > 0.0
    # Nor is who edits held up, until it has been due for long.
    tidying.due = time.monotonic()
    for since, waits in ((-60.0, True), (CALM, False)):
        tidying.edited = time.monotonic() - since
        tidying.look()
        assert (tidying.due <= time.monotonic()) is waits
    tidying.due = time.monotonic() - WHOLE
    tidying.note_edit()
    tidying.look()
    assert tidying.due > time.monotonic()
    tidying.setParent(None)
