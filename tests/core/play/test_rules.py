"""Rules of the tick that were broken once, each with the test that would have shown it."""

from __future__ import annotations

import subprocess
import sys
from typing import Any

import numpy as np
import pytest
from tools.made import DEMO
from tools.made.edits import action, adding, alone, facing, replace, section, with_action

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
    Hitbox,
    Project,
    Reaction,
    Section,
    Shield,
    Speaks,
    StartRule,
    Strike,
)
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.play.take.record import Record

FLOOR = (Floor(low=(-200.0, -200.0), high=(200.0, 200.0)),)
ALWAYS = Condition(test="on_floor")
BALL = Hitbox(mount="grip", shape="sphere", radius=3.0)


def run(project: Project, assets: Assets, script: dict[int, list[Input]], ticks: int) -> list[Record]:
    simulation = Simulation(CompiledProject(project, assets))
    return [simulation.tick(script.get(t, [])) for t in range(ticks)]


def plays(record: Record, name: str = OSSA) -> list[tuple[str, str, int]]:
    return [(v.compiled.action.name, v.part.section.name, v.frame) for v in record.fighter(name).live()]


def first(records: list[Record], wanted: str, name: str = OSSA) -> int | None:
    return next((r.tick for r in records if any(a == wanted for a, _, _ in plays(r, name))), None)


def made(name: str, *sections: Section, **fields: Any) -> Action:
    return Action(name=name, sections=sections or (section("idle", 0.5),), blend_in=0, **fields)


def opposite(quay: Project, *actions: Action, reactions: tuple[Reaction, ...] = (), **stage: Any) -> Project:
    """Two who stand a metre apart and do nothing by themselves."""
    fighters = (
        Fighter(name=OSSA, position=(0.0, 0.0, 0.0), facing=0.0, plays="keys", health=stage.get("health", 100.0)),
        Fighter(name=TARN, position=(0.0, 0.0, 1.0), facing=180.0, health=stage.get("health", 100.0)),
    )
    project = facing(adding(quay, *actions), *fighters)
    return replace(project, reactions=reactions, stage=replace(project.stage, floors=FLOOR))


def blow(name: str = "Blow", *, seconds: float = 0.5, start: int = 3, end: int = 6, **strike: Any) -> Action:
    fields: dict[str, Any] = {"hit_stop": 0, "knockback": (0, 0, 0), **strike}
    hit = Strike(start=start, end=end, boxes=(BALL,), **fields)
    return made(name, section("idle", seconds, strikes=(hit,)))


# Frame 0, endings, chance


def test_frame_0_is_looked_at(quay: Project, assets: Assets) -> None:
    gated = made("Gated", section("idle", 0.3, name="A", gates=(Gate(start=0, end=1, to="B"),)), section(name="B"))
    leave = Exit(start=0, end=1, kind="break", to="Left", conditions=(ALWAYS,))
    broken = made("Broken", section("idle", 0.3, exits=(leave,)))
    project = alone(adding(quay, gated, broken, made("Left")))
    records = run(project, assets, {2: [Input(OSSA, action="Gated")]}, 6)
    assert [plays(r) for r in records[2:4]] == [[("Gated", "A", 0)], [("Gated", "B", 0)]]
    records = run(project, assets, {2: [Input(OSSA, action="Broken")]}, 6)
    assert [plays(r) for r in records[2:4]] == [[("Broken", "One", 0)], [("Left", "One", 0)]]


def test_an_action_ends_once(quay: Project, assets: Assets) -> None:
    """A whole-body action that an arm action leads to ends what its own layer plays; that decides nothing more."""
    from veergust.core.model import Layer

    layers = (Layer(name="Body"), Layer(name="Arms"))
    arm = made("Arm", section("idle", 0.5, exits=(Exit(start=2, end=20, kind="break", to="Whole", conditions=(ALWAYS,)),)), layer="Arms")  # fmt: skip
    ends = Exit(start=2, end=20, kind="break", to="Other", conditions=(ALWAYS,))
    body = made("Body one", section("idle", 0.5, exits=(ends,)), on_broken=replace(quay.actions[0].on_broken, message="ended"))  # fmt: skip
    project = alone(replace(adding(quay, arm, body, made("Whole"), made("Other")), layers=layers))
    simulation = Simulation(CompiledProject(project, assets))
    simulation.start(OSSA, "Body one")
    simulation.start(OSSA, "Arm")
    told = [e.name for _ in range(6) for e in simulation.tick().events if e.name == "ended"]
    assert told == ["ended"]


