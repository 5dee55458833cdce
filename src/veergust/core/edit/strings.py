"""Several actions put together on their commands: a string of them, one that goes round, or one of them by chance."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from msgspec.structs import replace

from veergust.core.edit.actions import rename_action
from veergust.core.edit.clipboard import like
from veergust.core.edit.names import free
from veergust.core.edit.spans import Edit
from veergust.core.model import Action, Exit, Pool, PoolItem, Project
from veergust.core.play import CompiledProject
from veergust.core.trouble import Trouble
from veergust.core.wording import listed

How = Literal["string", "round", "chance"]
HOWS: dict[How, str] = {
    "string": "one after the other",
    "round": "round and round",
    "chance": "one of them by chance",
}
MOST = 6
MEMORY = 20
"""For how many ticks a string is remembered unless something else is said."""


@dataclass(frozen=True)
class Link:
    """A step of a string: on which command, while which frames of the action before, the next one comes.

    ``first`` and ``last`` are frames of the path of ``start``; ``section`` and ``tick`` are where the first lies.
    """

    start: str
    to: str
    command: str
    first: int
    last: int
    section: int
    tick: int


def links(build: CompiledProject, names: list[str], commands: list[str], how: How) -> list[Link]:
    """The steps of a string: each from the end of the last strike to the end of its section. Raises ``Trouble``."""
    if not 2 <= len(names) <= MOST:
        raise Trouble(f"{len(names)} actions are chosen", field="string", do=f"choose two to {MOST}")
    if not commands or any(c not in build.commands for c in commands):
        raise Trouble("no command is chosen", field="string", do="choose one, or make one first")
    if how == "chance":
        return []
    pairs = list(zip(names, names[1:])) + ([(names[-1], names[0])] if how == "round" else [])
    return [_link(build, a, b, commands[(n + 1) % len(commands)]) for n, (a, b) in enumerate(pairs)]


def _link(build: CompiledProject, name: str, to: str, command: str) -> Link:
    compiled = build.action(name)
    if compiled is None or not compiled.path:
        raise Trouble(f"{name} has no frames", field="string", do="give it a section, or leave it out")
    ends = [(i, max(s.end for s in compiled.sections[i].section.strikes))
            for i in compiled.path if compiled.sections[i].section.strikes]  # fmt: skip
    # Without a strike the last third of what it does.
    section, tick = ends[-1] if ends else (compiled.path[-1], compiled.sections[compiled.path[-1]].ticks * 2 // 3)
    ticks = compiled.sections[section].ticks
    tick = min(tick, ticks - 1)
    first = compiled.start_of(section)
    return Link(name, to, command, first + tick, first + ticks, section, tick)


def with_twins(project: Project, names: list[str]) -> tuple[Project, list[str]]:
    """A project in which each of some actions has a mirrored twin behind it, and the names with those of the twins.

    What stands on mounts and joints goes over to the other side with the pose.
    """
    out: list[str] = []
    for name in names:
        edit, twin = like(project, name)
        project = rename_action(edit.project, twin, free(f"{name} mirrored", {a.name for a in project.actions})).project
        twin = next(a.name for a, b in zip(project.actions, edit.project.actions) if b.name == twin)
        action = next(a for a in project.actions if a.name == twin)
        sections = tuple(
            replace(s, cuts=tuple(replace(c, mirror=not c.mirror) for c in s.cuts), exits=()) for s in action.sections
        )
        turned = replace(action, sections=sections)
        project = replace(project, actions=tuple(turned if a.name == twin else a for a in project.actions))
        out += [name, twin]
    return project, out


def make_string(
    project: Project, build: CompiledProject, names: list[str], commands: list[str], how: How, memory: int = MEMORY
) -> Edit:
    """Actions put together. The first starts on the first command, each next one by a combo on the next (the commands
    again and again), remembered for ``memory`` ticks after an action ended; by chance, each command starts any of them.

    What any of them started on before is taken from it. Raises ``Trouble``.
    """
    steps = links(build, names, commands, how)
    by_chance = how == "chance"
    pool = free(f"one of {names[0]}", {p.name for p in project.pools})

    def put(action: Action) -> Action:
        if action.name not in names:
            return action
        starts = tuple(commands[:1]) if action.name == names[0] and not by_chance else ()
        start = replace(action.start, commands=starts)
        if not by_chance:
            start = replace(start, string_memory=memory)
        action = replace(action, start=start)
        for step in steps:
            action = _with_combo(action, step, build) if step.start == action.name else action
        return action

    changed = replace(project, actions=tuple(put(a) for a in project.actions))
    if by_chance:
        items = tuple(PoolItem(name=name) for name in names)
        made = Pool(name=pool, items=items, commands=tuple(dict.fromkeys(commands)))
        changed = replace(changed, pools=(*project.pools, made))
    said = f" {'→' if not by_chance else '/'} ".join([*names, *([names[0]] if how == "round" else [])])
    return Edit(changed, f"{', '.join(dict.fromkeys(commands))}: {said}", _taken(project, names, commands[0]))


def _with_combo(action: Action, step: Link, build: CompiledProject) -> Action:
    """An action with the combo of a step; one that led there on the same command is put where the step says."""
    section = action.sections[step.section]
    compiled = build.action(action.name)
    assert compiled is not None
    rest = tuple(e for e in section.exits if (e.kind, e.command, e.to) != ("combo", step.command, step.to))
    combo = Exit(
        start=step.tick,
        end=compiled.sections[step.section].ticks,
        kind="combo",
        command=step.command,
        to=step.to,
        early=True,
    )
    section = replace(section, exits=(*rest, combo))
    return replace(action, sections=(*action.sections[: step.section], section, *action.sections[step.section + 1 :]))


def _taken(project: Project, names: list[str], command: str) -> tuple[str, ...]:
    """What is said of other actions that start on the same command."""
    others = [a.name for a in project.actions if command in a.start.commands and a.name not in names]
    return (f"{command} also starts {listed(others)}: give it another command there.",) if others else ()


def in_words(steps: list[Link]) -> list[str]:
    """Each step as it is told before it is made."""
    return [f"{s.command} on {s.first}–{s.last} of {s.start} → {s.to}" for s in steps]
