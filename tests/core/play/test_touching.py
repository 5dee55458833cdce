"""What a touch does to either side: stun, poise, guards that deflect and break, pushes, groups, teams, what runs, and
which row of the table answers. Each is held against a plain rule that is written here."""

from __future__ import annotations

from itertools import product
from math import cos, hypot, radians, sin
from typing import Any

import numpy as np
import pytest
from tools.made.edits import replace, section

from tests.conftest import OSSA, TARN
from tests.core.play.test_hits import about, swing
from tests.core.play.test_rules import BALL, first, made, plays, run
from veergust.core.model import (
    Action,
    Condition,
    Exit,
    Fighter,
    Floor,
    Gate,
    Outcome,
    Pool,
    PoolItem,
    Project,
    Reaction,
    Scaling,
    Section,
    Shield,
    StartRule,
    State,
    Strike,
    Transition,
)
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.play.take.record import Record, write_take

REEL = Reaction(action="Reel")
LIGHT = StartRule(commands=("light",))
OPENS = 3
"""The tick on which the swing of ``swing`` touches, asked for on tick 0."""


def asked(**more: Any) -> dict[int, list[Input]]:
    """The swing on tick 0, and whatever else by its tick."""
    out: dict[int, list[Input]] = {0: [Input(OSSA, action="Blow")]}
    for name, action in more.items():
        out[0].append(Input(name, action=action))
    return out


def one_layer(project: Project) -> Project:
    return replace(project, layers=project.layers[:1])


def struck_by(project: Project, assets: Assets, ticks: int = 8, more: dict[str, str] | None = None) -> list[Record]:
    return run(one_layer(project), assets, asked(**(more or {})), ticks)


def with_fighters(project: Project, **changes: Any) -> Project:
    """With other fields of the one who is struck."""
    fighters = tuple(replace(f, **changes) if f.name == TARN else f for f in project.stage.fighters)
    return replace(project, stage=replace(project.stage, fighters=fighters))


def results(records: list[Record]) -> list[str]:
    return [c.result for r in records for c in r.contacts]


# Stun


@pytest.mark.parametrize("reels", ["and lets nothing in", "with an exit", "not at all"])
@pytest.mark.parametrize("stop", [0, 4])
@pytest.mark.parametrize("stun", [None, 0, 1, 5, 12, 20, 31])
def test_a_stun_is_over_on_its_tick_whatever_the_reaction_lasts(
    quay: Project, assets: Assets, stun: int | None, stop: int, reels: str
) -> None:
    """A reaction of 12 ticks, or none: a press on every tick starts on the one the arithmetic says."""
    out = (Exit(start=0, end=12, command="light", to="Answer"),) if reels == "with an exit" else ()
    reel = made("Reel", section("idle", 0.2, exits=out), blend_out=0)
    rows = () if reels == "not at all" else (REEL,)
    project = about(quay, 0.0, swing(stun=stun, hit_stop=stop), reel, made("Answer", start=LIGHT), rows=rows)
    # What it has begun before it is struck ends there.
    script = asked() | {t: [Input(TARN, "light")] for t in range(OPENS + 1, 60)}
    records = run(one_layer(project), assets, script, 60)
    lasts = {"and lets nothing in": 12, "with an exit": 1, "not at all": 1}[reels]
    wanted = OPENS + stop + (lasts if stun is None else max(stun, 1))
    assert first(records, "Answer", TARN) == wanted
    shown = [f for r in records[OPENS:wanted] for a, _, f in plays(r, TARN) if a == "Reel"]
    held = [0] * stop + [min(f, 11) for f in range(wanted - OPENS - stop)]
    assert shown == (held if rows else []), "it holds its last frame"
    left = [r.fighter(TARN).stun for r in records[OPENS + stop : wanted]]
    assert left == ([0] * len(left) if stun is None else list(range(max(stun, 1), 0, -1)))


def test_who_is_stunned_neither_walks_turns_nor_jumps(quay: Project, assets: Assets) -> None:
    """Without a reaction, under which locomotion plays on."""
    project = about(quay, 0.0, swing(stun=20, knockback=(0.0, 0.0, 0.0)))
    locomotion = replace(project.locomotion, jump=replace(project.locomotion.jump, command="jump"))
    project = replace(project, locomotion=locomotion)
    script = asked()
    script[OPENS + 1] = [Input(TARN, axis="move", value=(1.0, 0.0)), Input(TARN, "jump")]
    script[OPENS + 15] = [Input(TARN, "jump")]
    records = run(one_layer(project), assets, script, 90)
    before = records[OPENS].fighter(TARN)
    for record in records[OPENS : OPENS + 20]:
        there = record.fighter(TARN)
        assert np.allclose(there.position, before.position, atol=1e-9)
        assert there.facing == before.facing
        assert there.grounded
    after = records[-1].fighter(TARN)
    assert hypot(*(after.position - before.position)[[0, 2]]) > 0.1
    assert after.facing != before.facing


