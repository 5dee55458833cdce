"""What another always comes before: actions on one command, and rows of the reaction table."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds import Finding, Ref, in_action
from veergust.core.model import Action, Reaction
from veergust.core.play import STOOD, CompiledProject


def check(build: CompiledProject) -> Iterator[Finding]:
    """Start rules and reactions that are asked only after one that asks for no more."""
    yield from _starts(build)
    yield from _pools(build)
    yield from _rows(build)


def _starts(build: CompiledProject) -> Iterator[Finding]:
    # The first of those on a command that ask for the same stands for them all.
    firsts: dict[str, dict[object, Action]] = {}
    for action in build.project.actions:
        start = action.start
        if not start.commands:
            continue
        before = [next((a for a in firsts.get(c, {}).values() if _forestalls(build, a, action)), None)
                  for c in start.commands]  # fmt: skip
        if before[0] is not None and all(before):
            says = f"never starts on {start.commands[0]}: {before[0].name} starts on it in the same states and asks for"
            do = "give one of them another command, states or conditions, or put it higher in the list"
            yield Finding("start-shadowed", "warning", in_action(action.name, "start"), f"{says} no more", do)
        if start.cooldown <= 0:  # one that has to cool down leaves it to the others
            for command in start.commands:
                asks = action.layer, start.states, frozenset(start.conditions)
                firsts.setdefault(command, {}).setdefault(asks, action)


def _pools(build: CompiledProject) -> Iterator[Finding]:
    """Pools on a command that an action always starts on before."""
    for pool in build.project.pools:
        first = [next((a for a in build.project.actions if c in a.start.commands and _always(a)), None)
                 for c in pool.commands]  # fmt: skip
        if first and first[0] is not None and all(first):
            says = f"never starts on {pool.commands[0]}: {first[0].name} starts on it whatever is so"
            do = "give one of them another command, or the action states or conditions"
            yield Finding("start-shadowed", "warning", Ref("pool", pool.name, (f"pool {pool.name}",)), says, do)


def _always(action: Action) -> bool:
    """Whether an action starts on its commands in any state, at any time."""
    start = action.start
    return not start.states and not start.conditions and start.cooldown <= 0


def _forestalls(build: CompiledProject, first: Action, other: Action) -> bool:
    """Whether one action starts whenever another on the same command would."""
    a, b = first.start, other.start
    if first.layer != other.layer:
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
    situation = first.situation == other.situation or (first.situation == "any" and other.situation in STOOD)
    far = first.near <= other.near and (first.far is None or (other.far is not None and other.far <= first.far))
    if first.region not in ("any", other.region) or not far or not set(first.conditions) <= set(other.conditions):
        return False
    # An eighth belongs to no quarter alone: of what lies between front and left each has a half.
    return situation and first.side in (other.side, "any") and first.strength in (other.strength, "any")
