"""What a project may hold beyond what its types say: counts, lengths and names that nothing could be played with, or
that would fill memory, are refused where they are read, with file and field. (Single numbers are bounded by the types
of the model.)"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence

from veergust.core.edit import MOST_LAYERS
from veergust.core.kinds import SPANS
from veergust.core.model import ANYWHERE, MOST_TICKS, Action, Cut, Locomotion, Project, Stage
from veergust.core.play import items_of
from veergust.core.trouble import Trouble

MOST_SECTIONS = 500
MOST_BOXES = 64
MOST_FIGHTERS = 64
MOST_PLACES = 1000
MOST_STATES = 1000
MOST_TRANSITIONS = 4000
DO = "correct the field or take the file from a backup"

Excess = tuple[str, str, str]
"""File, field, and what is wrong with it."""


def check_bounds(project: Project, name: str, path_of: Callable[[Action], str], known: Project | None = None) -> None:
    """Raise ``Trouble`` for the first thing that is out of bounds; ``path_of`` tells the file of an action.

    The actions of a project that is ``known`` to be within them are not looked at again.
    """
    fine: set[int] = set()
    if known is not None and known.settings.rate == project.settings.rate:
        fine = set(map(id, known.actions))
    for file, field, says in _around(project):
        raise Trouble(says, file=f"{name}/{file}", field=field, do=DO)
    for action in project.actions:
        if id(action) in fine:
            continue
        for _, field, says in _action(project, action, ""):
            raise Trouble(says, file=f"{name}/{path_of(action)}", field=field, do=DO)


def _around(project: Project) -> Iterator[Excess]:
    """What is out of bounds outside the actions."""
    top = "project.json"
    for kind in ("clips", "layers", "masks", "commands", "pools", "thrown"):
        yield from _twice(top, kind, (item.name for item in getattr(project, kind)))
    for kind in ("mounts", "hurtboxes", "regions", "props"):
        yield from _twice(top, f"rig.{kind}", (item.name for item in getattr(project.rig, kind)))
    yield from _many(top, "layers", project.layers, MOST_LAYERS)
    yield from _many(top, "masks", project.masks, MOST_PLACES)
    yield from _many(top, "thrown", project.thrown, MOST_PLACES)
    yield from _many(top, "reactions", project.reactions, MOST_PLACES)
    yield from _many(top, "grips", project.grips, MOST_BOXES)
    for i, layer in enumerate(project.layers):
        yield from _twice(top, f"layers[{i}].scope", (row.state for row in layer.scope))
    for i, mask in enumerate(project.masks):
        yield from _twice(top, f"masks[{i}].weights", (joint for joint, _ in mask.weights))
    yield from _twice(top, "stages", (stage.name for stage in (project.stage, *project.stages)))
    for stage in (project.stage, *project.stages):
        yield from _stage(stage, "stage.json" if stage is project.stage else f"stages/{stage.name}")
    for kind in ("hurtboxes", "regions"):
        yield from _many(top, f"rig.{kind}", getattr(project.rig, kind), MOST_PLACES)
    yield from _locomotion(project.locomotion)


def _stage(stage: Stage, file: str) -> Iterator[Excess]:
    yield from _many(file, "fighters", stage.fighters, MOST_FIGHTERS)
    for kind in ("floors", "posts"):
        yield from _many(file, kind, getattr(stage, kind), MOST_PLACES)
    yield from _twice(file, "posts", (p.name for p in stage.posts))
    yield from _twice(file, "fighters", (f.name for f in stage.fighters))
    for shared in sorted({f.name for f in stage.fighters} & {p.name for p in stage.posts}):
        yield file, "posts", f"the name {shared!r} is a fighter's as well"


def _locomotion(there: Locomotion) -> Iterator[Excess]:
    file = "ground.json"
    for kind, most in (("states", MOST_STATES), ("groups", MOST_STATES), ("transitions", MOST_TRANSITIONS)):
        yield from _many(file, kind, getattr(there, kind), most)
    yield from _many(file, "parameters", there.parameters, MOST_PLACES)
    for kind in ("states", "groups", "parameters"):
        yield from _twice(file, kind, (item.name for item in getattr(there, kind)))
    for name in sorted({s.name for s in there.states} & {g.name for g in there.groups}):
        yield file, "groups", f"the name {name!r} is a state's as well"
    around = {g.name: g.group for g in there.groups}
    for i, group in enumerate(there.groups):
        at, seen = group.name, {""}
        while at in around and at not in seen:
            seen.add(at)
            at = around[at]
        if at in seen and at:
            yield file, f"groups[{i}].group", f"the group {group.name!r} stands within itself"
    for i, item in enumerate(items_of(there)):
        if item.name in ("", ANYWHERE):
            kind, at_ = ("states", i) if i < len(there.states) else ("groups", i - len(there.states))
            yield file, f"{kind}[{at_}].name", "a state or group cannot be called '*' or nothing"


def _action(project: Project, action: Action, file: str) -> Iterator[Excess]:
    yield from _twice(file, "sections", (s.name for s in action.sections))
    yield from _many(file, "sections", action.sections, MOST_SECTIONS)
    yield from _twice(file, "kept", (action.version, *(k.name for k in action.kept)) if action.kept else ())
    for i, kept in enumerate(action.kept):
        if kept.action.kept:
            yield file, f"kept[{i}].action.kept", "a version of an action has no versions itself"
    ticks = 0.0
    for i, section in enumerate(action.sections):
        if section.name in ("", "end"):
            yield file, f"sections[{i}].name", "a section cannot be called 'end' or nothing: that is where it ends"
        for j, cut in enumerate(section.cuts):
            where = f"sections[{i}].cuts[{j}]"
            ticks += _ticks(project, action, cut)
            if ticks > MOST_TICKS:
                yield file, where, f"makes the action longer than {MOST_TICKS} frames"
        for kind in SPANS.values():
            for j, span in enumerate(kind.of(section)):
                yield from _many(file, f"sections[{i}].{kind.key}[{j}].boxes", kind.boxes(span), MOST_BOXES)


def _ticks(project: Project, action: Action, cut: Cut) -> float:
    if cut.end is None or cut.rate <= 0.0 or action.speed <= 0.0:
        return 0.0
    return max(cut.end - cut.start, 0.0) / (cut.rate * action.speed) * max(project.settings.rate, 1)


def _many(file: str, field: str, rows: Sequence[object], most: int) -> Iterator[Excess]:
    if len(rows) > most:
        yield file, field, f"holds {len(rows)} entries, and {most} are the most"


def _twice(file: str, field: str, names: Iterable[str]) -> Iterator[Excess]:
    seen: set[str] = set()
    for name in names:
        if name in seen:
            yield file, field, f"the name {name!r} stands twice"
        seen.add(name)
