"""Figures that leap, told as findings."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds import Finding, in_action
from veergust.core.play import CompiledAction, CompiledProject
from veergust.core.study.pops import pops, words


def check(build: CompiledProject, compiled: CompiledAction) -> Iterator[Finding]:
    """A finding for each pop."""
    for pop in pops(build, compiled):
        section = compiled.index[pop.section]
        where = in_action(compiled.action.name, pop.section, f"frame {pop.at}", section=section, frame=pop.at)
        yield Finding(pop.code, "warning", where, words(pop), pop.do)
