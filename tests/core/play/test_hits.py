"""What a touch comes to, as tables: shields, rows of reactions, sides, laps, hit stop; and bodies and speeds beside them.

Each is held against a plain rule that is written here.
"""

from __future__ import annotations

from itertools import product
from math import cos, radians, sin
from typing import Any

import numpy as np
import pytest
from msgspec import convert
from tools.made.edits import replace, section

from tests.conftest import OSSA, TARN
from tests.core.play.test_made_plain import quiet, struck
from tests.core.play.test_rules import BALL, FLOOR, made, opposite, plays, run
from veergust.core.edit.cuts import retime_cut
from veergust.core.edit.spans import SpanRef, set_edges
from veergust.core.model import (
    Action,
    Condition,
    Cut,
    Drive,
    Exit,
    Fighter,
    Hitbox,
    Post,
    Project,
    Reaction,
    Region,
    Section,
    Setting,
    Shield,
    StartRule,
    State,
    Strike,
    Transition,
)
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact.contact import Contact
from veergust.core.play.pose.posing import body_matrix
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.study.facts import facts

SIDES = ("front", "back", "left", "right")


def about(
    quay: Project, degrees: float, *actions: Action, rows: tuple[Reaction, ...] = (), far: float = 1.0
) -> Project:
    """One who is struck at the origin and looks along +Z, and one who strikes from so many degrees to its left."""
    turn = radians(degrees)
    me = Fighter(name=OSSA, position=(far * sin(turn), 0.0, far * cos(turn)), facing=degrees + 180.0, plays="keys")
    you = Fighter(name=TARN, position=(0.0, 0.0, 0.0), facing=0.0)
    project = opposite(quiet(quay), *actions, reactions=rows)
    return replace(project, stage=replace(project.stage, fighters=(me, you)))


def swing(**fields: Any) -> Action:
    all_of_it: dict[str, Any] = {"boxes": (BALL,), "hit_stop": 0, "knockback": (0, 0, 2.0), "damage": 8.0, **fields}
    return made("Blow", section("idle", 0.5, strikes=(Strike(start=3, end=6, **all_of_it),)))


SHIELDS: dict[str, Shield | None] = {
    "none": None,
    "guard": Shield(start=0, end=60, kind="guard"),
    "high guard": Shield(start=0, end=60, kind="guard", height="high"),
    "low guard": Shield(start=0, end=60, kind="guard", height="low"),
    "armour of 10": Shield(start=0, end=60, kind="armour", strength=10.0),
    "gone": Shield(start=0, end=60, kind="invulnerable"),
    "guard of the head": Shield(start=0, end=60, kind="guard", hurtboxes=("no such",)),
}


def comes_of(shield: str, guard: str, poise: float, degrees: float) -> str:
    """The plain rule."""
    ahead = abs(degrees) <= 45.0
    if shield == "gone":
        return "evaded"
    if shield == "armour of 10" and poise <= 10.0:
        return "armoured"
    stops = {"guard": ("any", "high", "low"), "high guard": ("any", "high"), "low guard": ("any", "low")}
    return "guarded" if ahead and guard in stops.get(shield, ()) else "hit"


@pytest.mark.parametrize("shield", SHIELDS)
def test_what_a_touch_comes_to(quay: Project, assets: Assets, shield: str) -> None:
    """Every shield against every guard and poise, from before, beside and behind: what comes of it, and what that does."""
    spans = (SHIELDS[shield],) if SHIELDS[shield] is not None else ()
    stands = made("Stands", section("idle", 1.0, shields=spans))
    for guard, poise, degrees in product(("any", "high", "low", "none"), (9.0, 10.0, 11.0), (0.0, 44.0, 46.0, 180.0)):
        project = about(quay, degrees, swing(guard=guard, poise=poise), stands)
        project = replace(project, layers=project.layers[:1])
        records = run(project, assets, {0: [Input(OSSA, action="Blow"), Input(TARN, action="Stands")]}, 6)
        [contact] = [c for r in records for c in r.contacts]
        wanted = comes_of(shield, guard, poise, degrees)
        case = (shield, guard, poise, degrees)
        assert contact.result == wanted, case
        struck_, striker = records[3].fighter(TARN), records[3].fighter(OSSA)
        assert struck_.health == 100.0 - (8.0 if wanted in ("hit", "armoured") else 0.0), case
        push = {"hit": 2.0, "guarded": 1.0}.get(wanted, 0.0)
        assert np.hypot(struck_.knock[0], struck_.knock[2]) == pytest.approx(push), case
        told = {"hit": "hit", "armoured": "hit", "guarded": "guarded", "evaded": "none"}[wanted]
        assert striker.live()[0].contact == told, case


