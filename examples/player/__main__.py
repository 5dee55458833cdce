"""``python examples/player DIR --input FILE --ticks N [--seed N] --take FILE``: play an export by an input file."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

if __package__ in (None, ""):
    sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from player.bout import Bout
from player.export import Export
from player.take import line


def main() -> int:
    """Play, and write the take, a JSON object a line."""
    ask = argparse.ArgumentParser(prog="player", description="Play what was handed over, in plain Python.")
    ask.add_argument("folder", type=Path, metavar="DIR", help="an export")
    ask.add_argument("--input", type=Path, metavar="FILE", help="a JSON list of inputs by tick")
    ask.add_argument("--ticks", type=int, required=True, metavar="N")
    ask.add_argument("--seed", type=int, default=1, metavar="N")
    ask.add_argument("--take", type=Path, required=True, metavar="FILE", help="where the take goes")
    given = ask.parse_args()
    try:
        export = Export(given.folder)
        inputs = json.loads(given.input.read_text()) if given.input is not None else []
    except (OSError, ValueError, KeyError) as error:
        print(f"{given.folder} is no export that can be played: {error}", file=sys.stderr)
        return 2
    by_tick: dict[int, list[dict[str, object]]] = {}
    for row in inputs:
        by_tick.setdefault(row["tick"], []).append(row)
    bout = Bout(export, given.seed)
    with given.take.open("w") as out:
        for tick in range(given.ticks):
            out.write(json.dumps(line(bout.tick(by_tick.get(tick, [])), export.axes), separators=(",", ":")) + "\n")
    return 0


if __name__ == "__main__":
    sys.exit(main())