@pytest.mark.parametrize("stun", [None, 20])
def test_who_is_stunned_enters_no_state_that_runs_an_action(quay: Project, assets: Assets, stun: int | None) -> None:
    """Its command held all the while: it is entered on the first tick on which it may."""
    project = about(quay, 0.0, swing(stun=stun, knockback=(0.0, 0.0, 0.0)), made("Slide"))
    held = Condition(test="held", name="slide")
    ground = replace(project.locomotion, states=(State(name="idle", clip="idle"), State(name="slide", action="Slide")),
                     transitions=(Transition(start="idle", to="slide", conditions=(held,)),), groups=(), entry="idle")  # fmt: skip
    script = asked()
    script[OPENS + 1] = [Input(TARN, "slide")]
    records = run(one_layer(replace(project, locomotion=ground)), assets, script, 40)
    assert results(records) == ["hit"]
    assert first(records, "Slide", TARN) == OPENS + (1 if stun is None else stun)


def test_the_breaks_of_a_reaction_are_taken_through_a_stun(quay: Project, assets: Assets) -> None:
    quick = Exit(start=4, end=30, kind="break", to="Away", conditions=(Condition(test="chance", op="<", value=2.0),))
    reel = made("Reel", section("idle", 0.5, exits=(quick,)))
    project = about(quay, 0.0, swing(stun=20), reel, made("Away"), rows=(REEL,))
    assert first(struck_by(project, assets, 20), "Away", TARN) == OPENS + 4


def test_a_guard_stuns_those_behind_it_for_its_own_ticks(quay: Project, assets: Assets) -> None:
    guard = made("Guard", section("idle", 1.0, shields=(Shield(start=0, end=60, kind="guard"),),
                                  exits=(Exit(start=0, end=60, command="light", to="Answer"),)))  # fmt: skip
    project = about(quay, 0.0, swing(guard_stun=9, stun=30), guard, made("Answer"))
    script = asked(**{TARN: "Guard"})
    script |= {t: [Input(TARN, "light")] for t in range(OPENS + 1, 30)}
    records = run(one_layer(project), assets, script, 30)
    assert results(records) == ["guarded"]
    assert first(records, "Answer", TARN) == OPENS + 9


# Guards


@pytest.mark.parametrize(("arc", "toward"), [(90.0, 0.0), (180.0, 0.0), (60.0, 90.0), (30.0, -170.0), (360.0, 0.0)])
def test_a_guard_stops_what_comes_from_its_arc(quay: Project, assets: Assets, arc: float, toward: float) -> None:
    shield = Shield(start=0, end=60, kind="guard", arc=arc, toward=toward, lets=0.25)
    for degrees in (0.0, 29.0, 46.0, 61.0, 89.0, 91.0, 119.0, 121.0, 176.0, -29.0, -46.0, -91.0, -154.0, -156.0):
        stands = made("Stands", section("idle", 1.0, shields=(shield,)))
        records = struck_by(about(quay, degrees, swing(), stands), assets, more={TARN: "Stands"})
        # The angle between where the attacker stands and the middle of the arc, by their unit vectors.
        way, middle = radians(degrees), radians(toward)
        inside = cos(way) * cos(middle) + sin(way) * sin(middle) >= cos(radians(min(arc, 359.9) / 2.0))
        assert results(records) == ["guarded" if inside else "hit"], degrees
        assert records[-1].fighter(TARN).health == 100.0 - (2.0 if inside else 8.0), degrees


@pytest.mark.parametrize("opens", [0, 1, 2, 3])
@pytest.mark.parametrize("whole", [False, True])
def test_a_guard_deflects_on_its_first_ticks_and_both_answer(
    quay: Project, assets: Assets, opens: int, whole: bool
) -> None:
    """One that opens on the tick of the touch, or up to three before it; of a section, or of the whole action."""
    shield = Shield(start=OPENS - opens, end=60, kind="guard", deflects=3)
    stands = made(
        "Stands", section("idle", 1.0, shields=() if whole else (shield,)), shields=(shield,) if whole else ()
    )
    rows = (Reaction(action="Thrown", situation="deflected"), Reaction(action="Parry", situation="deflecting"),
            Reaction(action="Held", situation="guarding"))  # fmt: skip
    others = made("Thrown"), made("Parry"), made("Held")
    project = about(quay, 0.0, swing(hit_stop=5), stands, *others, rows=rows)
    project = one_layer(project)
    # The whole action's guard is as old as that is.
    begins = OPENS - opens if whole else 0
    records = run(project, assets, {0: [Input(OSSA, action="Blow")], begins: [Input(OSSA, action="Blow")] * (begins == 0)
                                    + [Input(TARN, action="Stands")]}, 6)  # fmt: skip
    deflects = opens < 3
    assert results(records) == ["deflected" if deflects else "guarded"]
    me, you = records[OPENS].fighter(OSSA), records[OPENS].fighter(TARN)
    assert [a for a, _, _ in plays(records[OPENS], OSSA)] == ["Thrown" if deflects else "Blow"]
    assert [a for a, _, _ in plays(records[OPENS], TARN)] == ["Parry" if deflects else "Held"]
    assert (me.frozen, you.frozen, you.health) == (5, 5, 100.0)
    assert hypot(you.knock[0], you.knock[2]) == pytest.approx(0.0 if deflects else 1.0)


