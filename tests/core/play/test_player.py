"""The rules of the tick, one test each; docs/semantics.md names them."""

from __future__ import annotations

import random
from typing import Any

import msgspec
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tools.made.edits import action, adding, alone, facing, replace, section, with_action, with_section

from tests.conftest import OSSA, TARN
from veergust.core.model import (
    Action,
    Condition,
    Cut,
    Drive,
    Event,
    Exit,
    Fighter,
    Floor,
    Gate,
    HitboxKey,
    Hold,
    Layer,
    Mask,
    Pool,
    PoolItem,
    Project,
    Setting,
    Shield,
    Speaks,
    StartRule,
)
from veergust.core.motion import quat
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation, play
from veergust.core.play.state import Input
from veergust.core.play.take.record import Record, write_take

Script = dict[int, list[Input]]


def press(**ticks: int) -> Script:
    return {tick: [Input(OSSA, command)] for command, tick in ticks.items()}


def run(project: Project, assets: Assets, inputs: Script | None = None, ticks: int = 90, seed: int = 1) -> list[Record]:
    return play(CompiledProject(project, assets), inputs or {}, ticks, seed)[1]


def playing(record: Record, name: str = OSSA) -> list[tuple[str, str, int]]:
    return [(v.compiled.action.name, v.part.section.name, v.frame) for v in record.fighter(name).live()]


def frames(records: list[Record], wanted: str, name: str = OSSA) -> list[int]:
    """Ticks on which an action plays."""
    return [r.tick for r in records if any(a == wanted for a, _, _ in playing(r, name))]


# Starting


def test_an_action_starts_on_its_first_tick_every_time(quay: Project, assets: Assets) -> None:
    records = run(alone(quay), assets, {t: [Input(OSSA, "light")] for t in (3, 70, 140)}, 200)
    starts = [t for t in (3, 70, 140) if playing(records[t]) == [("Low sweep", "Wind-up", 0)]]
    assert starts == [3, 70, 140]


def test_mashing_never_restarts_an_action(quay: Project, assets: Assets) -> None:
    records = run(alone(quay), assets, {t: [Input(OSSA, "thrust")] for t in range(2, 45)}, 47)
    assert [f for r in records[2:47] for _, _, f in playing(r)][:3] == [0, 1, 2]
    assert sum(1 for r in records if any(s == "Draw back" and f == 0 for _, s, f in playing(r))) == 1


def test_cooldown_keeps_an_action_from_starting_too_soon(quay: Project, assets: Assets) -> None:
    inputs = {t: [Input(OSSA, "dodge")] for t in range(240)}
    records = run(alone(quay), assets, inputs, 240)
    starts = [r.tick for r in records if ("Duck roll", "Roll", 0) in playing(r)]
    cooldown = action(quay, "Duck roll").start.cooldown
    assert len(starts) > 2
    assert min(np.diff(starts)) >= cooldown


def test_a_start_rule_asks_for_its_state_and_conditions(quay: Project, assets: Assets) -> None:
    rule = replace(action(quay, "Low sweep").start, conditions=(Condition(test="speed", op=">", value=1.0),))
    project = alone(with_action(quay, "Low sweep", start=rule))
    assert not frames(run(project, assets, press(light=5), 40), "Low sweep")
    stick = {0: [Input(OSSA, axis="move", value=(1.0, 0.0))], 30: [Input(OSSA, "light")]}
    assert frames(run(project, assets, stick, 60), "Low sweep")[0] == 30


# Commands, exits and the buffer


def test_an_early_press_is_remembered_and_fires_on_the_first_tick_of_the_window(quay: Project, assets: Assets) -> None:
    project = alone(quay)
    opens = 8 + action(quay, "Low sweep").sections[1].exits[0].start
    for early in range(9):
        records = run(project, assets, {0: [Input(OSSA, "light")], opens - early: [Input(OSSA, "light")]}, 60)
        wanted = opens if early < quay.settings.buffer else None
        found = frames(records, "Thrust")
        assert (found[0] if found else None) == wanted, early


def test_a_press_is_used_once_and_not_kept_for_ever(quay: Project, assets: Assets) -> None:
    records = run(alone(quay), assets, {0: [Input(OSSA, "light")], 3: [Input(OSSA, "light")]}, 200)
    assert not frames(records, "Thrust")
    assert len(frames(records, "Low sweep")) == 46


