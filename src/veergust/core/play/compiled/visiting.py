"""Guests: what is compiled of other projects whose figures stand on this one's stage."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec.structs import replace

from veergust.core.model import Project
from veergust.core.motion.figure import Assets

if TYPE_CHECKING:
    from veergust.core.play.compiled.project import CompiledProject


def invited(build: CompiledProject, make: Callable[[Project, Assets], CompiledProject]) -> dict[str, CompiledProject]:
    """What is compiled of the projects of guests, by folder, on the stage of ``build``."""
    stage = build.project.stage
    rows = build.assets.guests.items()
    return {name: _at(build, make(replace(project, stage=stage), assets)) for name, (project, assets) in rows}


def stays(build: CompiledProject, before: CompiledProject) -> dict[str, CompiledProject]:
    """What was compiled of guests before an edit, on the stage as it is now."""
    stage = build.project.stage
    if stage is before.project.stage:
        return {name: _at(build, guest) for name, guest in before.guests.items()}
    return {name: _at(build, guest.renew(replace(guest.project, stage=stage))) for name, guest in before.guests.items()}


def _at(host: CompiledProject, guest: CompiledProject) -> CompiledProject:
    guest.host = host
    return guest
