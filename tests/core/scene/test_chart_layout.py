"""The paper of a chart: nothing covers anything, whatever the chart, up to 40 states and 120 transitions."""

from __future__ import annotations

import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from veergust.core.model import Condition, Group, Locomotion, State, Transition
from veergust.core.play.compiled.chart import Chart
from veergust.core.scene.chart_layout import ChartLayout, Rect, lay_out


def measure(words: str) -> float:
    return 5.6 * len(words)


def random_chart(states: int, transitions: int, groups: int, seed: int) -> Chart:
    rng = random.Random(seed)
    made = tuple(
        Group(name=f"group {i}", group=f"group {i - 1}" if i and rng.random() < 0.3 else "") for i in range(groups)
    )
    names = [f"state {i}" for i in range(states)]
    bands: list[str] = ["floor", "guard", "air"]
    return Chart(
        Locomotion(
            groups=made,
            states=tuple(
                State(name=n, group=rng.choice(["", *(g.name for g in made)]), band=rng.choice(bands))  # type: ignore[arg-type]
                for n in names
            ),
            transitions=tuple(
                Transition(
                    start=rng.choice([*names, *(g.name for g in made), "*"]),
                    to=rng.choice([*names, *(g.name for g in made)]),
                    conditions=tuple(
                        Condition(test="speed", op=">", value=rng.random() * 10) for _ in range(rng.randrange(3))
                    ),
                )
                for _ in range(transitions)
            ),
        )
    )


def overlap(a: Rect, b: Rect) -> bool:
    return a[0] < b[0] + b[2] and b[0] < a[0] + a[2] and a[1] < b[1] + b[3] and b[1] < a[1] + a[3]


def check(layout: ChartLayout) -> None:
    labels = [a.label for a in layout.arrows]
    for i, a in enumerate(labels):
        assert not any(overlap(a, b) for b in labels[i + 1 :])
        assert not any(overlap(a, t.rect) for t in layout.tags.values())
        assert a[0] >= 0.0
        assert a[0] + a[2] <= layout.size[0]
    rects = [t.rect for t in layout.tags.values()]
    for i, r in enumerate(rects):
        assert not any(overlap(r, other) for other in rects[i + 1 :])
        assert r[1] + r[3] <= layout.size[1]


@settings(max_examples=60)
@given(
    states=st.integers(1, 40),
    transitions=st.integers(0, 120),
    groups=st.integers(0, 6),
    seed=st.integers(0, 10_000),
    width=st.sampled_from([420.0, 770.0, 1300.0]),
)
def test_no_label_covers_another_or_a_tag(states: int, transitions: int, groups: int, seed: int, width: float) -> None:
    chart = random_chart(states, transitions, groups, seed)
    layout = lay_out(chart, width, measure)
    check(layout)
    assert len(layout.arrows) == transitions
    assert set(chart.states) <= set(layout.tags)
    folded = frozenset(g for i, g in enumerate(chart.groups) if i % 2)
    check(lay_out(chart, width, measure, folded))


def test_every_arrow_ends_at_its_tags() -> None:
    chart = random_chart(24, 70, 3, 5)
    layout = lay_out(chart, 770.0, measure)
    for arrow in layout.arrows:
        t = chart.locomotion.transitions[arrow.place]
        x, y, w, h = layout.tags[t.to].rect
        ex, ey = arrow.way[-1]
        assert x - 1e-6 <= ex <= x + w + 1e-6
        assert y - 1e-6 <= ey <= y + h + 1e-6 or layout.tags[t.to].group
        if t.start != "*":
            x, y, w, h = layout.tags[t.start].rect
            assert x - 1e-6 <= arrow.way[0][0] <= x + w + 1e-6


def test_what_is_folded_takes_its_states_arrows_upon_itself() -> None:
    locomotion = Locomotion(
        groups=(Group(name="aloft"),),
        states=(State(name="stand"), State(name="rise", group="aloft"), State(name="fall", group="aloft")),
        transitions=(
            Transition(start="stand", to="rise"),
            Transition(start="rise", to="fall"),
            Transition(start="fall", to="stand"),
        ),
    )
    layout = lay_out(Chart(locomotion), 770.0, measure, frozenset({"aloft"}))
    assert set(layout.tags) == {"stand", "aloft"}
    assert [a.place for a in layout.arrows] == [0, 2]
    assert layout.tag_at(*layout.tags["aloft"].middle) == layout.tags["aloft"]
    assert layout.arrow_at(layout.arrows[0].label[0] + 2, layout.arrows[0].label[1] + 2) == layout.arrows[0]
    with pytest.raises(KeyError):
        layout.tags["rise"]