def test_the_newest_press_wins_and_ties_go_by_the_order_of_commands(quay: Project, assets: Assets) -> None:
    order = [c.name for c in quay.commands]
    assert order.index("heavy") < order.index("light")
    both = run(alone(quay), assets, {5: [Input(OSSA, "light"), Input(OSSA, "heavy")]}, 12)
    assert frames(both, "Overhead hook")
    hit_stop_free = {0: [Input(OSSA, "light")], 40: [Input(OSSA, "heavy")], 43: [Input(OSSA, "thrust")]}
    assert frames(run(alone(quay), assets, hit_stop_free, 60), "Thrust")[0] == 46


def test_exits_can_ask_for_contact(quay: Project, assets: Assets) -> None:
    swing = quay.actions[0].sections[1]
    only_hit = tuple(replace(e, contact="hit") if e.kind == "combo" else e for e in swing.exits)
    settle = tuple(e for e in quay.actions[0].sections[2].exits if e.kind != "combo")
    project = with_section(with_section(quay, "Low sweep", 1, exits=only_hit), "Low sweep", 2, exits=settle)
    inputs = {0: [Input(OSSA, "light")], 20: [Input(OSSA, "light")]}
    assert frames(run(project, assets, inputs, 60), "Thrust")
    assert not frames(run(alone(project), assets, inputs, 60), "Thrust")


def test_breaks_go_before_cancels_and_cancels_by_priority(quay: Project, assets: Assets) -> None:
    always = Condition(test="on_floor", op="==", value=1.0)
    exits = (
        Exit(start=2, end=8, kind="cancel", command="dodge", to="Duck roll"),
        Exit(start=2, end=8, kind="cancel", command="dodge", to="Thrust", priority=5),
    )
    project = alone(with_section(quay, "Low sweep", 0, exits=exits))
    inputs = {0: [Input(OSSA, "light")], 3: [Input(OSSA, "dodge")]}
    assert frames(run(project, assets, inputs, 20), "Thrust")[0] == 3
    broken = (*exits, Exit(start=3, end=8, kind="break", to="Overhead hook", conditions=(always,)))
    project = alone(with_section(quay, "Low sweep", 0, exits=broken))
    assert frames(run(project, assets, inputs, 20), "Overhead hook")[0] == 3


def test_a_string_goes_on_within_its_memory_and_starts_over_after(quay: Project, assets: Assets) -> None:
    rule = replace(action(quay, "Low sweep").start, string_memory=20)
    project = alone(with_action(quay, "Low sweep", start=rule))
    inputs = {0: [Input(OSSA, "light")], 60: [Input(OSSA, "light")]}
    assert frames(run(project, assets, inputs, 70), "Thrust")[0] == 60
    late = {0: [Input(OSSA, "light")], 80: [Input(OSSA, "light")]}
    records = run(project, assets, late, 90)
    assert not frames(records, "Thrust")
    assert ("Low sweep", "Wind-up", 0) in playing(records[80])


def test_a_pool_gives_every_choice_and_none_twice_running(quay: Project, assets: Assets) -> None:
    names = ("Thrust", "Low sweep", "Overhead hook")
    pool = Pool(name="any", items=tuple(PoolItem(name=n) for n in names), apart=1)
    hub = Action(
        name="Hub",
        sections=(section(seconds=2.0, exits=(Exit(start=1, end=9, kind="cancel", command="heavy", to="any",
                                                   to_kind="pool"),)),),
        start=StartRule(commands=("dodge",)),
    )  # fmt: skip
    actions = tuple(replace(a, start=StartRule()) if a.name in (*names, "Duck roll") else a for a in quay.actions)
    project = alone(replace(quay, pools=(pool,), actions=(*actions, hub)))
    inputs = {t: [Input(OSSA, "dodge" if t % 100 == 0 else "heavy")] for n in range(20) for t in (n * 100, n * 100 + 3)}
    picked = [a for r in run(project, assets, inputs, 2000) for a, s, f in playing(r) if a in names and f == 0
              and s == action(project, a).sections[0].name]  # fmt: skip
    assert set(picked) == set(names)
    assert all(a != b for a, b in zip(picked, picked[1:]))


# Flow


