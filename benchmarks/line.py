"""Somebody who edits while a game runs: how long is it from an edit to the tick on which the game plays it?

``./run line [EDITS] [KILLS]`` opens the demo on Spar in a real window, starts the game of ``examples/game`` with what
is handed over, has two fight there by random commands, and makes edits one after the other, drawn by chance: the edges
of strikes, and the length of cuts. Meanwhile the game is killed and started again so many times. It tells the times,
those of edits that were over 100 ms, how long it took to be found again, and the memory of both at the quarter and in
the end. Exits with 1 where an edit took over 100 ms, or the game was not found again.
"""

from __future__ import annotations

import json
import os
import random
import socket
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

from benchmarks.opened import demo_window
from PySide6.QtWidgets import QApplication

from veergust.core.edit.cuts import retime_cut
from veergust.core.edit.spans import Edit, SpanRef, set_edges
from veergust.core.export.writing import export
from veergust.core.live.key import usual_key
from veergust.core.live.line import LiveLine
from veergust.core.model import Action
from veergust.desk.document.document import Document
from veergust.desk.shell.window import Window

GAME = Path(__file__).resolve().parents[1] / "examples" / "game"
WITHIN = 0.1
"""An edit is to be played there so soon (s)."""


def resident(process: int | str) -> float:
    """Megabytes of memory that a process uses now."""
    return int(Path(f"/proc/{process}/statm").read_text().split()[1]) * os.sysconf("SC_PAGESIZE") / 2**20


class Game:
    """The game, killed and started again."""

    def __init__(self, home: Path, fighters: list[str], commands: list[str], rng: random.Random) -> None:
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port: int = free.getsockname()[1]
        rows = [
            {"tick": tick, "fighter": who, "command": rng.choice(commands), "press": True}
            for tick in range(0, 36_000, 9)
            for who in fighters
        ]
        self.script = home / "script.json"
        self.script.write_text(json.dumps(rows))
        self.home = home
        self.process = self._started()

    def _started(self) -> subprocess.Popen[str]:
        line = [sys.executable, str(GAME), str(self.home / "out"), "--headless", "--port", str(self.port)]
        made = subprocess.Popen(
            [*line, "--key", str(usual_key()), "--script", str(self.script)], stdout=subprocess.PIPE, text=True
        )
        assert made.stdout is not None
        made.stdout.readline()
        return made

    def again(self) -> None:
        """Kill it, and start it anew."""
        self.process.kill()
        self.process.wait()
        self.process = self._started()


def until(fine: Callable[[], bool], seconds: float) -> bool:
    """Let the window go on until something is so; whether it was in time."""
    end = time.monotonic() + seconds
    while not fine() and time.monotonic() < end:
        QApplication.processEvents()
        time.sleep(0.001)
    return fine()


def drawn(document: Document, rng: random.Random) -> Edit | None:
    """An edit drawn by chance, of an action that strikes."""
    action = rng.choice([a for a in document.project.actions if any(s.strikes for s in a.sections)])
    n = next(i for i, s in enumerate(action.sections) if s.strikes)
    if rng.random() < 0.3 and action.sections[n].cuts:
        return _retimed(document, action, n, rng)
    strike = action.sections[n].strikes[0]
    start, end = max(strike.start + rng.choice([-1, 1]), 0), strike.end + rng.choice([0, 1, -1])
    compiled = document.build.action(action.name)
    assert compiled is not None
    return set_edges(document.project, compiled, SpanRef(action.name, n, "strikes", 0), start, end)


def _retimed(document: Document, action: Action, section: int, rng: random.Random) -> Edit:
    compiled = document.build.action(action.name)
    assert compiled is not None
    now = compiled.sections[section].cuts[0].ticks
    ticks = now + (1 if now <= 12 else rng.choice([-1, 1]))
    return retime_cut(document.project, document.build.assets, action.name, section, 0, ticks)


def main(edits: int, kills: int) -> int:
    """Edit so often, with so many kills between, and tell."""
    rng, took, found, refused = random.Random(5), list[float](), list[float](), 0
    with demo_window() as (window, home):
        document = window.document
        export(document.build, home / "out")
        fighters = [f.name for f in document.project.stage.fighters]
        game = Game(home, fighters, [c.name for c in document.project.commands], rng)
        try:
            line = connected(window, game.port)
            memory = {}
            for n in range(edits):
                if kills and n % max(edits // kills, 1) == max(edits // kills, 1) - 1:
                    began = time.monotonic()
                    game.again()
                    if not until(lambda: line.standing.even, 20.0):
                        print(f"not found again before edit {n}")
                        return 1
                    found.append(time.monotonic() - began)
                if not edited(document, line, rng):
                    print(f"edit {n} did not come there: {document.done[-1].words}; {line.standing}")
                    return 1
                if line.standing.refused:
                    refused += 1
                    document.undo()
                elif line.standing.took is not None:
                    took.append(line.standing.took)
                until(lambda: False, rng.uniform(0.01, 0.08))
                if n in (edits // 4, edits - 1):
                    memory[n] = resident("self"), resident(game.process.pid)
        finally:
            game.process.kill()
    took.sort()
    shares = ", ".join(f"{took[int((len(took) - 1) * q)] * 1e3:.0f}" for q in (0.5, 0.95, 0.99, 1.0))
    over = sum(t > WITHIN for t in took)
    print(f"{len(took)} edits taken, {refused} refused: {shares} ms (half, 95 %, 99 %, all); {over} over 100 ms")
    if found:
        print(f"killed {len(found)} times, found again within {max(found):.1f} s")
    for n, (own, theirs) in memory.items():
        print(f"after {n + 1} edits the window uses {own:.0f} MB, the game {theirs:.0f}")
    return int(over > 0)


def edited(document: Document, line: LiveLine, rng: random.Random) -> bool:
    """Make an edit, and wait until the game has it, or has refused it; whether that came to be."""
    made, before, there = None, line.standing.sent, line.standing
    while made is None or not document.apply(made):
        made = drawn(document, rng)
    return until(lambda: bool(there.refused) or (there.even and there.sent != before), 5.0)


def connected(window: Window, port: int) -> LiveLine:
    """Have Spar find the game, and wait until both have the same; edits are taken at once."""
    window.show_bench("Spar")
    window.spar.show_live(True)
    page = window.spar.live
    page.port.show_value(port)
    page.when.setCurrentIndex(page.when.findData("pose"))
    page.connect_button.click()
    line = page.line
    assert line is not None
    if not until(lambda: line.standing.even, 20.0):
        raise SystemExit(f"no game was found: {line.standing.says}")
    return line


if __name__ == "__main__":
    given = [int(word) for word in sys.argv[1:]]
    sys.exit(main(*(given + [1000, 50][len(given) :])))
