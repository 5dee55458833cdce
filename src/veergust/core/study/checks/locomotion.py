"""Locomotion: the clips, states, groups and commands that it names."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds import Finding, Ref, conditions_known, joint_known
from veergust.core.model import ANYWHERE, State
from veergust.core.play import CompiledProject, loops
from veergust.core.study.checks.clips import clip_missing

CHOOSE = "choose states of locomotion"


def check(build: CompiledProject) -> Iterator[Finding]:
    """Names of locomotion that lead nowhere, and clips that cannot play as a state wants them to."""
    ground = build.project.locomotion
    for state in ground.states:
        yield from _state(build, state)
    if ground.entry and not build.chart.known(ground.entry):
        says = f"begins in {ground.entry!r}, which is no state"
        yield Finding("state-unknown", "error", at(""), says, "choose one of its states")
    for i, t in enumerate(ground.transitions):
        where = at_transition(build, i)
        for name in (t.start, t.to):
            if name != ANYWHERE and not build.chart.known(name):
                yield Finding("state-unknown", "error", where, f"names {name!r}, which is no state", CHOOSE)
        yield from conditions_known(build, t.conditions, where)
    for group in build.chart.groups.values():
        for name in (group.default, *(c.state for c in group.choices)):
            if name and name not in build.chart.members[group.name]:
                says = f"names {name!r}, which does not stand in it"
                yield Finding("state-unknown", "error", at(group.name, group.name), says, "choose one of its members")
        if not build.chart.members[group.name]:
            says = "has no state in it"
            yield Finding("group-empty", "warning", at(group.name, group.name), says, "put states in it or remove it")
    yield from _commands(build)
    for share in ground.look.joints if ground.look.weight > 0.0 else ():
        yield from joint_known(build, share.joint, at("", "look"), "joint")


def _state(build: CompiledProject, state: State) -> Iterator[Finding]:
    where = at(state.name, state.name)
    for name in [state.clip, *(p.clip for p in state.blend)]:
        if name and build.clip(name) is None:
            yield clip_missing(name, where)
    if state.group and state.group not in build.chart.groups:
        says = f"stands in {state.group!r}, which is no group"
        yield Finding("state-unknown", "error", where, says, "choose a group")
    if state.action and build.action(state.action) is None:
        says = f"runs the action {state.action!r}, which is gone"
        yield Finding("action-unknown", "error", where, says, "choose another action")
    for name in [state.clip] * bool(state.matched) + [p.clip for p in state.blend]:
        clip = build.clip(name)
        if clip is None or state.plays == "loop":
            continue
        if not (clip.loop if state.blend else loops(state, build.locomotion_clip(name))):
            says = f"goes on in steps, and its clip {name} does not loop"
            yield Finding("clip-does-not-loop", "warning", where, says, "let the clip loop, or play it in a loop here")


def _commands(build: CompiledProject) -> Iterator[Finding]:
    command = build.project.locomotion.jump.command
    if command and command not in build.commands:
        says = f"jumps on the command {command!r}, which the project does not have"
        yield Finding("command-unknown", "error", at("", "jump"), says, "choose a command")


def at(name: str, *words: str) -> Ref:
    """A place in locomotion: a state or group by name, and the words that lead there."""
    return Ref("locomotion", name, ("ground", *words))


def at_transition(build: CompiledProject, place: int) -> Ref:
    """The place of a transition."""
    t = build.project.locomotion.transitions[place]
    start = "anywhere" if t.start == ANYWHERE else t.start
    return Ref("locomotion", t.start, ("ground", f"{start} → {t.to}"), kind="transitions", index=place)