@pytest.mark.parametrize("shield", ["none", "guard", "armour of 10", "gone"])
@pytest.mark.parametrize(
    ("region", "factor", "takes"), [("head", 2.5, 20.0), ("leg", 0.5, 4.0), ("", 9.0, 8.0), ("tail", 0.0, 0.0)]
)
def test_a_region_takes_its_share_of_the_damage(
    quay: Project, assets: Assets, region: str, factor: float, takes: float, shield: str
) -> None:
    """Of the hurtbox that is touched, hit or armoured; a region that nothing is said of, or none, takes all of it."""
    spans = (SHIELDS[shield],) if SHIELDS[shield] is not None else ()
    stands = made("Stands", section("idle", 1.0, shields=spans))
    project = about(quay, 0.0, swing(poise=9.0), stands)
    only = replace(project.rig.hurtboxes[0], region=region)
    regions = (Region(name="other", factor=7.0), *((Region(name=region, factor=factor),) if region else ()))
    project = replace(project, rig=replace(project.rig, hurtboxes=(only,), regions=regions))
    records = run(project, assets, {0: [Input(OSSA, action="Blow"), Input(TARN, action="Stands")]}, 6)
    [contact] = [c for r in records for c in r.contacts]
    hurt = takes if contact.result in ("hit", "armoured") else 0.0
    assert records[-1].fighter(TARN).health == 100.0 - hurt
    line = records[3].line()["contacts"][0]
    assert (line["region"], line["damage"], line["hurtbox"]) == (region, hurt, only.name)


@pytest.mark.parametrize("first", [0, 1])
@pytest.mark.parametrize("shield", ["none", "guard", "armour of 10"])
def test_the_hitbox_that_touches_first_says_its_share_of_the_damage(
    quay: Project, assets: Assets, shield: str, first: int
) -> None:
    """Two that are open at once, of which one is too small to touch; and the region's share on top."""
    up = SHIELDS[shield]
    spans = (replace(up, lets=0.5),) if up is not None else ()
    stands = made("Stands", section("idle", 1.0, shields=spans))
    boxes = tuple(Hitbox(mount="grip", shape="sphere", radius=3.0 if n == first else 0.01, share=2.0 - 1.75 * n)
                  for n in (0, 1))  # fmt: skip
    project = about(quay, 0.0, swing(poise=9.0, boxes=boxes), stands)
    only = replace(project.rig.hurtboxes[0], region="leg")
    project = replace(project, rig=replace(project.rig, hurtboxes=(only,), regions=(Region(name="leg", factor=0.5),)))
    records = run(project, assets, {0: [Input(OSSA, action="Blow"), Input(TARN, action="Stands")]}, 6)
    [contact] = [c for r in records for c in r.contacts]
    assert contact.damage == 8.0 * 0.5 * (2.0, 0.25)[first] * (0.5 if shield == "guard" else 1.0)


def test_an_evaded_touch_is_told_once_and_does_not_use_the_strike_up(quay: Project, assets: Assets) -> None:
    stands = made("Stands", section("idle", 1.0, shields=(Shield(start=0, end=5, kind="invulnerable"),)))
    project = about(
        quay,
        0.0,
        made("Blow", section("idle", 0.5, strikes=(Strike(start=3, end=9, boxes=(BALL,), hit_stop=0),))),
        stands,
    )
    records = run(project, assets, {0: [Input(OSSA, action="Blow"), Input(TARN, action="Stands")]}, 12)
    assert [(r.tick, c.result) for r in records for c in r.contacts] == [(3, "evaded"), (5, "hit")]


