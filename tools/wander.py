"""Somebody who does anything at all with the window: clicks, drags, types, turns the wheel, resizes, opens and saves.

Run as a program it goes on for minutes, and says what went wrong: errors that nothing caught, waits of over a second
without a word, memory that only grows. ``./run soak [SECONDS] [SEED]``.
"""

from __future__ import annotations

import contextlib
import gc
import os
import random
import shutil
import sys
import tempfile
import time
import traceback
from collections import deque
from collections.abc import Callable, Generator
from pathlib import Path
from types import TracebackType

from PySide6.QtCore import QPoint, QPointF, QSettings, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget
from tests.desk.conftest import turn_wheel

from veergust.desk.app import TRIMMED, make_application, make_window
from veergust.desk.shell.window import Window

Key, Modifier, Button = Qt.Key, Qt.KeyboardModifier, Qt.MouseButton
CONTROL, SHIFT, ALT, NONE = (
    Modifier.ControlModifier,
    Modifier.ShiftModifier,
    Modifier.AltModifier,
    Modifier.NoModifier,
)
LETTERS = [Key(Key.Key_A + n) for n in range(26)]
MOVES = [Key.Key_Up, Key.Key_Down, Key.Key_Left, Key.Key_Right, Key.Key_Home, Key.Key_End, Key.Key_PageUp,
         Key.Key_PageDown, Key.Key_Tab, Key.Key_Backtab]  # fmt: skip
OTHERS = [Key.Key_Space, Key.Key_Return, Key.Key_Escape, Key.Key_Delete, Key.Key_Backspace, Key.Key_Comma,
          Key.Key_Period, Key.Key_Minus, Key.Key_Plus, *(Key(Key.Key_0 + n) for n in range(10)), Key.Key_F2, Key.Key_F8,
          Key.Key_F10, Key.Key_Slash, Key.Key_BracketLeft, Key.Key_BracketRight]  # fmt: skip
WITH_CONTROL = [Key.Key_Z, Key.Key_Y, Key.Key_S, Key.Key_C, Key.Key_V, Key.Key_A, Key.Key_1, Key.Key_2, Key.Key_3, Key.Key_4, Key.Key_6,
                Key.Key_K, Key.Key_D]  # fmt: skip
LONGEST_WAIT = 1.0
SETTLED = 60.0
"""So long (s) everything is opened for the first time; what grows from then on is looked at."""
MOST_MEMORY, MOST_LATELY = 150.0, 40.0
"""So much more (MB) than it had then may the program have at the end, and than it had half-way."""


