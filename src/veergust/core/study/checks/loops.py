"""Loops that nothing can leave."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds import Finding, in_action
from veergust.core.play import CompiledAction, CompiledProject
from veergust.core.study.checks.charts import holds_always


def check(build: CompiledProject, compiled: CompiledAction) -> Iterator[Finding]:
    """Sections from which neither an end, nor a gate out, nor an exit can be reached."""
    name = compiled.action.name
    if compiled.action.exits or any(s.action == name for s in build.project.locomotion.states):
        return  # an exit of the whole action leaves them, and so does a state that runs it
    for i, part in enumerate(compiled.sections):
        if not compiled.flow.can_end(i, lambda gate: holds_always(build, gate.conditions) is not False):
            where = in_action(name, part.section.name, section=i)
            do = "give it a gate or an exit, or let it go on to end"
            yield Finding("loop-without-end", "error", where, "loops and nothing leads out of it", do)
