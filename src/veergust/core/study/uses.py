"""What uses what: where a clip is played."""

from __future__ import annotations

from veergust.core.model import Project


def uses(project: Project, clip: str) -> list[str]:
    """Names of the actions that play a clip, then ``ground STATE`` for each locomotion state and ``layer NAME`` for
    each layer that takes it as its reference."""
    out = [a.name for a in project.actions if any(c.clip == clip for s in a.sections for c in s.cuts)]
    out += [
        f"ground {state.name}"
        for state in project.locomotion.states
        if clip in (state.clip, *(point.clip for point in state.blend))
    ]
    out += [f"layer {layer.name}" for layer in project.layers if layer.reference == clip]
    return out
