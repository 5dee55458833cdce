"""A tick as its line of a take: the fields that every player of an export has in common."""

from __future__ import annotations

from typing import Any

from player.axes import Axes
from player.fighter import Fighter
from player.turns import Vector

Json = dict[str, Any]


def line(tick: Json, axes: Axes) -> Json:
    """A tick with numbers rounded to a millionth."""
    return {
        "tick": tick["tick"],
        "fighters": [_fighter(f, axes) for f in tick["fighters"]],
        "events": [
            {
                "fighter": e["fighter"],
                "name": e["name"],
                "kind": e["kind"],
                "mount": e["mount"],
                "position": _place(e["position"], axes),
                "facing": _rounded(e["facing"]),
                "payload": e["payload"],
            }
            for e in tick["events"]
        ],
        "contacts": [
            {
                "strike": c.strike.name,
                "attacker": c.attacker,
                "victim": c.victim,
                "hurtbox": c.hurtbox,
                "region": c.region,
                "result": c.result,
                "position": _place(c.position, axes),
                "damage": _rounded(c.damage),
            }
            for c in tick["contacts"]
        ],
    }


def _fighter(f: Fighter, axes: Axes) -> Json:
    return {
        "name": f.name,
        "ground": f.steps[-1].state,
        "actions": [
            {"layer": p.layer, "action": p.action.name, "section": p.part.name, "frame": p.frame} for p in f.live()
        ],
        "position": _place(f.position, axes),
        "facing": _rounded(f.facing),
        "grounded": f.grounded,
        "health": _rounded(f.health),
    }


def _rounded(value: float) -> float:
    return round(float(value), 6) + 0.0


def _place(v: Vector, axes: Axes) -> list[float]:
    return [_rounded(part) for part in axes.out(v)]
