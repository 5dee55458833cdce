"""Several commands in turn: made in order, in time, each press once."""

from __future__ import annotations

from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tools.made.edits import action, alone, replace, with_section

from tests.conftest import OSSA
from veergust.core.kinds.spans.exits import asks
from veergust.core.model import Exit, Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.hands import Press
from veergust.core.play.rules.presses import strung
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.study.findings import findings
from veergust.core.study.now import now

PRESSES = st.lists(st.tuples(st.sampled_from("abc"), st.integers(0, 12)), max_size=7, unique=True)


@given(made=PRESSES, commands=st.lists(st.sampled_from("abc"), min_size=1, max_size=4), within=st.integers(0, 6))
def test_a_sequence_is_found_whenever_some_way_to_make_it_is_there(
    made: list[tuple[str, int]], commands: list[str], within: int
) -> None:
    history = sorted((Press(c, age) for c, age in made), key=lambda p: p.age)
    buffer = [p for p in history if p.age < 4]
    found = strung(commands, buffer, history, within)
    wanted = list(reversed(commands))

    def fits(way: tuple[Press, ...]) -> bool:
        return (
            [p.command for p in way] == wanted
            and len(set(way)) == len(way)
            and way[0] in buffer
            and all(a.age <= b.age <= a.age + within for a, b in zip(way, way[1:]))
        )

    if found is None:
        assert not any(fits(way) for way in product(history, repeat=len(commands)))
    else:
        assert fits(found)


def sweep(quay: Project, *exits: Exit) -> Project:
    """Low sweep alone, which may be left by these exits in its Settle."""
    project = with_section(quay, "Low sweep", 2, exits=exits)
    project = with_section(with_section(project, "Low sweep", 0, exits=()), "Low sweep", 1, exits=())
    return alone(project)


def plays(project: Project, assets: Assets, presses: dict[int, str], ticks: int = 44) -> str:
    simulation = Simulation(CompiledProject(project, assets))
    for tick in range(ticks):
        given = [Input(OSSA, action="Low sweep")] if tick == 0 else []
        simulation.tick([*given, *([Input(OSSA, presses[tick])] if tick in presses else [])])
    return simulation.fighters[0].live()[-1].compiled.action.name


SEQUENCE = Exit(start=0, end=26, command="light", sequence=("heavy", "light"), to="Thrust")


@pytest.mark.parametrize(
    ("presses", "then"),
    [
        ({24: "heavy", 28: "light"}, "Thrust"),
        ({24: "heavy", 26: "thrust", 28: "light"}, "Thrust"),  # what is pressed between does not matter
        ({24: "light", 28: "heavy"}, "Low sweep"),  # the other way round
        ({28: "light"}, "Low sweep"),
        ({24: "heavy", 33: "light"}, "Low sweep"),  # too long between them
        ({12: "heavy", 16: "light"}, "Thrust"),  # pressed early and remembered
    ],
)
def test_a_sequence_leaves_when_its_commands_were_pressed_in_turn(
    presses: dict[int, str], then: str, quay: Project, assets: Assets
) -> None:
    assert plays(sweep(quay, SEQUENCE), assets, presses, 40) == then


def test_the_longer_of_two_is_meant_and_a_press_counts_once(quay: Project, assets: Assets) -> None:
    plain = Exit(start=0, end=26, command="light", to="Overhead hook")
    project = sweep(quay, plain, SEQUENCE)
    assert plays(project, assets, {28: "light"}, 34) == "Overhead hook"
    assert plays(project, assets, {24: "heavy", 28: "light"}, 34) == "Thrust"
    # Thrust goes back to itself by the same sequence: the heavy of before is used up.
    again = with_section(project, "Thrust", 0, exits=(replace(SEQUENCE, to="Overhead hook", end=8),))
    assert plays(again, assets, {24: "heavy", 28: "light", 31: "light"}, 34) == "Thrust"
    assert plays(again, assets, {24: "heavy", 28: "light", 30: "heavy", 31: "light"}, 34) == "Overhead hook"


def test_a_sequence_is_said_and_checked(quay: Project, assets: Assets) -> None:
    assert asks(replace(SEQUENCE, kind="break")) == ()
    assert asks(replace(SEQUENCE, sequence=())) == ("light",)
    build = CompiledProject(sweep(quay, replace(SEQUENCE, sequence=("heavy", "leap"))), assets)
    compiled = build.action("Low sweep")
    assert compiled is not None
    assert any(i.says == "heavy, leap until 46 → Thrust" for i in now(build, compiled, 24).items)
    assert [f.says for f in findings(build) if f.code == "command-unknown"] == [
        "asks for the command 'leap', which the project does not have"
    ]
    assert action(quay, "Low sweep").sections[2].exits
