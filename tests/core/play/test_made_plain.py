"""What was played differently somewhere, each rule by itself; the page has them under the same names."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from tools.made.edits import replace, section

from tests.conftest import OSSA, TARN
from tests.core.play.test_rules import BALL, blow, made, opposite, plays, run
from veergust.core.kinds.conditions.kind import ENDINGS
from veergust.core.model import (
    Action,
    Command,
    Condition,
    Cut,
    Drill,
    Drive,
    Ending,
    Event,
    Exit,
    Expectation,
    Fighter,
    Floor,
    Gate,
    Group,
    Hold,
    Layer,
    Parameter,
    Pool,
    PoolItem,
    Project,
    Reaction,
    Section,
    Setting,
    Speaks,
    StartRule,
    State,
    Strike,
    Transition,
)
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact.contact import Contact
from veergust.core.play.flow.pick import counts
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.play.take.drills import run_drill
from veergust.core.study.advantage import advantage
from veergust.core.study.facts import facts
from veergust.core.study.playout import play_out


def quiet(quay: Project, **fields: Any) -> Project:
    """The demo without its actions and reactions."""
    return replace(quay, actions=(), reactions=(), **fields)


def struck(result: str, at: int, strike: Strike, who: str = OSSA, whom: str = TARN) -> Any:
    """A touch that is put in on a tick, whatever the bodies do."""

    def touch(simulation: Simulation) -> list[Contact]:
        live = simulation.fighter(who).live()
        if simulation.now != at or not live:
            return []
        damage = strike.damage if result == "hit" else 0.0
        return [Contact(strike, who, whom, "", result, np.zeros(3), damage, (0, 0), serial=live[-1].serial)]

    return touch


# Covers


@pytest.mark.parametrize("blend_out", [0, 8, 20])
def test_what_has_ended_covers_nobodys_deeds(quay: Project, assets: Assets, blend_out: int) -> None:
    """Out of an ending on the layer above: events of frames 0 to 3 fire, and a strike opens on its frame."""
    events = tuple(Event(tick=t, name=f"at {t}", kind="message") for t in range(6))
    strike = Strike(start=2, end=5, boxes=(BALL,), hit_stop=0)
    low = made("Low", section("idle", 0.5, events=events, strikes=(strike,)), start=StartRule(commands=("heavy",)))
    high = made("High", section("idle", 0.2), layer="Over", blend_out=blend_out)
    project = opposite(quiet(quay), low, high)
    project = replace(project, layers=(Layer(name="Body"), Layer(name="Over", under="waits")))
    records = run(project, assets, {0: [Input(OSSA, action="High")], 10: [Input(OSSA, "heavy")]}, 30)
    began = next(r.tick for r in records if ("Low", "One", 0) in plays(r))
    assert began == 12
    told = {e.name: r.tick - began for r in records for e in r.events if e.name.startswith("at ")}
    assert told == {f"at {t}": t for t in range(6)}
    opened = [r.tick - began for r in records for e in r.events if e.kind == "begin" and "strike" in e.name]
    assert opened == [2]


@pytest.mark.parametrize("blend_in", [0, 6])
def test_what_waits_under_a_cover_loses_no_event_and_no_tick(quay: Project, assets: Assets, blend_in: int) -> None:
    """A cover over ticks 10 to 21: each event of what waits fires once, and it goes on on the tick the cover ends."""
    events = tuple(Event(tick=t, name=f"at {t}", kind="message") for t in range(30))
    low = made("Low", section("idle", 0.5, events=events))
    high = replace(
        made("High", section("idle", 0.2), layer="Over", start=StartRule(commands=("heavy",))), blend_in=blend_in
    )
    project = opposite(quiet(quay), low, high)
    project = replace(project, layers=(Layer(name="Body", covered="waits"), Layer(name="Over")))
    records = run(project, assets, {0: [Input(OSSA, action="Low")], 10: [Input(OSSA, "heavy")]}, 50)
    frames = [next((f for n, _, f in plays(r) if n == "Low"), None) for r in records]
    assert frames[9:11] == [9, 10]
    assert frames[10:23] == [10] * 13
    assert frames[22:25] == [10, 11, 12]
    told = [(e.name, r.tick) for r in records for e in r.events if e.name.startswith("at ")]
    assert [name for name, _ in told] == [f"at {t}" for t in range(30)]
    assert dict(told)["at 10"] == 22


def covered(quay: Project, low: Action, lasts: float = 0.2) -> Project:
    """One who plays ``low`` on a layer that waits while "High" lasts above it for all joints."""
    high = made("High", section("idle", lasts), layer="Over", start=StartRule(commands=("heavy",)))
    project = opposite(quiet(quay), low, high)
    return replace(project, layers=(Layer(name="Body", covered="waits"), Layer(name="Over", under="both play")))


def test_what_waits_holds_no_setting(quay: Project, assets: Assets) -> None:
    low = replace(
        made("Low", section("idle", 0.5, holds=(Hold(start=0, end=30, setting="gravity", value=0.25),))),
        holds=(Setting(setting="jump", value=0.0),),
    )
    simulation = Simulation(CompiledProject(covered(quay, low), assets), posed=False)
    script = {0: [Input(OSSA, action="Low")], 5: [Input(OSSA, "heavy")]}
    held = [dict(simulation.tick(script.get(t, [])).fighter(OSSA).holding()) for t in range(24)]
    own = {"jump": 0.0, "gravity": 0.25}
    assert held == [own] * 5 + [{}] * 12 + [own] * 7


def test_gates_of_a_first_frame_are_asked_on_the_tick_the_cover_ends(quay: Project, assets: Assets) -> None:
    """What starts under a cover waits at once, and looks at its first frame when it comes out."""
    asked = Condition(test="pressed", name="dodge")
    gate = Gate(start=0, end=1, to="Two", conditions=(asked,))
    sections = section("idle", 0.3, gates=(gate,)), section("idle", 0.3, name="Two")
    low = made("Low", *sections, start=StartRule(commands=("light",)))
    presses = {0: [Input(OSSA, "heavy")], 4: [Input(OSSA, "light")], 12: [Input(OSSA, "dodge")]}
    records = run(covered(quay, low), assets, presses, 16)
    seen = [next(((part, f) for n, part, f in plays(r) if n == "Low"), None) for r in records]
    assert seen[4:13] == [("One", 0)] * 9
    assert seen[13:15] == [("Two", 0), ("Two", 1)]


# Endings


@pytest.mark.parametrize("how", ENDINGS)
def test_locomotion_sees_every_ending_once(quay: Project, assets: Assets, how: str) -> None:
    """Completed, left for another, broken by a hit, or out of scope: a transition that asks for it is taken, once."""
    asked = Condition(test="has_ended", name=how)
    states = (State(name="idle", clip="idle"), State(name="told", clip="idle"), State(name="off", clip="idle"))
    transitions = (
        Transition(start="idle", to="told", conditions=(asked,)),
        Transition(start="off", to="told", conditions=(asked,)),
        Transition(start="told", to="idle", conditions=(asked,)),
        Transition(start="idle", to="off", conditions=(Condition(test="pressed", name="light"),)),
    )
    locomotion = replace(quay.locomotion, entry="idle", states=states, groups=(), transitions=transitions)
    leave = Exit(start=2, end=60, kind="cancel", command="heavy", to="Other")
    me = made("Mine", section("idle", 0.2 if how == "completed" else 1.0, exits=(leave,)))
    project = opposite(quiet(quay, locomotion=locomotion), me, made("Other", section("idle", 1.0)), blow())
    scope = (Speaks(state="off", rule="fades"),)
    project = replace(project, layers=(Layer(name="Body", scope=scope),))
    press = {"cancelled": "heavy", "out of scope": "light"}.get(how)
    script = {0: [Input(OSSA, action="Mine")]}
    if press:
        script[8] = [Input(OSSA, press)]
    if how == "broken":
        script[0].append(Input(TARN, action="Blow"))
        project = replace(project, reactions=(Reaction(action="Other"),))
    simulation = Simulation(CompiledProject(project, assets), touches=struck("hit", 9, blow().sections[0].strikes[0], TARN, OSSA)
                            if how == "broken" else lambda s: [], posed=False)  # fmt: skip
    taken: list[int] = []
    for t in range(30):
        fighter = simulation.tick(script.get(t, [])).fighter(OSSA)
        if fighter.locomotion[-1].state == "told" and not taken:
            taken.append(t)
        elif taken and t < taken[0] + 12:
            assert fighter.locomotion[-1].state == "told"
    assert len(taken) == 1


def test_an_action_that_its_state_ran_is_told_as_cancelled(quay: Project, assets: Assets) -> None:
    states = (
        State(name="idle", clip="idle"),
        State(name="runs", clip="idle", action="Run"),
        State(name="told", clip="idle"),
    )
    transitions = (
        Transition(start="idle", to="runs", conditions=(Condition(test="pressed", name="light"),)),
        Transition(start="runs", to="idle", conditions=(Condition(test="pressed", name="heavy"),)),
        Transition(start="idle", to="told", conditions=(Condition(test="has_ended", name="cancelled"),)),
    )
    locomotion = replace(quay.locomotion, entry="idle", states=states, groups=(), transitions=transitions)
    project = opposite(quiet(quay, locomotion=locomotion), made("Run", section("idle", 2.0)))
    project = replace(project, layers=(Layer(name="Body"),))
    records = run(project, assets, {3: [Input(OSSA, "light")], 9: [Input(OSSA, "heavy")]}, 14)
    assert [r.fighter(OSSA).locomotion[-1].state for r in records[8:12]] == ["runs", "idle", "told", "told"]


# Reactions


@pytest.mark.parametrize("up", [0.0, 6.0])
def test_the_row_is_chosen_by_how_the_victim_stood(quay: Project, assets: Assets, up: float) -> None:
    rows = (Reaction(situation="air", action="Aloft"), Reaction(situation="standing", action="Stood"))
    strike = Strike(start=3, end=6, boxes=(BALL,), knockback=(0, up, 2.0), hit_stop=3)
    project = opposite(quiet(quay), made("Blow", section("idle", 0.5, strikes=(strike,))), made("Aloft"), made("Stood"),
                       reactions=rows)  # fmt: skip
    records = run(project, assets, {0: [Input(OSSA, action="Blow")]}, 20)
    names = {name for r in records for name, _, _ in plays(r, TARN)}
    assert names == {"Stood"}
    assert any(not r.fighter(TARN).grounded for r in records) == (up > 0.0)


# Strings


def test_a_string_is_remembered_on_each_layer_by_itself(quay: Project, assets: Assets) -> None:
    """An action of the arms in between does not make the body's string start over."""
    on = Exit(start=0, end=12, kind="combo", command="light", to="Two")
    one = made("One", section("idle", 0.2, exits=(on,)), start=StartRule(commands=("light",), string_memory=40))
    arm = made("Arm", section("idle", 0.1), layer="Arms", start=StartRule(commands=("heavy",)))
    project = opposite(quiet(quay), one, made("Two"), arm)
    project = replace(project, layers=(Layer(name="Body"), Layer(name="Arms", mask="upper body")))
    for between in (False, True):
        script = {0: [Input(OSSA, "light")], 34: [Input(OSSA, "light")]}
        if between:
            script[20] = [Input(OSSA, "heavy")]
        records = run(project, assets, script, 36)
        assert plays(records[34])[0][0] == "Two"


