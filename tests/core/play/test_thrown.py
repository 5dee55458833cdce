"""Things that are thrown: how they fly, what they touch, where they end; and posts that fall."""

from __future__ import annotations

from math import cos, degrees, hypot, radians, sin
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tools.made.edits import replace, section

from tests.conftest import OSSA, TARN
from tests.core.play.test_hits import about, swing
from tests.core.play.test_rules import made, plays, run
from tests.core.play.test_touching import one_layer, results
from veergust.core.model import (
    Action,
    Event,
    Fighter,
    Floor,
    Hurtbox,
    Post,
    Project,
    Reaction,
    Shield,
    Strike,
    Thrown,
)
from veergust.core.motion.figure import Assets
from veergust.core.play.body.floors import rows_of
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.flight import step
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.play.take.record import Record, write_take
from veergust.core.play.world import MOST_FLYING, Flying

GOES = 2
"""The tick on which the toss lets go."""
DT = 1.0 / 60.0
STRIKE = Strike(start=0, end=1, damage=7.0, knockback=(0.0, 0.0, 2.0), hit_stop=0)


def toss(**event: Any) -> Action:
    fields: dict[str, Any] = {"tick": GOES, "kind": "spawn", "name": "ball", "offset": (0.0, 1.0, 0.0), **event}
    return made("Toss", section("idle", 0.5, events=(Event(**fields),)))


def ball(**fields: Any) -> Thrown:
    all_of_it: dict[str, Any] = {"up": 0.0, "gravity": 0.0, "strike": STRIKE, **fields}
    return Thrown(name="ball", **all_of_it)


def field(
    quay: Project, thing: Thrown, *actions: Action, far: float = 4.0, degrees_: float = 0.0, **more: Any
) -> Project:
    """A thrower ``far`` from one who can be touched on a ball of 0.4 m at the height of one metre."""
    project = about(quay, degrees_, *(actions or (toss(),)), far=far, **more)
    box = Hurtbox(name="all", joint=project.rig.hips or "hips", radius=0.4)
    return one_layer(replace(project, thrown=(thing,), rig=replace(project.rig, hurtboxes=(box,))))


def thrown(project: Project, assets: Assets, ticks: int, *, then: dict[int, list[Input]] | None = None) -> list[Record]:
    return run(project, assets, {0: [Input(OSSA, action="Toss")], **(then or {})}, ticks)


def way(records: list[Record]) -> list[tuple[float, float, float]]:
    return [r.world.things[0].position for r in records if r.world.things]


@pytest.mark.parametrize(("speed", "up", "gravity"), [(9.0, 2.0, 9.81), (30.0, 0.0, 0.0), (4.0, -1.0, 3.0)])
def test_it_flies_as_a_ball_that_is_drawn_down(
    quay: Project, assets: Assets, speed: float, up: float, gravity: float
) -> None:
    """By the sum of its steps, from where it was let go, and until it meets the floor."""
    project = field(quay, ball(speed=speed, up=up, gravity=gravity, life=50), far=90.0)
    records = thrown(project, assets, 60)
    me = records[GOES].fighter(OSSA)
    start = me.position + np.array([0.0, 1.0, 0.0])
    ahead = np.array([sin(radians(me.facing)), 0.0, cos(radians(me.facing))])
    wanted = []
    for n in range(50):
        y = up * n * DT - gravity * DT * DT * n * (n + 1) / 2.0
        if start[1] + y < 0.1:
            break
        wanted.append(start + ahead * speed * n * DT + np.array([0.0, y, 0.0]))
    assert np.allclose(way(records), wanted, atol=1e-9)
    told = [(r.tick, e.kind) for r in records for e in r.events if e.name == "thrown ball 1"]
    assert told == [(GOES, "begin"), (GOES + len(wanted), "end")]


def test_it_has_no_speed_of_who_throws_it_or_of_what_that_stands_on(quay: Project, assets: Assets) -> None:
    """From a platform under way it flies as from a floor that stands still, from where the thrower is by then."""
    project = field(quay, ball(speed=9.0, up=2.0, gravity=9.81, life=30), far=40.0)
    lift = Floor(low=(-60.0, -60.0), high=(60.0, 60.0), goes=(3.0, 0.0, -2.0), takes=40, rests=0)
    moving = replace(project, stage=replace(project.stage, floors=(lift,)))
    still, carried = (thrown(p, assets, 40) for p in (project, moving))
    went = carried[GOES].fighter(OSSA).position - still[GOES].fighter(OSSA).position
    assert float(np.linalg.norm(went)) > 0.02
    assert carried[GOES].fighter(OSSA).position[0] - carried[GOES - 1].fighter(OSSA).position[0] > 0.01
    assert np.allclose(way(carried), np.array(way(still)) + went, atol=1e-9)


