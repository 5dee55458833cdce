"""Locomotion: clips, states and commands that it names."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds.finding import Finding, Ref
from veergust.core.kinds.spans.kind import conditions_known
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.checks.clips import clip_missing


def check(build: CompiledProject) -> Iterator[Finding]:
    """Names of locomotion that lead nowhere."""
    ground = build.project.locomotion
    for state in ground.states:
        for name in [state.clip, *(p.clip for p in state.blend)]:
            if name and build.clip(name) is None:
                yield clip_missing(name, _ref(state.name, state.name))
    if ground.entry and ground.entry not in build.states:
        says = f"begins in {ground.entry!r}, which is no state"
        yield Finding("state-unknown", "error", _ref(""), says, "choose one of its states")
    for t in ground.transitions:
        where = _ref(t.start, f"{t.start} → {t.to}")
        for name in (t.start, t.to):
            if name != "*" and name not in build.states:
                says = f"names {name!r}, which is no state"
                yield Finding("state-unknown", "error", where, says, "choose states of locomotion")
        yield from conditions_known(build, t.conditions, where)


def _ref(name: str, *words: str) -> Ref:
    return Ref("locomotion", name, ("ground", *words))
