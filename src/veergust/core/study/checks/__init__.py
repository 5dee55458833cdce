"""The checks: one module for each thing that is looked at, with a ``check`` that yields what it finds.

A check of the project is given it compiled, a check of an action that and the action. A new one is a module here and
its line below; checks of what stands in a section are with its kind (``core.kinds.spans``).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

from veergust.core.kinds import Finding
from veergust.core.play import CompiledAction, CompiledProject
from veergust.core.study.checks import (
    blends,
    charts,
    clips,
    commands,
    fighters,
    first_poses,
    flags,
    hitboxes,
    layers,
    ledges,
    locomotion,
    loops,
    parameters,
    pools,
    popping,
    reached,
    reactions,
    rig,
    sections,
    shadowed,
    spans,
    start,
    swings,
    thrown,
    windows,
)

OF_PROJECT: tuple[Callable[[CompiledProject], Iterator[Finding]], ...] = (
    rig.check,
    clips.check,
    locomotion.check,
    charts.check,
    blends.check,
    parameters.check,
    layers.check,
    reactions.check,
    shadowed.check,
    pools.check,
    commands.check,
    fighters.check,
    thrown.check,
)
OF_ACTION: tuple[Callable[[CompiledProject, CompiledAction], Iterator[Finding]], ...] = (
    start.check,
    layers.lost,
    sections.check,
    reached.check,
    spans.check,
    first_poses.check,
    flags.check,
    windows.check,
    ledges.check,
    hitboxes.check,
    swings.check,
    thrown.inside,
    popping.check,
    loops.check,
)
