"""Facts, findings and the Now card against play itself."""

from __future__ import annotations

from concurrent.futures import ProcessPoolExecutor
from typing import Any

import numpy as np
import pytest
from tools.made.edits import action, alone, facing, replace, section, with_action, with_section

from tests.conftest import OSSA, TARN, Found
from veergust.core.model import (
    Action,
    Condition,
    Event,
    Exit,
    Gate,
    Hitbox,
    Hurtbox,
    Mount,
    Project,
    Reaction,
    StartRule,
    Strike,
)
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import play
from veergust.core.play.state import Input
from veergust.core.study import many
from veergust.core.study.advantage import advantage
from veergust.core.study.coverage import covered, tip_speed
from veergust.core.study.facts import every_fact, facts
from veergust.core.study.findings import findings
from veergust.core.study.now import now, phase_of
from veergust.core.study.playout import play_out
from veergust.core.study.store import Store


def test_the_phases_add_up_to_the_whole(build: CompiledProject) -> None:
    for name in ("Low sweep", "Thrust", "Overhead hook"):
        f = facts(build, name)
        assert f is not None
        assert f.startup is not None
        assert f.recovery is not None
        assert f.startup + f.active + f.gaps + f.recovery == f.total
    sweep = facts(build, "Low sweep")
    assert sweep is not None
    assert (sweep.startup, sweep.active, sweep.recovery, sweep.total) == (9, 4, 33, 46)


def test_numbers_that_do_not_apply_are_none(build: CompiledProject) -> None:
    roll = facts(build, "Duck roll")
    assert roll is not None
    assert (roll.startup, roll.recovery, roll.on_hit, roll.on_guard, roll.reach) == (None,) * 5
    assert roll.travel == pytest.approx((0, 0, 2.391), abs=1e-3)
    assert roll.why_not("reach") == "it has no strike"
    assert facts(build, "nobody") is None


def test_a_gap_counts_as_a_gap(quay: Project, assets: Assets) -> None:
    strike = quay.actions[0].sections[1].strikes[0]
    two = (strike, replace(strike, start=8, end=10))
    f = facts(CompiledProject(with_section(quay, "Low sweep", 1, strikes=two), assets), "Low sweep")
    assert f is not None
    assert (f.startup, f.active, f.gaps, f.recovery) == (9, 6, 3, 28)


def test_advantage_is_what_play_gives_on_the_same_frame(quay: Project, assets: Assets) -> None:
    found = facts(CompiledProject(quay, assets), "Thrust")
    assert found is not None
    strike = quay.actions[1].sections[1].strikes[0]
    first = replace(strike, boxes=(replace(strike.boxes[0], radius=1.5),), knockback=(0, 0, 0))
    ossa, tarn = quay.stage.fighters
    project = facing(with_section(quay, "Thrust", 1, strikes=(first,)), ossa, replace(tarn, plays="stands"))
    records = play(CompiledProject(project, assets), {0: [Input(OSSA, "thrust")]}, 120)[1]
    assert next(r.tick for r in records if r.contacts) == found.startup

    def free(name: str) -> int:
        busy = [r.tick for r in records if r.fighter(name).live() or r.fighter(name).frozen]
        return max(busy) + 1

    assert free(TARN) - free(OSSA) == found.on_hit
    assert found.on_hit_last == (found.on_hit or 0) + found.active - 1


def test_facts_are_kept_until_something_under_them_changes(quay: Project, assets: Assets) -> None:
    store, build = Store(), CompiledProject(quay, assets)
    once = store.of(facts, build, "Thrust")
    assert store.of(facts, build.renew(with_action(quay, "Low sweep", blend_in=9)), "Thrust") is once
    changed = build.renew(with_action(quay, "Thrust", blend_in=9))
    assert store.of(facts, changed, "Thrust") is not once
    reel = section("hit_front", 0.25, name="Reel")
    shorter = store.of(facts, build.renew(with_action(quay, "Reel front", sections=(reel,))), "Thrust")
    assert shorter is not None
    assert once is not None
    assert (shorter.on_hit or 0) < (once.on_hit or 0)


def test_the_demo_has_no_findings(build: CompiledProject) -> None:
    assert findings(build) == []