def test_two_chances_are_drawn_apart(quay: Project, assets: Assets) -> None:
    half = (Condition(test="chance", op="<", value=0.5),)
    gates = (Gate(start=0, end=1, to="B", conditions=half), Gate(start=0, end=1, to="C", conditions=half))
    dice = made("Dice", section("idle", 0.1, name="A", gates=gates), section(name="B"), section(name="C"))
    project = alone(adding(quay, dice))
    got = {"A": 0, "B": 0, "C": 0}
    for seed in range(300):
        simulation = Simulation(CompiledProject(project, assets), seed, posed=False)
        simulation.tick([Input(OSSA, action="Dice")])
        got[plays(simulation.tick())[0][1]] += 1
    assert 110 < got["B"] < 190
    assert 45 < got["C"] < 110  # a half of what is left: they would never fall on C if drawn as one


def test_a_tag_leads_to_the_first_that_is_ready(quay: Project, assets: Assets) -> None:
    on = Exit(start=0, end=90, kind="cancel", command="light", to="quick", to_kind="tag")
    root = made("Root", section("idle", 1.5, exits=(on,)))
    one = made("One", tags=("quick",), start=StartRule(cooldown=600))
    two = made("Two", tags=("quick",))
    project = alone(adding(quay, root, one, two))
    script = {t: [Input(OSSA, action="Root")] for t in (0, 20)} | {t: [Input(OSSA, "light")] for t in (5, 25)}
    records = run(project, assets, script, 30)
    assert [plays(records[t])[0][0] for t in (5, 25)] == ["One", "Two"]


# Presses


def test_a_string_with_no_memory_starts_over_at_once(quay: Project, assets: Assets) -> None:
    on = Exit(start=0, end=30, kind="combo", command="light", to="Two", contact="hit", section="Late", blend=7)
    one = made("One", section("idle", 0.5, exits=(on,)), start=StartRule(commands=("light",)))
    two = made("Two", section(name="Early"), section(name="Late"))
    quiet = replace(quay, actions=())
    for memory in (0, 30):
        string = replace(one, start=replace(one.start, string_memory=memory))
        records = run(
            alone(adding(quiet, string, two)), assets, {0: [Input(OSSA, "light")], 31: [Input(OSSA, "light")]}, 34
        )
        # Nobody was hit, so that the exit does not count, remembered or not.
        assert plays(records[31])[0][0] == "One"
    free = replace(on, contact="any")
    string = replace(one, sections=(section("idle", 0.5, exits=(free,)),))
    for memory, wanted in ((0, "One"), (30, "Two")):
        string = replace(string, start=replace(string.start, string_memory=memory))
        records = run(
            alone(adding(quiet, string, two)), assets, {0: [Input(OSSA, "light")], 31: [Input(OSSA, "light")]}, 34
        )
        assert plays(records[31])[0][0] == wanted
        if wanted == "Two":
            voice = records[31].fighter(OSSA).live()[0]
            assert (voice.part.section.name, voice.blend) == ("Late", 7)


def test_of_exits_of_one_priority_the_newest_press_wins(quay: Project, assets: Assets) -> None:
    exits = (
        Exit(start=10, end=30, kind="cancel", command="light", to="L"),
        Exit(start=10, end=30, kind="cancel", command="heavy", to="H"),
    )
    project = alone(adding(quay, made("Root", section("idle", 1.0, exits=exits)), made("L"), made("H")))
    for light, heavy, wanted in ((5, 7, "H"), (7, 5, "L"), (6, 6, "H")):
        script: dict[int, list[Input]] = {0: [Input(OSSA, action="Root")]}
        script.setdefault(light, []).append(Input(OSSA, "light"))
        script.setdefault(heavy, []).append(Input(OSSA, "heavy"))
        assert plays(run(project, assets, script, 12)[11])[0][0] == wanted


