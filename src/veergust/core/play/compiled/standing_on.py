"""A project as it is on another of its stages."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace

from veergust.core.model import Stage

if TYPE_CHECKING:
    from veergust.core.play.compiled.project import CompiledProject


def standing_on(build: CompiledProject, stage: str) -> CompiledProject:
    """The build with the stage of a name in place of the one that is shown; as it is where there is none of it."""
    project = build.project
    other: Stage | None = next((s for s in project.stages if s.name == stage), None)
    if other is None:
        return build
    build.prepare()
    return build.renew(replace(project, stage=other))
