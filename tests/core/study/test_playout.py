"""Facts are what playing gives: random actions, counted and played out plainly with nothing but the tick."""

from __future__ import annotations

import os
from functools import cache
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tools.made.any_span import any_spans
from tools.made.edits import adding, replace
from tools.made.rigs import project_of

from veergust.core.model import (
    Action,
    Cut,
    Fighter,
    Floor,
    Hitbox,
    Hurtbox,
    Layer,
    Mask,
    Mount,
    Project,
    RootUse,
    Section,
    Stage,
)
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.study.facts import facts

EXAMPLES = int(os.environ.get("VEERGUST_EXAMPLES", "2"))
OPEN = (Floor(low=(-900.0, -900.0), high=(900.0, 900.0)),)
CLIPS = {"staff_sweep": 1.1, "staff_thrust": 1.0, "dodge_roll": 0.9, "overhead": 1.05}
BOX = Hitbox(mount="grip", offset=(0, -0.4, 0), to=(0, 0.9, 0), radius=0.08)
NAMES: dict[str, dict[str, Any]] = {
    "": {"command": ("light", "heavy"), "action": ("Made", "Low sweep"), "parameter": ("mood",), "contact": ("any", "hit"),
         "ending": ("any", "completed")},
    "strikes": {"boxes": ((BOX,),), "team": ("others", "everybody"), "knockback": ((0.0, 0.0, 1.0), (0.0, 3.0, 1.0)), "strength": ("light",)},
    # What an exit leads to does not matter to who is alone: it has ended. Breaks are drawn often.
    "exits": {"to_kind": ("ground",), "to": ("",), "section": ("",), "kind": ("break", "break", "combo", "cancel"),
              "contact": ("any", "none", "hit")},
    "holds": {"setting": ("feet", "turn", "push", "gravity")},
    "events": {"kind": ("message", "effect", "parameter"), "name": ("mood",), "payload": ("1", "0")},
}  # fmt: skip


@st.composite
def sections(draw: st.DrawFn, names: tuple[str, ...], name: str, rate: int) -> Section:
    clip = draw(st.sampled_from(sorted(CLIPS)))
    start = draw(st.floats(0.0, 0.6))
    seconds = draw(st.sampled_from([0.01, 0.1, 0.25, 0.4]))
    length = max(1, round(seconds * rate))
    then = draw(st.sampled_from(["end", "end", *names]))
    spans = draw(any_spans(length, {**NAMES, "gates": {"to": names}}))
    return Section(name=name, cuts=(Cut(clip=clip, start=start, end=start + seconds),), then=then, **spans)  # type: ignore[arg-type]


@st.composite
def made_actions(draw: st.DrawFn, rate: int = 60) -> Action:
    names = ("A", "B", "C")[: draw(st.integers(1, 3))]
    return Action(
        name="Made",
        layer=draw(st.sampled_from(["Body", "Body", "Arms", "Half"])),
        sections=tuple(draw(sections(names, name, rate)) for name in names),
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


@cache
def far_off(family: str) -> tuple[Project, Assets]:
    return project_of(family, (60.0, -80.0), 130.0)


def figured(quay: Project, assets: Assets, family: str) -> tuple[Project, Assets]:
    """The demo on its own figure, or its actions' clips on a creature under a root, or under a turned node, by captures
    shot far off."""
    if not family:
        return quay, assets
    shot, theirs = far_off(family)
    names = dict(zip(sorted(CLIPS), ("lunge", "blow", "run", "stagger")))
    clips = tuple(replace(next(c for c in shot.clips if c.name == of), name=name) for name, of in names.items())
    mounts = (Mount(name="grip", joint="RWrist"),)
    rig = replace(shot.rig, mounts=mounts, hurtboxes=(Hurtbox(name="body", joint="Ribs", radius=0.3),))
    there = replace(shot, clips=(*shot.clips, *clips), rig=rig, commands=quay.commands)
    return there, theirs


@pytest.mark.parametrize("rate", [30, 60, 120])
@pytest.mark.parametrize("family", ["", "a root above them", "a turned node above all"])
@settings(max_examples=EXAMPLES)
@given(data=st.data())
def test_numbers_are_those_of_a_plain_play_out(
    family: str, rate: int, data: st.DataObject, quay: Project, assets: Assets
) -> None:
    """Actions of every kind of span, drives and breaks, layers of half a weight, at three rates, on three rigs."""
    made = data.draw(made_actions(rate))
    quay, assets = figured(quay, assets, family)
    layers = (
        Layer(name="Body"),
        Layer(name="Half", weight=0.5),
        Layer(name="Arms", mask="arms"),
    )
    masks = (Mask(name="arms", joint="Ribs" if family else "chest"),)
    settings_ = replace(quay.settings, rate=rate)
    project = replace(adding(quay, made), layers=layers, masks=masks, settings=settings_, pools=())
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
