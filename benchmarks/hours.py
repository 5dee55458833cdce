"""Somebody at work in a studio's project, who opens, chooses, edits, drags, finds, plays, saves and takes back; and how
long each deed kept the window from answering.

``./run work [SECONDS] [ACTIONS]``. What is told is the time from the deed to the window drawn again, without the
picture of the stage, which is for the graphics processor to draw: one that is simulated takes longer than all else.
"""

from __future__ import annotations

import random
import resource
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from benchmarks.studio import studio
from PySide6.QtCore import QPoint, QSettings, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from veergust.core.edit.cuts import retime_cut
from veergust.core.edit.spans import Edit, SpanRef, set_edges
from veergust.core.kinds.spans import SPANS
from veergust.desk.app import make_application, make_window
from veergust.desk.shell.benches import BENCHES
from veergust.desk.shell.window import Window
from veergust.desk.stage import view
from veergust.desk.widgets.choose import Chooser

Key, Control = Qt.Key, Qt.KeyboardModifier.ControlModifier


class Worker:
    """Does one thing after the other in a window, drawn by chance."""

    def __init__(self, window: Window, folder: Path, seed: int) -> None:
        self.window, self.folder, self.rng = window, folder, random.Random(seed)
        self.took: dict[str, list[float]] = {}
        self.seen = {"Sheet"}
        self.told = 0.0
        """When the window last said how far a work is."""
        self.longest_silence = 0.0
        window.document.working.connect(self._hear)

    def _hear(self, says: str, share: float, stop: object) -> None:
        now = time.monotonic()
        self.longest_silence = max(self.longest_silence, now - self.told)
        self.told = now

    def do(self, name: str, deed: Callable[[], object]) -> None:
        """Do something, and note how long it is until the window is drawn again."""
        began = self.told = time.monotonic()
        deed()
        QApplication.processEvents()
        self.took.setdefault(name, []).append(time.monotonic() - began)

    def open(self) -> None:
        self.do("open the project", lambda: self.window.open_project(self.folder))

    def choose(self) -> None:
        shown = self.window.sheet.list
        key = self.rng.choice([Key.Key_Down, Key.Key_Up, Key.Key_PageDown, Key.Key_PageUp, Key.Key_Home, Key.Key_End])
        self.do("another action by keys", lambda: QTest.keyClick(shown, key))

    def find(self) -> None:
        name = self.rng.choice(self.window.document.project.actions).name
        self.do("find an action by name", lambda: self._found(name))

    def _found(self, name: str) -> None:
        def choose(page: Chooser) -> int:
            page.show()
            QTest.keyClicks(page.line, name[:6])
            page.line.setText(name)
            page.grab()
            page.accept()
            page.hide()
            return int(Chooser.DialogCode.Accepted)

        kept, Chooser.exec = Chooser.exec, choose  # type: ignore[assignment,method-assign]
        try:
            self.window.find_anything()
        finally:
            Chooser.exec = kept  # type: ignore[method-assign]

    def _span(self) -> tuple[SpanRef, int, int] | None:
        compiled = self.window.document.compiled
        if compiled is None:
            return None
        rows = [
            (SpanRef(compiled.action.name, n, kind.key, i), span.start, part.ticks)
            for n, part in enumerate(compiled.sections)
            for kind in SPANS.values()
            if not kind.moment
            for i, span in enumerate(kind.of(part.section))
        ]
        return self.rng.choice(rows) if rows else None

    def _moved(self) -> Callable[[], Edit] | None:
        document, found = self.window.document, self._span()
        compiled = document.compiled
        if found is None or compiled is None:
            return None
        ref, start, ticks = found
        return lambda: set_edges(
            document.base,
            compiled,
            ref,
            min(start, ticks - 2),
            self.rng.randint(min(start, ticks - 2) + 1, ticks),
        )

    def edit(self) -> None:
        made = self._moved()
        if made is not None:
            self.do("an edit", lambda: self.window.document.apply(made()))

    def drag(self) -> None:
        made, document = self._moved(), self.window.document
        if made is None:
            return
        for _ in range(8):
            self.do("a step of a drag", lambda: document.preview(made().project))
        last = made()
        self.do("the end of a drag", lambda: document.apply(last))

    def retime(self) -> None:
        document = self.window.document
        if document.compiled is not None and document.compiled.sections and document.compiled.sections[0].cuts:
            name, ticks = document.action, document.compiled.sections[0].cuts[0].ticks + self.rng.choice([-1, 1, 2])
            if ticks > 1:
                self.do("a cut retimed", lambda: document.apply(
                    retime_cut(document.project, document.build.assets, name, 0, 0, ticks)))  # fmt: skip

    def back(self) -> None:
        document = self.window.document
        self.do("a step back", document.undo)
        if self.rng.random() < 0.5:
            self.do("and forth", document.redo)

    def play(self) -> None:
        sheet = self.window.sheet
        sheet.toggle_play()
        for _ in range(20):
            self.do("a moment of playing", lambda: QTest.qWait(1))
        sheet.stop()

    def spar(self) -> None:
        self.window.show_bench("Spar")
        spar = self.window.spar
        self.do("play it in Spar", lambda: QTest.keyClick(spar, Key.Key_T))
        for _ in range(20):
            self.do("a frame of Spar", lambda: QTest.keyClick(spar, Key.Key_Period))
        self.do("back to the Sheet", lambda: self.window.show_bench("Sheet"))

    def bench(self) -> None:
        name = self.rng.choice(list(BENCHES))
        self.do(
            "another bench" if name in self.seen else f"{name} for the first time", lambda: self.window.show_bench(name)
        )
        self.seen.add(name)
        self.do("back to the Sheet", lambda: self.window.show_bench("Sheet"))

    def clip(self) -> None:
        document = self.window.document
        self.window.show_bench("Clips")
        name = self.rng.choice(document.project.clips).name
        self.do("another clip", lambda: document.choose_clip(name))
        self.do("back to the Sheet", lambda: self.window.show_bench("Sheet"))

    def scroll(self) -> None:
        bar = self.window.sheet.list.verticalScrollBar()
        self.do("the list scrolled", lambda: bar.setValue(self.rng.randint(0, bar.maximum())))
        at = QPoint(60, self.rng.randint(20, self.window.sheet.list.viewport().height() - 20))
        self.do("an action clicked", lambda: QTest.mouseClick(
            self.window.sheet.list.viewport(), Qt.MouseButton.LeftButton, pos=at))  # fmt: skip

    def save(self) -> None:
        self.do("save", self.window.save)

    def once(self) -> None:
        """Whatever comes next."""
        deeds = [
            self.choose,
            self.edit,
            self.drag,
            self.retime,
            self.back,
            self.find,
            self.play,
            self.spar,
            self.scroll,
        ]
        often = [6, 8, 4, 3, 4, 2, 1, 1, 2]
        rare = [self.save, self.bench, self.clip]
        self.rng.choices([*deeds, *rare], [*often, 1, 1, 1])[0]()