def looping(quay: Project, **fields: Any) -> Project:
    turn = section(name="Turn", seconds=0.1, then="Turn", **fields)
    out = section(name="Out", seconds=0.1)
    hold = Action(name="Held", sections=(turn, out), start=StartRule(commands=("heavy",)))
    others = tuple(replace(a, start=StartRule()) for a in quay.actions)
    return alone(replace(quay, actions=(*others, hold)))


def test_a_loop_wraps_after_its_last_tick_and_leaves_at_its_gate_when_let_go(quay: Project, assets: Assets) -> None:
    gate = Gate(start=5, end=6, to="Out", conditions=(Condition(test="released", name="heavy"),))
    project = looping(quay, gates=(gate,))
    let_go = {0: [Input(OSSA, "heavy")], 20: [Input(OSSA, "heavy", press=False)]}
    records = run(project, assets, let_go, 40)
    shown = [(s, f) for r in records for _, s, f in playing(r)]
    assert [f for s, f in shown if s == "Turn"] == [0, 1, 2, 3, 4, 5] * 4
    assert shown[24:] == [("Out", f) for f in range(6)]


def test_nothing_plays_on_into_the_next_section_unless_somebody_said_so(quay: Project, assets: Assets) -> None:
    two = Action(name="Two", sections=(section(name="A"), section(name="B")), start=StartRule(commands=("heavy",)))
    others = tuple(replace(a, start=StartRule()) for a in quay.actions)
    records = run(alone(replace(quay, actions=(*others, two))), assets, press(heavy=0), 40)
    assert {s for r in records for _, s, _ in playing(r)} == {"A"}


def test_a_cut_lasts_its_rounded_ticks_and_fills_them(quay: Project, assets: Assets) -> None:
    for rate in (30, 60, 120):
        project = replace(quay, settings=replace(quay.settings, rate=rate))
        for pace in (0.25, 1.0, 1.25, 3.0):
            cut = Cut(clip="staff_sweep", start=0.17, end=0.83, rate=pace)
            compiled = CompiledProject(with_section(project, "Low sweep", 0, cuts=(cut,)), assets).action("Low sweep")
            assert compiled is not None
            part = compiled.sections[0]
            assert part.ticks == max(1, round(0.66 / pace * rate))
            assert part.source[0] == pytest.approx(0.17)
            assert part.source[-1] == pytest.approx(0.83)
            assert np.ptp(np.diff(part.source)) < 1e-9


def test_what_an_ending_sets_runs_for_that_ending_only(quay: Project, assets: Assets) -> None:
    def mark(name: str) -> object:
        from veergust.core.model import Ending

        return Ending(parameters=(Setting(setting=name, value=1.0),), message=f"now {name}")

    project = with_action(quay, "Low sweep", on_start=mark("started"), on_completed=mark("completed"),
                          on_cancelled=mark("cancelled"), on_broken=mark("broken"))  # fmt: skip
    records = run(alone(project), assets, press(light=0), 60)
    said = [(r.tick, e.name) for r in records for e in r.events if e.kind == "message"]
    assert said == [(0, "now started"), (46, "now completed")]
    done = records[-1].fighter(OSSA)
    assert dict(done.parameters) == {"started": 1.0, "completed": 1.0}
    left = run(alone(project), assets, {0: [Input(OSSA, "light")], 16: [Input(OSSA, "light")]}, 30)[-1].fighter(OSSA)
    assert dict(left.parameters) == {"started": 1.0, "cancelled": 1.0}


# Releasing


@settings(max_examples=10)
@given(seed=st.integers(0, 2**31))
def test_everything_is_released_on_every_ending_in_the_same_tick(seed: int, quay: Project, assets: Assets) -> None:
    held = with_action(quay, "Low sweep", holds=(Setting(setting="jump", value=0.0),))
    rng = random.Random(seed)
    names = [c.name for c in quay.commands]
    simulation = Simulation(CompiledProject(held, assets), seed)
    begun: list[tuple[str, str]] = []
    for _ in range(150):
        inputs = [Input(f, rng.choice(names)) for f in (OSSA, TARN) if rng.random() < 0.25]
        if rng.random() < 0.1:
            inputs.append(Input(OSSA, axis="move", value=(rng.uniform(-1, 1), rng.uniform(-1, 1))))
        record = simulation.tick(inputs)
        for event in record.events:
            key = (event.fighter, event.name)
            if event.kind == "begin":
                assert key not in begun
                begun.append(key)
            elif event.kind == "end":
                begun.remove(key)
        for fighter in record.fighters:
            if not fighter.live():
                assert fighter.holding() == {}
                assert not [k for k in begun if k[0] == fighter.name]


