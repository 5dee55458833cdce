"""What a fighter does that nobody plays: inputs like any other's, from where all stood on the tick before."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from math import cos, hypot, inf, radians, sin
from typing import Any

from player.chance import drawn
from player.export import Export
from player.fighter import Fighter

Json = dict[str, Any]
PAUSE, CLOSE = 40, 2.5
"""One that strikes back does so every 40 ticks, at somebody within 2.5 m."""
SAME = 1e-6
"""A stick that lies so near is left where it is."""
GOES = 30
"""Who goes by chance takes another way every so many ticks."""


def inputs(export: Export, everybody: Sequence[Fighter], tick: int, seed: int) -> list[Json]:
    """The inputs of all fighters that nobody plays."""
    out: list[Json] = []
    for f in everybody:
        if not f.down:
            gaps = [(o.position[0] - f.position[0], o.position[2] - f.position[2])
                    for o in everybody if o is not f and not o.down]  # fmt: skip
            gap = min(gaps, key=lambda g: hypot(*g), default=None)
            out += _does(export, f, gap, tick, seed)
    return out


def _does(export: Export, f: Fighter, gap: tuple[float, float] | None, tick: int, seed: int) -> Iterator[Json]:
    row, far = f.row, hypot(*gap) if gap is not None else inf
    plays, answer, on_time = row["plays"], row["answer"], tick % row["every"] == 0
    hurt = f.health < row["health"]
    touched = hurt or f.reeling or f.worn > 0.0 or f.poise < row["poise"]
    if plays == "random":
        yield from _by_chance(export, f, tick, seed)
    elif plays in ("walks in", "walks away"):
        near = far <= row["near"] if plays == "walks in" else far >= row["near"]
        yield from _go(f, (0.0, 0.0) if near else _way(export, gap, far, plays == "walks away"))
        if near and plays == "walks in" and on_time and answer:
            yield {"fighter": f.name, "command": answer, "press": True}
    elif answer:
        wants = {
            "strikes back": hurt and tick % PAUSE == 0 and not f.live() and far < CLOSE,
            "guards": answer not in f.held,
            "guards once touched": touched and answer not in f.held,
            "presses": on_time,
            "hits back": f.reeling,
            "once up": f.posture == "down",
        }
        if wants.get(plays):
            yield {"fighter": f.name, "command": answer, "press": True}


def _way(export: Export, gap: tuple[float, float] | None, far: float, away: bool) -> tuple[float, float]:
    """The stick at a walk towards the nearest other, or away from it."""
    if gap is None or far < 1e-6:
        return 0.0, 0.0
    pace = min(export.ground["walk_speed"] / max(export.ground["run_speed"], 1e-6), 1.0)
    size = (-pace if away else pace) / far
    return gap[0] * size, gap[1] * size


def _go(f: Fighter, stick: tuple[float, float]) -> Iterator[Json]:
    if hypot(stick[0] - f.stick[0], stick[1] - f.stick[1]) > SAME:
        yield {"fighter": f.name, "axis": "move", "value": stick}


def _by_chance(export: Export, f: Fighter, tick: int, seed: int) -> Iterator[Json]:
    if tick % GOES == 0:
        way = radians(drawn(seed, tick, f.name, "way") * 360.0)
        pace = min(int(drawn(seed, tick, f.name, "pace") * 3), 2) / 2.0
        yield from _go(f, (sin(way) * pace, cos(way) * pace))
    for name in sorted(f.held):
        if drawn(seed, tick, f.name, f"lets {name} go") < 0.1:
            yield {"fighter": f.name, "command": name, "press": False}
    names = [name for name, c in export.commands.items() if c["gesture"] is None]
    if names and drawn(seed, tick, f.name, "presses") < 1.0 / f.row["every"]:
        which = min(int(drawn(seed, tick, f.name, "which") * len(names)), len(names) - 1)
        yield {"fighter": f.name, "command": names[which], "press": True}
