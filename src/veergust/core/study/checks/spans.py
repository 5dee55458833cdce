"""Every span of an action, and what stands for the whole of it: checked as its kind says."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds import SPANS, Checked, Finding
from veergust.core.play import CompiledAction, CompiledProject


def check(build: CompiledProject, compiled: CompiledAction) -> Iterator[Finding]:
    """What the kinds find wrong in their spans."""
    for n, part in enumerate(compiled.sections):
        for key, kind in SPANS.items():
            for i, span in enumerate(kind.of(part.section)):
                at = Checked(build, compiled, n, key, i, span)
                yield from kind.lies(at, part.ticks)
                yield from kind.check(at)
    for key, kind in SPANS.items():
        for i, span in enumerate(getattr(compiled.action, key, ())):
            yield from kind.check(Checked(build, compiled, None, key, i, span))
