"""Tables of cases, multiplied, and played against plain models that are written here and know nothing of the player.

A model counts *played* ticks: those that hit stop has not frozen. What the page says is in its few lines of arithmetic.
"""

from __future__ import annotations

import dataclasses
from dataclasses import dataclass
from itertools import product

import numpy as np
import pytest
from tools.made.edits import adding, replace, section

from tests.conftest import OSSA, TARN
from tests.core.play.test_rules import BALL, made, opposite, plays
from veergust.core.model import Action, Condition, Exit, Gate, Layer, Project, StartRule, Strike
from veergust.core.model.action import ContactAsked
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact.contact import Contact
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input

TOUCH = 14
"""The frame of the touch, where there is one."""
LENGTH = 36


@dataclass(frozen=True)
class Case:
    """An exit on ``[opens, closes)``, or of the whole action; what it asks for, what comes of the touch, how long hit
    stop lasts, and on which tick the press is made. ``other``: an action on another layer starts on it, too."""

    opens: int
    closes: int
    early: bool
    buffer: int | None
    asks: ContactAsked
    comes: str
    stop: int
    press: int
    whole: bool = False
    other: bool = False

    @property
    def border(self) -> int:
        """Where the second section begins: for an exit of the whole action between a press that waits and the touch."""
        return 12 if self.whole else 18

    @property
    def stopped(self) -> int:
        return self.stop if self.comes != "nothing" else 0

    def played(self, tick: int) -> int:
        """Which played tick a press of a tick acts on first."""
        if tick <= TOUCH:
            return tick
        return max(tick - self.stopped, TOUCH + 1)

    def on_the_clock(self, played: int) -> int:
        return played if played <= TOUCH else played + self.stopped

    def met(self, played: int) -> bool:
        """Whether the touch that is asked for was made before a played tick, and not on it."""
        touched = self.comes if played > TOUCH and self.comes != "nothing" else "none"
        return self.asks == "any" or self.asks == touched

    def leaves(self) -> int | None:
        """The tick on which the exit is taken; None: never."""
        first, keep = self.played(self.press), 8 if self.buffer is None else max(self.buffer, 1)
        opens, closes = (1, LENGTH) if self.whole else (self.opens, self.closes)
        for now in range(first, LENGTH):
            asked = now - first < keep if self.early else opens <= first < closes
            if opens <= now < closes and asked and self.met(now):
                return self.on_the_clock(now)
            if self.other:
                return None  # the press has started the other by now
        return None


def project_of(quay: Project, case: Case) -> Project:
    exit_ = Exit(
        start=case.opens, end=case.closes, kind="cancel", command="heavy", to="Next", contact=case.asks, early=case.early,
        buffer=case.buffer,
    )  # fmt: skip
    strike = Strike(start=0, end=LENGTH, boxes=(BALL,), hit_stop=case.stop, knockback=(0, 0, 0))
    own = () if case.whole else (exit_,)
    before, after = case.border, LENGTH - case.border
    parts = (
        section(
            "idle", before / 60, name="A", then="B", strikes=(strike,), exits=tuple(e for e in own if e.start < before)
        ),
        section("idle", after / 60, name="B", strikes=(strike,)),
    )
    blow = made("Blow", *parts, exits=(exit_,) if case.whole else ())
    arms = made("Arm", section("idle", 1.0), layer="Arms")
    if case.other:
        arms = made("Arm", section("idle", 1.0), layer="Arms", start=StartRule(commands=("heavy",)))
    project = opposite(_quiet(quay), blow, made("Next", section("idle", 1.0)), arms)
    layers = (Layer(name="Body"), Layer(name="Arms", mask="upper body", under="both play"))
    return replace(project, layers=layers)


def _quiet(quay: Project) -> Project:
    return replace(quay, actions=(), reactions=())