# Chosen among what is ready


@pytest.mark.parametrize("kind", ["tag", "pool"])
def test_what_is_not_ready_by_its_conditions_is_not_chosen(quay: Project, assets: Assets, kind: str) -> None:
    never = StartRule(conditions=(Condition(test="on_floor", value=0.0),))
    on = Exit(start=0, end=90, kind="cancel", command="light", to="quick", to_kind=kind)  # type: ignore[arg-type]
    aloft, stood = made("Aloft", tags=("quick",), start=never), made("Stood", tags=("quick",))
    pool = Pool(name="quick", items=(PoolItem(name="Aloft", weight=9.0), PoolItem(name="Stood")))
    project = replace(
        opposite(quiet(quay), made("Root", section("idle", 1.5, exits=(on,))), aloft, stood), pools=(pool,)
    )
    for seed in range(6):
        simulation = Simulation(CompiledProject(project, assets), seed, posed=False)
        simulation.tick([Input(OSSA, action="Root")])
        simulation.tick()
        assert plays(simulation.tick([Input(OSSA, "light")]))[0][0] == "Stood"


@pytest.mark.parametrize("apart", [1, 3, 9, 11])
def test_a_pool_keeps_its_picks_apart_by_as_many_as_it_says(apart: int) -> None:
    from veergust.core.play.flow.pick import pick

    pool = Pool(name="p", apart=apart, items=tuple(PoolItem(name=str(n)) for n in range(12)))
    rng = np.random.default_rng(2)
    picks: list[str] = []
    recent: tuple[str, ...] = ()
    for _ in range(200):
        name = pick(pool, [i.name for i in pool.items], recent, float(rng.random()))
        assert name is not None
        picks.append(name)
        recent = (*recent, name)[-apart:]
    for n, name in enumerate(picks):
        assert name not in picks[max(n - apart, 0) : n]
    assert sum(counts(pool, 120).values()) == 120


