"""What the checks find wrong in a project, put together; the checks themselves are in ``study.checks``."""

from __future__ import annotations

from collections.abc import Iterator, Set

from veergust.core.kinds import Finding, in_action
from veergust.core.model import Action
from veergust.core.play import CompiledProject, action_names
from veergust.core.study.checks import OF_ACTION, OF_PROJECT
from veergust.core.study.store import Store

RANK = {"error": 0, "warning": 1, "note": 2}


def findings(build: CompiledProject, store: Store | None = None) -> list[Finding]:
    """Everything found in a project, errors first, then in the order of the project; with a ``store`` what holds is
    not worked out again."""
    *_, out = finding_steps(build, store)
    assert isinstance(out, list)
    return out


def finding_steps(build: CompiledProject, store: Store | None = None) -> Iterator[float | list[Finding]]:
    """The same in steps, an action each: how far it is (0…1), and in the end what was found."""
    store = store or Store()
    names = action_names(build)
    of_actions: list[Finding] = []
    for i, name in enumerate(names):
        yield i / len(names)
        of_actions += store.of(found_in_action, build, name)
    around: list[Finding] = []
    for i in range(len(OF_PROJECT)):
        yield 1.0
        around += store.of(found_by, build, i)
    led = {lead for action in build.project.actions for lead in led_from(action)}
    yield sorted([*around, *of_actions, *never_started(build, led)], key=lambda f: RANK[f.level])


def found_by(build: CompiledProject, which: int) -> list[Finding]:
    """What one check of the whole project finds."""
    return list(OF_PROJECT[which](build))


def found_around(build: CompiledProject) -> list[Finding]:
    """What is found in the rig, the clips, locomotion and the lists of a project."""
    return [found for i in range(len(OF_PROJECT)) for found in found_by(build, i)]


def found_in_action(build: CompiledProject, name: str) -> list[Finding]:
    """What is found in one action."""
    compiled = build.action(name)
    return [found for check in OF_ACTION for found in check(build, compiled)] if compiled is not None else []


def led_from(action: Action) -> frozenset[tuple[str, str]]:
    """(kind, name) of what an action's exits lead to."""
    every = (*action.exits, *(e for s in action.sections for e in s.exits))
    return frozenset((e.to_kind, e.to) for e in every)


def never_started(build: CompiledProject, led: Set[tuple[str, str]]) -> Iterator[Finding]:
    """Actions without a command that no exit (``led``: what all lead to), pool, reaction or state leads to."""
    project = build.project
    there = {name for kind, name in led if kind == "action"}
    there |= {r.action for r in project.reactions} | {item.name for pool in project.pools for item in pool.items}
    there |= {s.action for s in project.locomotion.states}
    tags = {name for kind, name in led if kind == "tag"}
    for action in project.actions:
        if not action.start.commands and action.name not in there and not tags & set(action.tags):
            says = "has no command, and nothing leads to it"
            do = "choose what it starts on, or lead an exit, a pool or a reaction to it"
            yield Finding("never-started", "note", in_action(action.name), says, do)
