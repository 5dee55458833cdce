"""What a start sets has to be given back by every ending, or it is left behind by the one that forgot."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds import Finding, in_action
from veergust.core.play import CompiledAction, CompiledProject


def check(build: CompiledProject, compiled: CompiledAction) -> Iterator[Finding]:
    """Parameters that stay set by some endings."""
    action = compiled.action
    endings = {"completed": action.on_completed, "cancelled": action.on_cancelled, "broken": action.on_broken}
    for flag in action.on_start.parameters:
        kept = [n for n, e in endings.items() if flag.setting not in {p.setting for p in e.parameters}]
        if kept:
            says = f"sets {flag.setting}, and it stays so when it is {' or '.join(kept)}"
            yield Finding("flag-kept", "warning", in_action(action.name, "start"), says, "set it back on every ending")