def test_without_early_presses_one_made_inside_waits_for_the_contact(quay: Project, assets: Assets) -> None:
    on = Exit(start=2, end=40, kind="combo", command="light", to="Next", contact="hit", early=False)
    late = Strike(start=25, end=28, boxes=(BALL,), hit_stop=0, knockback=(0, 0, 0))
    root = made("Root", section("idle", 1.0, exits=(on,), strikes=(late,)))
    project = opposite(replace(quay, actions=()), root, made("Next"))
    for pressed, wanted in ((5, 26), (1, None)):
        records = run(project, assets, {0: [Input(OSSA, action="Root")], pressed: [Input(OSSA, "light")]}, 45)
        assert first(records, "Next") == wanted


def test_a_command_and_an_exit_have_buffers_of_their_own(quay: Project, assets: Assets) -> None:
    on = Exit(start=20, end=40, kind="cancel", command="light", to="Next")
    for buffer, own, pressed, wanted in (
        (None, None, 9, None),
        (15, None, 9, 20),
        (15, 4, 9, None),
        (None, 12, 9, 20),
    ):
        commands = tuple(replace(c, buffer=buffer) if c.name == "light" else c for c in quay.commands)
        root = made("Root", section("idle", 1.0, exits=(replace(on, buffer=own),)))
        project = alone(replace(adding(replace(quay, actions=()), root, made("Next")), commands=commands))
        records = run(project, assets, {0: [Input(OSSA, action="Root")], pressed: [Input(OSSA, "light")]}, 30)
        assert first(records, "Next") == wanted, (buffer, own)


def test_what_stands_for_the_whole_action_holds_on_every_frame(quay: Project, assets: Assets) -> None:
    on = Exit(start=0, end=0, kind="cancel", command="heavy", to="Next")
    root = made(
        "Root",
        section("dodge_roll", 0.4, name="A", then="B"),
        section("dodge_roll", 0.4, name="B", drives=(Drive(start=0, end=99, kind="root"),)),
        exits=(on,),
        shields=(Shield(start=0, end=0),),
        drives=(Drive(start=0, end=0, kind="none"),),
    )
    project = alone(adding(replace(quay, actions=()), root, made("Next")))
    records = run(project, assets, {0: [Input(OSSA, action="Root")], 33: [Input(OSSA, "heavy")]}, 36)
    places = [r.fighter(OSSA).position[0] for r in records]
    assert places[24] == pytest.approx(places[0])  # its own drive: nothing
    assert places[32] > places[24] + 0.1  # the section's goes before it
    assert first(records, "Next") == 33
    struck = opposite(replace(quay, actions=()), root, blow())
    hits = run(struck, assets, {0: [Input(TARN, action="Root"), Input(OSSA, action="Blow")]}, 10)
    assert [c.result for r in hits for c in r.contacts] == ["evaded"]


# Moving


@pytest.mark.parametrize("momentum", ["fade", "stop", "keep"])
def test_on_the_run_nobody_stops_dead(momentum: Any, quay: Project, assets: Assets) -> None:
    still = made("Still", section("idle", 0.5), start=StartRule(momentum=momentum))
    still = replace(still, blend_in=6)
    project = alone(adding(quay, still), floors=FLOOR)
    records = run(
        project, assets, {0: [Input(OSSA, axis="move", value=(1.0, 0.0))], 40: [Input(OSSA, action="Still")]}, 60
    )
    way = np.diff([r.fighter(OSSA).position[0] for r in records]) * 60
    before, during = way[38], way[40:50]
    assert before == pytest.approx(quay.locomotion.run_speed, rel=1e-6)
    if momentum == "fade":
        assert np.all(np.diff(during) <= 1e-9)
        assert np.abs(np.diff(way[38:50])).max() < 0.4 * before
        assert during[-1] == pytest.approx(0.0, abs=1e-9)
    else:
        assert during[3] == pytest.approx(0.0 if momentum == "stop" else before, abs=1e-6)