def test_without_rows_a_deflected_strike_goes_on_and_leads_where_it_may(quay: Project, assets: Assets) -> None:
    shield = Shield(start=0, end=60, kind="guard", deflects=9)
    out = Exit(start=0, end=30, kind="break", to="Over", contact="deflected")
    blow = swing()
    blow = replace(blow, sections=(replace(blow.sections[0], exits=(out,)),))
    stands = made("Stands", section("idle", 1.0, shields=(shield,)))
    records = struck_by(about(quay, 0.0, blow, stands, made("Over")), assets, more={TARN: "Stands"})
    assert plays(records[OPENS], OSSA) == [("Blow", "One", OPENS)]
    assert plays(records[OPENS], TARN) == [("Stands", "One", OPENS)]
    assert plays(records[OPENS + 1], OSSA)[0][0] == "Over"


def test_a_guard_in_a_loop_deflects_on_its_first_lap_only(quay: Project, assets: Assets) -> None:
    loops = section("idle", 0.05, shields=(Shield(start=0, end=3, kind="guard", deflects=3),), then="One",
                    gates=(Gate(start=0, end=3, to="end", conditions=(Condition(test="chance", op=">", value=2.0),)),))  # fmt: skip
    project = about(quay, 0.0, swing(), made("Stands", loops))
    assert results(struck_by(project, assets, more={TARN: "Stands"})) == ["guarded"]


def again(strikes: int, every: int = 6, **strike: Any) -> Action:
    """A swing that touches so many times."""
    fields: dict[str, Any] = {"hit_stop": 0, "knockback": (0.0, 0.0, 0.0), "damage": 8.0, "repeat": every, **strike}
    return made(
        "Blow", section("idle", 1.5, strikes=(Strike(start=3, end=3 + every * strikes, boxes=(BALL,), **fields),))
    )


@pytest.mark.parametrize(("strength", "poise"), [(0.0, 10.0), (25.0, 10.0), (30.0, 10.0), (10.0, 10.0), (31.0, 10.0)])
def test_a_guard_breaks_when_what_it_stopped_comes_to_its_strength(
    quay: Project, assets: Assets, strength: float, poise: float
) -> None:
    """Five touches in a row: on the one that brings it to its strength it breaks, and no other."""
    guard = made("Guard", section("idle", 1.5, shields=(Shield(start=0, end=90, kind="guard", strength=strength),)))
    rows = (Reaction(action="Broken", situation="guard broken"), REEL)
    broken = made("Broken", section("idle", 1.5))
    project = about(quay, 0.0, again(5, poise=poise), guard, broken, made("Reel"), rows=rows)
    records = struck_by(project, assets, 45, more={TARN: "Guard"})
    taken, wanted = 0.0, []
    for _ in range(5):
        taken += poise
        wanted.append("guarded")
        if strength and taken >= strength:
            break
    breaks = bool(strength) and taken >= strength
    got = results(records)
    assert got[: len(wanted)] == wanted
    assert set(got[len(wanted) :]) <= {"hit"}, "once broken nothing guards"
    tick = first(records, "Broken", TARN)
    assert tick == (3 + 6 * (len(wanted) - 1) if breaks else None)


def test_a_guard_that_breaks_without_a_row_is_over(quay: Project, assets: Assets) -> None:
    guard = made("Guard", section("idle", 1.5, shields=(Shield(start=0, end=90, kind="guard", strength=15.0),)))
    records = struck_by(about(quay, 0.0, again(3, poise=10.0), guard), assets, 30, more={TARN: "Guard"})
    assert results(records) == ["guarded", "guarded", "hit"]
    assert [bool(plays(records[t], TARN)) for t in (8, 9)] == [True, False]


def test_a_guard_raised_again_after_it_broke_is_whole(quay: Project, assets: Assets) -> None:
    guard = made("Guard", section("idle", 3.0, shields=(Shield(start=0, end=180, kind="guard", strength=15.0),)))
    project = with_fighters(about(quay, 0.0, again(8, poise=10.0), guard), rests=600)
    script = asked(**{TARN: "Guard"}) | {t: [Input(TARN, action="Guard")] for t in (10, 25, 36)}
    records = run(one_layer(project), assets, script, 60)
    broke = [c.breaks for r in records for c in r.contacts if c.result == "guarded"]
    assert broke == [False, True] * 4


def test_what_a_guard_has_taken_goes_back_once_it_is_left_alone(quay: Project, assets: Assets) -> None:
    guard = made("Guard", section("idle", 3.0, shields=(Shield(start=0, end=180, kind="guard", strength=50.0),)))
    project = with_fighters(about(quay, 0.0, again(1, poise=20.0), guard), recovers=60.0, rests=10)
    records = struck_by(project, assets, 60, more={TARN: "Guard"})
    worn = [r.fighter(TARN).worn for r in records]
    for tick, value in enumerate(worn):
        since = tick - OPENS
        wanted = 0.0 if since < 0 else 20.0 - max(since - 10, 0) * 60.0 / 60.0
        assert value == pytest.approx(max(wanted, 0.0)), tick


# Poise


