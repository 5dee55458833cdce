"""``python examples/player DIR --input FILE --ticks N [--seed N] --take FILE``: play an export by an input file."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

if __package__ in (None, ""):
    sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from player.bout import Bout
from player.export import Export
from player.take import line


def inputs_of(export: Export, path: Path | None) -> dict[int, list[dict[str, Any]]]:
    """What is given on each tick, by an input file; whom and what it names has to be there."""
    out: dict[int, list[dict[str, Any]]] = {}
    fighters = {row["name"] for row in export.stage["fighters"]}
    for row in json.loads(path.read_text()) if path is not None else []:
        if row["fighter"] not in fighters:
            raise ValueError(f"there is no fighter {row['fighter']!r}")
        if row.get("command") and row["command"] not in export.commands:
            raise ValueError(f"there is no command {row['command']!r}")
        if row.get("action") and row["action"] not in export.actions:
            raise ValueError(f"there is no action {row['action']!r}")
        out.setdefault(int(row["tick"]), []).append(row)
    return out


def main() -> int:
    """Play, and write the take, a JSON object a line."""
    ask = argparse.ArgumentParser(prog="player", description="Play what was handed over, in plain Python.")
    ask.add_argument("folder", type=Path, metavar="DIR", help="an export")
    ask.add_argument("--input", type=Path, metavar="FILE", help="a JSON list of inputs by tick")
    ask.add_argument("--ticks", type=int, required=True, metavar="N")
    ask.add_argument("--seed", type=int, default=1, metavar="N")
    ask.add_argument("--take", type=Path, required=True, metavar="FILE", help="where the take goes")
    given = ask.parse_args()
    what = f"{given.folder} is no export that can be played"
    try:
        export = Export(given.folder)
        what = f"{given.input} is no list of inputs"
        by_tick = inputs_of(export, given.input)
        what = f"{given.take} cannot be written"
        with given.take.open("w") as out:
            bout = Bout(export, given.seed)
            for tick in range(given.ticks):
                out.write(json.dumps(line(bout.tick(by_tick.get(tick, [])), export.axes), separators=(",", ":")) + "\n")
    except (OSError, ValueError, KeyError, TypeError) as error:
        print(f"{what}: {error}", file=sys.stderr)
        return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())