def test_a_fighters_pool_remembers_as_far_back_as_it_says(quay: Project, assets: Assets) -> None:
    names = [str(n) for n in range(12)]
    pool = Pool(name="steps", apart=11, items=tuple(PoolItem(name=n) for n in names))
    sections = tuple(section("idle", 0.05, name=n, then="steps") for n in names)
    project = replace(opposite(quiet(quay), made("Walks", *sections)), pools=(pool,))
    records = run(project, assets, {0: [Input(OSSA, action="Walks")]}, 120)
    shown = [plays(r)[0][1] for r in records if plays(r)[0][2] == 0]
    for n in range(12, len(shown)):
        assert shown[n] not in shown[n - 11 : n]


# Locomotion


def test_a_group_is_left_before_it_is_entered_where_it_was_left(quay: Project, assets: Assets) -> None:
    states = tuple(State(name=n, clip="idle", group=g) for n, g in (("out", ""), ("a", "G"), ("b", "G")))
    ask = {n: (Condition(test="pressed", name=n),) for n in ("light", "heavy", "roll")}
    transitions = (
        Transition(start="out", to="G", conditions=ask["light"]),
        Transition(start="a", to="b", conditions=ask["heavy"]),
        Transition(start="G", to="G", conditions=ask["roll"]),
    )
    groups = (Group(name="G", enters="last", default="a"),)
    locomotion = replace(quay.locomotion, entry="out", states=states, groups=groups, transitions=transitions)
    commands = tuple(Command(name=n) for n in ask)
    project = opposite(quiet(quay, locomotion=locomotion, commands=commands))
    script = {t: [Input(OSSA, c)] for t, c in ((2, "light"), (6, "heavy"), (10, "roll"))}
    records = run(project, assets, script, 14)
    assert [records[t].fighter(OSSA).locomotion[-1].state for t in (1, 3, 7, 11)] == ["out", "a", "b", "b"]