@pytest.mark.parametrize(
    ("poise", "takes"), [(0.0, 10.0), (25.0, 10.0), (20.0, 10.0), (9.0, 10.0), (100.0, 10.0), (25.0, 0.0)]
)
def test_poise_takes_touches_without_reeling_until_it_is_gone(
    quay: Project, assets: Assets, poise: float, takes: float
) -> None:
    project = about(quay, 0.0, again(5, poise=takes), made("Reel", section("idle", 0.05)), rows=(REEL,))
    records = struck_by(with_fighters(project, poise=poise, rests=600), assets, 45)
    left, wanted = poise, []
    for _ in range(5):
        left -= takes
        # Nothing that takes no poise is held out against by it.
        reels = left <= 0.0 or not takes
        wanted.append("hit" if reels else "armoured")
        left = poise if reels else left
    assert results(records) == wanted
    assert records[-1].fighter(TARN).health == 100.0 - 5 * 8.0
    told = [t for t, r in enumerate(records) if any(a == "Reel" and f == 0 for a, _, f in plays(r, TARN))]
    assert told == [3 + 6 * n for n, result in enumerate(wanted) if result == "hit"]


def test_two_at_once_break_a_poise_that_neither_would(quay: Project, assets: Assets) -> None:
    """Whoever stands first in the list: all of a tick count together."""
    project = about(quay, 0.0, swing(poise=6.0), made("Reel"), rows=(REEL,))
    third = Fighter(name="Third", position=(1.0, 0.0, 0.0), facing=-90.0, plays="keys")
    for order in ((0, 1, 2), (2, 1, 0), (1, 0, 2)):
        fighters = (*with_fighters(project, poise=10.0).stage.fighters, third)
        crowd = replace(project, stage=replace(project.stage, fighters=tuple(fighters[i] for i in order)))
        script = {0: [Input(OSSA, action="Blow"), Input("Third", action="Blow")]}
        records = run(one_layer(crowd), assets, script, 6)
        on_tarn = [c.result for r in records for c in r.contacts if c.victim == TARN]
        assert on_tarn == ["hit", "hit"]


# Pushes


@pytest.mark.parametrize("push", ["ahead", "away"])
@pytest.mark.parametrize("looks", [0.0, 40.0, -110.0])
def test_a_push_goes_the_way_it_says(quay: Project, assets: Assets, push: str, looks: float) -> None:
    """As the attacker looks, or away from where it stands; a negative one pulls."""
    for degrees, ahead in product((0.0, 130.0), (2.0, -2.0)):
        project = about(quay, degrees, swing(push=push, knockback=(0.5, 0.0, ahead)), far=1.3)
        fighters = tuple(replace(f, facing=looks) if f.name == OSSA else f for f in project.stage.fighters)
        project = replace(project, stage=replace(project.stage, fighters=fighters))
        records = struck_by(project, assets, OPENS + 1)
        me, you = records[OPENS].fighter(OSSA), records[OPENS].fighter(TARN)
        gap = (you.position - me.position)[[0, 2]]
        forward = np.array([sin(radians(looks)), cos(radians(looks))]) if push == "ahead" else gap / np.linalg.norm(gap)
        left = np.array([forward[1], -forward[0]])
        assert np.allclose([you.knock[0], you.knock[2]], forward * ahead + left * 0.5)


@pytest.mark.parametrize("degrees", [0.0, 75.0, -160.0])
def test_a_push_along_the_swing_goes_as_the_hitbox_goes(quay: Project, assets: Assets, degrees: float) -> None:
    """A sweep: by where the weapon's middle is on this tick and was on the last one."""
    sweep = next(a for a in quay.actions if a.name == "Low sweep")
    strike = next(s for p in sweep.sections for s in p.strikes)
    fast = section("staff_sweep", 0.9, strikes=(
        Strike(start=18, end=34, boxes=strike.boxes, push="swing", knockback=(0.0, 0.0, 3.0), hit_stop=0),))  # fmt: skip
    project = one_layer(about(quay, degrees, made("Blow", fast), far=1.2))
    simulation = Simulation(CompiledProject(project, assets))
    simulation.build.prepare()
    joint = simulation.build.mount(strike.boxes[0].mount)
    assert joint is not None
    was = None
    from veergust.core.play.pose.posing import body_matrix

    for tick in range(40):
        record = simulation.tick([Input(OSSA, action="Blow")] if tick == 0 else [])
        me = record.fighter(OSSA)
        frame = body_matrix(me.position, me.facing) @ me.joints_now[joint[0]] @ joint[1]
        middle = frame[:3, :3] @ ((np.array(strike.boxes[0].offset) + np.array(strike.boxes[0].to)) / 2) + frame[:3, 3]
        if record.contacts:
            assert was is not None
            knock = np.array(record.fighter(TARN).knock)[[0, 2]]
            way = (middle - was)[[0, 2]]
            # Within the tick it turns: the piece that touches goes its own way, a few degrees off the whole.
            assert knock @ way / np.linalg.norm(knock) / np.linalg.norm(way) > cos(radians(15.0))
            assert np.linalg.norm(knock) == pytest.approx(3.0)
            return
        was = middle
    raise AssertionError("it never touched")


