"""What exits, gates and start rules lead to, and what they leave alone: small cases that tell one rule from its neighbour."""

from __future__ import annotations

import numpy as np
import pytest
from tools.made.edits import replace, section

from tests.conftest import OSSA, TARN
from tests.core.play.test_made_plain import quiet
from tests.core.play.test_rules import BALL, made, opposite, plays, run
from veergust.core.model import (
    Command,
    Condition,
    Ending,
    Exit,
    Gate,
    Layer,
    Project,
    Speaks,
    StartRule,
    State,
    Strike,
    Transition,
)
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact.contact import Contact
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input


def test_what_waits_in_a_section_is_gone_with_it(quay: Project, assets: Assets) -> None:
    """A press that waited in a loop's first lap for a touch does not leave on a touch of the next."""
    leave = Exit(start=5, end=10, kind="cancel", command="heavy", to="Next", contact="hit", early=False)
    strike = Strike(start=0, end=10, boxes=(BALL,), hit_stop=0, knockback=(0, 0, 0))
    loop = section("idle", 10 / 60, name="Loop", then="Loop", strikes=(strike,), exits=(leave,))
    project = opposite(quiet(quay), made("Turns", loop), made("Next"))

    def touch(simulation: Simulation) -> list[Contact]:
        live = simulation.fighter(OSSA).live()
        if simulation.now != 12 or not live:
            return []
        return [Contact(strike, OSSA, TARN, "", "hit", np.zeros(3), 0.0, (0, 0), serial=live[0].serial)]

    for press, leaves in ((6, None), (16, 16)):
        simulation = Simulation(CompiledProject(project, assets), touches=touch, posed=False)
        script = {0: [Input(OSSA, action="Turns")], press: [Input(OSSA, "heavy")]}
        shown = [[n for n, _, _ in plays(simulation.tick(script.get(t, [])))] for t in range(30)]
        found = next((t for t, names in enumerate(shown) if "Next" in names), None)
        assert found == leaves


@pytest.mark.parametrize("order", [1, -1])
def test_of_one_press_the_longer_sequence_is_meant(quay: Project, assets: Assets, order: int) -> None:
    exits = (Exit(start=0, end=60, kind="cancel", command="heavy", to="Short"),
             Exit(start=0, end=60, kind="cancel", sequence=("light", "heavy"), to="Long"))[::order]  # fmt: skip
    project = opposite(quiet(quay), made("Root", section("idle", 1.0, exits=exits)), made("Short"), made("Long"))
    script = {0: [Input(OSSA, action="Root")], 5: [Input(OSSA, "light")], 8: [Input(OSSA, "heavy")]}
    assert plays(run(project, assets, script, 10)[8])[0][0] == "Long"


def test_an_exit_begins_at_the_section_it_names_with_its_blend(quay: Project, assets: Assets) -> None:
    leave = Exit(start=0, end=60, kind="cancel", command="heavy", to="Next", section="Late", blend=7)
    next_ = made("Next", section(name="Early"), section(name="Late"))
    project = opposite(quiet(quay), made("Root", section("idle", 1.0, exits=(leave,))), next_)
    record = run(project, assets, {0: [Input(OSSA, action="Root")], 5: [Input(OSSA, "heavy")]}, 7)[5]
    assert plays(record) == [("Next", "Late", 0)]
    assert record.fighter(OSSA).live()[0].blend == 7


@pytest.mark.parametrize("again", [34, 35])
def test_an_exit_leads_nowhere_that_still_cools_down(quay: Project, assets: Assets, again: int) -> None:
    leave = Exit(start=0, end=90, kind="cancel", command="heavy", to="Next")
    next_ = made("Next", section("idle", 0.1), start=StartRule(cooldown=30))
    project = opposite(quiet(quay), made("Root", section("idle", 1.5, exits=(leave,))), next_)
    script = {0: [Input(OSSA, action="Root")], 5: [Input(OSSA, "heavy")], 14: [Input(OSSA, action="Root")]}
    script[again] = [Input(OSSA, "heavy")]
    records = run(project, assets, script, 45)
    assert plays(records[5])[0][0] == "Next"
    assert plays(records[again])[0][0] == ("Next" if again - 5 >= 30 else "Root")