def test_on_an_ending_locomotion_goes_on_with_the_speed_the_body_had(quay: Project, assets: Assets) -> None:
    roll = replace(action(quay, "Duck roll"), name="Cut off", sections=(section("dodge_roll", 0.3),), blend_in=0)
    project = alone(adding(quay, roll), floors=FLOOR)
    records = run(project, assets, {0: [Input(OSSA, action="Cut off")]}, 90)
    way = np.diff([r.fighter(OSSA).position[0] for r in records]) * 60
    last = next(i for i, r in enumerate(records[1:]) if not plays(r))
    assert way[last] > 2.0
    assert way[last + 1] == pytest.approx(way[last], abs=quay.locomotion.acceleration / 60 + 1e-6)
    assert way[-1] == pytest.approx(0.0, abs=1e-6)


def test_ballistic_goes_on_with_the_speed_the_body_had(quay: Project, assets: Assets) -> None:
    flying = made(
        "Fly",
        section("dodge_roll", 0.3, name="Run up", then="Glide"),
        section("idle", 0.5, name="Glide", drives=(Drive(start=0, end=30, kind="ballistic"),)),
    )
    project = alone(adding(quay, flying), floors=FLOOR)
    records = run(project, assets, {0: [Input(OSSA, action="Fly")]}, 40)
    way = np.diff([r.fighter(OSSA).position[0] for r in records]) * 60
    slower = quay.locomotion.friction / 60
    assert way[17] > 2.0
    assert np.diff(way[17:28]) == pytest.approx(np.full(10, -slower), abs=1e-6)
    # In the air nothing slows it; without a drive it would drop straight.
    cases: tuple[tuple[Any, bool], ...] = (("ballistic", True), ("none", False))
    for kind, goes in cases:
        sections = (flying.sections[0], replace(flying.sections[1], drives=(Drive(start=0, end=30, kind=kind),)))
        off = alone(adding(quay, replace(flying, sections=sections)), floors=(Floor(low=(-9, -9), high=(0.1, 9)),))
        off = replace(off, stage=replace(off.stage, put_back_below=-60.0))
        fighter = [r.fighter(OSSA) for r in run(off, assets, {0: [Input(OSSA, action="Fly")]}, 40)]
        fall = [f for f in fighter if not f.grounded]
        gone = fall[8].position[0] - fall[4].position[0]
        assert (gone > 0.1) == goes
        assert fall[8].position[1] < fall[4].position[1]


def test_a_drive_turns_the_body_towards_the_target(quay: Project, assets: Assets) -> None:
    aim = made(
        "Aim", section("idle", 1.0, drives=(Drive(start=0, end=60, kind="none", turn="target", turn_rate=120.0),))
    )
    project = opposite(quay, aim)
    ossa = replace(project.stage.fighters[0], facing=90.0)
    project = replace(project, stage=replace(project.stage, fighters=(ossa, project.stage.fighters[1])))
    facings = [r.fighter(OSSA).facing for r in run(project, assets, {0: [Input(OSSA, action="Aim")]}, 60)]
    assert np.diff(facings).min() >= -2.0 - 1e-9
    assert facings[-1] == pytest.approx(0.0, abs=1e-6)


def test_root_motion_of_two_layers_is_shared_out_and_not_added_up(quay: Project, assets: Assets) -> None:
    from veergust.core.model import Layer

    layers = (Layer(name="Body"), Layer(name="Over", weight=0.5))
    below, over = (
        made(n, section("dodge_roll", 0.6), layer=layer) for n, layer in (("Below", "Body"), ("Above", "Over"))
    )
    project = alone(replace(adding(quay, below, over), layers=layers), floors=FLOOR)
    ways = []
    for names in (("Below",), ("Above",), ("Below", "Above")):
        simulation = Simulation(CompiledProject(project, assets))
        for name in names:
            simulation.start(OSSA, name)
        for _ in range(30):
            fighter = simulation.tick().fighter(OSSA)
        ways.append(float(fighter.position[0]) - float(quay.stage.fighters[0].position[0]))
    whole, half, both = ways
    assert half == pytest.approx(0.5 * whole, rel=1e-6)
    assert both == pytest.approx(whole, rel=1e-6)


# Strikes


def test_repeat_counts_the_attackers_own_ticks(quay: Project, assets: Assets) -> None:
    saw = blow("Saw", seconds=1.0, start=2, end=50, repeat=6, hit_stop=4)
    records = run(opposite(quay, saw, health=1e6), assets, {0: [Input(OSSA, action="Saw")]}, 60)
    hits = [r.tick for r in records if r.contacts]
    assert hits[0] == 2
    assert set(np.diff(hits)) == {10}  # six of its own ticks, and four in which its time stands still


