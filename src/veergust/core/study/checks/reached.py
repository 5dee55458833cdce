"""Sections: where an action is entered, and those that nothing leads to."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds.finding import Finding, in_action
from veergust.core.play.compiled.action import CompiledAction
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.checks.charts import holds_always


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
    project = build.project
    exits = (e for a in project.actions for e in (*a.exits, *(e for s in a.sections for e in s.exits)))
    # An exit to a tag or a pool may name a section of any action that it may give.
    out = {e.section for e in exits if e.section and (e.to == name or e.to_kind in ("tag", "pool"))}
    out |= {r.section for r in project.reactions if r.action == name}
    return frozenset(out | {s.section for d in project.drills for s in d.steps if s.action == name})
