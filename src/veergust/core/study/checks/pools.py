"""Pools: what they hold."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds import Finding, Ref
from veergust.core.play import CompiledProject


def check(build: CompiledProject) -> Iterator[Finding]:
    """Pools with nothing to pick from, and names in them that nothing has."""
    sections = {s.name for a in build.project.actions for s in a.sections}
    for pool in build.project.pools:
        where = Ref("pool", pool.name, (f"pool {pool.name}",))
        if not any(item.weight > 0.0 for item in pool.items):
            says = "has nothing to pick from"
            yield Finding("pool-empty", "warning", where, says, "put actions or sections into it")
        for command in pool.commands:
            if command not in build.commands:
                says = f"starts on the command {command!r}, which the project does not have"
                yield Finding("command-unknown", "error", where, says, "choose a command")
        for item in pool.items:
            if item.name not in build.actions_by_name and item.name not in sections:
                says = f"holds {item.name!r}, which is no action and no section"
                yield Finding("pool-item-missing", "error", where, says, "take it out")