def test_a_gate_of_frame_0_is_asked_on_the_tick_the_action_starts(quay: Project, assets: Assets) -> None:
    gate = Gate(start=0, end=1, to="B", conditions=(Condition(test="pressed", name="heavy"),))
    gated = made("Gated", section("idle", 0.3, name="A", gates=(gate,)), section(name="B"))
    project = opposite(quiet(quay, commands=(Command(name="heavy"), Command(name="light"))), gated)
    for press, wanted in ((2, "B"), (1, "A"), (3, "A")):
        script = {2: [Input(OSSA, action="Gated")]}
        script[press] = [*script.get(press, []), Input(OSSA, "heavy")]
        assert plays(run(project, assets, script, 5)[3])[0][1] == wanted, press


@pytest.mark.parametrize("late", [20, 21])
def test_a_string_is_remembered_for_just_as_long_as_it_says(quay: Project, assets: Assets, late: int) -> None:
    on = Exit(start=0, end=12, kind="combo", command="light", to="Two")
    one = made("One", section("idle", 0.2, exits=(on,)), start=StartRule(commands=("light",), string_memory=20))
    project = opposite(quiet(quay), one, made("Two"))
    ended = 12
    records = run(project, assets, {0: [Input(OSSA, "light")], ended + late: [Input(OSSA, "light")]}, ended + late + 1)
    assert not plays(records[ended])
    assert plays(records[-1])[0][0] == ("Two" if late <= 20 else "One")


def test_a_string_starts_over_once_something_else_was_started(quay: Project, assets: Assets) -> None:
    """Within its memory another action of the layer starts, and is broken off: the string begins anew."""
    on = Exit(start=0, end=12, kind="combo", command="light", to="Two")
    one = made("One", section("idle", 0.2, exits=(on,)), start=StartRule(commands=("light",), string_memory=60))
    off = Exit(start=5, end=60, kind="break", to_kind="ground", conditions=(Condition(test="on_floor"),))
    project = opposite(quiet(quay), one, made("Two"), made("Other", section("idle", 1.0, exits=(off,))))
    script = {0: [Input(OSSA, "light")], 20: [Input(OSSA, action="Other")], 40: [Input(OSSA, "light")]}
    records = run(project, assets, script, 41)
    assert plays(records[22])[0][0] == "Other"
    assert not plays(records[39])
    assert plays(records[40])[0][0] == "One"


def test_a_chance_is_drawn_anew_on_every_tick(quay: Project, assets: Assets) -> None:
    """A gate that is open by one chance in four: by one seed it opens on some tick, by another on another."""
    gate = Gate(start=0, end=60, to="B", conditions=(Condition(test="chance", op="<", value=0.25),))
    dice = made("Dice", section("idle", 1.0, name="A", gates=(gate,)), section(name="B"))
    build = CompiledProject(opposite(quiet(quay), dice), assets)
    waits = []
    for seed in range(60):
        simulation = Simulation(build, seed, posed=False)
        shown = [plays(simulation.tick([Input(OSSA, action="Dice")] if t == 0 else [])) for t in range(50)]
        waits.append(next((t for t, now in enumerate(shown) if now and now[0][1] == "B"), 50))
    assert len(set(waits)) > 6
    # Its mean is that of a geometric law, 4 ticks.
    assert 2.5 < np.mean(waits) < 6.0


@pytest.mark.parametrize("how", ["completed", "cancelled", "broken", "out of scope"])
def test_what_is_attached_to_an_ending_runs_for_that_ending(quay: Project, assets: Assets, how: str) -> None:
    """Each ending says its own; one that is out of scope says what is for broken."""
    says = {f"on_{k}": Ending(message=k) for k in ("completed", "cancelled", "broken")}
    leave = Exit(start=2, end=60, kind="cancel", command="heavy", to_kind="ground")
    off = Exit(start=2, end=60, kind="break", to_kind="ground", conditions=(Condition(test="held", name="heavy"),))
    own = (off,) if how == "broken" else (leave,) if how == "cancelled" else ()
    act = replace(made("Act", section("idle", 0.2 if how == "completed" else 1.0, exits=own)), **says)
    states = (State(name="idle", clip="idle"), State(name="away", clip="idle"))
    on = Transition(start="idle", to="away", conditions=(Condition(test="held", name="light"),))
    locomotion = replace(quay.locomotion, entry="idle", states=states, groups=(), transitions=(on,))
    project = opposite(quiet(quay, locomotion=locomotion), act)
    project = replace(project, layers=(Layer(name="Body", scope=(Speaks(state="away", rule="fades"),)),))
    press = {"cancelled": "heavy", "broken": "heavy", "out of scope": "light"}.get(how, "roll")
    records = run(project, assets, {0: [Input(OSSA, action="Act")], 6: [Input(OSSA, press)]}, 20)
    said = [e.name for r in records for e in r.events if e.kind == "message"]
    assert said == ["broken" if how == "out of scope" else how]