def test_what_was_evaded_can_still_be_hit(quay: Project, assets: Assets) -> None:
    duck = made("Duck", section("idle", 1.0, shields=(Shield(start=0, end=8),)))
    project = opposite(quay, duck, blow(start=3, end=14))
    records = run(project, assets, {0: [Input(OSSA, action="Blow"), Input(TARN, action="Duck")]}, 20)
    assert [(r.tick, c.result) for r in records for c in r.contacts] == [(3, "evaded"), (8, "hit")]
    # Only the legs are away: the blow that covers everything finds the rest.
    part = Shield(start=0, end=60, hurtboxes=("head", "chest"))
    project = opposite(quay, made("Duck", section("idle", 1.0, shields=(part,))), blow(start=3, end=14))
    records = run(project, assets, {0: [Input(OSSA, action="Blow"), Input(TARN, action="Duck")]}, 20)
    found = [c for r in records for c in r.contacts]
    assert [c.result for c in found] == ["hit"]
    assert found[0].hurtbox not in part.hurtboxes


def test_a_low_strike_asks_for_a_low_guard(quay: Project, assets: Assets) -> None:
    wanted: tuple[tuple[Any, Any, str], ...] = (
        ("any", "high", "guarded"),
        ("low", "high", "hit"),
        ("low", "low", "guarded"),
        ("high", "any", "guarded"),
        ("none", "any", "hit"),
    )
    for strike, height, result in wanted:
        shield = Shield(start=0, end=60, kind="guard", height=height)
        project = opposite(quay, made("Hold", section("idle", 1.0, shields=(shield,))), blow(guard=strike))
        records = run(project, assets, {0: [Input(OSSA, action="Blow"), Input(TARN, action="Hold")]}, 8)
        assert [c.result for r in records for c in r.contacts] == [result], (strike, height)


def test_armour_does_not_keep_the_dead_standing(quay: Project, assets: Assets) -> None:
    shield = Shield(start=0, end=60, kind="armour", strength=99.0)
    hard = made("Hard", section("idle", 1.0, shields=(shield,)))
    rows = (Reaction(action="Fall", situation="last"),)
    project = opposite(quay, hard, blow(damage=500.0), reactions=rows)
    records = run(project, assets, {0: [Input(OSSA, action="Blow"), Input(TARN, action="Hard")]}, 90)
    last = records[-1].fighter(TARN)
    assert [c.result for r in records for c in r.contacts] == ["armoured"]
    assert last.health == 0.0
    assert last.down
    assert plays(records[3], TARN) == [("Fall", "Fall", 0)]


def test_of_several_hits_the_heaviest_pushes(quay: Project, assets: Assets) -> None:
    heavy = Strike(start=3, end=6, boxes=(BALL,), damage=30.0, knockback=(0, 0, 3.0), hit_stop=0)
    light = Strike(start=3, end=6, boxes=(BALL,), damage=5.0, knockback=(0, 0, -1.0), hit_stop=0)
    for order in ((heavy, light), (light, heavy)):
        both = made("Both", section("idle", 0.5, strikes=order))
        records = run(opposite(quay, both), assets, {0: [Input(OSSA, action="Both")]}, 5)
        victim = records[3].fighter(TARN)
        assert victim.health == 65.0
        assert victim.knock[2] == pytest.approx(3.0)


def test_a_mirrored_cut_mirrors_knockback_and_event_offsets(quay: Project, assets: Assets) -> None:
    ends = []
    for mirror in (False, True):
        event = Event(tick=2, name="dust", offset=(0.4, 0.1, 0.0))
        hit = Strike(start=3, end=6, boxes=(BALL,), knockback=(2.0, 0.0, 1.0), hit_stop=0)
        swing = made("Swing", section("idle", 0.5, strikes=(hit,), events=(event,)))
        swing = replace(swing, sections=(replace(swing.sections[0], cuts=(Cut(clip="idle", end=0.5, mirror=mirror),)),))
        records = run(opposite(quay, swing), assets, {0: [Input(OSSA, action="Swing")]}, 5)
        fired = next(e for r in records for e in r.events if e.name == "dust")
        ends.append((np.array(records[3].fighter(TARN).knock), fired.position - records[2].fighter(OSSA).position))
    (knock, at), (turned, there) = ends
    assert turned == pytest.approx(knock * [-1, 1, 1])
    assert there == pytest.approx(at * [-1, 1, 1])


