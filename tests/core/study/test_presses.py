"""What became of every press: against what the take shows, and against presses that do start something."""

from __future__ import annotations

import random
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tools.made.edits import replace, section

from tests.conftest import OSSA, TARN
from tests.core.play.test_gestures import BOTH, QUICK, bout, script, stick
from tests.core.play.test_made_plain import quiet
from tests.core.play.test_rules import BALL, made, opposite, plays, run
from veergust.core.model import Command, Condition, Exit, Gesture, Layer, Project, StartRule, Strike
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.play.take.history import HANDS, PRESSED, History
from veergust.core.play.take.record import Record
from veergust.core.study.presses import Fate, fates, misses

GESTURES = (
    Command(name="twice", gesture=Gesture(kind="double", of=("light",), within=5)),
    Command(name="both", gesture=Gesture(kind="together", of=("light", "heavy"), within=1)),
    Command(name="round", gesture=Gesture(kind="motion", ways=("left", "forward"), wide=True, within=4)),
    Command(
        name="at it", gesture=Gesture(kind="motion", ways=("back", "forward"), about="target", wide=True, within=4)
    ),
    Command(name="spin", gesture=Gesture(kind="motion", of=("heavy",), ways=("back", "forward"), wide=True, within=6)),
    Command(name="long", gesture=Gesture(kind="held", of=("guard",), ticks=9)),
    Command(name="short", gesture=Gesture(kind="let go", of=("guard",), ticks=7)),
)


def told(project: Project, assets: Assets, records: list[Record], name: str = OSSA) -> list[Fate]:
    return fates(CompiledProject(project, assets), records, name)


def pair(quay: Project, early: bool = True, **exit_: Any) -> Project:
    """A blow of 40 frames whose window to the next is open on 20 to 25, and who is struck at."""
    fields: dict[str, Any] = {
        "start": 20,
        "end": 26,
        "kind": "combo",
        "command": "light",
        "to": "Next",
        "early": early,
        **exit_,
    }
    way = Exit(**fields)
    strike = Strike(start=8, end=10, boxes=(BALL,), hit_stop=0, knockback=(0, 0, 0))
    blow = made("Blow", section("idle", 40 / 60, exits=(way,), strikes=(strike,)), start=StartRule(commands=("heavy",)))
    following = made("Next", section("idle", 0.3))
    project = replace(opposite(quiet(quay), blow, following), layers=(Layer(name="Body"),))
    return replace(project, commands=(Command(name="light"), Command(name="heavy"), Command(name="idle")))


@pytest.mark.parametrize("early", [True, False])
def test_each_press_about_a_window_is_told_by_its_frame(quay: Project, assets: Assets, early: bool) -> None:
    """Pressed on each frame of the blow: what starts the next is used, all else says how far it was off."""
    project = pair(quay, early)
    keep = project.settings.buffer
    for frame in range(1, 39):
        records = run(project, assets, script((2, "heavy"), (2 + frame, "light")), 60)
        heavy, light = told(project, assets, records)
        assert (heavy.command, heavy.used, heavy.began, heavy.why) == ("heavy", 2, "Blow", "")
        begun = [r.tick for r in records if any(a == "Next" and f == 0 for a, _, f in plays(r))]
        assert (light.used, light.began) == ((begun[0], "Next") if begun else (None, ""))
        if begun:
            assert light.why == ""
        elif frame >= 26:
            assert light.why == f"{frame - 25} frame{'s' if frame > 26 else ''} after the window to Next"
        elif early:
            gap = 20 - frame - keep + 1
            assert light.why == f"{gap} frame{'s' if gap > 1 else ''} too early for the window to Next"
        else:
            gap = 20 - frame
            assert light.why.startswith(f"{gap} frame{'s' if gap > 1 else ''} before the window to Next; early")
        if not begun:
            assert light.where is not None
            assert (light.where.name, light.where.kind, light.where.index) == ("Blow", "exits", 0)


FLOOR_ONLY = (Condition(test="on_floor", op="==", value=0.0),)


@pytest.mark.parametrize(
    ("exit_", "says"),
    [
        ({"contact": "guarded"}, "the window to Next asks for a guarded touch"),
        ({"contact": "none"}, "the window to Next asks for that nothing was touched"),
        ({"conditions": FLOOR_ONLY}, "the window to Next asks: "),
        ({"command": "", "sequence": ("idle", "light")}, "the rest of what leads to Next was not pressed before it"),
        ({"command": "", "sequence": ("light", "idle")}, "only the first of what leads to Next"),
    ],
)
def test_what_the_window_asks_for_is_told(quay: Project, assets: Assets, exit_: dict[str, Any], says: str) -> None:
    project = pair(quay, **exit_)
    project = replace(project, settings=replace(project.settings, buffer=25))
    records = run(project, assets, script((2, "heavy"), (24, "light")), 90)
    fate = told(project, assets, records)[-1]
    assert fate.command == "light"
    assert fate.used is None
    assert fate.why.startswith(says)