@pytest.mark.parametrize("ease", ["even", "eased", "hold"])
@pytest.mark.parametrize("ticks", [1, 6, 15])
def test_a_push_over_its_own_ticks_goes_as_far_as_its_curve(
    quay: Project, assets: Assets, ease: str, ticks: int
) -> None:
    project = about(quay, 0.0, swing(push_ticks=ticks, push_ease=ease, knockback=(0.0, 0.0, 3.0)), far=1.3)
    records = struck_by(project, assets, 30)
    z = [float(r.fighter(TARN).position[2]) for r in records]
    way = 0.0
    for n, tick in enumerate(range(OPENS + 1, 30)):
        part = n / ticks
        left = {"even": 1 - part, "eased": 1 - part * part * (3 - 2 * part), "hold": 1.0}[ease] if n < ticks else 0.0
        way += 3.0 * left / 60.0
        assert z[OPENS] - z[tick] == pytest.approx(way, abs=1e-9), tick


def test_a_victim_may_stand_still_for_a_time_of_its_own(quay: Project, assets: Assets) -> None:
    records = struck_by(about(quay, 0.0, swing(hit_stop=7, victim_stop=2)), assets)
    assert (records[OPENS].fighter(OSSA).frozen, records[OPENS].fighter(TARN).frozen) == (7, 2)


# Once, together, and whom


@pytest.mark.parametrize("most", [0, 1, 3])
def test_a_repeat_has_its_cap(quay: Project, assets: Assets, most: int) -> None:
    records = struck_by(about(quay, 0.0, again(5, most=most)), assets, 45)
    assert len(results(records)) == (most or 5)


@pytest.mark.parametrize("apart", [True, False])
@pytest.mark.parametrize("over", [True, False])
def test_strikes_of_a_group_touch_each_once_together(quay: Project, assets: Assets, over: bool, apart: bool) -> None:
    """Two that are open at once, or one after the other, or over a section's border; and two more of no group."""

    def strike(start: int, group: str, name: str) -> Strike:
        return Strike(start=start, end=start + 3, boxes=(BALL,), group=group, name=name, hit_stop=0, damage=1.0)

    one = strike(3, "cut", "one"), strike(3, "", "free")
    two = strike(8 if apart else 3, "cut", "two"), strike(8, "", "free too")
    if over:
        parts: tuple[Section, ...] = (
            section("idle", 0.3, strikes=one, then="Two"),
            section("idle", 0.4, strikes=two, name="Two"),
        )
    else:
        parts = (section("idle", 0.5, strikes=(*one, *two)),)
    project = about(quay, 0.0, made("Blow", *parts))
    third = Fighter(name="Third", position=(1.0, 0.0, 0.0), facing=-90.0)
    project = replace(project, stage=replace(project.stage, fighters=(*project.stage.fighters, third)))
    records = struck_by(project, assets, 40)
    for victim in (TARN, "Third"):
        told = [c.strike.name for r in records for c in r.contacts if c.victim == victim]
        assert sorted(told) == ["free", "free too", "one"], victim


@pytest.mark.parametrize("team", ["others", "own", "everybody"])
def test_whom_a_strike_is_for(quay: Project, assets: Assets, team: str) -> None:
    for mine, theirs in product(("", "Ferry", "Quay"), repeat=2):
        project = about(quay, 0.0, swing(team=team))
        fighters = tuple(replace(f, team=mine if f.name == OSSA else theirs) for f in project.stage.fighters)
        records = struck_by(replace(project, stage=replace(project.stage, fighters=fighters)), assets)
        alike = mine == theirs and mine != ""
        touches = {"others": not alike, "own": alike, "everybody": True}[team]
        assert bool(results(records)) == touches, (mine, theirs)


# What runs


@pytest.mark.parametrize(
    "case", ["hit", "hit late", "guarded", "deflected", "armoured", "missed", "broken before", "evaded"]
)
def test_what_a_strike_runs_goes_off_once_on_its_side(quay: Project, assets: Assets, case: str) -> None:
    whens = ("opens", "hit", "guarded", "deflected", "missed")
    runs = tuple(
        Outcome(when=when, whose=whose, kind=kind, name=f"{when} {kind}", payload="7")  # type: ignore[arg-type]
        for when in whens
        for whose in ("attacker", "victim")
        for kind in ("effect", "parameter")
    )
    shields: dict[str, tuple[Shield, ...]] = {
        "guarded": (Shield(start=0, end=60, kind="guard"),),
        "deflected": (Shield(start=0, end=60, kind="guard", deflects=9),),
        "armoured": (Shield(start=0, end=60, kind="armour", strength=99.0),),
        "evaded": (Shield(start=0, end=60, kind="invulnerable"),),
        "hit late": (Shield(start=0, end=OPENS + 2, kind="invulnerable"),),
    }
    away = 90.0 if case in ("missed", "broken before") else 1.0
    project = about(quay, 0.0, swing(runs=runs), made("Stands", section("idle", 1.0, shields=shields.get(case, ()))),
                    made("Away"), far=away)  # fmt: skip
    script = asked(**{TARN: "Stands"})
    if case == "broken before":
        script[4] = [Input(OSSA, action="Away")]
    records = run(one_layer(project), assets, script, 12)
    fired = [(r.tick, e.fighter, e.name) for r in records for e in r.events if e.kind in ("effect", "parameter")]
    came = {"armoured": "hit", "hit late": "hit", "broken before": "missed", "evaded": "missed"}.get(case, case)
    last = 4 if case == "broken before" else 6
    # Where there is no victim, what would be the victim's is the attacker's.
    sides = [OSSA, OSSA] if came == "missed" else [OSSA, TARN]
    wanted = [(OPENS, OSSA, f"opens {kind}") for kind in ("effect", "parameter")] * 2
    touches = last if came == "missed" else OPENS + 2 * (case == "hit late")
    wanted += [(touches, side, f"{came} {kind}") for side in sides for kind in ("effect", "parameter")]
    assert sorted(fired) == sorted(wanted)
    for side in (OSSA, TARN):
        own = dict(records[-1].fighter(side).parameters)
        assert own.get(f"{came} parameter", 0.0) == (7.0 if side in sides else 0.0)


