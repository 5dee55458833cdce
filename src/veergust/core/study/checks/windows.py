"""Windows that do not do what they are for: too early, or cancelling the hit they follow."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds import Finding, in_action
from veergust.core.model import Exit
from veergust.core.play import CompiledAction, CompiledProject


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
            late = first + exit_.end <= open_[0] and not _again(compiled, i, exit_)
            if exit_.contact in ("hit", "guarded") and late:
                yield Finding("exit-too-early", "warning", where,
                              f"asks for a touch, and ends at {first + exit_.end}, before the first strike opens "
                              f"at {open_[0]}", "move it behind the strike")  # fmt: skip
            elif exit_.kind == "combo" and exit_.contact == "any" and first + exit_.start <= open_[-1]:
                still = "is still to hit" if first + exit_.start > open_[0] else "has yet to open, and to hit"
                yield Finding("combo-early", "warning", where,
                              f"opens at {first + exit_.start}, while the strike {still} until "
                              f"{open_[-1]}: the next attack cancels it",
                              "open it behind the last active frame, or ask for a hit")  # fmt: skip


def _again(compiled: CompiledAction, section: int, exit_: Exit) -> bool:
    """Whether a section is come to again after a strike that can touch, by a loop: there an early exit has its
    touch."""
    parts = compiled.sections

    def on(at: int) -> set[int]:
        part = parts[at].section
        return {i for to in (part.then, *(g.to for g in part.gates)) for i in compiled.ways(to)}

    waiting = [i for s, p in enumerate(parts) if p.section.strikes for i in on(s)]
    seen: set[int] = set()
    while waiting:
        at = waiting.pop()
        if at not in seen:
            seen.add(at)
            waiting += on(at)
    return section in seen and exit_.end > exit_.start
