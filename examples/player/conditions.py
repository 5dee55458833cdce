"""Conditions, asked of a fighter: each kind's number, and how it is compared."""

from __future__ import annotations

import operator
from collections.abc import Callable, Sequence
from math import hypot
from typing import Any, NamedTuple

from player.chance import drawn
from player.fighter import Fighter, Playing, Seen, direction, measured

Json = dict[str, Any]
COMPARE = {
    "<": operator.lt, "<=": operator.le, "==": operator.eq, "!=": operator.ne, ">=": operator.ge, ">": operator.gt,
}  # fmt: skip
NOBODY = 1e9
CALLED = {"wanted_speed": "wanted speed", "turn_rate": "turn rate", "above_floor": "above the floor"}
"""The measures of conditions that are called otherwise."""


class Present(NamedTuple):
    """The state of locomotion that is asked to be left: whether its clip has ended, which share of it has played, for
    how many ticks it plays, how far (m) the feet are from where they would go."""

    ended: bool = False
    share: float = 0.0
    ticks: int = 0
    feet: Callable[[], float] = lambda: 0.0


class Asked(NamedTuple):
    """Of whom a condition is asked, and when: ``others`` as they stood when the tick began."""

    fighter: Fighter
    others: Sequence[Seen]
    seed: int
    tick: int
    playing: Playing | None = None
    present: Present = Present()


def nearest(asked: Asked) -> Seen | None:
    """Who stands nearest, seen from above."""
    return min(asked.others, key=lambda o: _far(asked.fighter, o), default=None)


def _far(f: Fighter, other: Seen) -> float:
    return hypot(other.position[0] - f.position[0], other.position[2] - f.position[2])


def holds(conditions: Sequence[Json], asked: Asked, where: str) -> bool:
    """Whether all conditions hold; ``where`` they stand makes each chance one of its own."""
    return all(
        COMPARE[c["op"]](value(c["test"], c["name"], asked, f"{where}/{n}"), c["value"])
        for n, c in enumerate(conditions)
    )


def value(test: str, name: str, asked: Asked, place: str) -> float:
    """What a condition compares; what is so or not is 1 or 0."""
    f, p = asked.fighter, asked.playing
    if test == "chance":
        return drawn(asked.seed, asked.tick, f.name, place)
    if test in ("speed", "direction"):
        # Under an action it is the body's own; locomotion asks for what is left to it.
        if p is None:
            return measured(f, test)
        return hypot(f.went[0], f.went[2]) if test == "speed" else direction(f.went, f.facing)
    if test in ("contact", "touches", "touched_region", "touched_strength"):
        return _touched(test, name, p)
    if test in ("distance", "target_stands"):
        return _target(test, name, asked)
    if test in ("section_ended", "clip_share", "time_here", "feet_apart"):
        now = asked.present
        if test == "feet_apart":
            return now.feet()
        return float({"section_ended": now.ended, "clip_share": now.share, "time_here": now.ticks}[test])
    return float(_own(test, name, f))


def _own(test: str, name: str, f: Fighter) -> float:
    if test == "held":
        return name in f.held
    if test == "released":
        return name not in f.held
    if test == "pressed":
        return name in f.fresh
    if test == "has_ended":
        return bool(f.endings) if name in ("", "any") else name in f.endings
    if test == "plays":
        return any(p.action.name == name or not name for p in f.live())
    if test == "parameter":
        return f.parameter(name)
    if test == "jumped":
        return f.jumping and (f.rose == 0 or f.leapt)
    if test == "height":
        return f.position[1]
    own = {"on_floor": f.grounded, "blocked": f.blocked}
    if test in own:
        return own[test]
    return measured(f, CALLED.get(test, test))


def _touched(test: str, name: str, p: Playing | None) -> float:
    if p is None:
        return float(test == "contact" and name == "none")
    if test == "touches":
        return float(p.touches)
    if test == "touched_region":
        return float(name in p.regions)
    if test == "touched_strength":
        return float(name in p.strengths)
    return float(p.contact != "none" if name in ("", "any") else p.contact == name)


def _target(test: str, name: str, asked: Asked) -> float:
    near = nearest(asked)
    if test == "distance":
        return NOBODY if near is None else _far(asked.fighter, near)
    if near is None:
        return 0.0
    if name == "reeling":
        return float(near.reeling)
    if name == "in the air":
        return float(not near.grounded)
    return float(near.grounded and near.posture == name)
