"""Sections: their clips, and what follows them."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds import Finding, in_action
from veergust.core.play import CompiledAction, CompiledProject
from veergust.core.study.checks.clips import clip_missing


def check(build: CompiledProject, compiled: CompiledAction) -> Iterator[Finding]:
    """Cuts of clips that are not there, and sections that go on to nothing."""
    name = compiled.action.name
    if not compiled.sections:
        says = "has no section"
        yield Finding("action-empty", "warning", in_action(name), says, "drop a clip on its sheet")
    for i, part in enumerate(compiled.sections):
        section = part.section
        where = in_action(name, section.name, section=i)
        for cut in section.cuts:
            if build.clip(cut.clip) is None:
                yield clip_missing(cut.clip, where)
        if section.then != "end" and not compiled.ways(section.then):
            says = f"goes on to {section.then!r}, no section here and no pool of some"
            yield Finding("section-missing", "error", where, says, "choose a section, a pool or end")
