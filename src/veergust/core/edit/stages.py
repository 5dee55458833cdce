"""The stages of a project: one is shown, the others are kept; what floors they have is made and changed here."""

from __future__ import annotations

from typing import Any, Literal

from msgspec.structs import replace

from veergust.core.edit.names import free, typed
from veergust.core.edit.spans import Edit
from veergust.core.model import Drill, Floor, KeptTake, Project
from veergust.core.trouble import Trouble, named

FloorKind = Literal["floor", "ramp", "stairs", "wall", "platform"]
MADE: dict[FloorKind, tuple[Floor, ...]] = {
    "floor": (Floor(name="floor", low=(2.0, -1.0), high=(4.0, 1.0), height=0.5),),
    "ramp": (Floor(name="ramp", low=(2.0, -1.0), high=(4.0, 1.0), rise=0.8),),
    "wall": (Floor(name="wall", low=(3.0, -2.0), high=(3.2, 2.0), height=2.5),),
    "stairs": tuple(
        Floor(name="stair", low=(2.0 + 0.3 * n, -1.0), high=(2.3 + 0.3 * n, 1.0), height=0.18 * (n + 1))
        for n in range(5)
    ),
    "platform": (Floor(name="platform", low=(2.0, -1.0), high=(4.0, 1.0), height=0.2, goes=(0.0, 1.5, 0.0)),),
}
"""What each kind of floor begins as: they are rectangles all, a wall is a high and narrow one, a platform goes."""


def stage_named(project: Project, name: str) -> str:
    """How a drill or a take names a stage so that it stays the same when another one is shown: by its name, where
    there are several."""
    return (name or project.stage.name) if project.stages else ""


def use_stage(project: Project, name: str) -> Edit:
    """Another stage shown; the one that was is kept."""
    other = named(project.stages, name, "stage")
    stages = tuple(project.stage if s is other else s for s in project.stages)
    return Edit(replace(project, stage=other, stages=stages), f"Stage {name}")


def add_stage(project: Project) -> tuple[Edit, str]:
    """A new stage, like the one that is shown, which is kept; and its name. Drills stay where they were made."""
    shown = project.stage
    name = free("Stage", {s.name for s in (shown, *project.stages)})
    made = replace(shown, name=name)
    drills = tuple(replace(d, stage=d.stage or shown.name) for d in project.drills)
    takes = tuple(replace(t, stage=t.stage or shown.name) for t in project.takes)
    after = replace(project, stage=made, stages=(*project.stages, shown), drills=drills, takes=takes)
    return Edit(after, f"New stage {name}"), name


def rename_stage(project: Project, new: str) -> Edit:
    """The stage that is shown called otherwise; drills and takes follow. Raises ``Trouble`` for a taken name."""
    old = project.stage.name
    name = typed(new, old, {s.name for s in project.stages}, "stage")
    drills = tuple(replace(d, stage=name) if d.stage == old else d for d in project.drills)
    takes = tuple(replace(t, stage=name) if t.stage == old else t for t in project.takes)
    after = replace(project, stage=replace(project.stage, name=name), drills=drills, takes=takes)
    return Edit(after, f"Stage {name}")


def remove_stage(project: Project) -> Edit:
    """The project without the stage that is shown; the last of the others is shown then.

    Raises:
        Trouble: it is the only one, or a drill or a take is played on it.
    """
    gone = project.stage
    if not project.stages:
        raise Trouble("it is the only stage there is", field="stage", do="make another one first")
    played: tuple[Drill | KeptTake, ...] = (*project.drills, *project.takes)
    users = [d.name for d in played if d.stage == gone.name]
    if users:
        raise Trouble(f"{users[0]} is played on it", field="stage", do="remove that one first")
    *rest, last = project.stages
    return Edit(replace(project, stage=last, stages=tuple(rest)), f"Stage {gone.name} is gone")


def add_floors(project: Project, kind: FloorKind) -> tuple[Edit, str]:
    """A floor, a ramp, a flight of stairs, a wall or a platform more, and the name of the first that is new."""
    taken = {f.name for f in project.stage.floors}
    made: list[Floor] = []
    for one in MADE[kind]:
        name = free(one.name, taken)
        taken.add(name)
        made.append(replace(one, name=name))
    return _with(project, f"{made[0].name} on the stage", (*project.stage.floors, *made)), made[0].name


def set_floor(project: Project, name: str, /, **changes: Any) -> Edit:
    """A floor with other fields; its low corner stays the low one.

    Raises:
        Trouble: there is none of that name, or another has the new one.
    """
    found = named(project.stage.floors, name, "floor")
    if "name" in changes:
        changes["name"] = typed(changes["name"], name, {f.name for f in project.stage.floors} - {name}, "floor")
    made = replace(found, **changes)
    (a, b), (c, d) = made.low, made.high
    made = replace(made, low=(min(a, c), min(b, d)), high=(max(a, c), max(b, d)))
    floors = tuple(made if f is found else f for f in project.stage.floors)
    return _with(project, f"{made.name}: {', '.join(changes)}", floors)


def remove_floor(project: Project, name: str) -> Edit:
    """The stage without a floor."""
    found = named(project.stage.floors, name, "floor")
    return _with(project, f"{name} is gone", tuple(f for f in project.stage.floors if f is not found))


def _with(project: Project, words: str, floors: tuple[Floor, ...]) -> Edit:
    return Edit(replace(project, stage=replace(project.stage, floors=floors)), words)