def test_what_keeps_an_action_from_starting_is_told(quay: Project, assets: Assets) -> None:
    kick = made("Kick", section("idle", 0.2), start=StartRule(commands=("light",), cooldown=30))
    waits = made("Waits", section("idle", 0.5), start=StartRule(commands=("heavy",), conditions=FLOOR_ONLY))
    runs = made("Runs", section("idle", 0.2), start=StartRule(commands=("dash",), states=("run",)))
    commands = tuple(Command(name=n) for n in ("light", "heavy", "dash", "nothing", "lone"))
    project = replace(opposite(quiet(quay), kick, waits, runs), layers=(Layer(name="Body"),), commands=commands)
    idle = project.locomotion.entry or project.locomotion.states[0].name
    keys = script((2, "light"), (20, "light"), (30, "heavy"), (32, "dash"), (34, "nothing"))
    found = {(f.command, f.tick): f for f in told(project, assets, run(project, assets, keys, 60))}
    assert found["light", 2].began == "Kick"
    left = found["light", 20].why
    assert left.startswith("Kick: cooldown, ")
    assert left.endswith(" more")
    assert found["heavy", 30].why.startswith("Waits asks: ")
    assert found["dash", 32].why == f"Runs starts only from run, not in {idle}"
    assert found["nothing", 34].why == "nothing starts nothing yet: choose an action"
    # Out of an action without an exit on it, and stunned.
    records = run(project, assets, {**script((2, "light")), 5: [Input(OSSA, "heavy")]}, 40)
    assert told(project, assets, records)[-1].why == "Kick plays, and has no exit for it"


def test_a_press_that_is_refused_is_lost_though_something_plays(quay: Project, assets: Assets) -> None:
    """A layer that refuses uses the press up at once: nothing began by it."""
    kick = made("Kick", section("idle", 0.2), start=StartRule(commands=("light",)))
    waits = made("Waits", section("idle", 0.5), start=StartRule(commands=("heavy",)))
    project = replace(opposite(quiet(quay), kick, waits), layers=(Layer(name="Body", taken="refused"),))
    project = replace(project, commands=(Command(name="light"), Command(name="heavy")))
    records = run(project, assets, script((2, "heavy"), (10, "light")), 30)
    first, second = told(project, assets, records)
    assert (first.began, second.began) == ("Waits", "")
    assert second.why == "Waits plays, and has no exit for it"


def test_who_is_stunned_or_down_is_told_so(quay: Project, assets: Assets) -> None:
    project = pair(quay)
    strike = Strike(start=4, end=6, boxes=(BALL,), hit_stop=0, stun=30, knockback=(0, 0, 0), damage=1.0)
    stab = made("Stab", section("idle", 0.3, strikes=(strike,)))
    project = replace(project, actions=(*project.actions, stab))
    inputs = {2: [Input(OSSA, action="Stab")], 14: [Input(TARN, "heavy")]}
    fate = told(project, assets, run(project, assets, inputs, 60), TARN)[0]
    assert fate.why.startswith("stunned, ")
    me, you = project.stage.fighters
    weak = replace(project, stage=replace(project.stage, fighters=(me, replace(you, health=0.5))))
    fate = told(weak, assets, run(weak, assets, inputs, 60), TARN)[0]
    assert fate.why == "who is down presses nothing"
    # A take that ends while a press is still remembered says nothing of it yet.
    records = run(project, assets, script((2, "heavy"), (19, "light")), 20)
    assert told(project, assets, records)[-1].waits


@pytest.mark.parametrize("late", [0, 1, 5, 12, 13])
def test_a_gesture_that_was_nearly_made_says_by_how_much(quay: Project, assets: Assets, late: int) -> None:
    ward = Command(name="ward", gesture=Gesture(kind="held", of=("heavy",), ticks=20))
    project = bout(quay, BOTH, QUICK, ward)
    build = CompiledProject(project, assets)
    # Together within 3, and by so much later.
    records = run(project, assets, script((5, "light"), (8 + late, "heavy")), 30)
    says = f"{late} frame{'s' if late > 1 else ''} late"
    assert misses(build, records, OSSA, 8 + late) == ([("both", says)] if 0 < late <= 12 else [])
    there = script((3, stick("back")), (5, stick("forward")), (7, (0.0, 0.0)), (15 + late, "light"))
    assert misses(build, run(project, assets, there, 40), OSSA, 15 + late) == (
        [("quick", says)] if 0 < late <= 12 else []
    )
    soon = run(project, assets, script((5, "heavy"), (25 - late, "-heavy")), 30)
    told_ = f"let go {late} frame{'s' if late > 1 else ''} too soon"
    assert misses(build, soon, OSSA, 25 - late) == ([("ward", told_)] if 0 < late <= 12 else [])


@given(seed=st.integers(0, 10_000))
def test_nothing_is_nearly_made_on_a_tick_on_which_no_hand_did_anything(
    quay: Project, assets: Assets, seed: int
) -> None:
    """What a history marks is enough to look at: presses, what is let go, and the stick going another way, also because
    the other went round."""
    commands = (*quay.commands, *GESTURES)
    project = replace(quay, commands=commands, stage=replace(quay.stage, fighters=quay.stage.fighters[:2]))
    build, draw = CompiledProject(project, assets), random.Random(seed)
    simulation, history = Simulation(build), History()
    sides = [(0.0, 1.0), (1.0, 0.0), (0.0, -1.0), (-1.0, 0.0), (0.7, 0.7), (0.0, 0.0)]
    for _ in range(90):
        row = []
        for fighter in project.stage.fighters:
            if draw.random() < 0.2:
                row.append(Input(fighter.name, draw.choice(["light", "heavy", "guard"]), press=draw.random() < 0.5))
            if draw.random() < 0.2:
                row.append(Input(fighter.name, axis="move", value=draw.choice(sides)))
        history.append(simulation.tick(row))
    looked_at = set(history.marked(PRESSED | HANDS, 0, 90))
    found = {n for n in range(90) for f in project.stage.fighters if misses(build, history, f.name, n)}
    assert found <= looked_at
    assert len(looked_at) < 90