@pytest.mark.parametrize("first", ["hit", "guarded"])
def test_once_hit_a_contact_stays_one(quay: Project, assets: Assets, first: str) -> None:
    blow = swing()
    strike = blow.sections[0].strikes[0]

    def touch(simulation: Simulation) -> list[Contact]:
        order = {3: first, 4: "guarded"}
        live = simulation.fighter(OSSA).live()
        if simulation.now not in order or not live:
            return []
        return [Contact(strike, OSSA, TARN, "", order[simulation.now], np.zeros(3), 0.0, (0, 0), serial=live[0].serial)]

    simulation = Simulation(CompiledProject(about(quay, 0.0, blow), assets), touches=touch, posed=False)
    seen = [
        simulation.tick([Input(OSSA, action="Blow")] if t == 0 else []).fighter(OSSA).live()[0].contact
        for t in range(6)
    ]
    assert seen == ["none"] * 3 + [first] * 3


@pytest.mark.parametrize("order", [1, -1])
def test_of_several_the_heaviest_decides_and_all_count(quay: Project, assets: Assets, order: int) -> None:
    """A light hit, a heavy one and a heavier guarded touch on one tick: the heavy hit pushes and is reacted to."""
    rows = (Reaction(strength="heavy", action="Heavy"), Reaction(strength="light", action="Light"),
            Reaction(situation="guarding", action="Held"))  # fmt: skip
    acts = tuple(made(n) for n in ("Heavy", "Light", "Held"))
    strikes = [("hit", Strike(start=0, end=30, strength="light", damage=3.0, knockback=(0, 0, 1.0), hit_stop=9)),
               ("hit", Strike(start=0, end=30, strength="heavy", damage=20.0, knockback=(0, 0, 5.0), hit_stop=2)),
               ("guarded", Strike(start=0, end=30, damage=50.0, knockback=(0, 0, 9.0), hit_stop=4))]  # fmt: skip

    def touch(simulation: Simulation) -> list[Contact]:
        if simulation.now != 4:
            return []
        serial = simulation.fighter(OSSA).live()[0].serial
        return [Contact(s, OSSA, TARN, "", r, np.zeros(3), s.damage if r == "hit" else 0.0, (0, n), serial=serial)
                for n, (r, s) in list(enumerate(strikes))[::order]]  # fmt: skip

    blow = made("Blow", section("idle", 0.5, strikes=tuple(s for _, s in strikes)))
    simulation = Simulation(
        CompiledProject(about(quay, 0.0, blow, *acts, rows=rows), assets), touches=touch, posed=False
    )
    for t in range(5):
        record = simulation.tick([Input(OSSA, action="Blow")] if t == 0 else [])
    struck_ = record.fighter(TARN)
    assert [a for a, _, _ in plays(record, TARN)] == ["Heavy"]
    assert struck_.health == 100.0 - 23.0
    assert np.hypot(struck_.knock[0], struck_.knock[2]) == pytest.approx(5.0)
    assert (struck_.frozen, record.fighter(OSSA).frozen) == (9, 9)


def test_the_quarter_the_attacker_stands_in(quay: Project, assets: Assets) -> None:
    rows = tuple(Reaction(side=s, action=s) for s in SIDES)  # type: ignore[arg-type]
    acts = tuple(made(s) for s in SIDES)
    for degrees in range(-175, 180, 10):
        wanted = (
            "front" if abs(degrees) <= 45 else "back" if abs(degrees) >= 135 else "left" if degrees > 0 else "right"
        )
        project = about(quay, float(degrees), swing(), *acts, rows=rows)
        simulation = Simulation(
            CompiledProject(project, assets), touches=struck("hit", 3, swing().sections[0].strikes[0]), posed=False
        )
        for t in range(4):
            record = simulation.tick([Input(OSSA, action="Blow")] if t == 0 else [])
        assert [a for a, _, _ in plays(record, TARN)] == [wanted], degrees


