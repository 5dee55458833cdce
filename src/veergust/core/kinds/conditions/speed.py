"""How fast the body goes over the floor."""

from __future__ import annotations

from math import hypot

from veergust.core.kinds.conditions.kind import Asked, ConditionKind


def _speed(asked: Asked, _: str) -> float:
    # Under an action it is the body's own speed; locomotion asks for what is left to it.
    going = asked.fighter.went if asked.voice is not None else asked.fighter.velocity
    return hypot(float(going[0]), float(going[2]))


KIND = ConditionKind("speed", _speed, "speed {op} {v:g} m/s", changes="moving")
