"""Blends of locomotion: points to blend between, each in a place of its own, over what there is."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from veergust.core.kinds import MEASURES, Finding
from veergust.core.model import State
from veergust.core.play import CompiledProject, loops, own_phase
from veergust.core.study.checks.locomotion import at

APART, PHASES = 0.25, 8
"""Hips of two clips of a blend that are so far (m, for one of 1.75 m) from each other in a phase leave the body
between."""


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
        places = [build.blends[state.name].place(p.at) for p in state.blend]
        for i, place in enumerate(places):
            if place in places[:i]:
                first = state.blend[places.index(place)].clip
                says = f"has {first} and {state.blend[i].clip} in one place"
                yield Finding("blend-same-place", "warning", where, says, "move one of them")
        yield from _apart(build, state)
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


def _apart(build: CompiledProject, state: State) -> Iterator[Finding]:
    """Clips of a blend whose hips stand in other places about the body: a mix of them stands beside it."""
    bones, hips = build.assets.skeleton, build.roots.hips
    if not len(bones) or any(build.clip(p.clip) is None for p in state.blend):
        return
    tall = float(bones.rest_world[:, 1, 3].max() - bones.rest_world[:, 1, 3].min()) / 1.75
    places = {}
    for point in state.blend:
        clip = build.locomotion_clip(point.clip)
        frames = [clip.frame_at(own_phase(state, clip, k / PHASES), loops(state, clip)) for k in range(PHASES)]
        places[point.clip] = np.array([clip.joints[round(f), hips] for f in frames])
    names = list(places)
    for i, name in enumerate(names):
        for other in names[:i]:
            gap = float(np.linalg.norm(places[name] - places[other], axis=-1).max())
            if gap > APART * tall:
                says = f"has {other} and {name}, whose hips are {gap:.2f} m apart about the body, and leaves it between"
                do = "choose for both a root joint that carries the body, on Root"
                yield Finding("pop", "warning", at(state.name, state.name, "blend"), says, do)