def test_a_reaction_shows_at_once_and_through_hit_stop(quay: Project, assets: Assets) -> None:
    reel = made("Reel", section("hit_front", 0.4))
    rows = (Reaction(action="Reel"),)
    project = opposite(quay, reel, blow(hit_stop=5), reactions=rows)
    records = run(project, assets, {0: [Input(OSSA, action="Blow")]}, 14)
    tick = next(r.tick for r in records if r.contacts)
    wanted = CompiledProject(project, assets).action("Reel")
    assert wanted is not None
    for later in range(6):
        victim = records[tick + later].fighter(TARN)
        assert plays(records[tick + later], TARN) == [("Reel", "One", 0)]
        assert np.abs(victim.joints_now - wanted.sections[0].world[0]).max() < 1e-9
    assert plays(records[tick + 6], TARN) == [("Reel", "One", 1)]


# Events and spans


def test_an_event_of_frame_0_fires_once_through_hit_stop(quay: Project, assets: Assets) -> None:
    reel = made("Reel", section("hit_front", 0.4, events=(Event(tick=0, kind="sound", name="grunt"),)))
    project = opposite(quay, reel, blow(hit_stop=6), reactions=(Reaction(action="Reel"),))
    records = run(project, assets, {0: [Input(OSSA, action="Blow")]}, 16)
    assert sum(e.name == "grunt" for r in records for e in r.events) == 1


def test_an_action_that_starts_itself_again_closes_its_spans_and_opens_them_anew(quay: Project, assets: Assets) -> None:
    again = Exit(start=4, end=20, kind="combo", command="light", to="Round")
    guard = Shield(start=0, end=20, kind="guard")
    loop = made("Round", section("idle", 0.5, exits=(again,), shields=(guard,)), start=StartRule(commands=("light",)))
    project = alone(adding(replace(quay, actions=()), loop))
    records = run(project, assets, {0: [Input(OSSA, "light")], 6: [Input(OSSA, "light")]}, 10)
    kinds = [(r.tick, e.kind) for r in records for e in r.events if e.name.startswith("shield")]
    assert kinds == [(0, "begin"), (6, "end"), (6, "begin")]


def test_an_event_faces_as_it_says_and_hands_its_payload_on(quay: Project, assets: Assets) -> None:
    ways: tuple[Any, ...] = ("body", "world", "mount")
    events = tuple(
        Event(tick=n, name=f, facing=f, mount="grip" if f == "mount" else "", payload="speed=9")
        for n, f in enumerate(ways)
    )
    project = alone(adding(quay, made("Throw", section("staff_sweep", 0.3, events=events))))
    records = run(project, assets, {0: [Input(OSSA, action="Throw")]}, 4)
    lines = {e["name"]: e for r in records for e in r.line()["events"]}
    assert (lines["body"]["facing"], lines["world"]["facing"]) == (90.0, 0.0)
    assert lines["mount"]["facing"] not in (90.0, 0.0)
    assert {e["payload"] for e in lines.values()} == {"speed=9"}


def test_a_section_is_faded_in_from_the_one_left(quay: Project, assets: Assets) -> None:
    def joints(blend: int, gate: int) -> list[np.ndarray]:
        cuts = (Cut(clip="overhead", start=0.5, end=0.9, blend=blend),)
        gates = (Gate(start=10, end=11, to="B", blend=gate),) if gate >= 0 else ()
        then = "end" if gate >= 0 else "B"
        one = section("staff_sweep", 0.3, name="A", then=then, gates=gates)
        project = alone(adding(quay, made("Two", one, Section(name="B", cuts=cuts))), floors=FLOOR)
        records = run(project, assets, {0: [Input(OSSA, action="Two")]}, 34)
        return [r.fighter(OSSA).joints_now for r in records]

    for gate, border in ((-1, 18), (0, 11)):
        hard, soft = joints(0, gate), joints(8, gate)
        step = [float(np.abs(s[border] - s[border - 1]).max()) for s in (hard, soft)]
        assert step[1] < 0.35 * step[0]
        assert np.abs(hard[border + 9] - soft[border + 9]).max() < 1e-9
    own = joints(0, 6)
    assert float(np.abs(own[11] - own[10]).max()) < 0.4 * float(np.abs(joints(0, 0)[11] - joints(0, 0)[10]).max())