@pytest.mark.parametrize("kind", ["cancel", "break"])
@pytest.mark.parametrize("moving", [0.0, 1.0])
def test_a_jump_out_of_an_action_is_seen_to_rise(quay: Project, assets: Assets, kind: str, moving: float) -> None:
    """By a cancel on the jump's command to the ground, or a break on its press: it jumps on that tick, and rises."""
    jump = quay.locomotion.jump.command
    leave = Exit(start=0, end=90, kind="cancel", command=jump, to_kind="ground")
    if kind == "break":
        leave = Exit(
            start=0, end=90, kind="break", to_kind="ground", conditions=(Condition(test="pressed", name=jump),)
        )
    project = opposite(quiet(quay), made("Long", section("idle", 1.5, exits=(leave,))))
    project = replace(project, stage=replace(project.stage, fighters=project.stage.fighters[:1]))
    script = {0: [Input(OSSA, action="Long"), Input(OSSA, axis="move", value=(moving, 0.0))], 20: [Input(OSSA, jump)]}
    records = run(project, assets, script, 40)
    assert not plays(records[20])
    assert [r.fighter(OSSA).locomotion[-1].state for r in records[20:26]] == ["rise"] * 6
    assert all(r.fighter(OSSA).velocity[1] > 0.0 for r in records[20:26])


