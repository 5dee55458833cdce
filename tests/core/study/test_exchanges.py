"""The numbers of a take's touches, against what is measured by itself and what presses would do."""

from __future__ import annotations

import numpy as np
import pytest
from tools.made.edits import replace, section

from tests.conftest import OSSA, TARN
from tests.core.play.test_made_plain import quiet
from tests.core.play.test_rules import BALL, made, opposite, run
from veergust.core.model import Layer, Project, Reaction, Strike
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.state import Input
from veergust.core.study.advantage import advantage
from veergust.core.study.exchanges import exchanges
from veergust.core.study.playout import play_out


@pytest.mark.parametrize("name", ["Low sweep", "Thrust", "Overhead hook"])
def test_the_advantage_is_the_one_that_is_measured_on_that_frame(quay: Project, assets: Assets, name: str) -> None:
    fighters = tuple(replace(f, plays="stands") for f in quay.stage.fighters)
    project = replace(quay, stage=replace(quay.stage, fighters=fighters))
    records = run(project, assets, {2: [Input(OSSA, action=name)]}, 160)
    build = CompiledProject(project, assets)
    [found] = exchanges(build, records)
    compiled = build.action(name)
    assert compiled is not None
    played = play_out(build, compiled)
    assert (found.advantage, "") == advantage(build, compiled, played, found.tick - 2, "hit", counted=False)
    a, b = (records[found.tick].fighter(who).position for who in (OSSA, TARN))
    assert found.distance == pytest.approx(float(np.hypot(a[0] - b[0], a[2] - b[2])))
    assert (found.string, found.gap) == (1, None)
    assert found.words.endswith(f" at {found.tick} · {found.advantage:+d}")


def jabs(quay: Project, stun: int) -> Project:
    """A jab of 12 frames that touches on its fourth."""
    hit = Strike(start=4, end=5, boxes=(BALL,), hit_stop=0, damage=1.0, knockback=(0, 0, 0), stun=stun)
    jab = made("Jab", section("idle", 12 / 60, strikes=(hit,)))
    reel = made("Reel", section("idle", 2.0))
    project = opposite(quiet(quay), jab, reel, reactions=(Reaction(action="Reel"),))
    return replace(project, layers=(Layer(name="Body"),))


@pytest.mark.parametrize("stun", [8, 14, 19, 20, 23, 45])
def test_a_string_is_true_where_the_victim_could_not_act_between(quay: Project, assets: Assets, stun: int) -> None:
    """Three jabs, twenty frames from one to the next."""
    project = jabs(quay, stun)
    given = {t: [Input(OSSA, action="Jab")] for t in (5, 25, 45)}
    found = exchanges(CompiledProject(project, assets), run(project, assets, given, 120))
    assert [e.tick for e in found] == [9, 29, 49]
    assert [e.string for e in found] == [1, 2, 3]
    gap = max(20 - stun, 0)
    assert [e.gap for e in found] == [None, gap, gap]
    assert ("true" in found[1].words) == (gap == 0)
    # Cut short on the tick it may be: who jabs can act on the twelfth, who was touched when the stun is over.
    assert found[2].advantage == (49 + stun) - (45 + 12)


def test_what_comes_long_after_is_a_string_of_its_own_and_only_the_last_are_told(quay: Project, assets: Assets) -> None:
    project = jabs(quay, 5)
    build = CompiledProject(project, assets)
    given = {t: [Input(OSSA, action="Jab")] for t in range(5, 605, 40)}
    records = run(project, assets, given, 620)
    found = exchanges(build, records)
    assert len(found) == 10
    assert {e.string for e in found} == {1}
    assert [e.tick for e in exchanges(build, records, most=3)] == [e.tick for e in found[-3:]]
    places = [at for at, r in enumerate(records) if r.contacts]
    assert exchanges(build, records, among=places) == found
    assert exchanges(build, records, among=places[-1:])[-1].string == 1
    assert exchanges(build, records[: found[-1].tick + 2])[-1].advantage is None


@pytest.mark.parametrize("stop", [0, 6])
def test_who_does_not_reel_is_free_after_hit_stop(quay: Project, assets: Assets, stop: int) -> None:
    project = jabs(quay, 0)
    jab = project.actions[0]
    strike = replace(jab.sections[0].strikes[0], hit_stop=stop, stun=None)
    jab = replace(jab, sections=(replace(jab.sections[0], strikes=(strike,)),))
    project = replace(project, actions=(jab,), reactions=())
    build = CompiledProject(project, assets)
    [found] = exchanges(build, run(project, assets, {5: [Input(OSSA, action="Jab")]}, 60))
    compiled = build.action("Jab")
    assert compiled is not None
    assert (found.advantage, "") == advantage(build, compiled, play_out(build, compiled), 4, "hit", counted=False)