def test_a_layer_that_refuses_starts_nothing_where_it_may_not_speak(quay: Project, assets: Assets) -> None:
    for elsewhere, starts in (("keeps out", False), ("finishes", True)):
        layers = tuple(replace(y, scope=(Speaks(state="drop"),), elsewhere=elsewhere) for y in quay.layers)
        project = alone(replace(adding(quay, made("Any", layer=quay.layers[0].name)), layers=layers))
        records = run(project, assets, {0: [Input(OSSA, action="Any")]}, 3)
        assert (first(records, "Any") is not None) == starts


def test_held_guard_guards(quay: Project, assets: Assets) -> None:
    from veergust.core.model import Setting

    guard = made("Guard", section("idle", 1.0), holds=(Setting(setting="guard", value=1.0),))
    project = opposite(quay, guard, blow())
    records = run(project, assets, {0: [Input(OSSA, action="Blow"), Input(TARN, action="Guard")]}, 8)
    assert [c.result for r in records for c in r.contacts] == ["guarded"]


def test_everything_is_compiled_before_it_is_played(
    quay: Project, assets: Assets, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A hitch at the first play is work done only then: with the book prepared, starting compiles nothing."""
    from veergust.core.play.compiled import project as projects

    build = CompiledProject(quay, assets)
    build.prepare()
    monkeypatch.setattr(projects, "compile_section", None)
    simulation = Simulation(build)
    for tick, name in enumerate(a.name for a in quay.actions):
        simulation.tick([Input(OSSA, action=name)])
        assert name in {there[0] for there in plays(simulation.tick())}, tick


PLAYS = """
import sys
from pathlib import Path
from veergust.core.files.assets import load_assets
from veergust.core.files.folder import open_project
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input

demo = Path(sys.argv[1])
project = open_project(demo)
build = CompiledProject(project, load_assets(project, demo)[0])
build.prepare()
simulation = Simulation(build)
who = simulation.fighters[0].name
before, seen = set(sys.modules), set()
for tick in range(400):
    given = [Input(who, axis="move", value=((tick // 40 % 3 - 1) * 0.8, (tick // 60 % 3 - 1) * 0.6))]
    given += [Input(who, "guard", press=tick % 120 == 30)] if tick % 60 == 30 else []
    given += [Input(who, "jump")] if tick % 90 == 80 else []
    given += [Input(who, action="Thrust")] if tick == 350 else []
    simulation.tick(given)
    seen |= {v.state for v in simulation.fighters[0].locomotion}
print(len(seen), sorted(set(sys.modules) - before))
"""


def test_nothing_is_loaded_only_when_it_is_first_played() -> None:
    """A package that is brought in by the first step on guard is a hitch of a second."""
    done = subprocess.run([sys.executable, "-c", PLAYS, str(DEMO)], capture_output=True, text=True, check=True)
    states, _, loaded = done.stdout.partition(" ")
    assert int(states) > 6
    assert loaded.strip() == "[]"


def test_an_edit_while_a_section_fades_in_goes_on_with_what_there_is_now(quay: Project, assets: Assets) -> None:
    cuts = (Cut(clip="overhead", start=0.5, end=0.9, blend=12),)
    two = made("Two", section("staff_sweep", 0.1, name="A", then="B"), Section(name="B", cuts=cuts))
    project = alone(adding(quay, two))
    for fewer in (two.sections[:1], two.sections[1:], (*two.sections, section(name="C"))):
        simulation = Simulation(CompiledProject(project, assets))
        for tick in range(10):
            simulation.tick([Input(OSSA, action="Two")] if tick == 0 else [])
        assert simulation.fighter(OSSA).live()[0].going
        simulation.use(simulation.build.renew(with_action(project, "Two", sections=fewer)))
        for _ in range(30):
            simulation.tick()
        assert np.isfinite(simulation.fighter(OSSA).joints_now).all()