def test_a_jump_is_seen_though_another_transition_comes_first(quay: Project, assets: Assets) -> None:
    """A state's own action is broken by the jump, so that the state is left; the rise is entered on the next tick."""
    jump = quay.locomotion.jump.command
    leave = Exit(start=0, end=90, kind="break", to_kind="ground", conditions=(Condition(test="pressed", name=jump),))
    states = (State(name="idle", clip="idle"), State(name="runs", clip="idle", action="Run"),
              State(name="fall", clip="idle", group="Air"), State(name="rise", clip="idle", group="Air"))  # fmt: skip
    transitions = (
        Transition(start="idle", to="runs", conditions=(Condition(test="pressed", name="light"),)),
        Transition(start="runs", to="idle", conditions=(Condition(test="section_ended"),)),
        Transition(start="*", to="rise", conditions=(Condition(test="jumped"),)),
        Transition(start="rise", to="fall", conditions=(Condition(test="rising", op="<", value=0.0),)),
        Transition(start="*", to="Air", conditions=(Condition(test="on_floor", value=0.0),)),
        Transition(start="Air", to="idle", conditions=(Condition(test="on_floor"),)),
    )
    locomotion = replace(
        quay.locomotion,
        entry="idle",
        states=states,
        groups=(Group(name="Air", default="fall"),),
        transitions=transitions,
    )
    project = opposite(quiet(quay, locomotion=locomotion), made("Run", section("idle", 2.0, exits=(leave,))))
    records = run(
        replace(project, layers=(Layer(name="Body"),)), assets, {3: [Input(OSSA, "light")], 9: [Input(OSSA, jump)]}, 70
    )
    shown = [r.fighter(OSSA).locomotion[-1].state for r in records]
    assert shown[8:12] == ["runs", "idle", "rise", "rise"]
    # It rises once; having landed it stands.
    assert [s for n, s in enumerate(shown[8:]) if s != shown[7 + n]] == ["idle", "rise", "fall", "idle"]


def test_decisions_look_at_where_everybody_was_whoever_stands_first(quay: Project, assets: Assets) -> None:
    """Two who run at each other and strike at a distance strike on the same tick, in whatever order they are listed."""
    near = StartRule(commands=("light",), conditions=(Condition(test="distance", op="<", value=3.0),))
    project = opposite(quiet(quay), made("Near", start=near))
    fighters = (
        Fighter(name=OSSA, position=(0.0, 0.0, 0.0), facing=0.0, plays="keys"),
        Fighter(name=TARN, position=(0.0, 0.0, 6.0), facing=180.0, plays="keys"),
    )
    seen = []
    apart = [(order, 6.0 + 0.0137 * n) for n in range(12) for order in (1, -1)]
    for order, far in apart:
        placed = (fighters[0], replace(fighters[1], position=(0.0, 0.0, far)))[::order]
        there = replace(project, stage=replace(project.stage, fighters=placed))
        simulation = Simulation(CompiledProject(there, assets), posed=False)
        sticks = [Input(OSSA, axis="move", value=(0.0, 1.0)), Input(TARN, axis="move", value=(0.0, -1.0))]
        started: dict[str, int] = {}
        for t in range(90):
            given = [Input(n, "light") for n in (OSSA, TARN)] + (sticks if t == 0 else [])
            record = simulation.tick(given)
            for name in (OSSA, TARN):
                if plays(record, name):
                    started.setdefault(name, t)
        seen.append(started)
    for one, other in zip(seen[::2], seen[1::2]):
        assert one == other
        assert one[OSSA] == one[TARN]


def test_the_way_a_body_goes_is_asked_of_the_body_under_an_action(quay: Project, assets: Assets) -> None:
    """Carried backwards by root motion it goes backwards; a gate that asks for that opens."""
    back = Gate(start=0, end=30, to="Back", conditions=(Condition(test="direction", op=">", value=90.0),))
    parts = (
        Section(name="Go", cuts=(Cut(clip="dodge_roll", end=0.5),), gates=(back,)),
        section(name="Back", seconds=0.5),
    )
    project = opposite(quiet(quay), made("Goes", *parts))
    stage = replace(project.stage, fighters=project.stage.fighters[:1])
    clips = tuple(replace(c, reverse=c.name == "dodge_roll") for c in project.clips)
    ahead, astern = replace(project, stage=stage), replace(project, stage=stage, clips=clips)
    sections = []
    for made_ in (ahead, astern):
        records = run(made_, assets, {0: [Input(OSSA, action="Goes")]}, 28)
        sections.append({s for r in records for _, s, _ in plays(r)})
    assert sections == [{"Go"}, {"Go", "Back"}]


