"""What a fighter does that nobody plays: stand, or strike back once touched."""

from __future__ import annotations

import numpy as np

from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.state import FighterState, Input

PAUSE = 40


def inputs(build: CompiledProject, fighters: list[FighterState], tick: int) -> list[Input]:
    """The inputs of fighters that strike back: their ``answer`` every ``PAUSE`` ticks once they were hurt."""
    out = []
    for f in fighters:
        if f.setup.plays != "strikes back" or not f.setup.answer or f.down:
            continue
        if f.health < f.setup.health and tick % PAUSE == 0 and not f.live():
            near = min((np.linalg.norm(o.position - f.position) for o in fighters if o is not f), default=9.0)
            if near < 2.5:
                out.append(Input(f.name, f.setup.answer))
    return out