@pytest.mark.parametrize(("payload", "number"), [("3", 3.0), ("", 1.0), ("much", 1.0), ("nan", 1.0), ("-inf", 1.0)])
def test_a_parameter_is_set_to_a_number_and_to_nothing_else(
    quay: Project, assets: Assets, payload: str, number: float
) -> None:
    runs = (Outcome(whose="victim", kind="parameter", name="hurt", payload=payload),)
    records = struck_by(about(quay, 0.0, swing(runs=runs)), assets)
    assert dict(records[-1].fighter(TARN).parameters)["hurt"] == number


# Rows


def test_a_row_may_ask_for_a_region_a_distance_and_conditions(quay: Project, assets: Assets) -> None:
    angry = Condition(test="parameter", name="anger", op=">", value=1.0)
    rows = (
        Reaction(action="Head", region="head"),
        Reaction(action="Near", far=0.8),
        Reaction(action="Far", near=1.4, far=3.0),
        Reaction(action="Angry", conditions=(angry,)),
        REEL,
    )
    names = ("Head", "Near", "Far", "Angry", "Reel")
    for region, far, anger in product(("head", "leg", ""), (0.6, 1.0, 1.5), (0.0, 2.0)):
        project = about(quay, 0.0, swing(knockback=(0.0, 0.0, 0.0)), *(made(n) for n in names), rows=rows, far=far)
        only = replace(project.rig.hurtboxes[0], region=region)
        capsule = replace(project.rig.capsule, radius=0.2)
        project = one_layer(replace(project, rig=replace(project.rig, hurtboxes=(only,), capsule=capsule)))
        script = asked()
        script[1] = [Input(TARN, parameter="anger", number=anger)]
        records = run(project, assets, script, 6)
        wanted = (
            "Head"
            if region == "head"
            else "Near"
            if far < 0.8
            else "Far"
            if far >= 1.4
            else "Angry"
            if anger
            else "Reel"
        )
        assert plays(records[OPENS], TARN)[0][0] == wanted, (region, far, anger)


def test_a_row_may_name_a_pool_which_gives_none_twice_running(quay: Project, assets: Assets) -> None:
    pool = Pool(name="Reels", items=(PoolItem(name="A"), PoolItem(name="B"), PoolItem(name="Gone")))
    reels = tuple(made(n, section("idle", 0.05)) for n in ("A", "B"))
    project = replace(about(quay, 0.0, again(6), *reels, rows=(Reaction(action="Reels"),)), pools=(pool,))
    records = struck_by(project, assets, 45)
    told = [a for r in records for a, _, f in plays(r, TARN) if f == 0 and r.contacts]
    assert len(told) == 6
    assert all(one != two for one, two in zip(told, told[1:]))


@pytest.mark.parametrize("by", ["state", "section", "both"])
@pytest.mark.parametrize("posture", ["standing", "ducking", "down"])
def test_how_one_stands_chooses_hurtboxes_and_rows(quay: Project, assets: Assets, posture: str, by: str) -> None:
    """Said by the locomotion state or by the section that plays, which goes before it."""
    rows = tuple(Reaction(action=s.title(), situation=s) for s in ("standing", "ducking", "down"))
    stands = made("Stands", section("idle", 1.0, posture=posture if by != "state" else ""))
    project = about(quay, 0.0, swing(), stands, *(made(r.action) for r in rows), rows=rows)
    box = project.rig.hurtboxes[0]
    boxes = tuple(replace(box, name=s, postures=(s,)) for s in ("standing", "ducking", "down"))
    everywhere = replace(box, name="everywhere")
    state = {"state": posture, "both": "down" if posture != "down" else "ducking", "section": "standing"}[by]
    states: tuple[State, ...] = tuple(replace(s, posture=state) for s in project.locomotion.states)
    project = one_layer(replace(project, locomotion=replace(project.locomotion, states=states),
                                rig=replace(project.rig, hurtboxes=(*boxes, everywhere))))  # fmt: skip
    simulation = Simulation(CompiledProject(project, assets))
    for tick in range(5):
        record = simulation.tick(asked(**{TARN: "Stands"}).get(tick, []))
        if tick == OPENS:
            assert [c.hurtbox for c in record.contacts] == [posture]
            assert plays(record, TARN)[0][0] == posture.title()
    no_boxes = replace(project, rig=replace(project.rig, hurtboxes=tuple(b for b in boxes if b.name != posture)))
    assert results(struck_by(no_boxes, assets, more={TARN: "Stands"})) == []