def test_turning_comes_back_with_locomotion(quay: Project, assets: Assets) -> None:
    """The stick is held to a side through an action of the whole body: after it the body turns ever faster, not at once."""
    long_ = replace(made("Long", section("idle", 0.5)), blend_out=10)
    project = opposite(quiet(quay), long_)
    project = replace(
        project, layers=(Layer(name="Body"),), stage=replace(project.stage, fighters=project.stage.fighters[:1])
    )
    script = {0: [Input(OSSA, action="Long")], 5: [Input(OSSA, axis="move", value=(1.0, 0.0))]}
    records = run(project, assets, script, 50)
    ended = next(t for t, r in enumerate(records) if t and not plays(r))
    turned = np.abs(np.diff([r.fighter(OSSA).facing for r in records]))
    most = quay.locomotion.turn_rate / 60.0
    assert turned[:ended].max(initial=0.0) < 1e-9
    assert turned[ended - 1] < 0.1 * most
    assert turned[ended + 3] > turned[ended + 1]
    assert records[-1].fighter(OSSA).facing == pytest.approx(90.0, abs=1.0)


# Hit stop, falling, drills


def test_what_is_asked_for_by_name_in_hit_stop_starts_after_it(quay: Project, assets: Assets) -> None:
    strike = Strike(start=3, end=6, boxes=(BALL,), hit_stop=6, knockback=(0, 0, 0))
    project = opposite(quiet(quay), made("Blow", section("idle", 0.5, strikes=(strike,))), made("Wanted"))
    records = run(project, assets, {0: [Input(OSSA, action="Blow")], 5: [Input(OSSA, action="Wanted")]}, 14)
    assert records[5].fighter(OSSA).frozen
    assert next(r.tick for r in records if ("Wanted", "One", 0) in plays(r)) == 10


def test_who_is_killed_over_the_edge_begins_anew(quay: Project, assets: Assets) -> None:
    strike = Strike(start=3, end=6, boxes=(BALL,), hit_stop=0, knockback=(0, 3.0, 8.0), damage=500.0)
    project = opposite(quiet(quay), made("Blow", section("idle", 0.5, strikes=(strike,))), made("Fall", section("idle", 0.5)),
                       reactions=(Reaction(situation="last", action="Fall"),))  # fmt: skip
    stage = replace(project.stage, floors=(Floor(low=(-3.0, -3.0), high=(3.0, 1.4)),))
    records = run(replace(project, stage=stage), assets, {0: [Input(OSSA, action="Blow")]}, 400)
    downs = [r.fighter(TARN).down for r in records]
    back = next(t for t in range(10, 400) if downs[t - 1] and not downs[t])
    after = records[back].fighter(TARN)
    assert (after.health, after.grounded, plays(records[back], TARN)) == (100.0, True, [])
    assert after.position == pytest.approx(np.array(project.stage.fighters[1].position))
    assert not any(downs[back:])


def test_a_drills_state_is_asked_for_whatever_plays_over_it(quay: Project, assets: Assets) -> None:
    from veergust.core.model import DrillStep

    project = opposite(quiet(quay), made("Long", section("idle", 1.0)))
    step = DrillStep(tick=0, fighter=OSSA, action="Long")
    both = Expectation(fighter=OSSA, locomotion="idle", action="Long", since=5, tick=10)
    never = Expectation(fighter=OSSA, locomotion="walk", since=5, tick=10)
    drill = Drill(name="d", steps=(step,), expect=(both, never), ticks=20)
    found = run_drill(CompiledProject(project, assets), drill)
    assert found.failed == (found.expected[1],)


# Facts


