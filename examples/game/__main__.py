"""``python examples/game DIR [--headless] [--port N] [--key FILE] [--script FILE] [--ticks N]``: run an export, and
take edits of it while it runs."""

from __future__ import annotations

import argparse
import asyncio
import gc
import json
import sys
from pathlib import Path
from typing import Any

if __package__ in (None, ""):
    sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from game.key import key_in, usual_key
from game.loop import Loop
from game.running import Running, files_in

PORT = 28519


def main() -> int:
    """Run until it is told to end."""
    ask = argparse.ArgumentParser(prog="game", description="A stand-in for a running game, which takes edits.")
    ask.add_argument("folder", type=Path, metavar="DIR", help="an export")
    ask.add_argument("--headless", action="store_true", help="without a window")
    ask.add_argument("--port", type=int, default=PORT, metavar="N", help=f"on the loopback address ({PORT}; 0: any)")
    ask.add_argument("--key", type=Path, default=usual_key(), metavar="FILE", help="what an editor has to know")
    ask.add_argument("--script", type=Path, metavar="FILE", help="a JSON list of inputs by tick")
    ask.add_argument("--ticks", type=int, default=0, metavar="N", help="end after so many (0: go on)")
    ask.add_argument("--seed", type=int, default=1, metavar="N")
    ask.add_argument("--as-fast", action="store_true", help="as fast as it goes, and not in real time")
    given = ask.parse_args()
    what = f"{given.folder} is no export that can be played"
    try:
        running = Running(files_in(given.folder), given.seed)
        what = f"{given.script} is no list of inputs"
        script: dict[int, list[dict[str, Any]]] = {}
        for row in json.loads(given.script.read_text()) if given.script is not None else []:
            script.setdefault(int(row["tick"]), []).append(row)
        what = "there is no line to an editor"
        # What is loaded stays; without this, Python walks through all of it again and again while it plays.
        gc.freeze()
        gc.set_threshold(20_000, 50, 1_000)
        loop = Loop(running, key_in(given.key), script, ticks=given.ticks, real_time=not given.as_fast)
        if given.headless:
            asyncio.run(loop.run(given.port))
        else:
            from game.window import show

            show(loop, given.port)
    except KeyboardInterrupt:
        return 0
    except (OSError, ValueError, KeyError, TypeError) as error:
        print(f"{what}: {error}", file=sys.stderr)
        return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())