@pytest.mark.parametrize(
    ("damage", "stun", "least"), [(1.0, 1.0, 0.1), (0.5, 0.8, 0.1), (0.5, 1.0, 0.3), (0.0, 0.0, 0.0)]
)
def test_the_touches_of_a_string_come_to_less_and_a_free_one_begins_anew(
    quay: Project, assets: Assets, damage: float, stun: float, least: float
) -> None:
    """Four touches six ticks apart, each a stun of 10; then it is free, and is struck once more."""
    scaling = Scaling(damage=damage, stun=stun, least=least)
    project = about(quay, 0.0, again(4, stun=10), made("Reel"), rows=(REEL,))
    project = one_layer(replace(project, settings=replace(project.settings, scaling=scaling)))
    script = asked()
    script[80] = [Input(OSSA, action="Blow")]
    records = run(project, assets, script, 84)
    taken = [(r.tick, c.damage, r.fighter(TARN).stun) for r in records for c in r.contacts]
    count, free, wanted = 0, 0, []
    for tick in (3, 9, 15, 21, 83):
        count = 0 if tick >= free else count
        much = [max(f**count, least) if f < 1.0 else 1.0 for f in (damage, stun)]
        ticks = max(round(10 * much[1]), 1)
        wanted.append((tick, pytest.approx(8.0 * much[0]), ticks))
        count, free = count + 1, tick + ticks
    assert taken == wanted


# What exits and conditions may ask


def test_conditions_ask_what_was_touched_and_how_the_other_stands(quay: Project, assets: Assets) -> None:
    """By exits that break on the tick after what they ask for has come to be."""
    asks: dict[str, tuple[Condition, int]] = {
        "three times": (Condition(test="touches", op=">=", value=3.0), 3 + 2 * 6),
        "the leg": (Condition(test="touched_region", name="leg"), 3),
        "the head": (Condition(test="touched_region", name="head"), -1),
        "heavy": (Condition(test="touched_strength", name="heavy"), 3),
        "light": (Condition(test="touched_strength", name="light"), -1),
        "reeling": (Condition(test="target_stands", name="reeling"), 3),
        "ducking": (Condition(test="target_stands", name="ducking"), 10),
        "in the air": (Condition(test="target_stands", name="in the air"), -1),
    }
    reel = made("Reel", section("idle", 7 / 60, then="Two"), section("idle", 0.5, name="Two", posture="ducking"))
    for case, (condition, tick) in asks.items():
        out = Exit(start=0, end=90, kind="break", to="Over", conditions=(condition,))
        blow = again(4, strength="heavy")
        blow = replace(blow, sections=(replace(blow.sections[0], exits=(out,)),))
        if case == "ducking":
            strike = replace(blow.sections[0].strikes[0], repeat=0)
            blow = replace(blow, sections=(replace(blow.sections[0], strikes=(strike,)),))
        project = about(quay, 0.0, blow, reel, made("Over"), rows=(REEL,))
        only = replace(project.rig.hurtboxes[0], region="leg")
        records = struck_by(replace(project, rig=replace(project.rig, hurtboxes=(only,))), assets, 45)
        assert first(records, "Over") == (tick + 1 if tick >= 0 else None), case


# Beside each other


def test_all_of_it_in_hit_stop_on_both_sides_is_the_same_take_twice(quay: Project, assets: Assets) -> None:
    """Trades with stun, poise, guards, pushes and what runs, over and over: two runs write the same bytes, and going
    back and on again too."""
    runs = (
        Outcome(when="hit", whose="victim", kind="parameter", name="hurt"),
        Outcome(when="missed", kind="effect", name="woosh"),
    )
    blow = again(3, stun=7, hit_stop=3, victim_stop=5, push="away", push_ticks=5, runs=runs, poise=6.0, most=2,
                 knockback=(0.2, 1.0, 1.5))  # fmt: skip
    guard = made(
        "Guard", section("idle", 0.6, shields=(Shield(start=2, end=30, kind="guard", deflects=2, strength=13.0),))
    )
    rows = (Reaction(action="Thrown", situation="deflected"), Reaction(action="Broken", situation="guard broken"), REEL)
    project = about(quay, 20.0, blow, guard, made("Reel"), made("Thrown"), made("Broken"), rows=rows)
    fighters = tuple(replace(f, poise=9.0, recovers=30.0, rests=4, health=1e4) for f in project.stage.fighters)
    project = one_layer(replace(project, stage=replace(project.stage, fighters=fighters)))
    random = np.random.default_rng(5)
    script = {int(t): [Input(str(random.choice([OSSA, TARN])), action=str(random.choice(["Blow", "Guard"])))]
              for t in random.integers(0, 400, 60)}  # fmt: skip
    one = run(project, assets, script, 400)
    got = set(results(one))
    assert got >= {"hit", "guarded", "deflected", "armoured"}
    assert write_take(one) == write_take(run(project, assets, script, 400))
    simulation = Simulation(CompiledProject(project, assets))
    played = [simulation.tick(script.get(t, [])) for t in range(300)]
    simulation.resume(played[149], played[148])
    rest = [simulation.tick(script.get(t, [])) for t in range(150, 400)]
    assert write_take(rest) == write_take(one[150:])
    for record in one:
        for f in record.fighters:
            assert f.stun >= 0
            assert not (f.reels and f.stun == 0), "nothing reels that is not stunned"


