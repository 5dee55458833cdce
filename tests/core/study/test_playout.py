"""Facts are what playing gives: random actions, counted and played out plainly with nothing but the tick."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.edits import adding, replace
from veergust.core.model import (
    Action,
    Condition,
    Cut,
    Drive,
    Exit,
    Fighter,
    Floor,
    Gate,
    Hitbox,
    Layer,
    Mask,
    Project,
    RootUse,
    Section,
    Stage,
    Strike,
)
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.study.facts import facts

OPEN = (Floor(low=(-900.0, -900.0), high=(900.0, 900.0)),)
CLIPS = {"staff_sweep": 1.1, "staff_thrust": 1.0, "dodge_roll": 0.9, "overhead": 1.05}
TESTS = st.sampled_from(
    [
        Condition(test="released", name="light"),
        Condition(test="held", name="light"),
        Condition(test="on_floor"),
        Condition(test="on_floor", value=0.0),
        Condition(test="contact", name="any"),
        Condition(test="speed", op=">", value=1.0),
        Condition(test="height", op=">", value=0.5),
    ]
)


@st.composite
def sections(draw: st.DrawFn, names: tuple[str, ...], name: str) -> Section:
    clip = draw(st.sampled_from(sorted(CLIPS)))
    start = draw(st.floats(0.0, 0.6))
    seconds = draw(st.sampled_from([0.01, 0.1, 0.25, 0.4]))
    length = max(1, round(seconds * 60))
    at = st.integers(0, length - 1)

    def span() -> tuple[int, int]:
        a = draw(at)
        return a, draw(st.integers(a + 1, length))

    strikes, drives, gates, exits = [], [], [], []
    if draw(st.booleans()):
        a, b = span()
        box = Hitbox(mount="grip", offset=(0, -0.4, 0), to=(0, 0.9, 0), radius=0.08)
        strikes.append(Strike(start=a, end=b, boxes=(box,), knockback=(0, draw(st.sampled_from([0.0, 3.0])), 1.0)))
    if draw(st.integers(0, 2)) == 0:
        a, b = span()
        kind: Any = draw(st.sampled_from(["root", "stick", "none", "ballistic"]))
        drives.append(Drive(start=a, end=b, kind=kind, scale=draw(st.sampled_from([0.5, 1.0, 2.0]))))
    if draw(st.integers(0, 2)) == 0:
        a, b = span()
        conditions = (draw(TESTS),) if draw(st.booleans()) else ()
        gates.append(Gate(start=a, end=b, to=draw(st.sampled_from(names)), conditions=conditions))
    if draw(st.integers(0, 4)) == 0:
        a, b = span()
        exits.append(Exit(start=a, end=b, kind="break", to_kind="ground", conditions=(draw(TESTS),)))
    then = draw(st.sampled_from(["end", "end", *names]))
    return Section(
        name=name,
        cuts=(Cut(clip=clip, start=start, end=start + seconds),),
        then=then,
        strikes=tuple(strikes),
        drives=tuple(drives),
        gates=tuple(gates),
        exits=tuple(exits),
    )


@st.composite
def made_actions(draw: st.DrawFn) -> Action:
    names = ("A", "B", "C")[: draw(st.integers(1, 3))]
    return Action(
        name="Made",
        layer=draw(st.sampled_from(["Body", "Body", "Arms", "Half"])),
        sections=tuple(draw(sections(names, name)) for name in names),
        root=RootUse(
            forward=draw(st.booleans()), turn=draw(st.booleans()), scale=draw(st.sampled_from([1.0, 0.5, 2.0]))
        ),
        blend_in=draw(st.sampled_from([0, 4, 9])),
        speed=draw(st.sampled_from([1.0, 1.7])),
    )


def played(project: Project, assets: Assets) -> list[tuple[int, int, np.ndarray]]:
    """(section, frame, place) on every tick of the action when nobody does anything; empty when it goes on for ever."""
    stage = Stage(floors=OPEN, fighters=(Fighter(name="Me", facing=0.0),))
    simulation = Simulation(CompiledProject(replace(project, stage=stage), assets), posed=False)
    out = []
    for tick in range(3700):
        fighter = simulation.tick([Input("Me", action="Made")] if tick == 0 else []).fighter("Me")
        live = [v for v in fighter.live() if v.compiled.action.name == "Made"]
        out.append((live[0].section if live else -1, live[0].frame if live else 0, fighter.position.copy()))
        if not live:
            return out
        if tick > 400:
            return []
    return []


@settings(max_examples=18)
@given(made=made_actions())
def test_numbers_are_those_of_a_plain_play_out(made: Action, quay: Project, assets: Assets) -> None:
    layers = (
        Layer(name="Body"),
        Layer(name="Half", weight=0.5),
        Layer(name="Arms", mask="arms"),
    )
    masks = (Mask(name="arms", joint="chest"),)
    project = replace(adding(quay, made), layers=layers, masks=masks)
    numbers = facts(CompiledProject(project, assets), "Made", last=False)
    assert numbers is not None
    ticks = played(project, assets)
    if not ticks:
        assert numbers.total is None
        assert numbers.why_not("total")
        return
    shown = ticks[:-1]
    opens = [n for n, (s, f, _) in enumerate(shown) if any(x.start <= f < x.end for x in made.sections[s].strikes)]
    assert numbers.total == (len(shown) or None)
    assert numbers.startup == (opens[0] if opens else None)
    assert numbers.active == len(opens)
    assert numbers.recovery == (len(shown) - 1 - opens[-1] if opens else None)
    assert numbers.travel == pytest.approx(tuple(ticks[-1][2]), abs=1e-6)
    if not opens:
        assert numbers.reach is None
        assert numbers.why_not("reach")


@settings(max_examples=10)
@given(made=made_actions())
def test_a_target_is_touched_up_to_its_reach_and_no_farther(made: Action, quay: Project, assets: Assets) -> None:
    layers = (Layer(name="Body"), Layer(name="Half", weight=0.5), Layer(name="Arms", mask="arms"))
    project = replace(adding(quay, made), layers=layers, masks=(Mask(name="arms", joint="chest"),))
    numbers = facts(CompiledProject(project, assets), "Made", last=False)
    assert numbers is not None
    if numbers.reach is None or numbers.reach < 0.7 or numbers.total is None:
        return

    def touched(distance: float) -> bool:
        me = Fighter(name="Me", facing=0.0)
        you = Fighter(name="You", position=(0.0, 0.0, distance), facing=180.0)
        locomotion = replace(project.locomotion, states=project.locomotion.states[:1], transitions=())
        # Nobody is in the way of anybody, and the target stands as it is measured: still.
        still = replace(
            project,
            stage=Stage(floors=OPEN, fighters=(me, you)),
            locomotion=locomotion,
            reactions=(),
            rig=replace(project.rig, capsule=replace(project.rig.capsule, radius=0.001)),
        )
        simulation = Simulation(CompiledProject(still, assets))
        for tick in range(numbers.total + 1 if numbers.total else 0):
            if simulation.tick([Input("Me", action="Made")] if tick == 0 else []).contacts:
                return True
        return False

    assert touched(numbers.reach - 0.04)
    assert not touched(numbers.reach + 0.04)
