"""A fight over a bad connection: what each saw is what counted in the end, and nothing is done twice or not at all."""

from __future__ import annotations

import json
from collections import Counter
from math import ceil
from random import Random
from typing import Any

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from tools.made import DEMO
from tools.made.bouts import given as at_random

from tests.conftest import OSSA, TARN
from veergust.cli.main import main
from veergust.core.model import Drill, DrillStep, Ending, Event, Outcome, Project, Whom
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.scripted import schedule
from veergust.core.play.simulation import Simulation
from veergust.core.play.take.record import Record
from veergust.core.rehearse.ends import key_of
from veergust.core.rehearse.hearing import heard
from veergust.core.rehearse.line import Line, Quality
from veergust.core.rehearse.rehearsal import Rehearsal, rehearse
from veergust.core.rehearse.telling import told, touches_of

DECIDES: Any = ("server", "attacker", "victim")


def lines(records: list[Record]) -> list[dict[str, Any]]:
    return [record.line() for record in records]


def drill_of(project: Project, seed: int, ticks: int) -> Drill:
    """What two do at random, near to each other, who strike in any case."""
    steps = [
        DrillStep(5, OSSA, action="Low sweep"),
        DrillStep(40, TARN, action="Thrust"),
    ]
    steps += [
        DrillStep(tick, i.fighter, command=i.command, press=i.press, axis=i.axis, value=i.value)
        for tick, row in enumerate(at_random(project, ticks, seed))
        for i in row
    ]
    return Drill(name="made", ticks=ticks, steps=tuple(steps), seed=seed)


def close(project: Project) -> Project:
    """Both played, and within reach of each other."""
    here = {OSSA: (-0.5, 0.0, 0.0), TARN: (0.5, 0.0, 0.0)}
    fighters = tuple(replace(f, position=here[f.name], plays="keys", health=900.0) for f in project.stage.fighters)
    return replace(project, stage=replace(project.stage, fighters=fighters))


@settings(max_examples=40)
@given(
    seed=st.integers(0, 999), delay=st.floats(0, 200), spread=st.floats(0, 200), loss=st.floats(0, 0.6),
    sends=st.lists(st.integers(0, 3), min_size=1, max_size=60),
)  # fmt: skip
def test_a_line_brings_everything_once_however_late(
    seed: int, delay: float, spread: float, loss: float, sends: list[int]
) -> None:
    line: Line[int] = Line(Quality(delay, spread, loss), 60, Random(seed))
    sent, got = 0, []
    for tick in range(len(sends) + 400):
        many = sends[tick] if tick < len(sends) else 0
        line.send(tick, range(sent, sent + many))
        sent += many
        new = line.arrived(tick)
        assert new == sorted(new)
        got += new
    assert sorted(got) == list(range(sent))