@pytest.mark.parametrize("side", ["victim", "attacker"])
@pytest.mark.parametrize("when", ["starts", "ends", "goes round", "is in hit stop"])
def test_a_touch_counts_once_whatever_happens_on_its_tick(quay: Project, assets: Assets, when: str, side: str) -> None:
    """What the one who is touched plays, or who touches, begins, ends or goes round on just that tick; or time stands
    still for the one who is touched, by the touch of a third."""
    short = section("idle", 0.05)
    other = {
        "starts": made("Other", section("idle", 0.5)),
        "ends": made("Other", short),
        "goes round": made("Other", replace(short, then="One")),
        "is in hit stop": made("Other", section("idle", 0.5)),
    }[when]
    begins = OPENS if when == "starts" else 0
    blow = swing(victim_stop=9)
    if side == "attacker":  # the swing itself: over a border, in a loop, on its first frame
        strike = replace(blow.sections[0].strikes[0], start=0, end=1)
        open_, shut = replace(short, strikes=(strike,)), section("idle", 0.05)
        blow = {
            "starts": made("Blow", open_),
            "ends": made("Blow", shut, replace(open_, name="Two")),
            "goes round": made("Blow", replace(open_, then="One")),
            "is in hit stop": made("Blow", open_),
        }[when]
        if when == "ends":
            blow = replace(blow, sections=(replace(blow.sections[0], then="Two"), blow.sections[1]))
    third = Fighter(name="Third", position=(1.2, 0.0, 0.0), facing=-90.0, plays="keys", team="Ferry")
    project = about(quay, 0.0, blow, other, made("Reel"), rows=(REEL,), far=1.3)
    mine = tuple(replace(f, team="Ferry") if f.name == OSSA else f for f in project.stage.fighters)
    project = one_layer(replace(project, stage=replace(project.stage, fighters=(*mine, third))))
    script = asked(**({TARN: "Other"} if not begins else {}))
    if begins:
        script[begins] = [Input(TARN, action="Other")]
    if when == "is in hit stop":
        script[4] = [Input("Third", action="Blow")]
    records = run(project, assets, script, 12)
    touches = [(r.tick, c.attacker) for r in records for c in r.contacts if c.victim == TARN]
    first_touch = {"ends": OPENS}.get(when, 0) if side == "attacker" else OPENS
    laps = [(t, OSSA) for t in range(0, 12, 3)] if (when, side) == ("goes round", "attacker") else [(first_touch, OSSA)]
    if when == "is in hit stop":
        laps.append((4 if side == "attacker" else 4 + OPENS, "Third"))
    assert touches == laps
    for tick, _ in touches:
        assert plays(records[tick], TARN) == [("Reel", "One", 0)], tick
    assert records[-1].fighter(TARN).health == 100.0 - 8.0 * len(touches)


@pytest.mark.parametrize("end", ["killed", "killed through its guard", "put back"])
def test_stun_ends_with_whoever_is_put_back_or_killed(quay: Project, assets: Assets, end: str) -> None:
    """Nothing of what touches had done is left of one that begins anew, and none stands stunned that lies."""
    guard = made("Guard", section("idle", 2.0, shields=(Shield(start=0, end=120, kind="guard", lets=1.0),)))
    hurt = 200.0 if end != "put back" else 1.0
    blow = swing(stun=500, guard_stun=500, damage=hurt, knockback=(0.0, 0.0, 9.0), push_ticks=90, push_ease="hold")
    project = about(quay, 0.0, blow, made("Reel"), guard, rows=(REEL,))
    edge = (Floor(low=(-2.0, -2.0), high=(2.0, 2.0)),)
    project = with_fighters(replace(project, stage=replace(project.stage, floors=edge, put_back_below=-2.0)), poise=0.5)
    more = {TARN: "Guard"} if "guard" in end else {}
    records = struck_by(project, assets, 150, more=more)
    last = records[-1].fighter(TARN)
    if end == "put back":
        back = next(r.tick for r in records[20:] if r.fighter(TARN).position[2] == 0.0)
        assert records[back - 1].fighter(TARN).stun > 0
        assert (last.stun, last.reels, last.strung, last.shove, last.poise) == (0, 0, 0, None, 0.5)
    else:
        assert {r.fighter(TARN).stun for r in records} == {0}
        assert last.down or last.position[2] == 0.0


def test_who_dies_behind_its_guard_lies_and_is_stunned_no_more(quay: Project, assets: Assets) -> None:
    """The first touch stuns it for long, the second kills it; no row answers either."""
    guard = made("Guard", section("idle", 2.0, shields=(Shield(start=0, end=120, kind="guard", lets=1.0),)))
    project = about(quay, 0.0, again(2, guard_stun=500, damage=60.0), guard)
    records = struck_by(project, assets, 30, more={TARN: "Guard"})
    first_, second = (r.tick for r in records if r.contacts)
    assert results(records) == ["guarded", "guarded"]
    assert all(r.fighter(TARN).stun > 400 for r in records[first_:second])
    assert [(r.fighter(TARN).stun, r.fighter(TARN).down) for r in records[second:]] == [(0, True)] * (30 - second)
