"""Sections: where an action is entered, and those that nothing leads to."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds import Finding, in_action
from veergust.core.play import CompiledAction, CompiledProject
from veergust.core.study.checks.charts import holds_always

NOWHERE: frozenset[str] = frozenset()
ANY = ""
"""What stands for every action; none is called so."""


def check(build: CompiledProject, compiled: CompiledAction) -> Iterator[Finding]:
    """An entry that is no section, gates that never open, and sections that cannot come to be played."""
    action, parts = compiled.action, compiled.sections
    if action.entry and parts and action.entry not in compiled.index:
        says = f"is to begin with {action.entry!r}, no section here; it begins with {parts[0].section.name}"
        yield Finding("entry-missing", "error", in_action(action.name), says, "choose one of its sections")
    for i, part in enumerate(parts):
        for n, gate in enumerate(part.section.gates):
            if holds_always(build, gate.conditions) is False:
                where = in_action(action.name, part.section.name, "gate", section=i, kind="gates", index=n)
                yield Finding("condition-never", "warning", where, "never opens: its conditions cannot hold together",
                              "change its conditions")  # fmt: skip
    there = reached(build, compiled)
    for i, part in enumerate(parts):
        if i not in there:
            where = in_action(action.name, part.section.name, section=i)
            do = "lead to it by then, a gate, an exit or a reaction, or remove it"
            yield Finding("section-unreached", "note", where, "is never played: nothing leads to it", do)


def reached(build: CompiledProject, compiled: CompiledAction) -> set[int]:
    """The sections that can come to be played: from the entry, or wherever an exit or a reaction begins."""
    name, parts = compiled.action.name, compiled.sections
    begins = {compiled.action.entry, *build.ask(begun_at, name)}
    waiting = [i for i in {compiled.entry, *(compiled.index[b] for b in begins if b in compiled.index)} if parts]
    out: set[int] = set()
    while waiting:
        at = waiting.pop()
        if at not in out:
            out.add(at)
            section = parts[at].section
            open_ = [g.to for g in section.gates if holds_always(build, g.conditions) is not False]
            waiting += [i for to in (section.then, *open_) for i in compiled.ways(to)]
    return out


def begun_at(build: CompiledProject, name: str) -> frozenset[str]:
    """The sections of an action that something outside it begins with: exits, reactions, drills."""
    there = build.ask(begun)
    return there.get(name, NOWHERE) | there.get(ANY, NOWHERE)


def begun(build: CompiledProject) -> dict[str, frozenset[str]]:
    """``begun_at`` of every action, and under ``ANY`` what may be begun at in all of them."""
    project = build.project
    out: dict[str, set[str]] = {}
    for action in project.actions:
        for exits in (action.exits, *[s.exits for s in action.sections]):
            for e in exits:
                # An exit to a tag or a pool may name a section of any action that it may give.
                to_any = e.to_kind in ("tag", "pool")
                if e.section and (e.to or to_any):
                    out.setdefault(ANY if to_any else e.to, set()).add(e.section)
    for name, section in [(r.action, r.section) for r in project.reactions] + [
        (s.action, s.section) for d in project.drills for s in d.steps
    ]:
        if name:
            out.setdefault(name, set()).add(section)
    return {name: frozenset(sections) for name, sections in out.items()}
