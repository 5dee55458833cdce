"""Charts made up at random, for what has to hold of every one."""

from __future__ import annotations

from typing import Any

from hypothesis import strategies as st
from msgspec.structs import replace

from veergust.core.model import Choice, Condition, Group, Locomotion, State, Transition
from veergust.core.play.compiled.chart import Chart

NAMES = ["stand", "walk", "guard walk", "run", "2 feet", "ÿle", "drop.in", "land"]


@st.composite
def charts(draw: st.DrawFn) -> Locomotion:
    """Charts with nested groups of every kind, priorities, and names that are no identifiers."""
    names = NAMES[: draw(st.integers(2, 8))]
    groups: list[Group] = []
    for i in range(draw(st.integers(0, 4))):
        inside = draw(st.sampled_from(["", *(g.name for g in groups)]))
        groups.append(Group(name=f"group {i}", group=inside))
    states = [State(name=n, group=draw(st.sampled_from(["", *(g.name for g in groups)]))) for n in names]
    made = []
    for g in groups:
        members = [s.name for s in states if s.group == g.name] + [h.name for h in groups if h.group == g.name]
        chosen = tuple(Choice(state=m, value=float(k)) for k, m in enumerate(members))
        enters: Any = draw(st.sampled_from(["default", "last", "last", "parameter", "pool"])) if members else "default"
        default = draw(st.sampled_from(["", *members]))
        made.append(Group(name=g.name, group=g.group, enters=enters, default=default, parameter="mood", choices=chosen))
    # A group that holds no state at all leads nowhere; it is asked for by nobody.
    chart = Chart(Locomotion(states=tuple(states), groups=tuple(made)))
    places = [n for n in (*names, *(g.name for g in made)) if chart.enter(n) and _whole(chart, n)]
    kept = {g.name for g in made if g.name in places}
    made = [replace(g, group=g.group if g.group in kept else "") for g in made if g.name in kept]
    states = [State(name=s.name, group=s.group if s.group in kept else "") for s in states]
    transitions = []
    for _ in range(draw(st.integers(1, 14))):
        test: Any = draw(st.sampled_from(["speed", "on_floor", "held", "parameter"]))
        name = {"held": "guard", "parameter": "mood"}.get(test, "")
        op: Any = draw(st.sampled_from(["<", "<=", "==", "!=", ">=", ">"]))
        when = (Condition(test=test, name=name, op=op, value=draw(st.sampled_from([0.0, 1.0, 1.5]))),)
        start = draw(st.sampled_from([*places, *places, "*"]))
        # Where groups remember, they are asked for often: from inside themselves as well.
        often = [*places, *(g.name for g in made if g.enters == "last")]
        transitions.append(
            Transition(start=start, to=draw(st.sampled_from([*often, *often[len(places) :]])), conditions=when)
        )
    return Locomotion(
        entry=draw(st.sampled_from(places)), states=tuple(states), groups=tuple(made), transitions=tuple(transitions)
    )


def _whole(chart: Chart, name: str) -> bool:
    """Whether every way into a group ends in a state."""
    return name in chart.states or (bool(chart.members[name]) and all(_whole(chart, m) for m in chart.members[name]))
