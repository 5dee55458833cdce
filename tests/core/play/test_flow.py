"""The flow of sections, held against plain graphs: closures by matrices, and walks by hand."""

from __future__ import annotations

import random
from collections.abc import Container

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from veergust.core.model import Exit, Gate, Pool, PoolItem, Section
from veergust.core.play.flow.machine import At, Flow, Open

NAMES = ("A", "B", "C", "D", "E")


@st.composite
def flows(draw: st.DrawFn) -> Flow:
    """Up to five sections that lead to one another, to a pool, to nothing, with gates and now and then an exit."""
    count = draw(st.integers(1, len(NAMES)))
    names = NAMES[:count]
    items = tuple(PoolItem(name=n, weight=draw(st.sampled_from([0.0, 1.0]))) for n in draw(st.permutations(NAMES))[:3])
    to = st.sampled_from([*names, "end", "pool", "nowhere"])
    sections, ticks = [], []
    for name in names:
        long = draw(st.integers(1, 6))
        gates = []
        for _ in range(draw(st.integers(0, 2))):
            start = draw(st.integers(0, long - 1))
            gates.append(Gate(start=start, end=draw(st.integers(start + 1, long)), to=draw(to)))
        exits = (Exit(start=0, end=1, to="X"),) if draw(st.integers(0, 5)) == 0 else ()
        sections.append(Section(name=name, then=draw(to), gates=tuple(gates), exits=exits))
        ticks.append(long)
    return Flow(tuple(sections), tuple(ticks), draw(st.integers(0, count - 1)), (Pool(name="pool", items=items),))


def led(flow: Flow, to: str) -> set[int]:
    """What a name may lead to, worked out from the model alone."""
    names = [s.name for s in flow.sections]
    if to in names:
        return {names.index(to)}
    weights = {i.name: i.weight for i in flow.pools[0].items} if to == "pool" else {}
    return {n for n, name in enumerate(names) if weights.get(name, 0.0) > 0.0}


@given(flows())
def test_whether_an_end_can_be_reached_is_the_closure_of_what_leads_where(flow: Flow) -> None:
    n = len(flow.sections)
    steps = np.eye(n, dtype=bool)
    for i, section in enumerate(flow.sections):
        for to in (section.then, *(g.to for g in section.gates)):
            steps[i, list(led(flow, to))] = True
    reached = np.linalg.matrix_power(steps.astype(int), n + 1) > 0
    ends = np.array([bool(s.exits) or not led(flow, s.then) for s in flow.sections])
    assert [flow.can_end(i, lambda gate: True) for i in range(n)] == np.any(reached & ends[None], axis=1).tolist()


def opened(answers: list[bool]) -> Open:
    return lambda i, gate: answers[i]


@given(flows(), st.randoms(use_true_random=False))
def test_a_walk_goes_tick_by_tick_through_the_first_open_gate_and_else_to_what_follows(
    flow: Flow, rng: random.Random
) -> None:
    """The same walk, by hand: a list of ticks, gates asked in their order, names looked up."""
    draws: list[bool] = [rng.random() < 0.3 for _ in range(400)]
    names = [s.name for s in flow.sections]

    def pick(to: str, there: Container[str]) -> str | None:
        ways = sorted(led(flow, to))
        return names[ways[-1]] if ways else None

    at, tick, section = At(flow.entry), 0, flow.entry
    asked = iter(draws)
    for _ in range(60):
        answers = [next(asked, False) for _ in flow.sections[section].gates]
        taken = flow.gate(at, opened(answers), pick)
        by_hand = None
        for i, gate in enumerate(flow.sections[section].gates):
            if gate.start <= tick < gate.end and answers[i] and led(flow, gate.to):
                by_hand = max(led(flow, gate.to)) if gate.to == "pool" else names.index(gate.to)
                break
        assert (taken[1].section if taken is not None else None) == by_hand
        onward = flow.next(at, by_hand, pick)
        if by_hand is not None:
            section, tick = by_hand, 0
        elif tick + 1 < flow.ticks[section]:
            tick += 1
        elif ways := led(flow, flow.sections[section].then):
            section, tick = max(ways), 0
        else:
            assert onward is None
            return
        assert onward is not None
        assert onward[0][:2] == (section, tick)
        assert onward[0].lap == (at.lap + 1 if (section, tick) == (at.section, 0) else 0 if tick == 0 else at.lap)
        at = onward[0]


@given(flows())
def test_the_path_plays_each_section_once_and_leaves_loops_where_a_gate_leads_out(flow: Flow) -> None:
    path, loops = flow.path
    assert path[0] == flow.entry
    assert len(set(path)) == len(path)
    out = {i for p in path for g in flow.sections[p].gates for i in led(flow, g.to)}
    for before, after in zip(path, path[1:]):
        assert after in led(flow, flow.sections[before].then) or after in out
    if loops:
        assert out <= set(path)
