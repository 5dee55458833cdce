"""Blends of locomotion: points to blend between, each in a place of its own, over what there is."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds.finding import Finding
from veergust.core.kinds.measures import MEASURES
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.checks.locomotion import at


def check(build: CompiledProject) -> Iterator[Finding]:
    """What is wrong with each blend."""
    known = {*MEASURES, *(p.name for p in build.project.locomotion.parameters)}
    for state in build.project.locomotion.states:
        if not state.blend:
            if not state.clip:
                says = "has neither a clip nor a blend: it shows the figure at rest"
                yield Finding("state-bare", "warning", at(state.name, state.name), says, "choose a clip")
            continue
        where = at(state.name, state.name, "blend")
        if len(state.blend) == 1:
            says = "has one point, and nothing to blend with"
            yield Finding("blend-one-point", "warning", where, says, "add a point or make it a clip")
        places = [build.blend_spaces[state.name].place(p.at) for p in state.blend]
        for i, place in enumerate(places):
            if place in places[:i]:
                first = state.blend[places.index(place)].clip
                says = f"has {first} and {state.blend[i].clip} in one place"
                yield Finding("blend-same-place", "warning", where, says, "move one of them")
        if not 1 <= len(state.over) <= 2:
            says = f"is over {len(state.over)} numbers; it can be over one or two"
            yield Finding("blend-over", "error", where, says, "choose one or two")
        for name in state.over:
            if name not in known:
                says = f"is over {name!r}, which is neither measured nor a parameter"
                yield Finding("parameter-unknown", "error", where, says, "choose what there is, or make the parameter")
        if any(len(p.at) != len(state.over) for p in state.blend):
            says = f"is over {' and '.join(state.over)}, and not every point says where it lies"
            yield Finding("blend-places", "warning", where, says, "set a number of each for every point")
