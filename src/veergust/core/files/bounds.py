"""What a project may hold. Numbers and names that nothing could be played with, or that would fill memory, are
refused where they are read, with file and field."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from math import isfinite
from typing import Any

import msgspec

from veergust.core.files.text import bare
from veergust.core.model import Action, Cut, Project, Section
from veergust.core.trouble import Trouble

MOST_TICKS = 200_000
MOST = 1e6
"""No length (m), time (s), number of ticks or factor is greater."""

_LARGE = re.compile(rb"\d{7}|\d[eE]\+?\d")

Found = tuple[str, str, str]
"""File, field, and what is wrong with it."""


def check_numbers(files: dict[str, bytes], name: str) -> None:
    """Raise ``Trouble`` for the first number in files of a folder that is past all bounds."""
    for path, data in files.items():
        # Looked for in the text first: hardly any file has a number of so many digits.
        if not _LARGE.search(data):
            continue
        for field, value in _floats(msgspec.json.decode(bare(data)), ""):
            if not isfinite(value) or abs(value) > MOST:
                says = f"should be at most {MOST:g} and is {value:g}"
                raise Trouble(says, file=f"{name}/{path}", field=field, do="correct it")


def check_bounds(project: Project, name: str, paths: dict[str, str]) -> None:
    """Raise ``Trouble`` for the first thing that is out of bounds; ``paths`` are the files of actions by name."""
    for file, field, says in _all(project, paths):
        raise Trouble(says, file=f"{name}/{file}", field=field, do="correct the field or take the file from a backup")


def _all(project: Project, paths: dict[str, str]) -> Iterator[Found]:
    top = "project.json"
    settings = project.settings
    if not 1 <= settings.rate <= 1000:
        yield top, "settings.rate", f"should be 1 to 1000 ticks a second and is {settings.rate}"
    yield from _whole(top, "settings.buffer", settings.buffer)
    for i, clip in enumerate(project.clips):
        yield from _above(top, f"clips[{i}].rate", clip.rate)
    for kind in ("clips", "layers", "masks", "commands", "pools"):
        yield from _twice(top, kind, (item.name for item in getattr(project, kind)))
    yield from _twice("stage.json", "fighters", (f.name for f in project.stage.fighters))
    yield from _twice("stage.json", "posts", (p.name for p in project.stage.posts))
    both = {f.name for f in project.stage.fighters} & {p.name for p in project.stage.posts}
    for shared in sorted(both):
        yield "stage.json", "posts", f"the name {shared!r} is a fighter's as well"
    yield from _twice("ground.json", "states", (s.name for s in project.ground.states))
    for action in project.actions:
        yield from _action(project, action, paths.get(action.name, "actions"))


def _action(project: Project, action: Action, file: str) -> Iterator[Found]:
    yield from _above(file, "speed", action.speed)
    for field in ("blend_in", "blend_out"):
        yield from _whole(file, field, getattr(action, field))
    for field in ("cooldown", "string_memory"):
        yield from _whole(file, f"start.{field}", getattr(action.start, field), MOST)
    yield from _twice(file, "sections", (s.name for s in action.sections))
    ticks = 0.0
    for i, section in enumerate(action.sections):
        if section.name in ("", "end"):
            yield file, f"sections[{i}].name", "a section cannot be called 'end' or nothing: that is where it ends"
        for j, cut in enumerate(section.cuts):
            where = f"sections[{i}].cuts[{j}]"
            yield from _above(file, f"{where}.rate", cut.rate)
            yield from _whole(file, f"{where}.blend", cut.blend)
            ticks += _ticks(project, action, cut)
            if ticks > MOST_TICKS:
                yield file, where, f"makes the action longer than {MOST_TICKS} frames"
        yield from _spans(file, f"sections[{i}]", section)


def _ticks(project: Project, action: Action, cut: Cut) -> float:
    if cut.end is None or cut.rate <= 0.0 or action.speed <= 0.0:
        return 0.0
    return max(cut.end - cut.start, 0.0) / (cut.rate * action.speed) * max(project.settings.rate, 1)


def _spans(file: str, where: str, section: Section) -> Iterator[Found]:
    for i, strike in enumerate(section.strikes):
        for field in ("hit_stop", "repeat"):
            yield from _whole(file, f"{where}.strikes[{i}].{field}", getattr(strike, field))
        for j, box in enumerate(strike.boxes):
            if box.radius < 0.0 or any(k.radius < 0.0 for k in box.keys) or min(box.size) < 0.0:
                yield file, f"{where}.strikes[{i}].boxes[{j}]", "has a size below 0"
    for kind in ("exits", "gates"):
        for i, span in enumerate(getattr(section, kind)):
            yield from _whole(file, f"{where}.{kind}[{i}].blend", span.blend)


def _above(file: str, field: str, value: float) -> Iterator[Found]:
    if not 0.0 < value <= 1000.0:
        yield file, field, f"should be above 0 and at most 1000 and is {value:g}"


def _whole(file: str, field: str, value: int, most: float = 10_000) -> Iterator[Found]:
    if not 0 <= value <= most:
        yield file, field, f"should be 0 to {most:g} frames and is {value}"


def _twice(file: str, field: str, names: Iterable[str]) -> Iterator[Found]:
    seen: set[str] = set()
    for name in names:
        if name in seen:
            yield file, field, f"the name {name!r} stands twice"
        seen.add(name)


def _floats(value: Any, where: str) -> Iterator[tuple[str, float]]:
    if isinstance(value, dict):
        for key, inner in value.items():
            yield from _floats(inner, f"{where}.{key}" if where else str(key))
    elif isinstance(value, list):
        for i, inner in enumerate(value):
            yield from _floats(inner, f"{where}[{i}]")
    elif isinstance(value, int | float) and not isinstance(value, bool):
        yield where, float(value)