# Moving


def test_the_stick_moves_nobody_while_root_motion_drives(quay: Project, assets: Assets) -> None:
    push = {0: [Input(OSSA, axis="move", value=(0.0, 1.0))], 30: [Input(OSSA, "thrust")]}
    records = run(alone(quay), assets, push, 60)
    started = records[30].fighter(OSSA)
    before, facing_then = records[29].fighter(OSSA).position, started.facing
    during = [r.fighter(OSSA) for r in records[31:55]]
    assert all(f.facing == facing_then for f in during)
    compiled = CompiledProject(quay, assets).action("Thrust")
    assert compiled is not None
    assert np.abs(before - started.position).max() < 0.1
    # What the stick gave before fades out with the blend, and from then on it gives nothing.
    blend = action(quay, "Thrust").blend_in
    gone = [f.position - started.position for f in during]
    after = gone[-1] - gone[blend - 1]
    assert np.hypot(after[0], after[2]) == pytest.approx(
        float(np.linalg.norm(compiled.travel_to(24)[0] - compiled.travel_to(blend)[0])), abs=1e-6
    )


def test_root_motion_moves_the_body_by_what_the_facts_say(quay: Project, assets: Assets) -> None:
    for command, name in (("dodge", "Duck roll"), ("heavy", "Overhead hook")):
        records = run(alone(quay), assets, press(**{command: 0}), 100)
        compiled = CompiledProject(quay, assets).action(name)
        assert compiled is not None
        way = records[-1].fighter(OSSA).position - np.array(quay.stage.fighters[0].position)
        assert way[0] == pytest.approx(compiled.travel_to(compiled.total)[0][2], abs=1e-5)


def test_the_body_falls_when_an_action_carries_it_over_the_ledge(quay: Project, assets: Assets) -> None:
    floors = (Floor(low=(-6, -3), high=(0.0, 3)), Floor(low=(-40, -40), high=(40, 40), height=-2.0))
    start = replace(quay.stage.fighters[0], position=(-0.8, 0.0, 0.0))
    project = replace(facing(quay, start), stage=replace(quay.stage, floors=floors, fighters=(start,), posts=()))
    records = run(project, assets, press(dodge=0), 120)
    gone = next(r.tick for r in records if not r.fighter(OSSA).grounded)
    assert playing(records[gone + 1]) == []
    assert records[gone + 1].fighter(OSSA).locomotion[-1].state == "drop"
    landed = records[-1].fighter(OSSA)
    assert landed.grounded
    assert landed.position[1] == pytest.approx(-2.0)
    assert landed.locomotion[-1].state == "idle"


def test_who_falls_out_of_the_stage_is_put_back(quay: Project, assets: Assets) -> None:
    project = alone(quay, floors=(Floor(low=(-2, -2), high=(0, 2)),))
    walk = {0: [Input(OSSA, axis="move", value=(1.0, 0.0))], 30: [Input(OSSA, axis="move", value=(0.0, 0.0))]}
    last = run(project, assets, walk, 160)[-1].fighter(OSSA)
    assert last.grounded
    assert last.position == pytest.approx(np.array(quay.stage.fighters[0].position))


def test_bodies_and_posts_keep_each_other_out(quay: Project, assets: Assets) -> None:
    radius = quay.rig.capsule.radius
    records = run(quay, assets, {0: [Input(OSSA, axis="move", value=(1.0, 0.0))]}, 150)
    gaps = [np.linalg.norm(r.fighter(OSSA).position - r.fighter(TARN).position) for r in records]
    assert min(gaps) >= 2 * radius - 1e-6
    post = quay.stage.posts[0]
    back = run(quay, assets, {0: [Input(OSSA, axis="move", value=(-1.0, 0.0))]}, 150)
    away = [np.linalg.norm((r.fighter(OSSA).position - np.array(post.position))[[0, 2]]) for r in back]
    assert min(away) == pytest.approx(radius + post.radius, abs=1e-6)


