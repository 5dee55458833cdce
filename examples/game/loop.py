"""The game's loop: a tick every so often, in real time, with a line to an editor beside it."""

from __future__ import annotations

import asyncio
import sys
from collections.abc import Mapping
from typing import Any

from game.running import Running
from game.wire import Wire

Json = dict[str, Any]
LATE = 0.25
"""Who is farther behind (s) leaves the time out, rather than playing it all at once."""


class Loop:
    """Plays what runs, and tells who follows."""

    def __init__(
        self, running: Running, key: str, script: Mapping[int, list[Json]], *, ticks: int = 0, real_time: bool = True
    ) -> None:
        self.running, self.script, self.ticks, self.real_time = running, script, ticks, real_time
        self.wire = Wire(running, key)
        self.port = 0
        self.over = False
        self.pressed: list[Json] = []
        """What the window gives, to be taken on the next tick."""

    async def run(self, port: int) -> None:
        """Go on until it is over."""
        self.port = await self.wire.open(port)
        print(f"listening on 127.0.0.1:{self.port}", flush=True)
        clock = asyncio.get_running_loop()
        due = clock.time()
        try:
            while not self.over and (not self.ticks or self.running.bout.now < self.ticks):
                self.once()
                due += 1.0 / self.running.export.rate
                wait = due - clock.time()
                if wait < -LATE:
                    due = clock.time()
                await asyncio.sleep(max(wait, 0.0) if self.real_time else 0.0)
        finally:
            await self.wire.close()

    def once(self) -> None:
        """One turn of the loop."""
        running = self.running
        if not running.stopped:
            running.given += self.script.get(running.bout.now, [])
        given, self.pressed = self.pressed, []
        running.given += [{**row, "tick": running.bout.now} for row in given]
        line, taken = running.tick()
        if taken:
            self.wire.tell("applied", version=taken, tick=running.bout.now - (line is not None))
        editor = self.wire.editor
        if line is not None and editor is not None and editor.follows:
            self.wire.tell("ticks", lines=[line])
        sys.stdout.flush()