@pytest.mark.parametrize("speed", [3.0, 20.0, 120.0, 900.0])
def test_it_touches_what_is_in_its_way_on_the_tick_on_which_it_comes_there(
    quay: Project, assets: Assets, speed: float
) -> None:
    """However fast; told by a thousand places of each tick."""
    project = field(quay, ball(speed=speed), far=4.0)
    records = thrown(project, assets, 90)
    [(tick, contact)] = [(r.tick, c) for r in records for c in r.contacts]
    assert (contact.attacker, contact.victim, contact.damage, contact.thing) == (OSSA, TARN, 7.0, 1)
    you = records[tick].fighter(TARN)
    hips = CompiledProject(project, assets).assets.skeleton.index[project.rig.hurtboxes[0].joint]
    middle = (you.joints_now[hips] @ np.array([0, 0, 0, 1.0]))[:3] + records[tick - 1].fighter(TARN).position
    start = records[GOES].fighter(OSSA).position + np.array([0.0, 1.0, 0.0])
    away = np.array([0.0, 0.0, -1.0])
    for n in range(1, 90):
        between = start + away * speed * DT * (n - 1 + np.linspace(0.0, 1.0, 1001))[:, None]
        if np.linalg.norm(between - middle, axis=1).min() <= 0.5 + 2e-3:
            assert tick == GOES + n
            break
    assert not records[tick].world.things, "it ends with whom it touches"
    assert records[tick].fighter(OSSA).frozen == 0
    assert hypot(you.knock[0], you.knock[2]) == pytest.approx(2.0)
    assert you.knock[2] < 0.0, "it pushes the way it flew"


def test_it_freezes_whom_it_touches_and_not_who_threw_it(quay: Project, assets: Assets) -> None:
    records = thrown(field(quay, ball(strike=replace(STRIKE, hit_stop=9))), assets, 60)
    at = next(r.tick for r in records if r.contacts)
    assert (records[at].fighter(OSSA).frozen, records[at].fighter(TARN).frozen) == (0, 9)


@pytest.mark.parametrize("pierce", [0, 1, 5])
def test_it_goes_on_through_as_many_as_it_pierces(quay: Project, assets: Assets, pierce: int) -> None:
    project = field(quay, ball(pierce=pierce, speed=12.0), far=3.0)
    row = tuple(Fighter(name=f"{n}", position=(0.0, 0.0, -2.0 * n), facing=0.0) for n in range(1, 4))
    project = replace(project, stage=replace(project.stage, fighters=(*project.stage.fighters, *row)))
    touched = [c.victim for r in thrown(project, assets, 120) for c in r.contacts]
    assert touched == [TARN, "1", "2", "3"][: pierce + 1]


@pytest.mark.parametrize(
    ("shield", "result"),
    [
        (Shield(start=0, end=600, kind="guard"), "guarded"),
        (Shield(start=0, end=600, kind="guard", deflects=600), "deflected"),
        (Shield(start=0, end=600, kind="invulnerable"), "evaded"),
        (Shield(start=0, end=600, kind="armour", strength=99.0), "armoured"),
    ],
)
def test_shields_are_asked_by_where_it_comes_from(quay: Project, assets: Assets, shield: Shield, result: str) -> None:
    """Guarded it ends, evaded it goes on and is told once, deflected it goes back and strikes who threw it."""
    stands = made("Stands", section("idle", 10.0, shields=(shield,)))
    project = field(quay, ball(speed=8.0), toss(), stands, far=3.0)
    records = thrown(project, assets, 120, then={1: [Input(TARN, action="Stands")]})
    first, *others = [c for r in records for c in r.contacts]
    assert (first.result, first.victim) == (result, TARN)
    if result == "deflected":
        [back] = others
        assert (back.attacker, back.victim, back.result) == (TARN, OSSA, "hit")
        assert records[-1].fighter(OSSA).health == 93.0
    else:
        assert not others
    at = next(r.tick for r in records if r.contacts)
    assert bool(records[at].world.things) == (result in ("evaded", "deflected"))