def test_drives_take_over_and_give_back(quay: Project, assets: Assets) -> None:
    ticks = CompiledProject(quay, assets).action("Thrust").total  # type: ignore[union-attr]
    still = with_section(quay, "Thrust", 1, drives=(Drive(start=0, end=11, kind="none"),))
    moved = [run(alone(p), assets, press(thrust=0), ticks)[-1].fighter(OSSA).position[0] for p in (quay, still)]
    assert moved[1] < moved[0] - 0.1
    stick = with_section(quay, "Thrust", 0, drives=(Drive(start=0, end=12, kind="stick", scale=1.0),))
    inputs = {0: [Input(OSSA, axis="move", value=(0.0, 1.0)), Input(OSSA, "thrust")]}
    assert run(alone(stick), assets, inputs, 12)[-1].fighter(OSSA).position[2] > 0.2
    assert abs(run(alone(quay), assets, inputs, 12)[-1].fighter(OSSA).position[2]) < 0.01


def test_locomotion_walks_and_runs_and_matches_its_feet_to_the_speed(quay: Project, assets: Assets) -> None:
    def state(value: float) -> tuple[str, float]:
        last = run(alone(quay), assets, {0: [Input(OSSA, axis="move", value=(0.0, value))]}, 40)[-1].fighter(OSSA)
        return last.locomotion[-1].state, float(np.hypot(last.velocity[0], last.velocity[2]))

    locomotion = quay.locomotion
    assert state(0.0) == ("idle", 0.0)
    assert state(locomotion.walk_speed / locomotion.run_speed) == ("walk", pytest.approx(locomotion.walk_speed))
    assert state(1.0) == ("run", pytest.approx(locomotion.run_speed))


# Strikes


def test_one_opening_touches_one_victim_once(quay: Project, assets: Assets) -> None:
    records = run(quay, assets, press(light=0), 60)
    contacts = [c for r in records for c in r.contacts]
    assert [(c.strike.name, c.victim, c.result) for c in contacts] == [("Sweep", TARN, "hit")]
    strike = quay.actions[0].sections[1].strikes[0]
    strike = replace(strike, repeat=1, hit_stop=0, boxes=(replace(strike.boxes[0], radius=1.0),))
    again = run(with_section(quay, "Low sweep", 1, strikes=(strike,)), assets, press(light=0), 60)
    assert len([c for r in again for c in r.contacts]) > 1


def test_one_swing_hits_everybody_it_reaches(quay: Project, assets: Assets) -> None:
    ossa, tarn = quay.stage.fighters
    three = facing(
        quay, replace(ossa, position=(-0.8, 0, 0)), replace(tarn, position=(0.7, 0, 0.5), plays="stands"),
        Fighter(name="Mell", position=(0.7, 0, -0.5), facing=-90.0),
    )  # fmt: skip
    wide = replace(quay.actions[0].sections[1].strikes[0], end=8)
    records = run(with_section(three, "Low sweep", 1, strikes=(wide,)), assets, press(light=0), 60)
    assert sorted(c.victim for r in records for c in r.contacts) == ["Mell", TARN]


def test_the_post_is_touched_takes_no_damage_and_counts_as_contact(quay: Project, assets: Assets) -> None:
    ossa = replace(quay.stage.fighters[0], position=(-1.2, 0, 0), facing=-90.0)
    project = replace(quay, stage=replace(quay.stage, fighters=(ossa,)))
    records = run(project, assets, {0: [Input(OSSA, "light")], 20: [Input(OSSA, "light")]}, 60)
    first = next(c for r in records for c in r.contacts)
    assert (first.victim, first.hurtbox, first.result, first.damage) == ("mooring post", "post", "hit", 0.0)
    assert np.hypot(*(first.position - np.array(quay.stage.posts[0].position))[[0, 2]]) < 0.3
    assert frames(records, "Thrust")


def test_two_fighters_can_trade(quay: Project, assets: Assets) -> None:
    ossa, tarn = quay.stage.fighters
    project = facing(quay, replace(ossa, position=(-0.9, 0, 0)), replace(tarn, position=(0.9, 0, 0), plays="stands"))
    records = run(project, assets, {0: [Input(OSSA, "thrust"), Input(TARN, "thrust")]}, 40)
    first = next(r for r in records if r.contacts)
    assert sorted((c.attacker, c.victim) for c in first.contacts) == [(OSSA, TARN), (TARN, OSSA)]
    assert {f.health for f in first.fighters} == {89.0}


