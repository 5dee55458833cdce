"""A game in a process of its own, and ways to wait for it."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Callable, Generator
from contextlib import contextmanager
from pathlib import Path
from time import monotonic, sleep

from tools.made import DEMO

GAME = DEMO.parents[1] / "examples" / "game"
PATIENCE = 30.0
"""After so long (s) something is taken not to come; nothing waits for it where it comes."""


def until(holds: Callable[[], bool]) -> None:
    """Go on once something holds."""
    end = monotonic() + PATIENCE
    while not holds():
        assert monotonic() < end, "it never came"
        sleep(0.002)


@contextmanager
def game(export: Path, key: Path, *words: str, port: int = 0) -> Generator[int]:
    """A game that runs an export; its port."""
    words = (sys.executable, str(GAME), str(export), "--headless", "--port", str(port), "--key", str(key), *words)
    process = subprocess.Popen(words, stdout=subprocess.PIPE, text=True)
    try:
        assert process.stdout is not None
        said = process.stdout.readline()
        assert said.startswith("listening on 127.0.0.1:"), said
        yield int(said.rpartition(":")[2])
    finally:
        process.kill()
        process.wait()