def presses_act(project: Project, assets: Assets, name: str, result: str, who: str, n: int) -> int:
    """The first tick from which on every press of somebody starts something: each press is tried in a play of its own."""
    build = CompiledProject(project, assets)
    compiled = build.action(name)
    assert compiled is not None
    section_, tick = play_out(build, compiled).frames[n]
    index, strike = next(
        (i, s) for i, s in enumerate(compiled.sections[section_].section.strikes) if s.start <= tick < s.end
    )

    def touch(simulation: Simulation) -> list[Contact]:
        voice = next((v for v in simulation.fighter(OSSA).live() if v.compiled.action.name == name), None)
        if voice is None or (voice.section, voice.frame) != (section_, tick) or simulation.landed:
            return []
        simulation.landed = True
        damage = strike.damage if result == "hit" else 0.0
        return [Contact(strike, OSSA, TARN, "", result, np.zeros(3), damage, (section_, index), serial=voice.serial)]

    last = n
    for press in range(n + 1, 220):
        simulation = Simulation(build, touches=touch, posed=False)
        for t in range(press + 1):
            given = [Input(OSSA, action=name)] if t == 0 else [Input(who, "probe")] if t == press else []
            record = simulation.tick(given)
        if not any(a == "Probe" for a, _, _ in plays(record, who)):
            last = press
        elif press > last + 3:
            break
    return last + 1


@pytest.mark.parametrize("result", ["hit", "guarded"])
@pytest.mark.parametrize(
    ("stop", "reacts", "seconds"), [(0, False, 0.4), (5, False, 0.4), (5, True, 0.4), (3, True, 1.2)]
)
def test_advantage_is_the_difference_of_the_first_presses_that_act(
    quay: Project, assets: Assets, result: str, stop: int, reacts: bool, seconds: float
) -> None:
    strike = Strike(start=3, end=6, boxes=(BALL,), hit_stop=stop, knockback=(0, 0, 0), damage=1.0)
    blow_ = made("Blow", section("idle", 0.5, strikes=(strike,)))
    probe = made("Probe", section("idle", 0.1), start=StartRule(commands=("probe",)))
    rows = (Reaction(action="Reel"), Reaction(situation="guarding", action="Reel")) if reacts else ()
    project = opposite(quiet(quay), blow_, probe, made("Reel", section("idle", seconds)), reactions=rows)
    project = replace(project, commands=(Command(name="probe", buffer=1),), layers=(Layer(name="Body"),))
    build = CompiledProject(project, assets)
    compiled = build.action("Blow")
    assert compiled is not None
    for n in (3, 5):
        free = {who: presses_act(project, assets, "Blow", result, who, n) for who in (OSSA, TARN)}
        wanted = free[TARN] - free[OSSA]
        for counted in (True, False):
            found = advantage(build, compiled, play_out(build, compiled), n, result, counted=counted)
            assert found == (wanted, "")


RATES = (30, 60, 120)