def test_hit_stop_freezes_both_and_a_press_in_it_is_kept(quay: Project, assets: Assets) -> None:
    records = run(quay, assets, press(light=0), 60)
    at = next(r.tick for r in records if r.contacts)
    stop = quay.actions[0].sections[1].strikes[0].hit_stop
    for tick in range(at, at + stop + 1):
        assert playing(records[tick]) == playing(records[at])
        assert playing(records[tick], TARN) == playing(records[at], TARN)
    assert playing(records[at + stop + 1]) != playing(records[at])
    pressed = {0: [Input(OSSA, "light")], at + 1: [Input(OSSA, "light")]}
    assert frames(run(quay, assets, pressed, 60), "Thrust")


@pytest.mark.parametrize(
    ("angle", "wanted"), [(-90.0, "Reel front"), (90.0, "Reel back"), (180.0, "Reel right"), (0.0, "Reel left")]
)
def test_the_victim_reels_from_the_side_the_hit_came_from(
    angle: float, wanted: str, quay: Project, assets: Assets
) -> None:
    ossa, tarn = quay.stage.fighters
    victim = replace(tarn, facing=angle, plays="stands", position=(0.6, 0, 0))
    # The attacker stands towards −x of the victim.
    records = run(facing(quay, ossa, victim), assets, press(light=0), 40)
    wanted = (
        {"Reel right": "Reel left", "Reel left": "Reel right"}.get(wanted, wanted) if angle in (0.0, 180.0) else wanted
    )
    assert {a for r in records for a, _, _ in playing(r, TARN)} == {wanted}


def test_a_fighter_without_health_falls_and_is_not_touched_again(quay: Project, assets: Assets) -> None:
    ossa, tarn = quay.stage.fighters
    project = facing(quay, ossa, replace(tarn, health=10.0, plays="stands"))
    inputs = {t: [Input(OSSA, "light")] for t in range(0, 300, 4)}
    records = run(project, assets, inputs, 300)
    assert len([c for r in records for c in r.contacts]) == 1
    last = records[-1].fighter(TARN)
    assert last.down
    assert playing(records[-1], TARN) == [("Fall", "Fall", 69)]


def test_shields_evade_guard_and_armour(quay: Project, assets: Assets) -> None:
    ossa, tarn = quay.stage.fighters
    results = {}
    cases: tuple[tuple[Any, float], ...] = (("invulnerable", 0.0), ("guard", 0.0), ("armour", 99.0), ("armour", 1.0))
    for kind, strength in cases:
        brace = Action(name="Brace", sections=(section(seconds=2.0, shields=(
            Shield(start=0, end=120, kind=kind, strength=strength),)),), start=StartRule(commands=("heavy",)))  # fmt: skip
        others = tuple(replace(a, start=StartRule()) if a.name == "Overhead hook" else a for a in quay.actions)
        project = facing(replace(quay, actions=(*others, brace)), ossa, replace(tarn, plays="stands"))
        records = run(project, assets, {0: [Input(TARN, "heavy"), Input(OSSA, "light")]}, 60)
        contact = next(c for r in records for c in r.contacts)
        results[kind, strength] = (contact.result, records[-1].fighter(TARN).health)
    assert results == {
        ("invulnerable", 0.0): ("evaded", 100.0),
        ("guard", 0.0): ("guarded", 100.0),
        ("armour", 99.0): ("armoured", 87.0),
        ("armour", 1.0): ("hit", 87.0),
    }


def test_a_strike_is_open_on_its_own_ticks_only(quay: Project, assets: Assets) -> None:
    """The blade passes the post before it opens: nothing; open a tick over it: a touch."""
    strike = quay.actions[0].sections[1].strikes[0]
    tip = strike.boxes[0]
    big = replace(strike, boxes=(replace(tip, radius=3.0),), hit_stop=0)
    for start, end in ((0, 1), (3, 4), (11, 12)):
        project = with_section(quay, "Low sweep", 1, strikes=(replace(big, start=start, end=end),))
        ticks = [r.tick for r in run(project, assets, press(light=0), 40) if r.contacts]
        assert ticks == [8 + start]