def test_over_an_even_line_each_comes_as_late_as_the_line_is() -> None:
    line: Line[int] = Line(Quality(delay=50.0), 60, Random(1))
    came: dict[int, int] = {}
    for tick in range(20):
        line.send(tick, range(3 * tick, 3 * tick + 3))
        came |= dict.fromkeys(line.arrived(tick), tick)
    assert {tick - message // 3 for message, tick in came.items()} == {3}
    assert sorted(came) == list(range(3 * 17))


@pytest.mark.parametrize("decides", DECIDES)
def test_over_no_line_at_all_all_three_see_the_same_on_every_tick(quay: Project, assets: Assets, decides: Any) -> None:
    """As the plain play-out of the same inputs does, whoever decides."""
    build = CompiledProject(close(quay), assets)
    drill = drill_of(build.project, 4, 90)
    made = rehearse(build, drill, Quality(), decides)
    plain = Simulation(build, drill.seed)
    rows = schedule(drill.steps)
    there = lines([plain.tick(rows.get(t, [])) for t in range(made.ticks)])
    assert lines(made.records) == there
    assert any(row["contacts"] for row in there)
    for player in made.players:
        assert lines(player.shown) == there
    found = told(made, decides)
    assert (found["differ"], found["pulled_back"]) == ([], 0.0)
    assert found["touches"]["seen"] == found["touches"]["counted"] > 0


def test_every_drill_is_the_same_over_no_line(quay: Project, assets: Assets) -> None:
    for n, drill in enumerate(quay.drills[:6]):
        made = rehearse(CompiledProject(quay, assets), drill, Quality(), DECIDES[n % 3])
        for player in made.players:
            assert lines(player.shown) == lines(made.records), drill.name


@settings(max_examples=5)
@given(
    seed=st.integers(0, 99), delay=st.sampled_from([20.0, 60.0, 110.0]), spread=st.sampled_from([0.0, 30.0]),
    loss=st.sampled_from([0.0, 0.2]), decides=st.sampled_from(DECIDES), held_back=st.sampled_from([0, 3]),
)  # fmt: skip
def test_over_any_line_the_others_come_to_agree_and_nothing_is_done_twice(
    quay: Project, assets: Assets, seed: int, delay: float, spread: float, loss: float, decides: Any, held_back: int
) -> None:
    build = CompiledProject(close(quay), assets)
    drill = drill_of(build.project, seed, 60)
    made = rehearse(build, drill, Quality(delay, spread, loss), decides, seed, held_back=held_back)
    counted = lines(made.records)
    for player in made.players:
        # What it was told of is what counted, to the last; and that is all of the drill soon after it.
        assert lines(player.known) == counted[: len(player.known)]
        assert len(player.known) >= drill.ticks
        assert len(player.shown) == made.ticks
        if loss == 0.0:
            # Once all is quiet, what is guessed of what is not known yet is what counts.
            assert player.shown[-1].line() == counted[-1]
    _inputs_are_taken_once(made, drill)
    touches = [key_of(c) for record in made.records for c in record.contacts if c.result != "evaded"]
    if decides == "server":
        plain = Simulation(build, drill.seed)
        there = made.players[0].relayed
        assert (
            lines([plain.tick(there[t].inputs) for t in range(len(made.players[0].known))])
            == counted[: len(made.players[0].known)]
        )
    else:
        assert len(touches) == len(set(touches)), "each that was decided at an end counts once"
        asked = set().union(*(p.asked for p in made.players))
        late = {key for p in made.players for key in p.pending}
        assert asked - late <= set(touches_of(made.records))


def _inputs_are_taken_once(made: Rehearsal, drill: Drill) -> None:
    """What each did is relayed once, in the order it was done, and no sooner than it was meant."""
    for player in made.players:
        rows = [(tick, g) for tick, one in player.relayed.items() for g in one.done if g.given.fighter == player.name]
        numbers = [g.number for _, g in sorted(rows, key=lambda row: row[0])]
        assert sorted(numbers) == sorted(set(numbers))
        assert {g.number for g in player.done if g.tick < drill.ticks} <= set(numbers)
        assert all(tick >= g.tick for tick, g in rows)


def test_a_delay_is_seen_and_holding_back_by_as_much_takes_it_away(quay: Project, assets: Assets) -> None:
    build = CompiledProject(close(quay), assets)
    drill = Drill(name="one", ticks=60, steps=(DrillStep(10, OSSA, action="Low sweep"),))
    late = told(rehearse(build, drill, Quality(delay=100.0)), "server")
    own = [row for row in late["differ"] if row["end"] == "a" and row["what"] == "action"]
    assert [(row["from"], row["to"]) for row in own] == [(10, 16)], "six frames before it counted it was seen"
    assert "plays Low sweep; what counted: it is in idle" in own[0]["says"]
    calm = rehearse(build, drill, Quality(delay=100.0), held_back=6)
    assert calm.players[0].corrections == []
    sure = rehearse(build, drill, Quality(delay=100.0), waits=True)
    behind = [t - r.tick for t, r in enumerate(sure.players[0].shown) if r.tick >= 0]
    assert set(behind) == {6}, "who waits sees what counted, six frames late"


def test_what_the_attacker_saw_counts_where_the_attacker_decides(quay: Project, assets: Assets) -> None:
    """Somebody walks out of a sweep's reach in time on the server, and not on the attacker's screen."""
    near = close(quay)
    first, other = near.stage.fighters
    stage = replace(near.stage, fighters=(first, replace(other, position=(0.9, 0.0, 0.0))))
    build = CompiledProject(replace(near, stage=stage), assets)
    steps = (DrillStep(10, OSSA, action="Low sweep"), DrillStep(0, TARN, axis="move", value=(1.0, 0.0)))
    kinds = {}
    for decides in DECIDES:
        made = rehearse(build, Drill(name="out", ticks=60, steps=steps), Quality(delay=150.0), decides)
        own = next(p for p in made.players if p.name == OSSA)
        kinds[decides] = bool(touches_of(own.shown)), bool(touches_of(made.records))
    assert kinds["attacker"][0] == kinds["attacker"][1]
    assert kinds["server"][1] is False


@pytest.mark.parametrize("delay", [30.0, 120.0])
@pytest.mark.parametrize("decides", ["attacker", "victim"])
def test_a_touch_takes_its_damage_once_on_every_screen(
    quay: Project, assets: Assets, decides: Any, delay: float
) -> None:
    build = CompiledProject(close(quay), assets)
    drill = Drill(name="one", ticks=60, steps=(DrillStep(10, OSSA, action="Low sweep"),))
    made = rehearse(build, drill, Quality(delay, spread=20.0), decides)
    (strike,) = build.project.actions[0].sections[1].strikes
    for records in (made.records, *(p.shown for p in made.players)):
        taken = {900.0 - r.fighter(TARN).health for r in records}
        assert taken == {0.0, strike.damage}


def test_the_command_says_both_and_refuses_what_is_no_line(capsys: pytest.CaptureFixture[str]) -> None:
    words = ["rehearse", str(DEMO), "--drill", "Sweep touches", "--delay", "80", "--loss", "0.1", "--json"]
    with pytest.raises(SystemExit) as end:
        main(words)
    assert end.value.code == 0
    found = json.loads(capsys.readouterr().out)
    assert set(found) == {"ticks", "ends", "differ", "events", "touches", "dodges", "pulled_back"}
    assert found["ends"] == {"a": OSSA, "b": TARN, "decider": "server"}
    assert {"from", "to", "end", "what", "says"} == set(found["differ"][0])
    with pytest.raises(SystemExit):
        main(words)
    assert json.loads(capsys.readouterr().out) == found, "the same seed, the same line"
    with pytest.raises(SystemExit):
        main(["rehearse", str(DEMO), "--drill", "Sweep touches", "--map", "--delay", "5"])
    assert "give one of the two" in capsys.readouterr().err
    for more, says in (
        (["--drill", "none"], "there is no drill 'none'"),
        (["--loss", "1"], "'--loss'"),
        (["--delay", "-3"], "'--delay'"),
    ):
        with pytest.raises(SystemExit) as end:
            main([*words, *more])
        assert end.value.code == 2
        assert says in capsys.readouterr().err


WHOM: tuple[Whom, ...] = ("everyone", "owner", "decider")


@settings(max_examples=6)
@given(
    seed=st.integers(0, 99), delay=st.sampled_from([0.0, 50.0, 110.0]), loss=st.sampled_from([0.0, 0.2]),
    decides=st.sampled_from(DECIDES), waits=st.booleans(),
)  # fmt: skip
@example(seed=4, delay=110.0, loss=0.0, decides="server", waits=False)
def test_an_event_is_told_once_on_every_screen_that_it_is_for_and_on_no_other(
    quay: Project, assets: Assets, seed: int, delay: float, loss: float, decides: Any, waits: bool
) -> None:
    """Events of two frames and of frame 0, over sections and laps, on both fighters; a strike lets another go off."""
    events = tuple(Event(tick=t, name=whom, whom=whom) for whom in WHOM for t in (0, 2))
    project = close(quay)
    runs = tuple(Outcome(when=when, name="everyone") for when in ("opens", "hit", "missed"))
    actions = [
        replace(a, sections=tuple(
            replace(s, events=events, strikes=tuple(replace(k, runs=runs) for k in s.strikes)) for s in a.sections
        ))
        for a in project.actions
    ]  # fmt: skip
    actions = [replace(a, on_start=Ending(message="everyone")) for a in actions]
    # The first of its sections goes round until something ends it.
    actions = [
        replace(a, sections=(replace(a.sections[0], then=a.sections[0].name, exits=()), *a.sections[1:]))
        if a.name == "Thrust" else a for a in actions
    ]  # fmt: skip
    build = CompiledProject(replace(project, actions=tuple(actions)), assets)
    made = rehearse(build, drill_of(build.project, seed, 60), Quality(delay, 0.0, loss), decides, waits=waits)
    for player in made.players:
        # Of what it knows by now.
        known = made.records[: len(player.known)]
        counted = Counter((e.fighter, e.name) for r in known for e in r.events if e.name in WHOM)
        assert min(counted[OSSA, "everyone"], counted[TARN, "everyone"]) > 3
        rows = [row for row in heard(player, made.records) if row.which.name in WHOM]
        wanted = {key: n for key, n in counted.items() if key[1] == "everyone" or key == (player.name, "owner")}
        came = Counter((r.which.fighter, r.which.name) for r in rows if r.due is not None and r.due < len(known))
        assert came == wanted, "nothing is left out"
        assert len({r.which for r in rows}) == len(rows), "and nothing comes twice"
        assert all(r.which.name == "everyone" or r.which.fighter == player.name for r in rows)
        # What nothing tells from others of its name is not told on a guess.
        alike = [r for r in rows if r.which.kind == "message"]
        assert alike
        assert all(r.due is not None and r.late >= 0 for r in alike)
        others = [r.late for r in rows if r.which.fighter != player.name and r.due is not None]
        # What the other begins is nobody's to guess before the line has brought it.
        assert max(others) >= ceil(delay / 1000 * 60)
    if not delay and not loss:
        assert {r.late for p in made.players for r in heard(p, made.records)} == {0}


def test_what_is_late_and_what_never_was_is_said_of_each_screen(quay: Project, assets: Assets) -> None:
    """What the other does in the frames that the line takes is as late as the news of it, one's own is there before it
    counts, and what was guessed of a blow that does not come to it was told all the same."""
    early = (Event(tick=2, name="dust"), Event(tick=5, name="whoosh_low"))
    project = close(quay)
    actions = tuple(
        replace(a, sections=(replace(a.sections[0], events=early), *a.sections[1:])) for a in project.actions
    )
    build = CompiledProject(replace(project, actions=actions), assets)
    steps = (DrillStep(10, TARN, action="Thrust"), DrillStep(28, OSSA, action="Overhead hook"))
    made = rehearse(build, Drill(name="two", ticks=60, steps=steps), Quality(100.0))
    found = told(made, "server")
    rows = [(row["end"], row["says"]) for row in found["differ"] if row["what"] == "event"]
    # It counts from tick 16 on, and is known there on 22: what was due on 18 and 21 is told then, late by 4 and by 1.
    assert ("b", f"on {OSSA}'s screen dust of {TARN} on 22, 4 f after it counted") in rows
    assert ("b", f"on {OSSA}'s screen whoosh_low of {TARN} on 22, 1 f after it counted") in rows
    # One's own was there at once, six frames before it counted.
    assert ("a", f"on {TARN}'s screen dust of {TARN} on 12, 6 f before it counted") in rows
    never = [(end, says) for end, says in rows if "it never happened" in says]
    assert never == [("a", f"on {TARN}'s screen dust of {OSSA} on 37; it never happened")]
    assert [found["events"][end]["never_were"] for end in ("a", "b")] == [1, 0]
    assert found["events"]["b"]["late"] == sum("after it counted" in says for end, says in rows if end == "b") > 1
