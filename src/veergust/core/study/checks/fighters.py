"""The fighters of the stage."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds import Finding, Ref
from veergust.core.play import CompiledProject


def check(build: CompiledProject) -> Iterator[Finding]:
    """Commands they answer with and drills they replay that are not there."""
    for fighter in build.project.stage.fighters:
        if fighter.project and fighter.project not in build.guests:
            says = f"is from {fighter.project}, which is not beside this project, cannot be read or has another rate"
            where = Ref("stage", fighter.name, ("stage", fighter.name))
            yield Finding("guest-gone", "error", where, says, "put it there, or choose whose it is")
        if fighter.answer and fighter.answer not in build.of(fighter).commands:
            says = f"answers with the command {fighter.answer!r}, which the project does not have"
            where = Ref("stage", fighter.name, ("stage", fighter.name))
            yield Finding("command-unknown", "error", where, says, "choose a command")
        if fighter.plays == "replays" and all(d.name != fighter.replay for d in build.project.drills):
            says = f"replays the drill {fighter.replay!r}, which the project does not have"
            where = Ref("stage", fighter.name, ("stage", fighter.name))
            yield Finding("drill-unknown", "error", where, says, "choose a drill")
