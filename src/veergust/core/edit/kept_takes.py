"""Takes kept in the project: made of what was played, named, and removed."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec.structs import replace

from veergust.core.edit.drills import steps_of
from veergust.core.edit.names import free, typed
from veergust.core.edit.spans import Edit
from veergust.core.edit.stages import stage_named
from veergust.core.model import KeptTake, Project
from veergust.core.play import Input, Record, came_of
from veergust.core.trouble import named


def keep_take(
    project: Project, records: Sequence[Record], inputs: Sequence[Sequence[Input]], seed: int, stage: str = ""
) -> tuple[Edit, str]:
    """The project with a take of what was given, and what it is called.

    Raises:
        Trouble: the take does not begin at its beginning.
    """
    steps = steps_of(records, inputs)
    name = free("Take", {t.name for t in project.takes})
    made = KeptTake(
        name=name,
        ticks=len(records),
        seed=seed,
        stage=stage_named(project, stage),
        steps=steps,
        came=came_of(records),
    )
    return Edit(replace(project, takes=(*project.takes, made)), f"{name} is kept"), name


def rename_take(project: Project, name: str, new: str) -> Edit:
    """A take called otherwise. Raises ``Trouble`` for a name that is empty or taken."""
    found = named(project.takes, name, "take")
    made = replace(found, name=typed(new, name, {t.name for t in project.takes}, "take"))
    return Edit(replace(project, takes=tuple(made if t is found else t for t in project.takes)), f"Take {made.name}")


def renew_take(project: Project, name: str, records: Sequence[Record]) -> Edit:
    """A take that is kept as it came out now."""
    found = named(project.takes, name, "take")
    made = replace(found, came=came_of(records))
    return Edit(replace(project, takes=tuple(made if t is found else t for t in project.takes)), f"Take {name} as now")


def remove_take(project: Project, name: str) -> Edit:
    """The project without a take."""
    found = named(project.takes, name, "take")
    return Edit(replace(project, takes=tuple(t for t in project.takes if t is not found)), f"Take {name} is gone")