@pytest.mark.parametrize("from_behind", [False, True])
def test_who_is_touched_answers_by_where_it_came_from(quay: Project, assets: Assets, from_behind: bool) -> None:
    """Let go beyond the victim and flown back, it comes from behind, though its thrower stands in front."""
    rows = tuple(Reaction(action=side.title(), side=side) for side in ("front", "back"))
    event = {"offset": (0.0, 1.0, 8.0), "facing": "world"} if from_behind else {}
    project = field(quay, ball(speed=9.0), toss(**event), made("Front"), made("Back"), rows=rows)
    records = thrown(project, assets, 90)
    at = next(r.tick for r in records if r.contacts)
    assert plays(records[at], TARN)[0][0] == ("Back" if from_behind else "Front")


@pytest.mark.parametrize("off", [0.0, 40.0, -55.0, 65.0])
def test_aimed_at_its_target_it_comes_down_on_it_within_its_limit(quay: Project, assets: Assets, off: float) -> None:
    project = field(quay, ball(speed=7.0, gravity=9.81, aims="target", limit=60.0), far=5.0)
    turned = tuple(replace(f, facing=f.facing + off) if f.name == OSSA else f for f in project.stage.fighters)
    project = replace(project, stage=replace(project.stage, fighters=turned))
    records = thrown(project, assets, 120)
    assert bool(results(records)) == (abs(off) <= 60.0)
    if results(records):
        # It would come to its middle as it comes over it.
        at = next(r.tick for r in records if r.contacts)
        flown = records[at - 1].world.things[0]
        me = records[GOES].fighter(OSSA).position
        gap = -me + np.array([0.0, 0.6 * project.rig.capsule.height, 0.0])
        time = hypot(gap[0], gap[2]) / 7.0
        assert hypot(flown.velocity[0], flown.velocity[2]) == pytest.approx(7.0)
        up = (gap[1] - 1.0) / time + 9.81 * time / 2.0
        assert flown.velocity[1] == pytest.approx(up - 9.81 * DT * (at - 1 - GOES))


@pytest.mark.parametrize("turns", [0.0, 45.0, 180.0])
def test_it_turns_to_its_target_no_faster_than_it_may(quay: Project, assets: Assets, turns: float) -> None:
    project = field(quay, ball(speed=6.0, turns=turns, life=200), toss(facing="world"), far=6.0, degrees_=90.0)
    records = thrown(project, assets, 200)
    went = [np.array(r.world.things[0].velocity) for r in records if r.world.things]
    for one, two in zip(went, went[1:]):
        assert np.linalg.norm(two) == pytest.approx(6.0)
        angle = degrees(np.arccos(np.clip(one @ two / 36.0, -1.0, 1.0)))
        assert angle <= turns * DT + 1e-6
    assert bool(results(records)) == (turns >= 180.0)


@pytest.mark.parametrize("outlives", [True, False])
def test_what_becomes_of_it_when_its_action_is_broken(quay: Project, assets: Assets, outlives: bool) -> None:
    project = field(quay, ball(speed=4.0, outlives=outlives), toss(), made("Other"), far=4.0)
    records = thrown(project, assets, 90, then={10: [Input(OSSA, action="Other")]})
    assert bool(results(records)) == outlives
    assert bool(records[10].world.things) == outlives


def test_only_so_many_fly_and_none_for_ever(quay: Project, assets: Assets) -> None:
    """An action that goes round and lets go on every frame."""
    fired = tuple(Event(tick=t, kind="spawn", name="ball", offset=(0.0, 3.0, 0.0)) for t in range(3) for _ in range(3))
    endless = made("Toss", section("idle", 0.05, events=fired, then="One"))
    project = field(quay, ball(speed=1.0, life=60), endless, far=900.0)
    records = thrown(project, assets, 130)
    many = [len(r.world.things) for r in records]
    assert max(many) == MOST_FLYING
    assert max(f.age for r in records for f in r.world.things) == 59


def test_a_payload_says_its_speed_otherwise(quay: Project, assets: Assets) -> None:
    records = thrown(field(quay, ball(speed=9.0), toss(payload="speed=3, up=1.5"), far=90.0), assets, 6)
    assert records[GOES + 1].world.things[0].velocity == pytest.approx((0.0, 1.5, -3.0))


