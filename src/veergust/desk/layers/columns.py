"""The columns of the scope: states of no group, and groups, each folded to one column or opened to its states."""

from __future__ import annotations

from dataclasses import dataclass

from veergust.core.model import Rule
from veergust.core.play import Chart, CompiledLayer


@dataclass(frozen=True)
class StateColumn:
    """A state or group, how deep it stands in groups that are open, and whether it is a group that is open."""

    name: str
    group: bool = False
    open: bool = False
    deep: int = 0


def columns(chart: Chart, opened: set[str]) -> list[StateColumn]:
    """The columns, in the order of their first states."""
    out: list[StateColumn] = []
    order = {state: n for n, state in enumerate(chart.states)}

    def first(name: str) -> int:
        return min((n for state, n in order.items() if chart.within(state, name)), default=len(order))

    def put(name: str, deep: int) -> None:
        group = name in chart.groups
        out.append(StateColumn(name, group, group and name in opened, deep))
        if group and name in opened:
            for inside in sorted(chart.members[name], key=first):
                put(inside, deep + 1)

    for name in sorted(chart.members[""], key=first):
        put(name, 0)
    return out


def states_of(chart: Chart, column: StateColumn) -> list[str]:
    """The states a column stands for."""
    return [s for s in chart.states if chart.within(s, column.name)]


def rule_in(chart: Chart, layer: CompiledLayer, column: StateColumn) -> Rule | None:
    """What a layer does in all states of a column; None where it differs from one to another."""
    rules = {layer.rule(s) for s in states_of(chart, column)}
    if not rules:
        return layer.layer.elsewhere
    return rules.pop() if len(rules) == 1 else None