def test_hitboxes_ride_with_a_mirrored_cut_and_grow_by_their_keys(quay: Project, assets: Assets) -> None:
    from veergust.core.play.contact.volumes import shape_at

    box = replace(
        quay.actions[0].sections[1].strikes[0].boxes[0],
        keys=(HitboxKey(tick=0, offset=(0, 0, 0), to=(0, 1, 0), radius=0.1), HitboxKey(tick=10, offset=(0, 0, 0), to=(0, 2, 0), radius=0.3)),
    )  # fmt: skip
    assert shape_at(box, 5).b == pytest.approx([0, 1.5, 0])
    assert shape_at(box, 5).radius == pytest.approx(0.2)
    build = CompiledProject(quay, assets)
    joint, frame = build.mount("palm L", mirrored=True)  # type: ignore[misc]
    assert assets.skeleton.names[joint] == "hand_right"
    assert frame[:3, 3] == pytest.approx([0, -0.075, 0])


# Blending


def test_a_fade_that_is_interrupted_starts_from_the_pose_on_screen(quay: Project, assets: Assets) -> None:
    slow = replace(action(quay, "Thrust"), blend_in=20, blend_out=20)
    project = alone(replace(quay, actions=tuple(slow if a.name == "Thrust" else a for a in quay.actions)))
    exits = (Exit(start=4, end=12, kind="cancel", command="dodge", to="Duck roll", blend=12),)
    project = with_section(project, "Thrust", 0, exits=exits)
    records = run(project, assets, {2: [Input(OSSA, "thrust")], 8: [Input(OSSA, "dodge")]}, 40)
    poses = [r.fighter(OSSA).pose for r in records]
    jumps = [quat.angle_between(a.rotation, b.rotation).max() for a, b in zip(poses, poses[1:])]  # type: ignore[union-attr]
    usual = max(*jumps[:6], *jumps[10:30])
    assert max(jumps[6:10]) < usual + 8.0


def test_an_upper_body_layer_leaves_the_legs_running_and_moves_nobody(quay: Project, assets: Assets) -> None:
    toss = Action(
        name="Toss",
        layer="Arms",
        sections=(section("overhead", 0.8),),
        start=StartRule(commands=("heavy",)),
        blend_in=0,
    )
    others = tuple(replace(a, start=StartRule()) for a in quay.actions)
    arms = Layer(name="Arms", mask="upper body")
    project = alone(replace(quay, actions=(*others, toss), layers=(*quay.layers, arms),
                            masks=(*quay.masks, Mask(name="upper"))))  # fmt: skip
    walk = {0: [Input(OSSA, axis="move", value=(1.0, 0.0))]}
    with_toss = {**walk, 20: [Input(OSSA, "heavy")]}
    plain, tossed = (
        run(project, assets, walk, 40)[-1].fighter(OSSA),
        run(project, assets, with_toss, 40)[-1].fighter(OSSA),
    )
    assert tossed.position == pytest.approx(plain.position)
    leg, arm = assets.skeleton.index["thigh_left"], assets.skeleton.index["upper_arm_right"]
    assert plain.pose is not None
    assert tossed.pose is not None
    assert quat.angle_between(plain.pose.rotation[0, leg], tossed.pose.rotation[0, leg]) < 1e-6
    assert quat.angle_between(plain.pose.rotation[0, arm], tossed.pose.rotation[0, arm]) > 10


def test_a_layer_out_of_scope_refuses_or_fades(quay: Project, assets: Assets) -> None:
    body = replace(quay.layers[0], scope=(Speaks(state="idle"),), elsewhere="fades")
    project = alone(replace(quay, layers=(body, *quay.layers[1:])))
    stick = {0: [Input(OSSA, axis="move", value=(1.0, 0.0))], 20: [Input(OSSA, "light")]}
    assert not frames(run(project, assets, stick, 60), "Low sweep")


# Events


def counted(records: list[Record]) -> list[str]:
    return [e.name for r in records for e in r.events if e.kind not in ("begin", "end") and e.fighter == OSSA]


