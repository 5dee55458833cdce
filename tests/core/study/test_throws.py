"""The numbers of what is thrown, against somebody who is put there and plays."""

from __future__ import annotations

from typing import Any

import pytest
from tools.made.edits import replace, section

from tests.conftest import OSSA, TARN
from tests.core.play.test_rules import made, plays, run
from tests.core.play.test_thrown import GOES, STRIKE, ball, field, thrown, toss
from veergust.core.model import Command, Event, Project, StartRule, Thrown
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.state import Input
from veergust.core.study.facts import every_fact, facts
from veergust.core.study.throws import ThrowFacts, throws_of

EDGE = 0.08
"""A target that plays sways by less than this (m)."""


def told(project: Project, assets: Assets) -> tuple[ThrowFacts, ...]:
    build = CompiledProject(project, assets)
    compiled = build.action("Toss")
    assert compiled is not None
    return throws_of(build, compiled)


@pytest.mark.parametrize(
    "thing",
    [
        ball(speed=9.0, up=2.0, gravity=9.81),
        ball(speed=6.0, up=1.0, gravity=9.81, bounce=0.6, life=50),
        ball(speed=12.0, life=20),
        ball(speed=5.0, up=1.0, gravity=9.81, aims="target", life=40),
        ball(speed=7.0, up=4.0, turns=200.0, life=35),
    ],
    ids=["drawn down", "bounces", "for so long", "aimed", "turns"],
)
def test_a_target_is_touched_up_to_its_reach_and_no_farther(quay: Project, assets: Assets, thing: Thrown) -> None:
    [throw] = told(field(quay, thing), assets)
    assert (throw.name, throw.tick) == ("ball", GOES)
    assert throw.reach is not None

    def touched(far: float) -> list[int]:
        return [r.tick for r in thrown(field(quay, thing, far=far), assets, 140) if r.contacts]

    near = touched(throw.reach - EDGE)
    assert near
    # Somebody a little nearer is touched a little before.
    assert 0 <= (throw.flight or 0) - (near[0] - GOES) <= 3
    assert not any(touched(throw.reach + EDGE + step) for step in (0.0, 0.4, 1.1))


def presses_act(project: Project, assets: Assets, who: str) -> int:
    """The first tick from which on a press of somebody starts something."""
    last = GOES
    for press in range(GOES + 2, 90):
        takes = run(project, assets, {0: [Input(OSSA, action="Toss")], press: [Input(who, "probe")]}, press + 1)
        if not any(name == "Probe" for name, _, _ in plays(takes[-1], who)):
            last = press
        elif press > last + 3:
            break
    return last + 1


@pytest.mark.parametrize(
    "strike",
    [{"stun": 20, "guard_stun": 9}, {"hit_stop": 6, "stun": 12, "guard_stun": 3}, {"stun": 40, "guard": "none"}],
)
def test_who_acts_first_after_it_is_who_can_press_first(quay: Project, assets: Assets, strike: dict[str, Any]) -> None:
    """It touches at once: the other stands in its way."""
    thing = ball(speed=3.0, strike=replace(STRIKE, knockback=(0.0, 0.0, 0.0), **strike))
    throws = toss(offset=(0.0, 1.0, 0.8))
    probe = made("Probe", section("idle", 0.1), start=StartRule(commands=("probe",)))
    project = replace(field(quay, thing, throws, probe, far=1.2), commands=(Command(name="probe", buffer=1),))
    [throw] = told(project, assets)
    assert [r.tick for r in thrown(project, assets, 6) if r.contacts] == [GOES + 1]
    free = {who: presses_act(project, assets, who) for who in (OSSA, TARN)}
    assert throw.on_hit == free[TARN] - free[OSSA]
    shorter = strike["stun"] - strike.get("guard_stun", 0)
    assert throw.on_guard == (throw.on_hit - shorter if "guard" not in strike else None)


def test_facts_tell_it_where_it_is_asked_for(quay: Project, assets: Assets) -> None:
    twice = made("Toss", section("idle", 0.5, events=tuple(
        Event(tick=t, kind="spawn", name="ball", offset=(0.0, 1.0, 0.0), payload=payload)
        for t, payload in ((2, ""), (9, "speed=3"))
    )))  # fmt: skip
    project = field(quay, ball(speed=10.0, life=30), twice)
    build = CompiledProject(project, assets)
    found = every_fact(build, "Toss")
    assert found is not None
    assert [t.tick for t in found.thrown] == [2, 9]
    assert (found.thrown[0].reach or 0.0) > (found.thrown[1].reach or 0.0) > 1.0
    usual = facts(build, "Toss")
    assert usual is not None
    assert usual.thrown == ()
    # What nothing is known of, or nobody can be touched by, has no numbers.
    assert told(replace(project, thrown=()), assets) == ()
    bare = told(replace(project, rig=replace(project.rig, hurtboxes=())), assets)
    assert [(t.reach, t.flight) for t in bare] == [(None, None)] * 2