ROWS = [
    convert({"side": a, "strength": b, "situation": c, "action": f"{a} {b} {c}"}, Reaction)
    for a, b, c in product(("left", "any"), ("light", "any"), ("standing", "air", "guarding", "last", "any"))
]


@pytest.mark.parametrize("row", ROWS, ids=lambda r: r.action)
def test_a_row_is_taken_for_what_it_says_and_nothing_else(quay: Project, assets: Assets, row: Reaction) -> None:
    """Alone in the table, each row against hits from before and the left, light and heavy, standing, in the air, guarded,
    and the last."""
    for degrees, strength, how in product((0.0, 90.0), ("light", "heavy"), ("standing", "air", "guarding", "last")):
        strike = replace(swing().sections[0].strikes[0], strength=strength, damage=500.0 if how == "last" else 1.0)
        blow = made("Blow", section("idle", 0.5, strikes=(strike,)))
        project = about(quay, degrees, blow, made(row.action), rows=(row,))
        touch = struck("guarded" if how == "guarding" else "hit", 3, strike)
        simulation = Simulation(CompiledProject(project, assets), touches=touch, posed=False)
        if how == "air":
            victim = simulation.fighter(TARN)
            victim.position, victim.grounded = victim.position + np.array([0.0, 2.0, 0.0]), False
        for t in range(4):
            record = simulation.tick([Input(OSSA, action="Blow")] if t == 0 else [])
        fits = row.side in ("any", "left" if degrees else "front") and row.strength in ("any", strength)
        fits = fits and (row.situation == how or (row.situation == "any" and how in ("standing", "air")))
        assert bool(plays(record, TARN)) == fits, (degrees, strength, how)


def test_the_last_reaction_holds_its_last_frame(quay: Project, assets: Assets) -> None:
    rows = (Reaction(situation="last", action="Fall"),)
    project = about(quay, 0.0, swing(damage=500.0), made("Fall", section("idle", 0.2)), rows=rows)
    records = run(project, assets, {0: [Input(OSSA, action="Blow")]}, 40)
    assert plays(records[-1], TARN) == [("Fall", "One", 11)]
    assert records[-1].fighter(TARN).down


@pytest.mark.parametrize("laps", [1, 5])
def test_a_strike_in_a_loop_touches_once_a_lap(quay: Project, assets: Assets, laps: int) -> None:
    strike = Strike(start=3, end=7, boxes=(BALL,), hit_stop=0, damage=1.0, knockback=(0, 0, 0))
    loop = section("idle", 10 / 60, name="Loop", then="Loop", strikes=(strike,))
    records = run(about(quay, 0.0, made("Turns", loop)), assets, {0: [Input(OSSA, action="Turns")]}, 10 * laps)
    assert [r.tick for r in records for _ in r.contacts] == [3 + 10 * n for n in range(laps)]


def test_nobody_is_struck_by_himself(quay: Project, assets: Assets) -> None:
    records = run(about(quay, 0.0, swing(), far=30.0), assets, {0: [Input(OSSA, action="Blow")]}, 12)
    assert not [c for r in records for c in r.contacts]


# Bodies and speeds


@pytest.mark.parametrize("above", [0.0, 1.0, 4.0])
def test_bodies_in_one_place_part_half_and_half_unless_one_is_over_the_other(
    quay: Project, assets: Assets, above: float
) -> None:
    project = about(quay, 0.0)
    fighters = (
        Fighter(name=OSSA, position=(0.1, 0.0, 0.0), plays="keys"),
        Fighter(name=TARN, position=(-0.1, above, 0.0)),
    )
    simulation = Simulation(
        CompiledProject(replace(project, stage=replace(project.stage, fighters=fighters)), assets), posed=False
    )
    simulation.tick()
    a, b = (f.position for f in simulation.fighters)
    wide = 2.0 * project.rig.capsule.radius
    if above < project.rig.capsule.height:
        assert a[0] - b[0] == pytest.approx(wide, abs=1e-6)
        assert a[0] + b[0] == pytest.approx(0.0, abs=1e-9)
    else:
        assert (a[0], b[0]) == (pytest.approx(0.1), pytest.approx(-0.1))