def broken(quay: Project) -> dict[str, Project]:
    swing = quay.actions[0].sections[1]
    strike = swing.strikes[0]
    return {
        "clip-missing": replace(quay, clips=tuple(c for c in quay.clips if c.name != "staff_sweep")),
        "joint-unknown": replace(
            quay, rig=replace(quay.rig, hurtboxes=(*quay.rig.hurtboxes, Hurtbox(name="x", joint="Head")))
        ),
        "loop-without-end": replace(
            quay, actions=(*quay.actions, Action(name="Round", sections=(section(then="One"),)))
        ),
        "event-empty": with_section(quay, "Low sweep", 1, events=(Event(tick=2),)),
        "strike-outside": with_section(quay, "Low sweep", 1, strikes=(replace(strike, start=10, end=15),)),
        "strike-empty": with_section(quay, "Low sweep", 1, strikes=(replace(strike, boxes=()),)),
        "exit-target-missing": with_section(
            quay, "Low sweep", 1, exits=(Exit(start=0, end=2, command="light", to="Nothing"),)
        ),
        "command-unknown": with_section(
            quay, "Low sweep", 1, exits=(Exit(start=0, end=2, command="Light", to="Thrust"),)
        ),
        "layer-missing": with_action(quay, "Low sweep", layer="Legs"),
        "section-missing": with_section(quay, "Low sweep", 1, then="Nowhere"),
        "gate-target-missing": with_section(quay, "Low sweep", 1, gates=(Gate(start=0, end=2, to="Nowhere"),)),
        "exit-section-missing": with_section(
            quay, "Low sweep", 1, exits=(Exit(start=0, end=2, command="light", to="Thrust", section="Nowhere"),)
        ),
        "start-pops": with_action(quay, "Low sweep", entry="Swing", blend_in=1),
        "event-outside": with_section(quay, "Low sweep", 1, events=(Event(tick=40, name="dust"),)),
        "action-empty": with_action(quay, "Low sweep", sections=()),
        "span-outside": with_section(
            quay, "Low sweep", 0, exits=(Exit(start=6, end=20, command="light", to="Thrust"),)
        ),
    }


def test_every_kind_of_trouble_is_found_and_named(quay: Project, found_in: Found) -> None:
    for code, project in broken(quay).items():
        found = [f for f in found_in(project) if f.code == code]
        assert found, code
        assert found[0].where
        assert found[0].says
        assert found[0].do


def test_a_name_that_differs_by_a_capital_is_proposed(quay: Project, found_in: Found) -> None:
    found = next(f for f in found_in(broken(quay)["joint-unknown"]) if f.code == "joint-unknown")
    assert "'head'" in found.do


def test_a_loop_with_a_gate_or_an_exit_is_no_finding(quay: Project, found_in: Found) -> None:
    gate = Gate(start=0, end=2, to="Out")
    fine = Action(
        name="Round",
        start=StartRule(commands=("light",)),
        sections=(section(then="One", gates=(gate,)), section(name="Out")),
    )
    assert found_in(replace(quay, actions=(*quay.actions, fine))) == []


def test_a_mount_that_is_gone_is_found(quay: Project, found_in: Found) -> None:
    strike = quay.actions[0].sections[1].strikes[0]
    project = with_section(quay, "Low sweep", 1, strikes=(replace(strike, boxes=(Hitbox(mount="Tip"),)),))
    assert [f.code for f in found_in(project)] == ["joint-unknown"]


def test_the_now_card_says_what_can_happen_and_play_does_it(quay: Project, assets: Assets) -> None:
    build = CompiledProject(alone(quay), assets)
    compiled = build.action("Low sweep")
    assert compiled is not None
    for frame in range(compiled.total):
        card = now(build, compiled, frame)
        promised = any(i.role == "combo" and i.open for i in card.items)
        inputs = {0: [Input(OSSA, "light")], frame: [Input(OSSA, "light")]} if frame else {0: [Input(OSSA, "light")]}
        records = play(build, inputs, frame + 1)[1]
        names = [v.compiled.action.name for v in records[-1].fighter(OSSA).live()]
        assert (names == ["Thrust"]) is promised, frame
        open_ = any(i.role == "strike" and i.open for i in card.items)
        assert open_ is (phase_of(compiled, frame)[0] == "active")


def test_words_of_the_now_card(build: CompiledProject) -> None:
    compiled = build.action("Low sweep")
    assert compiled is not None
    says = [i.says for i in now(build, compiled, 11).items]
    assert says[0].startswith("Sweep is open until 13, covers ")
    assert "light from 15 → Thrust" in says
    assert "no floor under the feet → locomotion" in says
    assert "feet are free of ground correction" in says
    assert now(build, compiled, 11).phase == "active 3 of 4"


def test_coverage_and_tip_speed(quay: Project, assets: Assets) -> None:
    build = CompiledProject(quay, assets)
    compiled = build.action("Low sweep")
    assert compiled is not None
    speed = tip_speed(build, compiled)
    assert 9 <= int(np.argmax(speed)) <= 14
    part = covered(build, compiled, 1, 2)
    # Bare is the end at the hands, which goes less far than the rest.
    assert part is not None
    assert (1.12 - 0.25 + 0.09) / 1.12 < part < 1.0
    strike = action(quay, "Low sweep").sections[1].strikes[0]
    whole = replace(strike, boxes=(replace(strike.boxes[0], offset=(0, 0, 0)),))
    more = CompiledProject(with_section(quay, "Low sweep", 1, strikes=(whole,)), assets)
    assert covered(more, more.action("Low sweep"), 1, 2) == 1.0  # type: ignore[arg-type]


def test_a_missing_rig_is_not_a_crash(quay: Project) -> None:
    from veergust.core.motion.figure import EMPTY

    build = CompiledProject(replace(quay, rig=replace(quay.rig, mounts=(Mount(name="m", joint="j"),))), EMPTY)
    assert facts(build, "Low sweep") is not None
    assert {f.code for f in findings(build)} == {"clip-missing"}