def leaves(quay: Project, assets: Assets, case: Case, built: dict[Case, CompiledProject]) -> int | None:
    """The tick on which the next action has started, played."""
    alike = dataclasses.replace(case, press=0, comes="")
    if alike not in built:
        built[alike] = CompiledProject(project_of(quay, case), assets)

    def touch(simulation: Simulation) -> list[Contact]:
        me = simulation.fighter(OSSA)
        voice = next((v for v in me.live() if v.compiled.action.name == "Blow"), None)
        if case.comes == "nothing" or voice is None or not me.advanced:
            return []
        if voice.section * case.border + voice.frame != TOUCH:
            return []
        strike = voice.part.section.strikes[0]
        return [Contact(strike, OSSA, TARN, "", case.comes, np.zeros(3), 0.0, (voice.section, 0), serial=voice.serial)]

    simulation = Simulation(built[alike], touches=touch, posed=False)
    for tick in range(LENGTH + case.stop + 4):
        given = [Input(OSSA, action="Blow")] if tick == 0 else []
        given += [Input(OSSA, "heavy")] if tick == case.press else []
        given += [Input(OSSA, "heavy", press=False)] if tick == case.press + 1 else []
        if any(name == "Next" for name, _, _ in plays(simulation.tick(given))):
            return tick
    return None


ASKED: tuple[ContactAsked, ...] = ("any", "hit", "guarded", "none")
PRESSES = (3, 9, 11, 13, 14, 15, 17, 19, 20, 21, 24, 30)
EXITS = [
    Case(*row)
    for row in product((10,), (17,), (True, False), (None, 0, 3), ASKED, ("hit", "guarded", "nothing"), (0, 5), PRESSES)
]
WHOLE = [
    Case(0, 1, early, None, asks, comes, 5, press, whole=True)
    for early, asks, comes, press in product((True, False), ASKED, ("hit", "nothing"), (8, *PRESSES))
]
SHARED = [
    Case(10, 17, early, None, asks, "hit", stop, press, whole, True)
    for early, asks, stop, press, whole in product((True, False), ASKED[:2], (0, 5), PRESSES, (True, False))
]


@pytest.mark.parametrize(
    "cases", [EXITS[0::5], EXITS[2::5], WHOLE[::2], SHARED[::3]], ids=["exits", "more exits", "whole", "shared"]
)
def test_exits_are_taken_when_the_arithmetic_says(quay: Project, assets: Assets, cases: list[Case]) -> None:
    built: dict[Case, CompiledProject] = {}
    found = [(case, case.leaves(), leaves(quay, assets, case, built)) for case in cases]
    wrong = [row for row in found if row[1] != row[2]]
    assert not wrong, f"{len(wrong)} of {len(cases)}; the first: {wrong[0]}"
    # The table is one: its cases are taken early, late, and not at all.
    assert len({case.leaves() for case in cases}) > 3


@pytest.mark.parametrize("buffer", [0, 1, 4, 8])
def test_a_start_rule_answers_presses_as_young_as_the_buffer_says(quay: Project, assets: Assets, buffer: int) -> None:
    """While one plays, for 20 frames, a press for another is made on each tick: it starts on tick 20 or never."""
    settings = replace(quay.settings, buffer=buffer)
    long_ = made("Long", section("idle", 20 / 60))
    next_ = made("Next", section("idle", 0.5), start=StartRule(commands=("heavy",)))
    commands = tuple(replace(c, buffer=None) for c in quay.commands)
    project = opposite(replace(_quiet(quay), settings=settings, commands=commands), long_, next_)
    for press in range(1, 24):
        simulation = Simulation(CompiledProject(project, assets), posed=False)
        started = None
        for tick in range(40):
            given = [Input(OSSA, action="Long")] if tick == 0 else [Input(OSSA, "heavy")] if tick == press else []
            if started is None and any(name == "Next" for name, _, _ in plays(simulation.tick(given))):
                started = tick
        wanted = press if press >= 20 else 20 if 20 - press < max(buffer, 1) else None
        assert started == wanted, f"pressed on {press}"