def test_of_many_in_one_place_each_pair_parts_from_where_the_pairs_before_left_it(
    quay: Project, assets: Assets
) -> None:
    """Against the rule written out: pair by pair in the order they stand, half and half, along what lies between."""
    places = [(0.0, 0.0), (0.3, 0.05), (-0.6, 0.0), (0.75, -0.1), (0.05, -0.5)]
    fighters = tuple(Fighter(name=f"F{n}", position=(x, 0.0, z)) for n, (x, z) in enumerate(places))
    project = quiet(replace(quay, stage=replace(quay.stage, fighters=fighters, floors=FLOOR, posts=())))
    simulation = Simulation(CompiledProject(project, assets), posed=False)
    simulation.tick()
    at, wide = [complex(x, z) for x, z in places], 2.0 * project.rig.capsule.radius
    for i in range(len(at)):
        for j in range(i + 1, len(at)):
            gap = at[i] - at[j]
            if abs(gap) < wide:
                away = gap / abs(gap) * (wide - abs(gap)) / 2
                at[i], at[j] = at[i] + away, at[j] - away
    seen = [complex(f.position[0], f.position[2]) for f in simulation.fighters]
    assert seen == pytest.approx(at, abs=1e-9)


@pytest.mark.parametrize("hold", ["push", "gravity"])
def test_what_a_hold_takes_away_is_back_when_it_ends(quay: Project, assets: Assets, hold: str) -> None:
    held = replace(made("Held", section("idle", 0.3)), holds=(Setting(setting=hold, value=0.0),))
    project = about(quay, 0.0, held)
    high = 3.0 if hold == "gravity" else 0.0
    fighters = (
        Fighter(name=OSSA, position=(0.0, high, 0.05), plays="keys"),
        Fighter(name=TARN, position=(0.0, 0.0, 0.0)),
    )
    project = replace(project, stage=replace(project.stage, fighters=fighters, floors=FLOOR))
    simulation = Simulation(CompiledProject(project, assets), posed=False)
    places = [simulation.tick([Input(OSSA, action="Held")] if t == 0 else []).fighter(OSSA).position for t in range(90)]
    if hold == "gravity":
        assert {round(float(p[1]), 9) for p in places[:18]} == {3.0}
        assert places[-1][1] == pytest.approx(0.0)
    else:
        assert max(np.abs(p - fighters[0].position).max() for p in places[:18]) < 1e-9
        far = np.linalg.norm(places[-1] - simulation.fighter(TARN).position)
        assert far == pytest.approx(2.0 * project.rig.capsule.radius, abs=1e-6)


@pytest.mark.parametrize("momentum", ["fade", "stop", "keep"])
def test_what_becomes_of_the_speed_on_the_run(quay: Project, assets: Assets, momentum: str) -> None:
    act = replace(made("Long", section("idle", 1.0), start=StartRule(momentum=momentum)), blend_in=9)  # type: ignore[arg-type]
    project = replace(about(quay, 0.0, act, far=60.0), layers=(replace(quay.layers[0], name="Body"),))
    script = {0: [Input(OSSA, axis="move", value=(0.0, 1.0))], 60: [Input(OSSA, action="Long")]}
    records = run(project, assets, script, 90)
    speeds = [float(np.hypot(r.fighter(OSSA).velocity[0], r.fighter(OSSA).velocity[2])) for r in records]
    full = speeds[59]
    assert full > 3.0
    if momentum == "keep":
        assert speeds[80] == pytest.approx(full)
    elif momentum == "stop":
        assert speeds[61] == pytest.approx(0.0)
    else:
        # What the ease leaves, tick by tick.
        left = [1.0 - (t * t * (3.0 - 2.0 * t)) for t in (np.arange(1, 11) / 10.0)]
        assert np.allclose(speeds[61:71], [full * x for x in left], atol=1e-9)


