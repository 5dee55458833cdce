"""Somebody who spars while other programs take all processors: does play keep real time, and are keys heard in time?

``./run beside [SECONDS]`` opens the demo on Spar in a real window, starts a busy loop for each processor, and presses
keys at random moments, each stamped with when it went down. It tells how many ticks were played of those there was time
for, by how many ticks a press came later than it was made, and how long the window took to answer. Exits with 1 where
more than 1 % of the ticks is missing, or more than 3 % of the presses came over two ticks late: who presses is a
thread that has to wait for a processor, too.
"""

from __future__ import annotations

import os
import random
import subprocess
import sys
import threading
import time

from benchmarks.opened import demo_window
from PySide6.QtCore import QCoreApplication, QEvent, Qt, QTimer
from PySide6.QtGui import QKeyEvent

from veergust.desk.shell.window import Window

BUSY = "while True: pass"


def main(seconds: float) -> int:
    """Spar for so long, and tell."""
    with demo_window() as (window, _):
        return spar_on(window, seconds)


def spar_on(window: Window, seconds: float) -> int:
    """Spar for so long in a window, and tell; whether it was too slow."""
    window.show_bench("Spar")
    spar = window.spar
    # What is heard of at once tells how the clock of events goes; whoever plays has begun it with a key.
    first = QKeyEvent(QEvent.Type.KeyPress, Qt.Key.Key_Up.value, Qt.KeyboardModifier.NoModifier)
    first.setTimestamp(int(time.monotonic() * 1000))
    QCoreApplication.sendEvent(spar, first)
    QCoreApplication.sendEvent(
        spar, QKeyEvent(QEvent.Type.KeyRelease, Qt.Key.Key_Up.value, Qt.KeyboardModifier.NoModifier)
    )
    spar.hold()
    keys = {c.name: c.keys[0] for c in window.document.project.commands if c.keys}
    busy = [subprocess.Popen([sys.executable, "-c", BUSY]) for _ in range(os.cpu_count() or 2)]
    rng, pressed, answers = random.Random(3), list[tuple[float, str]](), list[float]()
    started = 0.0

    def hand() -> None:
        """Press and let go at random moments, from a thread of its own, as a keyboard does."""
        while time.monotonic() - started < seconds - 2.0:
            time.sleep(rng.uniform(0.15, 0.5))
            name = rng.choice(sorted(keys))
            for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
                event = QKeyEvent(kind, ord(keys[name][0]), Qt.KeyboardModifier.NoModifier, keys[name])
                event.setTimestamp(int(time.monotonic() * 1000))
                if kind is QEvent.Type.KeyPress:
                    pressed.append((time.monotonic(), name))
                QCoreApplication.postEvent(spar, event)
                time.sleep(0.04)

    asked = time.monotonic()

    def answer() -> None:
        nonlocal asked
        answers.append(time.monotonic() - asked)
        asked = time.monotonic()

    asking = QTimer()
    asking.timeout.connect(answer)
    try:
        spar.run()
        started = asked = time.monotonic()
        before = len(spar.session.records)
        thread = threading.Thread(target=hand)
        thread.start()
        asking.start(10)
        while time.monotonic() - started < seconds:
            QCoreApplication.processEvents()
        asking.stop()
        spar._beat()
        ended = time.monotonic()
        played = len(spar.session.records) - before
        thread.join()
    finally:
        for process in busy:
            process.kill()
    due = (ended - started) * 60.0
    heard = [(r.tick - before, c) for r in spar.session.records for c in r.fighters[0].pressed]
    late = []
    for when, name in pressed:
        tick = next(((t for t, c in heard if c == name and t >= (when - started) * 60.0 - 15.0)), None)
        late.append(tick - (when - started) * 60.0 if tick is not None else 999.0)
    answers.sort()
    print(f"{played} ticks of {due:.0f} ({played / due:.1%})")
    in_time = sum(ticks <= 2.0 for ticks in late) / max(len(late), 1)
    print(f"{len(late)} presses, {in_time:.0%} within two ticks, {max(late):.2f} at most")
    print(f"the window answered within {answers[len(answers) // 2]:.3f} s mostly, {answers[-1]:.3f} s at most")
    return int(played < 0.99 * due or in_time < 0.97)


if __name__ == "__main__":
    sys.exit(main(float(sys.argv[1]) if len(sys.argv) > 1 else 60.0))