@pytest.mark.parametrize("stop", [0, 6])
@pytest.mark.parametrize("press", range(8, 24))
def test_a_gate_sees_a_press_in_hit_stop_once(quay: Project, assets: Assets, stop: int, press: int) -> None:
    """A gate on frames 12 to 16 that asks *pressed*: the section goes over on the tick after the one that saw it."""
    case = Case(12, 17, True, None, "any", "hit", stop, press)
    gate = Gate(start=12, end=17, to="B", conditions=(Condition(test="pressed", name="heavy"),))
    strike = Strike(start=0, end=30, boxes=(BALL,), hit_stop=stop, knockback=(0, 0, 0))
    blow = made(
        "Blow", section("idle", 0.5, name="A", strikes=(strike,), gates=(gate,)), section("idle", 0.5, name="B")
    )

    def touch(simulation: Simulation) -> list[Contact]:
        voice = simulation.fighter(OSSA).live()[:1]
        if not voice or voice[0].section or voice[0].frame != TOUCH or not simulation.fighter(OSSA).advanced:
            return []
        return [Contact(strike, OSSA, TARN, "", "hit", np.zeros(3), 0.0, (0, 0), serial=voice[0].serial)]

    simulation = Simulation(CompiledProject(opposite(_quiet(quay), blow), assets), touches=touch, posed=False)
    went = None
    for tick in range(48):
        given = [Input(OSSA, action="Blow")] if tick == 0 else [Input(OSSA, "heavy")] if tick == press else []
        now = plays(simulation.tick(given))
        if went is None and now and now[0][1] == "B":
            went = tick
    seen = case.played(press)
    assert went == (case.on_the_clock(seen + 1) if 12 <= seen < 17 else None)


@pytest.mark.parametrize("length", [2, 3, 10])
@pytest.mark.parametrize("gap", [1, 8, 9])
def test_a_sequence_counts_as_long_as_its_gaps_are_in_time(
    quay: Project, assets: Assets, length: int, gap: int
) -> None:
    """However long: each press at most the buffer (8) after the one before it."""
    names = ("light", "heavy")
    asked = tuple(names[n % 2] for n in range(length))
    leave = Exit(start=0, end=300, kind="cancel", sequence=asked, to="Next")
    project = opposite(_quiet(quay), made("Root", section("idle", 4.0, exits=(leave,))), made("Next"))
    simulation = Simulation(CompiledProject(project, assets), posed=False)
    script = {5 + n * gap: [Input(OSSA, c)] for n, c in enumerate(asked)} | {0: [Input(OSSA, action="Root")]}
    last = 5 + (length - 1) * gap
    names_of = [{name for name, _, _ in plays(simulation.tick(script.get(t, [])))} for t in range(last + 3)]
    assert ("Next" in names_of[last]) == (gap <= 8)
    assert not any("Next" in found for found in names_of[:last])


def test_presses_of_a_sequence_made_in_hit_stop_keep_their_order(quay: Project, assets: Assets) -> None:
    for order in (("light", "heavy"), ("heavy", "light")):
        leave = Exit(start=0, end=90, kind="cancel", sequence=("light", "heavy"), to="Next")
        strike = Strike(start=0, end=30, boxes=(BALL,), hit_stop=9, knockback=(0, 0, 0))
        root: Action = made("Root", section("idle", 1.5, exits=(leave,), strikes=(strike,)))
        project = adding(opposite(_quiet(quay), root), made("Next"))

        def touch(simulation: Simulation, strike: Strike = strike) -> list[Contact]:
            if simulation.now != 4:
                return []
            serial = simulation.fighter(OSSA).live()[0].serial
            return [Contact(strike, OSSA, TARN, "", "hit", np.zeros(3), 0.0, (0, 0), serial=serial)]

        simulation = Simulation(CompiledProject(project, assets), touches=touch, posed=False)
        script = {0: [Input(OSSA, action="Root")], 6: [Input(OSSA, order[0])], 8: [Input(OSSA, order[1])]}
        started = any("Next" in {n for n, _, _ in plays(simulation.tick(script.get(t, [])))} for t in range(30))
        assert started == (order == ("light", "heavy"))
