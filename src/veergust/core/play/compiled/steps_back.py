"""Actions as they were compiled before the last edits, for steps back and for what an edit left alone."""

from __future__ import annotations

from collections.abc import Container, Mapping

from veergust.core.model import Clip
from veergust.core.play.compiled.action import CompiledAction

STEPS_BACK = 4
"""So many states of an action are kept compiled as it was before."""
Before = dict[str, tuple[CompiledAction, ...]]
"""By name, the last first."""


def with_step(
    before: Before,
    was: Mapping[str, CompiledAction],
    still: Container[str],
    named: Container[str],
    gone: set[str],
) -> Before:
    """What is kept after an edit: of what ``was`` compiled that which is not ``still`` so, over what was kept
    ``before``; of the actions that are ``named`` in the project, and of none that plays a clip that has ``gone``."""
    out = {name: made for name, made in before.items() if name in named}
    for name, made in was.items():
        if name in named and name not in still:
            out[name] = (made, *(m for m in out.get(name, ()) if m is not made))[:STEPS_BACK]
    return {name: tuple(m for m in made if not gone & m.clips) for name, made in out.items()} if gone else out


def changed(before: dict[str, Clip], after: dict[str, Clip]) -> set[str]:
    """Names of the clips that are not what they were."""
    return {name for name in before.keys() | after.keys() if before.get(name) != after.get(name)}