@pytest.mark.parametrize("rate", [30, 60, 120])
@pytest.mark.parametrize("pace", [0.25, 1.0, 3.0])
def test_an_event_fires_once_a_pass_at_any_rate_and_through_hit_stop(
    rate: int, pace: float, quay: Project, assets: Assets
) -> None:
    project = replace(quay, settings=replace(quay.settings, rate=rate))
    project = with_action(project, "Low sweep", speed=pace)
    ticks = [s.ticks for s in CompiledProject(project, assets).action("Low sweep").sections]  # type: ignore[union-attr]
    strike = replace(quay.actions[0].sections[1].strikes[0], start=0, end=ticks[1])
    fits = tuple(Event(tick=t, name=f"e{t}") for t in range(ticks[1]))
    project = with_section(project, "Low sweep", 1, events=fits, strikes=(strike,), exits=())
    project = with_section(project, "Low sweep", 0, events=(Event(tick=0, name="first"),), exits=())
    project = with_section(project, "Low sweep", 2, events=(), exits=())
    records = run(project, assets, press(light=0), sum(ticks) + 60)
    assert any(r.contacts for r in records)
    assert counted(records) == ["first", *(f"e{t}" for t in range(ticks[1]))]


def test_an_event_in_a_loop_fires_once_a_lap_and_not_when_interrupted_before_it(quay: Project, assets: Assets) -> None:
    project = looping(quay, events=(Event(tick=3, name="beat"),))
    assert counted(run(project, assets, press(heavy=0), 24)) == ["beat"] * 4
    assert counted(run(project, assets, press(heavy=0), 3)) == []


def test_events_fire_at_their_mount(quay: Project, assets: Assets) -> None:
    records = run(alone(quay), assets, press(light=0), 30)
    at = next(e for r in records for e in r.events if e.name == "trail on")
    body = records[9].fighter(OSSA)
    assert 0.8 < np.linalg.norm(at.position - body.position) < 2.5


# Holding still


def test_the_same_inputs_and_seed_give_the_same_take(quay: Project, assets: Assets) -> None:
    inputs = {t: [Input(OSSA, ("light", "dodge", "heavy")[t % 3])] for t in range(0, 200, 17)}
    one, two = (write_take(run(quay, assets, inputs, 220)) for _ in range(2))
    assert one == two
    lines = [msgspec.json.decode(line) for line in one.splitlines()]
    assert [line["tick"] for line in lines] == list(range(220))


def test_play_taken_back_goes_on_as_it_did(quay: Project, assets: Assets) -> None:
    inputs = {t: [Input(OSSA, "light")] for t in (3, 20, 60)}
    simulation = Simulation(CompiledProject(quay, assets), 1)
    first = [simulation.tick(inputs.get(t, [])) for t in range(100)]
    simulation.resume(first[14], first[13])
    again = [simulation.tick(inputs.get(t, [])) for t in range(15, 100)]
    assert write_take(first[15:]) == write_take(again)


def test_an_edited_action_goes_on_from_the_same_frame(quay: Project, assets: Assets) -> None:
    simulation = Simulation(CompiledProject(quay, assets), 1)
    for t in range(12):
        simulation.tick(press(light=0).get(t, []))
    strike = replace(quay.actions[0].sections[1].strikes[0], start=9, end=11)
    simulation.use(CompiledProject(with_section(quay, "Low sweep", 1, strikes=(strike,)), assets))
    record = simulation.tick()
    assert playing(record) == [("Low sweep", "Swing", 4)]
    assert record.fighter(OSSA).live()[0].part.section.strikes[0].start == 9


def test_holds_are_named_in_the_record_while_they_last(quay: Project, assets: Assets) -> None:
    wound = replace(quay.actions[0].sections[0], holds=(Hold(start=2, end=5, setting="jump", value=0.0),))
    sections = (wound, *quay.actions[0].sections[1:])
    project = alone(with_action(quay, "Low sweep", sections=sections))
    records = run(project, assets, press(light=0), 8)
    assert [r.line()["fighters"][0]["holds"] for r in records] == [[], [], ["jump"], ["jump"], ["jump"], [], [], []]


def test_adding_keeps_the_rest(quay: Project, assets: Assets) -> None:
    build = CompiledProject(quay, assets)
    sweep = build.action("Low sweep")
    more = build.renew(adding(quay, Action(name="New", sections=(section(),))))
    assert more.action("Low sweep") is sweep
