"""Actions that carry the body far and that nothing ends where the floor does."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from veergust.core.kinds import Finding, in_action
from veergust.core.model import Exit
from veergust.core.play import CompiledAction, CompiledProject

FAR = 0.5
"""An action that carries the body no farther (m) hardly leaves a floor."""


def check(build: CompiledProject, compiled: CompiledAction) -> Iterator[Finding]:
    """What goes on in the air when the floor is gone."""
    far, bare = goes_on(build, compiled)
    if bare:
        names = [compiled.sections[i].section.name for i in bare[:2]]
        says = f"carries the body {far:.1f} m, and nothing ends it where the floor does: it goes on in the air"
        do = f"put a break on “no floor under the feet” into {', '.join(names)}"
        yield Finding("goes-on-in-air", "note", in_action(compiled.action.name), says, do)


def goes_on(build: CompiledProject, compiled: CompiledAction) -> tuple[float, list[int]]:
    """How far (m) an action carries the body over the floor, and its sections that nothing ends where that does; none
    where it hardly leaves a floor, or flies anyway."""
    action = compiled.action
    drives = [*action.drives, *(d for i in compiled.path for d in compiled.sections[i].section.drives)]
    if not compiled.path or any(d.kind == "ballistic" for d in drives) or build.root_share(action.layer) <= 0.0:
        return 0.0, []
    if any(_breaks(e) for e in action.exits):
        return 0.0, []
    bare = [i for i in compiled.path if not any(_breaks(e) for e in compiled.sections[i].section.exits)]
    if not bare:
        return 0.0, []
    went = compiled.bodies[: compiled.total + 1, :3, 3]
    far = float(np.hypot(went[:, 0] - went[0, 0], went[:, 2] - went[0, 2]).max(initial=0.0))
    return (far, bare) if far > FAR else (far, [])


def _breaks(exit_: Exit) -> bool:
    """Whether an exit is a break on there being no floor."""
    high = ("above_floor", "height", "rising")
    asks = ((c.test == "on_floor" and not c.value) or c.test in high for c in exit_.conditions)
    return exit_.kind == "break" and any(asks)