@pytest.mark.parametrize("scale", [0.5, 1.0])
def test_a_stick_drive_goes_by_its_scale(quay: Project, assets: Assets, scale: float) -> None:
    drives = (Drive(start=0, end=90, kind="stick", scale=scale),)
    act = made("Goes", section("idle", 1.5, drives=drives))
    project = replace(about(quay, 0.0, act, far=60.0), layers=(replace(quay.layers[0], name="Body"),))
    script = {0: [Input(OSSA, axis="move", value=(0.0, 1.0)), Input(OSSA, action="Goes")]}
    fighter = run(project, assets, script, 60)[-1].fighter(OSSA)
    assert fighter.velocity[2] == pytest.approx(scale * project.locomotion.run_speed)


def test_the_stick_has_only_its_share_in_the_air(quay: Project, assets: Assets) -> None:
    project = about(quay, 0.0, far=60.0)
    simulation = Simulation(CompiledProject(project, assets), posed=False)
    me = simulation.fighter(OSSA)
    me.position, me.grounded = me.position + np.array([0.0, 6.0, 0.0]), False
    simulation.tick([Input(OSSA, axis="move", value=(0.0, 1.0))])
    simulation.tick()
    its = project.locomotion
    assert simulation.fighter(OSSA).velocity[2] == pytest.approx(2 * its.acceleration / 60.0 * its.air_control)


@pytest.mark.parametrize("frames", [5, 20])
def test_frames_here_are_counted_from_the_tick_a_state_is_entered(quay: Project, assets: Assets, frames: int) -> None:
    on = Transition(start="a", to="b", conditions=(Condition(test="time_here", op=">=", value=float(frames)),))
    states = (State(name="a", clip="idle"), State(name="b", clip="idle"))
    locomotion = replace(
        quay.locomotion, entry="a", states=states, groups=(), transitions=(on, replace(on, start="b", to="a"))
    )
    project = opposite(quiet(quay, locomotion=locomotion))
    records = run(project, assets, {}, 4 * frames)
    shown = [r.fighter(OSSA).locomotion[-1].state for r in records]
    turns = [t for t in range(1, len(shown)) if shown[t] != shown[t - 1]]
    assert turns[0] == frames
    assert np.diff(turns).tolist() == [frames] * (len(turns) - 1)


def test_what_cannot_be_guarded_has_no_number_on_guard(quay: Project, assets: Assets) -> None:
    for guard in ("any", "none"):
        numbers = facts(CompiledProject(about(quay, 0.0, swing(guard=guard)), assets), "Blow")
        assert numbers is not None
        assert (numbers.on_guard is None) == (guard == "none")
        assert numbers.why_not("on_guard") == ("it cannot be guarded" if guard == "none" else "")


def test_a_moved_edge_follows_the_pose_it_was_moved_to(quay: Project, assets: Assets) -> None:
    """Not the one it marked before: moved, then retimed to half the frames."""
    strike = Strike(start=10, end=20)
    part = Section(name="One", cuts=(Cut(clip="staff_sweep", end=0.8),), strikes=(strike,))
    project = opposite(quiet(quay), made("Blow", part))
    twice = retime_cut(retime_cut(project, assets, "Blow", 0, 0, 24).project, assets, "Blow", 0, 0, 48).project
    compiled = CompiledProject(twice, assets).action("Blow")
    assert compiled is not None
    moved = set_edges(twice, compiled, SpanRef("Blow", 0, "strikes", 0), 16, 30).project
    half = retime_cut(moved, assets, "Blow", 0, 0, 24).project
    found = half.actions[-1].sections[0].strikes[0]
    assert (found.start, found.end) == (8, 15)


