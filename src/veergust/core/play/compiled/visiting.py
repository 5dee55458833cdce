"""Guests: what is compiled of other projects whose figures stand on this one's stage."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol, TypeVar

from msgspec.structs import replace

from veergust.core.model import Project
from veergust.core.motion import Assets


class Hosting(Protocol):
    """What is compiled of a project, as far as guests go."""

    project: Project
    assets: Assets
    host: Any

    def renew(self, project: Project) -> Any:
        """The build of ``project``, keeping what still holds."""


B = TypeVar("B", bound=Hosting)


def invited(build: Hosting, make: Callable[[Project, Assets], B]) -> dict[str, B]:
    """What is compiled of the projects of guests, by folder, on the stage of ``build``."""
    stage = build.project.stage
    rows = build.assets.guests.items()
    return {name: _at(build, make(replace(project, stage=stage), assets)) for name, (project, assets) in rows}


def stays(build: B, before: dict[str, B], moved: bool) -> dict[str, B]:
    """What was compiled of guests before an edit, on the stage as it is now, where that was ``moved``."""
    stage = build.project.stage
    return {
        name: _at(build, guest.renew(replace(guest.project, stage=stage)) if moved else guest)
        for name, guest in before.items()
    }


def _at(host: Hosting, guest: B) -> B:
    guest.host = host
    return guest