@pytest.mark.parametrize("rate", RATES)
@pytest.mark.parametrize("weight", [1.0, 0.5])
@pytest.mark.parametrize("kind", ["stick", "ballistic", "none"])
@pytest.mark.parametrize("blend", [0, 9])
def test_travel_by_drives_is_that_of_play(
    quay: Project, assets: Assets, rate: int, weight: float, kind: str, blend: int
) -> None:
    """A drive after root motion and before it, also within the blend in, on a layer of half a weight, at any rate."""
    drives = tuple(Drive(start=a * rate // 60, end=b * rate // 60, kind=kind) for a, b in ((4, 12), (22, 34)))  # type: ignore[arg-type]
    parts = Section(name="One", cuts=(Cut(clip="staff_thrust", start=0.2, end=1.0),), drives=drives)
    goes = replace(made("Goes", parts), blend_in=blend)
    project = opposite(quiet(quay, settings=replace(quay.settings, rate=rate)), goes)
    stage = replace(project.stage, fighters=(Fighter(name=OSSA, facing=0.0, plays="keys"),))
    project = replace(project, layers=(Layer(name="Body", weight=weight),), stage=stage)
    build = CompiledProject(project, assets)
    simulation = Simulation(build, posed=False)
    places = []
    for t in range(400):
        fighter = simulation.tick([Input(OSSA, action="Goes")] if t == 0 else []).fighter(OSSA)
        places.append(fighter.position)
        if not fighter.live():
            break
    numbers = facts(build, "Goes", last=False)
    compiled = build.action("Goes")
    assert numbers is not None
    assert compiled is not None
    assert numbers.travel == pytest.approx(tuple(places[-1]), abs=1e-9)
    # And the sheet's way is the same, frame by frame.
    assert np.abs(compiled.way[0] - np.array(places)).max() < 1e-9
    assert np.linalg.norm(places[-1]) > 0.03


def test_facts_know_a_weight_that_the_start_sets_and_a_gate_that_asks_what_plays(quay: Project, assets: Assets) -> None:
    go = Section(name="One", cuts=(Cut(clip="staff_thrust", start=0.2, end=1.0),))
    ask = Gate(start=5, end=6, to="End", conditions=(Condition(test="plays", name="Asks"),))
    asks = made("Asks", section("idle", 0.5, name="One", gates=(ask,)), section(name="End", seconds=0.1))
    light = replace(made("Light", go, layer="Low"), on_start=Ending(parameters=(Setting(setting="much", value=0.25),)))
    parameters = (*quay.locomotion.parameters, Parameter(name="much", default=1.0))
    locomotion = replace(quay.locomotion, parameters=parameters)
    project = opposite(quiet(quay, locomotion=locomotion), asks, light)
    stage = replace(project.stage, fighters=(Fighter(name=OSSA, facing=0.0, plays="keys"),))
    project = replace(project, layers=(Layer(name="Body"), Layer(name="Low", by="much")), stage=stage)
    build = CompiledProject(project, assets)
    for name in ("Asks", "Light"):
        simulation = Simulation(build, posed=False)
        for t in range(200):
            fighter = simulation.tick([Input(OSSA, action=name)] if t == 0 else []).fighter(OSSA)
            if not fighter.live():
                break
        numbers = facts(build, name, last=False)
        assert numbers is not None
        assert numbers.total == t
        assert numbers.travel == pytest.approx(tuple(fighter.position), abs=1e-9)


@pytest.mark.parametrize("drive", [None, "none", "ballistic"])
@pytest.mark.parametrize("blend", [0, 4, 12])
def test_a_fall_that_is_blended_into_goes_on_with_what_the_body_had(
    quay: Project, assets: Assets, drive: str | None, blend: int
) -> None:
    """Over the edge a thrust breaks into a fall: the body goes on as fast as it went, down to the floor below."""
    leave = Exit(
        start=0, end=200, kind="break", to="Fall", conditions=(Condition(test="on_floor", value=0.0),), blend=blend
    )
    parts = Section(name="One", cuts=(Cut(clip="dodge_roll", start=0.1, end=0.9),), exits=(leave,))
    drives = (Drive(start=0, end=90, kind=drive),) if drive else ()  # type: ignore[arg-type]
    project = opposite(quiet(quay), made("Goes", parts), made("Fall", section("idle", 1.5, drives=drives)))
    stage = replace(
        project.stage, fighters=project.stage.fighters[:1],
        floors=(Floor(low=(-9.0, -9.0), high=(9.0, 0.9)), Floor(low=(-9.0, -9.0), high=(9.0, 40.0), height=-2.5)),
    )  # fmt: skip
    records = run(
        replace(project, layers=(Layer(name="Body"),), stage=stage), assets, {0: [Input(OSSA, action="Goes")]}, 110
    )
    fell = next(t for t, r in enumerate(records) if plays(r) and plays(r)[0][0] == "Fall")
    landed = next(t for t in range(fell, 110) if records[t].fighter(OSSA).grounded)
    steps = np.diff([r.fighter(OSSA).position[2] for r in records])
    assert landed > fell + 20
    went = steps[fell - 2]
    assert went > 0.02
    if drive == "none":
        # Whoever says that nothing drives it has it drop straight, once it has come in.
        assert np.abs(steps[fell + blend + 1 : landed - 1]).max() < 1e-9
        return
    assert steps[fell : landed - 1].min() > 0.9 * went
    # On the floor it is slowed by friction, and stops.
    assert np.diff(steps[landed + 1 : landed + 6]).min() > -9.0 / 60.0 / 60.0 * 1.01
    assert abs(steps[-1]) < 1e-6