@pytest.mark.parametrize("result", ["hit", "guarded"])
def test_what_is_counted_after_a_contact_is_what_would_be_played(quay: Project, assets: Assets, result: str) -> None:
    shaken = [quay]
    # Other thens, gates that hold and such that do not, breaks, and a reaction that loops until let go.
    shaken.append(with_section(quay, "Low sweep", 1, then="Low"))
    gate = Gate(start=0, end=12, to="Settle", conditions=(Condition(test="contact", name="any"),))
    shaken.append(with_section(quay, "Low sweep", 1, gates=(gate,)))
    shut = Gate(start=2, end=20, to="Wind-up", conditions=(Condition(test="held", name="light"),))
    shaken.append(with_section(quay, "Low sweep", 2, gates=(shut,)))
    luck = Gate(start=2, end=20, to="Wind-up", conditions=(Condition(test="chance", op="<", value=0.02),))
    shaken.append(with_section(quay, "Low sweep", 2, gates=(luck,)))
    for project in shaken:
        build = CompiledProject(project, assets)
        # What is shaken is the first of them.
        for made in project.actions if project is quay else project.actions[:1]:
            compiled = build.action(made.name)
            assert compiled is not None
            played = play_out(build, compiled)
            for n in played.open_ticks(compiled):
                counted = advantage(build, compiled, played, n, result)
                assert counted == advantage(build, compiled, played, n, result, counted=False), (made.name, n)


@pytest.mark.parametrize("up", [0.0, 2.5])
@pytest.mark.parametrize("stop", [0, 7])
def test_an_advantage_with_a_stun_is_what_the_arithmetic_says(
    quay: Project, assets: Assets, stop: int, up: float
) -> None:
    """An attack of 30 ticks that is open on 3, 4 and 5, a reaction of 12: stunned for less, for more, or for as long."""
    reel = Action(name="Reel", sections=(section("idle", 0.2),), blend_in=0)
    for stun, guard_stun in ((None, None), (1, 5), (12, 0), (4, 30), (40, 12), (90, None)):
        strike = Strike(start=3, end=6, hit_stop=stop, stun=stun, guard_stun=guard_stun, knockback=(0.0, up, 1.0))
        blow = Action(name="Blow", sections=(section("idle", 0.5, strikes=(strike,)),), blend_in=0)
        rows = (Reaction(action="Reel"), Reaction(action="Reel", situation="guarding"))
        project = replace(quay, actions=(blow, reel), reactions=rows, layers=quay.layers[:1], thrown=())
        found = facts(CompiledProject(project, assets), "Blow")
        assert found is not None
        for n, got, much in (
            (3, found.on_hit, stun), (5, found.on_hit_last, stun),
            (3, found.on_guard, guard_stun), (5, found.on_guard_last, guard_stun),
        ):  # fmt: skip
            assert got == n + (12 if much is None else max(much, 1)) - 30, (stun, guard_stun, n)


def test_findings_kept_on_the_shelf_are_those_found_anew(quay: Project, assets: Assets) -> None:
    shelf = Store()
    broken = with_section(quay, "Low sweep", 1, then="Nowhere")
    outside = with_section(broken, "Thrust", 1, strikes=(Strike(start=90, end=99),))
    renamed = replace(
        outside, actions=tuple(replace(a, name="Lunge") if a.name == "Thrust" else a for a in outside.actions)
    )
    bare = replace(renamed, commands=())
    build = CompiledProject(quay, assets)
    for project in (quay, broken, outside, renamed, bare, outside, quay):
        build = build.renew(project)
        assert findings(build, shelf) == findings(CompiledProject(project, assets))
    assert findings(CompiledProject(bare, assets)) != findings(CompiledProject(quay, assets))


def test_facts_of_many_are_those_of_each_in_order(
    quay: Project, assets: Assets, monkeypatch: pytest.MonkeyPatch
) -> None:
    """By several processes, however many processors this machine has; one that is not there is none."""
    actions = tuple(replace(a, name=f"{a.name} {n}", speed=1.0 + 0.1 * n) for n in range(2) for a in quay.actions)
    build = CompiledProject(replace(quay, actions=actions), assets)
    names = [*(a.name for a in reversed(actions)), "nobody"]
    monkeypatch.setattr(many, "FEW", 10)
    monkeypatch.setattr("veergust.core.study.many.os.cpu_count", lambda: 3)
    asked: list[int] = []

    def pool(count: int, **rest: Any) -> ProcessPoolExecutor:
        asked.append(count)
        return ProcessPoolExecutor(count, **rest)

    monkeypatch.setattr(many, "ProcessPoolExecutor", pool)
    found = list(many.facts_of(build, names))
    assert asked == [3]
    assert found == [every_fact(build, name) for name in names]
    assert found[-1] is None
    assert list(many.facts_of(build, names[:5])) == found[:5]
    assert asked == [3]
