"""Scripted inputs: the steps of a drill by tick."""

from __future__ import annotations

from veergust.core.model import DrillStep
from veergust.core.play.state import Input


def schedule(steps: tuple[DrillStep, ...], fighter: str = "") -> dict[int, list[Input]]:
    """Steps by tick, given to ``fighter`` in place of whose they are where that is said."""
    out: dict[int, list[Input]] = {}
    for s in steps:
        who = fighter or s.fighter
        given = Input(who, s.command, s.press, s.axis, s.value, s.action, s.section, s.parameter, number=s.number)
        out.setdefault(s.tick, []).append(given)
    return out