def test_friends_are_let_through(quay: Project, assets: Assets) -> None:
    project = field(quay, ball(speed=9.0))
    fighters = tuple(replace(f, team="Ferry") for f in project.stage.fighters)
    assert results(thrown(project, assets, 60)) == ["hit"]
    assert results(thrown(replace(project, stage=replace(project.stage, fighters=fighters)), assets, 60)) == []


@given(
    st.floats(-60.0, 60.0), st.floats(-60.0, 60.0), st.floats(-30.0, 30.0), st.floats(0.0, 1.0), st.floats(0.03, 0.3)
)
@settings(max_examples=60)
def test_no_thing_is_ever_in_a_wall_or_under_a_floor(
    vx: float, vz: float, vy: float, bounce: float, radius: float
) -> None:
    """In a yard with four walls of 3 m: while it flies it is over a floor, and inside as long as it is low."""
    floors = rows_of((
        Floor(name="yard", low=(-3.0, -3.0), high=(3.0, 3.0)),
        Floor(name="w", low=(-9.0, -9.0), high=(-3.0, 9.0), height=3.0),
        Floor(name="e", low=(3.0, -9.0), high=(9.0, 9.0), height=3.0),
        Floor(name="n", low=(-9.0, 3.0), high=(9.0, 9.0), height=3.0),
        Floor(name="s", low=(-9.0, -9.0), high=(9.0, -3.0), height=3.0),
    ))  # fmt: skip
    thing = Thrown(name="ball", bounce=bounce, radius=radius)
    one = Flying(1, thing, OSSA, 0, (0.0, 1.0, 0.0), (0.0, 1.0, 0.0), (vx, vy, vz))
    for _ in range(120):
        went = step(floors, one, None, DT)
        if went is None:
            break
        one = went
        x, y, z = one.position
        inside = abs(x) <= 3.0 and abs(z) <= 3.0
        beyond = abs(x) > 9.0 or abs(z) > 9.0
        assert beyond or y >= (0.0 if inside else 3.0) - 1e-9, (x, y, z)


def test_two_runs_and_going_back_give_the_same_bytes(quay: Project, assets: Assets) -> None:
    stands = made("Stands", section("idle", 0.4, shields=(Shield(start=0, end=24, kind="guard", deflects=24),)))
    project = field(
        quay, ball(speed=7.0, bounce=0.6, gravity=9.81, up=2.0, pierce=1, turns=40.0), toss(), stands, far=3.0
    )
    script = {
        t: [Input(OSSA, action="Toss"), Input(TARN, action="Stands" if t % 100 else "Toss")] for t in range(0, 250, 50)
    }
    one = run(project, assets, script, 250)
    assert len({c.thing for r in one for c in r.contacts}) > 2
    assert write_take(one) == write_take(run(project, assets, script, 250))
    simulation = Simulation(CompiledProject(project, assets))
    played = [simulation.tick(script.get(t, [])) for t in range(200)]
    simulation.resume(played[119], played[118])
    assert write_take([simulation.tick(script.get(t, [])) for t in range(120, 250)]) == write_take(one[120:])


# Posts


@pytest.mark.parametrize("health", [0.0, 8.0, 20.0])
def test_a_post_falls_with_its_last_hit_and_is_in_nobodys_way(quay: Project, assets: Assets, health: float) -> None:
    """Three swings of 8: without health it takes none, and stands for ever."""
    project = one_layer(about(quay, 0.0, swing(knockback=(0.0, 0.0, 0.0)), far=1.2))
    me = next(f for f in project.stage.fighters if f.name == OSSA)
    post = Post(name="barrel", position=(0.0, 0.0, 0.3), radius=0.3, health=health, falls="splinters")
    project = replace(project, stage=replace(project.stage, fighters=(me,), posts=(post,)))
    script = {t: [Input(OSSA, action="Blow")] for t in (0, 40, 80)} | {
        120: [Input(OSSA, axis="move", value=(0.0, -1.0))]
    }
    records = run(project, assets, script, 240)
    needed = {0.0: 3, 8.0: 1, 20.0: 3}[health]
    touches = [(r.tick, c.damage) for r in records for c in r.contacts]
    assert len(touches) == needed
    assert {d for _, d in touches} == {8.0 if health else 0.0}
    fell = [r.tick for r in records for e in r.events if e.name == "splinters"]
    assert fell == ([touches[-1][0]] if health else [])
    assert (records[-1].fighter(OSSA).position[2] < -0.5) == bool(health), "it is walked through once it is gone"
