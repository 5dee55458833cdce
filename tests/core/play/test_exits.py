"""What exits, gates and start rules lead to, and what they leave alone: small cases that tell one rule from its neighbour."""

from __future__ import annotations

import numpy as np
import pytest

from tests.conftest import OSSA, TARN
from tests.core.edits import section
from tests.core.play.test_made_plain import quiet
from tests.core.play.test_rules import BALL, made, opposite, plays, run
from veergust.core.model import Command, Condition, Exit, Gate, Project, StartRule, Strike
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact.contacts import Contact
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


@pytest.mark.parametrize("again", [20, 40])
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