def test_exits_of_a_section_go_before_those_of_the_whole_action(quay: Project, assets: Assets) -> None:
    whole = Exit(start=0, end=1, kind="cancel", command="heavy", to="Whole")
    own = Exit(start=0, end=60, kind="cancel", command="heavy", to="Own")
    root = replace(made("Root", section("idle", 1.0, exits=(own,))), exits=(whole,))
    project = opposite(quiet(quay), root, made("Whole"), made("Own"))
    records = run(project, assets, {0: [Input(OSSA, action="Root")], 9: [Input(OSSA, "heavy")]}, 12)
    assert plays(records[9])[0][0] == "Own"


@pytest.mark.parametrize("opens", [14, 15, 19, 21])
def test_on_the_tick_a_strike_opens_it_touches_where_it_is_and_not_where_it_came_from(
    opens: int, quay: Project, assets: Assets
) -> None:
    """A thin post on the way of the hand before the strike opens is not touched, one where it opens is."""
    strike = Strike(start=opens, end=opens + 1, boxes=(Hitbox(mount="grip", shape="sphere", radius=0.01),))
    blow = made("Blow", section("staff_sweep", 1.2, strikes=(strike,)))
    plain = opposite(quiet(quay), blow)
    joint, (me, you) = next(m for m in quay.rig.mounts if m.name == "grip"), plain.stage.fighters
    away = replace(you, position=(0.0, 0.0, 30.0))

    def played(*posts: Post) -> tuple[list[np.ndarray], list[int]]:
        stage = replace(plain.stage, fighters=(me, away), posts=posts)
        simulation = Simulation(CompiledProject(replace(plain, stage=stage), assets))
        hands, touched = [], []
        for t in range(opens + 4):
            record = simulation.tick([Input(OSSA, action="Blow")] if t == 0 else [])
            now = record.fighter(OSSA)
            frame = body_matrix(now.position, now.facing) @ now.joints_now[assets.skeleton.index[joint.joint]]
            hands.append((frame @ [*joint.offset, 1.0])[:3])
            touched += [t] * len(record.contacts)
        return hands, touched

    way, _ = played()
    came, there = way[opens - 1], way[opens]
    half = (came + there) / 2
    assert np.linalg.norm((there - came)[[0, 2]]) > 0.06
    for place, touches in ((there, [opens]), (half, []), (came, [])):
        post = Post(position=(float(place[0]), 0.0, float(place[2])), radius=0.01, height=2.5)
        assert played(post)[1] == touches, place


def test_eight_who_strike_on_one_tick_each_touch_whom_they_would_alone(quay: Project, assets: Assets) -> None:
    """In a ring, of unequal reach and turned about: on the first tick of touches, before anybody reels, each touch is
    its own attacker's, and the same as with the other seven standing."""
    names = [f"F{n}" for n in range(8)]
    fighters = tuple(
        Fighter(
            name=name,
            position=(1.1 * sin(n * 0.785), 0.0, 1.1 * cos(n * 0.785)),
            facing=float(180 + 45 * n + 35 * (n % 3) - 30),
            plays="keys",
        )
        for n, name in enumerate(names)
    )
    reach = Hitbox(mount="grip", offset=(0.0, 0.0, 0.0), to=(0.0, 1.5, 0.0), radius=0.45)
    strike = Strike(start=3, end=6, boxes=(reach,), damage=8.0, hit_stop=0)
    project = opposite(quiet(quay), made("Blow", section("staff_sweep", 0.5, strikes=(strike,))))
    project = replace(project, stage=replace(project.stage, fighters=fighters))

    def touched(who: list[str]) -> set[tuple[int, str, str]]:
        records = run(project, assets, {0: [Input(name, action="Blow") for name in who]}, 4)
        return {(r.tick, c.attacker, c.victim) for r in records for c in r.contacts}

    alone = {name: touched([name]) for name in names}
    assert all(a == name for name, found in alone.items() for _, a, _ in found)
    together = touched(names)
    assert together == set().union(*alone.values())
    assert len({a for _, a, _ in together}) >= 3
    assert len({v for _, _, v in together}) >= 3
