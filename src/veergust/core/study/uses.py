"""What uses what: where a clip is played."""

from __future__ import annotations

from veergust.core.model import Project
from veergust.core.play import CompiledProject


def users(project: Project) -> dict[str, list[str]]:
    """By the name of a clip that is used: the names of the actions that play it, then ``ground STATE`` for each
    locomotion state and ``layer NAME`` for each layer that takes it as its reference."""
    out: dict[str, list[str]] = {}

    def note(user: str, clips: set[str]) -> None:
        for clip in clips:
            out.setdefault(clip, []).append(user)

    for action in project.actions:
        note(action.name, {cut.clip for section in action.sections for cut in section.cuts})
    for state in project.locomotion.states:
        note(f"ground {state.name}", {state.clip, *(point.clip for point in state.blend)})
    for layer in project.layers:
        note(
            f"layer {layer.name}",
            {layer.reference, *(p.clip for p in layer.aim.points)} if layer.aim else {layer.reference},
        )
    return out


def uses(project: Project, clip: str) -> list[str]:
    """What uses one clip."""
    return users(project).get(clip, [])


def users_of(build: CompiledProject) -> dict[str, list[str]]:
    """What uses each clip of a build's project."""
    return users(build.project)
