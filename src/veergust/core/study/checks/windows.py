"""Windows that do not do what they are for: too early, or cancelling the hit they follow."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds.finding import Finding, in_action
from veergust.core.play.compiled.action import CompiledAction
from veergust.core.play.compiled.project import CompiledProject


def check(build: CompiledProject, compiled: CompiledAction) -> Iterator[Finding]:
    """Exits that cannot be taken, or cancel the hit they follow."""
    open_ = compiled.open_frames
    name = compiled.action.name
    if not open_:
        return
    for first, i in compiled.starts():
        section = compiled.sections[i].section
        for n, exit_ in enumerate(section.exits):
            where = in_action(name, section.name, exit_.kind, section=i, kind="exits", index=n)
            if exit_.contact in ("hit", "guarded") and first + exit_.end <= open_[0]:
                yield Finding("exit-too-early", "warning", where,
                              f"asks for a touch, and ends at {first + exit_.end}, before the first strike opens "
                              f"at {open_[0]}", "move it behind the strike")  # fmt: skip
            elif exit_.kind == "combo" and exit_.contact == "any" and open_[0] < first + exit_.start <= open_[-1]:
                yield Finding("combo-early", "warning", where,
                              f"opens at {first + exit_.start}, while the strike is still to hit until "
                              f"{open_[-1]}: the next attack cancels it",
                              "open it behind the last active frame, or ask for a hit")  # fmt: skip
