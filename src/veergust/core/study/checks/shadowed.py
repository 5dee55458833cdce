"""What another always comes before: actions on one command, and rows of the reaction table."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds.finding import Finding, Ref, in_action
from veergust.core.model import Action, Reaction
from veergust.core.play.compiled.project import CompiledProject


def check(build: CompiledProject) -> Iterator[Finding]:
    """Start rules and reactions that are asked only after one that asks for no more."""
    yield from _starts(build)
    yield from _rows(build)


def _starts(build: CompiledProject) -> Iterator[Finding]:
    actions = [a for a in build.project.actions if a.start.commands]
    for n, action in enumerate(actions):
        before = {
            c: next((a for a in actions[:n] if _forestalls(build, a, action, c)), None) for c in action.start.commands
        }
        if all(before.values()):
            first = next(a for a in before.values() if a is not None)
            command = action.start.commands[0]
            says = f"never starts on {command}: {first.name} starts on it in the same states and asks for no more"
            do = "give one of them another command, states or conditions, or put it higher in the list"
            yield Finding("start-shadowed", "warning", in_action(action.name, "start"), says, do)


def _forestalls(build: CompiledProject, first: Action, other: Action, command: str) -> bool:
    """Whether one action starts whenever another would by a command. One that has to cool down leaves it to the
    other."""
    a, b = first.start, other.start
    if command not in a.commands or first.layer != other.layer or a.cooldown > 0:
        return False
    chart = build.chart
    states = a.states and (not b.states or not all(any(chart.within(s, t) for t in a.states) for s in b.states))
    return not states and set(a.conditions) <= set(b.conditions)


def _rows(build: CompiledProject) -> Iterator[Finding]:
    rows = build.project.reactions
    for i, row in enumerate(rows):
        first = next((n for n in range(i) if _covers(rows[n], row)), None)
        if first is not None:
            where = Ref("reactions", "", ("reactions", f"row {i + 1}"), index=i)
            says = f"is never chosen: row {first + 1}, {rows[first].action}, takes every hit it is for"
            yield Finding(
                "reaction-shadowed", "warning", where, says, "put it before that row, or let that ask for more"
            )


def _covers(first: Reaction, other: Reaction) -> bool:
    """Whether a row of the table takes every hit that another is for."""
    situation = first.situation in (other.situation, "any") and not (
        first.situation == "any" and other.situation in ("guarding", "last")
    )
    return situation and first.side in (other.side, "any") and first.strength in (other.strength, "any")
