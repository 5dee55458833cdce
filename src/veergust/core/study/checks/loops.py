"""Loops that nothing can leave."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds.finding import Finding, in_action
from veergust.core.play.compiled.action import CompiledAction
from veergust.core.play.compiled.project import CompiledProject


def check(build: CompiledProject, compiled: CompiledAction) -> Iterator[Finding]:
    """Sections from which neither an end, nor a gate out, nor an exit can be reached."""
    for i, part in enumerate(compiled.sections):
        if not compiled.flow.can_end(i):
            where = in_action(compiled.action.name, part.section.name, section=i)
            do = "give it a gate or an exit, or let it go on to end"
            yield Finding("loop-without-end", "error", where, "loops and nothing leads out of it", do)
