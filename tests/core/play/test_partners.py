"""The other side: what a fighter does that nobody plays, told from what the take shows."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from tools.made.edits import replace, section

from tests.conftest import OSSA, TARN
from tests.core.play.test_made_plain import quiet
from tests.core.play.test_rules import BALL, made, opposite, plays, run
from veergust.core.model import Command, Drill, DrillStep, Layer, Project, Reaction, StartRule, Strike
from veergust.core.motion.figure import Assets
from veergust.core.play.state import Input
from veergust.core.play.take.record import Record, write_take

STAB = Strike(start=4, end=6, boxes=(BALL,), hit_stop=3, damage=1.0, knockback=(0, 0, 0))


def against(quay: Project, plays_: str, *, far: float = 1.0, stab: Strike = STAB, **fields: Any) -> Project:
    """One from the keys who stabs, and one who does as is said, with a kick of ten frames."""
    kick = made("Kick", section("idle", 10 / 60), start=StartRule(commands=("kick",)))
    poke = made("Stab", section("idle", 0.4, strikes=(stab,)), start=StartRule(commands=("stab",)))
    reel = made("Reel", section("idle", 0.4))
    project = opposite(quiet(quay), kick, poke, reel, reactions=(Reaction(action="Reel"),))
    me, you = project.stage.fighters
    you = replace(you, position=(0.0, 0.0, far), plays=plays_, answer="kick", **fields)
    commands = (Command(name="kick"), Command(name="stab"))
    stage = replace(project.stage, fighters=(me, you))
    return replace(project, stage=stage, commands=commands, layers=(Layer(name="Body"),))


def kicks(records: list[Record]) -> list[int]:
    return [r.tick for r in records if any(a == "Kick" and frame == 0 for a, _, frame in plays(r, TARN))]


def gap(record: Record) -> float:
    return float(np.linalg.norm(record.fighter(OSSA).position - record.fighter(TARN).position))


AT_30 = {30: [Input(OSSA, "stab")]}


def test_who_stands_does_nothing_and_who_strikes_back_waits_until_it_is_hurt(quay: Project, assets: Assets) -> None:
    assert kicks(run(against(quay, "stands"), assets, AT_30, 120)) == []
    assert kicks(run(against(quay, "strikes back"), assets, AT_30, 200)) == [80, 120, 160]
    assert kicks(run(against(quay, "strikes back"), assets, {}, 120)) == []


def test_who_guards_holds_it_from_the_first_tick_or_from_the_first_touch(quay: Project, assets: Assets) -> None:
    held = [r.tick for r in run(against(quay, "guards"), assets, AT_30, 80) if "kick" in r.fighter(TARN).held]
    assert held == list(range(80))
    after = run(against(quay, "guards once touched"), assets, AT_30, 80)
    assert [r.tick for r in after if "kick" in r.fighter(TARN).held] == list(range(35, 80))


@pytest.mark.parametrize("every", [1, 13, 40])
def test_who_presses_does_so_as_often_as_it_says(quay: Project, assets: Assets, every: int) -> None:
    records = run(against(quay, "presses", every=every), assets, {}, 121)
    pressed = [r.tick for r in records if "kick" in r.fighter(TARN).pressed]
    assert pressed == list(range(0, 121, every))


@pytest.mark.parametrize("stop", [0, 9])
def test_who_hits_back_does_so_on_the_first_tick_on_which_it_can(quay: Project, assets: Assets, stop: int) -> None:
    """Against pressing by hand on every tick until then: none is sooner."""
    stab = replace(STAB, hit_stop=stop)
    first = kicks(run(against(quay, "hits back", stab=stab), assets, AT_30, 120))
    assert len(first) == 1
    sooner = [
        kicks(run(against(quay, "stands", stab=stab), assets, {**AT_30, tick: [Input(TARN, "kick")]}, 120))
        for tick in range(34, first[0] + 3)
    ]
    assert first[0] == min(k for found in sooner for k in found)
    assert kicks(run(against(quay, "hits back"), assets, {}, 60)) == []


def test_who_walks_in_comes_as_near_as_it_says_and_presses_there(quay: Project, assets: Assets) -> None:
    records = run(against(quay, "walks in", far=4.0, near=1.6, every=20), assets, {}, 400)
    gaps = [gap(r) for r in records]
    assert all(b <= a + 1e-3 for a, b in zip(gaps, gaps[1:]))
    assert 1.0 < gaps[-1] <= 1.6
    begun = kicks(records)
    assert begun
    assert all(gaps[t] <= 1.61 and t % 20 == 0 for t in begun)


def test_who_walks_away_keeps_off(quay: Project, assets: Assets) -> None:
    records = run(against(quay, "walks away", near=2.5), assets, {}, 400)
    assert gap(records[0]) < 1.2
    assert gap(records[-1]) >= 2.5
    assert records[-1].fighter(TARN).stick == (0.0, 0.0)


def test_who_lay_acts_once_it_is_up(quay: Project, assets: Assets) -> None:
    project = against(quay, "once up")
    lies = tuple(
        replace(a, sections=tuple(replace(s, posture="down") for s in a.sections)) if a.name == "Reel" else a
        for a in project.actions
    )
    records = run(replace(project, actions=lies), assets, AT_30, 120)
    down = [r.tick for r in records if r.fighter(TARN).posture == "down"]
    assert kicks(records) == [down[-1] + 1]


def test_chance_is_of_the_seed_and_touches_everything(quay: Project, assets: Assets) -> None:
    project = against(quay, "random", every=5)
    one, two = (run(project, assets, {}, 600) for _ in range(2))
    assert [write_take([r]) for r in one] == [write_take([r]) for r in two]
    pressed = {c for r in one for c in r.fighter(TARN).pressed}
    assert pressed == {"kick", "stab"}
    assert len({r.fighter(TARN).stick for r in one}) > 8
    assert any(r.fighter(TARN).let_go for r in one)


def test_who_replays_is_given_what_the_drill_gives_whom_it_begins_with(quay: Project, assets: Assets) -> None:
    steps = (
        DrillStep(tick=12, fighter=OSSA, command="kick"),
        DrillStep(tick=15, fighter=TARN, command="stab"),
        DrillStep(tick=40, fighter=OSSA, action="Stab"),
        DrillStep(tick=50, fighter=OSSA, axis="move", value=(0.5, 0.0)),
    )
    project = replace(against(quay, "replays", replay="dance"), drills=(Drill(name="dance", steps=steps),))
    records = run(project, assets, {}, 60)
    assert kicks(records) == [12]
    assert [r.tick for r in records if "stab" in r.fighter(TARN).pressed] == []
    assert any(a == "Stab" and f == 0 for a, _, f in plays(records[40], TARN))
    assert records[50].fighter(TARN).stick == (0.5, 0.0)
    assert kicks(run(replace(project, drills=()), assets, {}, 30)) == []