class Wanderer:
    """Does random things with a window; the same seed does the same."""

    def __init__(self, window: Window, folder: Path, seed: int) -> None:
        self.window, self.folder = window, folder
        self.rng = random.Random(seed)
        self.trail: deque[str] = deque(maxlen=30)
        self.errors: list[str] = []
        self.waits: list[tuple[float, str]] = []
        window.may_leave = lambda: True  # type: ignore[method-assign]
        self._closer = QTimer()
        self._closer.setInterval(120)
        # By a timer of its own each time: what it does may open a dialog, and has to be closed in its turn.
        self._closer.timeout.connect(lambda: QTimer.singleShot(0, self._close_what_is_modal))
        self.deeds: list[tuple[int, Callable[[], str]]] = [
            (8, self.click), (5, self.drag), (14, self.type), (4, self.wheel), (1, self.resize), (2, self.bench),
            (3, self.step_back), (1, self.save), (1, self.open), (2, self.rest), (1, self.theme), (2, self.action),
        ]  # fmt: skip

    @contextlib.contextmanager
    def watching(self) -> Generator[None]:
        """Take up every error that nothing caught."""

        def told(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
            self.errors.append("".join(traceback.format_exception(kind, error, trace)) + "\nafter " + self.last())

        before, sys.excepthook = sys.excepthook, told
        self._closer.start()
        try:
            yield
        finally:
            sys.excepthook = before
            self._closer.stop()

    def last(self) -> str:
        """What was done last."""
        return "\n  ".join(self.trail)

    def go(self, times: int) -> None:
        """Do so many things."""
        for _ in range(times):
            self.once()

    def once(self) -> None:
        """Do one thing."""
        deed = self.rng.choices([d for _, d in self.deeds], [w for w, _ in self.deeds])[0]
        if not self.window.isVisible():  # it was told to quit
            self.window.show()
            self.window.open_project(self.folder)
        began = time.monotonic()
        self.trail.append(deed.__name__)
        with contextlib.suppress(RuntimeError):  # a widget that went while it was used
            self.trail[-1] = f"{deed.__name__} {deed()}"
        QApplication.processEvents()
        took = time.monotonic() - began
        # A wait that is told is none: work on a thread, opening, another theme. What rests on purpose is none either.
        if took > LONGEST_WAIT and deed not in (self.rest, self.theme, self.open) and self.window.arrivals.work is None:
            self.waits.append((took, self.trail[-1]))

    def _close_what_is_modal(self) -> None:
        for found in (QApplication.activePopupWidget(), QApplication.activeModalWidget()):
            if found is not None:
                if self.rng.random() < 0.3:
                    QTest.keyClick(found, self.rng.choice([Key.Key_Down, Key.Key_Return, Key.Key_A]))
                with contextlib.suppress(RuntimeError):
                    found.close()

    def _somewhere(self) -> tuple[QWidget, QPoint]:
        shown = [w for w in self.window.findChildren(QWidget) if w.isVisible() and w.width() > 4 and w.height() > 4]
        widget = self.rng.choice(shown)
        return widget, self._in(widget)

    def _in(self, widget: QWidget) -> QPoint:
        return QPoint(self.rng.randrange(widget.width()), self.rng.randrange(widget.height()))

    def _held(self) -> Qt.KeyboardModifier:
        return self.rng.choice([NONE, NONE, NONE, SHIFT, CONTROL, ALT])

    def click(self) -> str:
        widget, at = self._somewhere()
        button = self.rng.choice([Button.LeftButton] * 4 + [Button.RightButton])
        (QTest.mouseDClick if self.rng.random() < 0.15 else QTest.mouseClick)(widget, button, self._held(), at)
        return f"{type(widget).__name__} {widget.accessibleName()} {at.x()},{at.y()}"

    def drag(self) -> str:
        widget, at = self._somewhere()
        QTest.mousePress(widget, Button.LeftButton, self._held(), at)
        for _ in range(self.rng.randrange(1, 6)):
            QTest.mouseMove(widget, self._in(widget))
            QApplication.processEvents()
        if self.rng.random() < 0.1:
            QTest.keyClick(self.window, Key.Key_Escape)
        QTest.mouseRelease(widget, Button.LeftButton, NONE, self._in(widget))
        return f"{type(widget).__name__} {widget.accessibleName()}"

    def type(self) -> str:
        target = QApplication.focusWidget() or self.window
        done = []
        for _ in range(self.rng.randrange(1, 5)):
            keys, held = self.rng.choice(
                [
                    (MOVES, NONE),
                    (MOVES, SHIFT),
                    (MOVES, ALT),
                    (OTHERS, NONE),
                    (LETTERS, NONE),
                    (WITH_CONTROL, CONTROL),
                ]
            )
            key = self.rng.choice(keys)
            done.append(key.name)
            QTest.keyClick(target, key, held)
        return f"{type(target).__name__} {' '.join(done)}"

    def wheel(self) -> str:
        widget, at = self._somewhere()
        turn_wheel(widget, QPointF(at), self.rng.choice([-480, -120, 120, 480]), self._held())
        return type(widget).__name__

    def resize(self) -> str:
        self.window.resize(self.rng.randrange(900, 1400), self.rng.randrange(620, 900))
        return f"{self.window.width()}×{self.window.height()}"

    def bench(self) -> str:
        name = self.rng.choice(["Clips", "Ground", "Layers", "Sheet", "Sheet", "Spar"])
        self.window.show_bench(name)
        return name

    def action(self) -> str:
        names = [a.name for a in self.window.document.project.actions]
        if names:
            self.window.document.choose_action(self.rng.choice(names))
        return self.window.document.action

    def step_back(self) -> str:
        (self.window.document.undo if self.rng.random() < 0.6 else self.window.document.redo)()
        return ""

    def save(self) -> str:
        return str(self.window.save())

    def open(self) -> str:
        return str(self.window.open_project(self.folder))

    def theme(self) -> str:
        self.window.turn_theme()
        return ""

    def rest(self) -> str:
        QTest.qWait(self.rng.choice([10, 60, 400]))
        return ""


def resident() -> float:
    """Memory of the program (MB)."""
    gc.unfreeze()
    gc.collect()
    with open("/proc/self/statm") as sizes:
        return int(sizes.read().split()[1]) * os.sysconf("SC_PAGE_SIZE") / 2**20


def at_rest(window: Window) -> float:
    """Memory (MB) of a window of always the same size with every bench shown, once the program has given back what it
    does not use: pictures of stages are as large as their stages."""
    window.resize(1280, 800)
    for bench in ("Clips", "Ground", "Layers", "Spar", "Sheet"):
        window.show_bench(bench)
        QTest.qWait(1000)
    QTest.qWait(TRIMMED + 1000)
    return resident()


def main(seconds: float, seed: int) -> int:
    """Wander for so long; 1 when something went wrong."""
    from veergust.core.files.demo import copy_demo
    from veergust.core.files.folder import open_project

    place = Path(tempfile.mkdtemp(prefix="soak-"))
    os.environ |= {name: str(place / name) for name in ("XDG_STATE_HOME", "XDG_CACHE_HOME", "XDG_CONFIG_HOME")}
    folder = copy_demo(place / "lantern_quay.veergust")
    make_application(["veergust"])
    window = make_window(QSettings(str(place / "settings.ini"), QSettings.Format.IniFormat))
    window.open_project(folder)
    window.show()
    wanderer = Wanderer(window, folder, seed)
    with wanderer.watching():
        sizes, deeds, lasted = [at_rest(window)], 0, 0.0
        for end in (min(SETTLED, 0.2 * seconds), 0.5 * seconds, seconds):
            began, told = time.monotonic() - lasted, 0.0
            while (lasted := time.monotonic() - began) < end and not wanderer.errors:
                wanderer.once()
                deeds += 1
                if time.monotonic() - told > 30.0:
                    told = time.monotonic()
                    print(f"{lasted:4.0f} s  {deeds} deeds  {resident() - sizes[0]:+.0f} MB", flush=True)
            sizes.append(at_rest(window))
    start, settled, half, last = sizes
    window.close()
    open_project(folder)
    shutil.rmtree(place, ignore_errors=True)
    for error in wanderer.errors:
        print(error)
    for took, what in wanderer.waits:
        print(f"waited {took:.1f} s: {what}")
    print(f"{deeds} deeds, {len(wanderer.errors)} errors, {len(wanderer.waits)} long waits; {settled - start:+.0f} MB when "
          f"all was opened once, {last - settled:+.0f} since, {last - half:+.0f} in the second half")  # fmt: skip
    grew = last - settled > MOST_MEMORY or last - half > MOST_LATELY
    return int(bool(wanderer.errors or wanderer.waits) or grew)


if __name__ == "__main__":
    given = [float(v) for v in sys.argv[1:]]
    sys.exit(main(given[0] if given else 600.0, int(given[1]) if len(given) > 1 else 1))