def resident() -> float:
    """Megabytes of memory that are used now."""
    with open("/proc/self/statm") as sizes:
        return int(sizes.read().split()[1]) * resource.getpagesize() / 2**20


def main(seconds: float = 600.0, actions: int = 1000, seed: int = 1) -> None:
    """Work for so long, and tell."""
    with tempfile.TemporaryDirectory() as place:
        folder = studio(actions, Path(place) / "studio.veergust")
        view.opengl_trouble = lambda: "It is not drawn while work is timed."  # type: ignore[attr-defined]
        make_application(["veergust"])
        window = make_window(QSettings(str(Path(place) / "settings.ini"), QSettings.Format.IniFormat))
        window.may_leave = lambda: True  # type: ignore[method-assign]
        window.resize(1280, 800)
        window.show()
        QApplication.processEvents()
        worker = Worker(window, folder, seed)
        worker.open()
        window.show_bench("Sheet")
        end, begun, first = time.monotonic() + seconds, time.monotonic(), 0.0
        while time.monotonic() < end:
            worker.once()
            if not first and time.monotonic() - begun > min(60.0, seconds / 5):
                first = resident()
        tell(worker, first, resident())
        window.close()


def tell(worker: Worker, first: float, last: float) -> None:
    """What each deed took, the slowest first."""
    every = sorted(t for name, times in worker.took.items() for t in times if name != "open the project")
    for name, times in sorted(worker.took.items(), key=lambda row: -max(row[1])):
        half, most = sorted(times)[len(times) // 2], max(times)
        print(f"{name:28} {len(times):6}   half under {half * 1000:7.1f} ms   the longest {most * 1000:8.1f} ms")
    under = [sum(t < limit for t in every) / len(every) * 100 for limit in (0.05, 0.25)]
    print(f"{len(every)} deeds: {under[0]:.1f} % under 50 ms, {under[1]:.2f} % under 250 ms")
    print(f"longest without a word while opening: {worker.longest_silence * 1000:.0f} ms")
    print(f"memory: {first:.0f} MB after the first minute, {last:.0f} MB at the end")


if __name__ == "__main__":
    seconds, actions, seed = (sys.argv[1:] + ["", "", ""])[:3]
    main(float(seconds or 600.0), int(actions or 1000), int(seed or 1))
