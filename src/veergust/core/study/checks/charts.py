"""Locomotion as a chart: states that nobody reaches or leaves, transitions that are never taken or always."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from msgspec.structs import replace

from veergust.core.kinds import CONDITIONS, Finding, sentence
from veergust.core.model import ANYWHERE, Condition, Transition
from veergust.core.play import Chart, CompiledProject
from veergust.core.study.checks.locomotion import at, at_transition

Range = tuple[float, float]


def check(build: CompiledProject) -> Iterator[Finding]:
    """What is wrong with the chart as such."""
    there = reached(build.chart)
    for state in build.project.locomotion.states:
        where = at(state.name, state.name)
        if state.name not in there:
            says = "is a state that nothing leads to"
            yield Finding("state-unreached", "warning", where, says, "make a transition to it or remove it")
        elif len(build.chart.states) > 1 and not build.chart.asked(state.name):
            says = "is a state that nothing leads out of"
            yield Finding("state-kept", "warning", where, says, "make a transition that leaves it")
        elif state.plays == "once" and not _leaves_at_end(build.chart, state.name):
            says = "plays its clip once, and nothing asks for its end"
            yield Finding("state-ends", "note", where, says, "leave it when its clip has ended, or hold its last pose")
    for i, t in enumerate(build.project.locomotion.transitions):
        always = holds_always(build, t.conditions)
        words = sentence(t.conditions)
        if always is False:
            says = f"asks for {words}, which is never so"
            yield Finding("condition-never", "warning", at_transition(build, i), says, "change its conditions")
        elif always and t.start == ANYWHERE:
            says = "is taken from anywhere, whatever else is so"
            yield Finding("anywhere-always", "error", at_transition(build, i), says, "give it a condition")
        elif always:
            says = f"asks for {words}, which is always so" if t.conditions else "asks for nothing: it is taken at once"
            yield Finding("condition-always", "warning", at_transition(build, i), says, "give it a condition")
    yield from _shadowed(build)
    yield from _to_and_fro(build)


def reached(chart: Chart) -> set[str]:
    """The states that can be the present one, whatever their groups remember, are told or draw."""
    entry = chart.locomotion.entry
    return reached_from(chart, chart.into(entry) if chart.known(entry) else {chart.entry or ""})


def reached_from(chart: Chart, states: Iterable[str]) -> set[str]:
    """These states, and all that can come after them."""
    there = {state for state in states if state in chart.states}
    return there.union(*(chart.after[state] for state in there))


def _leaves_at_end(chart: Chart, state: str) -> bool:
    """Whether a state is left once its clip has ended, or by what its end brings with it."""
    asked = [c.test for _, t in chart.asked(state) if t.start != ANYWHERE for c in t.conditions]
    return any(CONDITIONS[test].ends for test in asked)


def holds_always(build: CompiledProject, conditions: tuple[Condition, ...]) -> bool | None:
    """Whether conditions always hold (True), never do (False), or it depends (None)."""
    out: bool | None = True
    left: dict[tuple[str, str], Range] = {}
    for c in conditions:
        whole = CONDITIONS[c.test].range(build.project, c.name)
        low, high = left.get((c.test, c.name), whole)
        if c.op in ("<", "<="):
            made = (low, min(high, c.value))
            none = made[1] < low or (c.op == "<" and c.value <= low)
            every = whole[1] < c.value or (c.op == "<=" and whole[1] <= c.value)
        elif c.op in (">", ">="):
            made = (max(low, c.value), high)
            none = made[0] > high or (c.op == ">" and c.value >= high)
            every = whole[0] > c.value or (c.op == ">=" and whole[0] >= c.value)
        else:
            inside = low <= c.value <= high and (not CONDITIONS[c.test].truth or c.value in (0.0, 1.0))
            none = (c.op == "==" and not inside) or (c.op == "!=" and low == high == c.value)
            made = (c.value, c.value) if c.op == "==" else (low, high)
            made = (1.0 - c.value,) * 2 if c.op == "!=" and CONDITIONS[c.test].truth and inside else made
            every = (c.op == "!=" and not inside) or (c.op == "==" and whole[0] == whole[1] == c.value)
        if none:
            return False
        left[c.test, c.name] = made
        out = out if every else None
    return out


def _shadowed(build: CompiledProject) -> Iterator[Finding]:
    """Transitions that an earlier one always forestalls: it asks for no more than they do."""
    there = build.project.locomotion.transitions
    for state in build.chart.states:
        asked = build.chart.asked(state)
        for n, (i, t) in enumerate(asked):
            wants = set(t.conditions)
            before = next((j for j, s in asked[:n] if set(s.conditions) <= wants), None)
            # Told once: at the first state in which it happens.
            first = next((s for s in build.chart.states if build.chart.within(s, t.start)), state)
            if before is not None and wants and first == state:
                earlier = there[before]
                start = "anywhere" if earlier.start == ANYWHERE else earlier.start
                says = f"is never taken: {start} → {earlier.to} asks for no more, and is asked before it"
                do = "ask for more in the earlier one, or ask this one sooner"
                yield Finding("transition-shadowed", "warning", at_transition(build, i), says, do)


def _to_and_fro(build: CompiledProject) -> Iterator[Finding]:
    """Transitions that lead to and fro while the same thing is so: a body goes over on every tick."""
    chart = build.chart
    told: set[tuple[int, int]] = set()
    for state in chart.states:
        for i, t in chart.asked(state):
            for other in sorted(chart.into(t.to) - {state}):
                for j, back in chart.asked(other):
                    pair = (min(i, j), max(i, j))
                    if pair in told or state not in chart.into(back.to) or not _together(build, t, back):
                        continue
                    told.add(pair)
                    start = "anywhere" if back.start == ANYWHERE else back.start
                    says = f"and {start} → {back.to} can hold at once, and then lead to and fro on every tick"
                    do = "let each ask for what the other does not, with something to spare between two numbers"
                    yield Finding("transition-to-and-fro", "warning", at_transition(build, i), says, do)


def _together(build: CompiledProject, a: Transition, b: Transition) -> bool:
    """Whether two transitions can hold tick after tick. What is so for a moment only parts them."""
    asked = tuple(_plain(c) for c in (*a.conditions, *b.conditions))
    passing = any(CONDITIONS[c.test].changes == "always" or c.test == "pressed" or _momentary(build, c) for c in asked)
    return bool(asked) and not passing and holds_always(build, asked) is not False


def _plain(c: Condition) -> Condition:
    """A condition in the terms of its opposite: let go is not held."""
    return replace(c, test="held", value=1.0 - c.value) if c.test == "released" and c.op in ("==", "!=") else c


def _momentary(build: CompiledProject, c: Condition) -> bool:
    return c.test == "parameter" and c.name in build.chart.momentary
