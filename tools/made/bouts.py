"""Bouts of two who press at random: what is given on each tick, the same for the same seed."""

from __future__ import annotations

import random

from veergust.core.model import Project
from veergust.core.play.state import Input


def given(project: Project, ticks: int, seed: int) -> list[list[Input]]:
    """Presses, releases and the stick of every fighter of the stage, tick by tick."""
    draw = random.Random(seed)
    commands = [c.name for c in project.commands]
    out: list[list[Input]] = []
    for _ in range(ticks):
        row: list[Input] = []
        for fighter in project.stage.fighters:
            if draw.random() < 0.05:
                row.append(Input(fighter.name, draw.choice(commands), press=draw.random() < 0.7))
            if draw.random() < 0.02:
                row.append(Input(fighter.name, axis="move", value=(draw.uniform(-1, 1), draw.uniform(-1, 1))))
        out.append(row)
    return out
