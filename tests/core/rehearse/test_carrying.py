"""How far a drill carries over lines of many delays, and how many frames are left to answer an attack."""

from __future__ import annotations

import json
from concurrent.futures import ProcessPoolExecutor
from typing import Any

import pytest
from msgspec.structs import replace
from tools.made import DEMO

from tests.conftest import OSSA, TARN
from tests.core.rehearse.test_rehearsal import close
from veergust.cli.main import main
from veergust.core.model import Drill, DrillStep, Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.play.take.record import Record
from veergust.core.rehearse.carrying import LineWay, OverLine, advice, carried, in_json, left_to_answer, of_take, pair
from veergust.core.rehearse.line import Quality
from veergust.core.rehearse.rehearsal import rehearse
from veergust.core.rehearse.telling import told
from veergust.core.study import many
from veergust.core.study.facts import facts
from veergust.core.trouble import Trouble


def starts(records: list[Record], who: str, action: str) -> int | None:
    """The first tick on which somebody plays an action."""
    return next((t for t, r in enumerate(records) if action in r.fighter(who).playing()), None)


@pytest.mark.parametrize(("delay", "held_back"), [(60.0, 0), (16.0, 4)])
def test_so_many_frames_are_left_as_answers_that_counted_in_time(
    quay: Project, assets: Assets, delay: float, held_back: int
) -> None:
    """Every frame on which the other could answer is tried, from the first on which it is shown the attack until
    answers are too late."""
    build = CompiledProject(close(quay), assets)
    found = facts(build, "Thrust")
    assert found is not None
    assert found.startup is not None

    def play(*more: DrillStep) -> Any:
        steps = (DrillStep(10, OSSA, action="Thrust"), *more)
        return rehearse(build, Drill(name="one", ticks=28, steps=steps), Quality(delay), held_back=held_back)

    plain = play()
    begun = starts(plain.records, OSSA, "Thrust")
    seen = starts(next(p for p in plain.players if p.name == TARN).shown, OSSA, "Thrust")
    assert begun is not None
    assert seen is not None
    in_time, late = 0, 0
    while late < 2:
        made = play(DrillStep(seen + in_time + late, TARN, action="Duck roll"))
        answered = starts(made.records, TARN, "Duck roll")
        if answered is not None and answered < begun + found.startup:
            assert late == 0
            in_time += 1
        else:
            late += 1
    assert in_time == max(left_to_answer(found.startup, delay, 60, held_back), 0)


def test_over_many_lines_it_is_what_each_rehearsal_says(quay: Project, assets: Assets) -> None:
    build = CompiledProject(close(quay), assets)
    steps = (DrillStep(10, OSSA, action="Low sweep"), DrillStep(0, TARN, axis="move", value=(1.0, 0.0)))
    drill = Drill(name="out", ticks=26, steps=steps)
    rows = list(carried(build, drill, (0.0, 100.0), (0.0, 0.3), LineWay("victim", spread=0.0)))
    assert [(r.delay, r.loss) for r in rows] == [(0.0, 0.0), (0.0, 0.3), (100.0, 0.0), (100.0, 0.3)]
    for row in rows:
        tries = 4 if row.loss else 1
        said = [told(rehearse(build, drill, Quality(row.delay, 0.0, row.loss), "victim", n + 1), "victim")
                for n in range(tries)]  # fmt: skip
        for what in ("touches", "dodges"):
            seen, counted = getattr(row, what)
            assert (seen, counted) == (sum(s[what]["seen"] for s in said), sum(s[what]["counted"] for s in said))
        assert row.pulled_back == pytest.approx(sum(s["pulled_back"] for s in said) / tries, abs=1e-6)
    assert rows[0].touches[0] == rows[0].touches[1]
    plain = in_json(rows)
    assert plain[2]["touches"] == {"seen": rows[2].touches[0], "counted": rows[2].touches[1]}


def test_what_follows_is_said_from_the_first_delay_on_which_it_holds(quay: Project, assets: Assets) -> None:
    build = CompiledProject(close(quay), assets)
    drill = Drill(name="one", ticks=50, steps=(DrillStep(10, OSSA, command="light"),))
    found = facts(build, "Low sweep")
    assert found is not None
    assert found.startup == 9
    rows = [OverLine(d, 0.0, (4, 4 if d < 80 else 1), (0, 0), 0.0) for d in (0.0, 40.0, 80.0, 120.0)]
    rows.append(OverLine(0.0, 0.2, (4, 0), (0, 0), 0.0))
    first, second = advice(build, drill, rows)
    assert first == "From 80 ms on, not all touches that are seen count: 3 of 4 do not."
    # Nine frames less five there and five back are none; at 40 ms three there and three back leave three.
    assert second.startswith("Low sweep's startup of 9 f is no longer than what 80 ms take there and back")
    (calm,) = advice(build, drill, rows[:2])
    assert calm == "Low sweep can be answered by seeing it: at 40 ms within 3 f."
    assert advice(build, drill, []) == []


def test_a_kept_take_is_rehearsed_as_it_was_played_with_what_follows_of_each_of_its_attacks(
    quay: Project, assets: Assets, capsys: pytest.CaptureFixture[str]
) -> None:
    """A string: the later attacks come of exits, and no step names them."""
    build = CompiledProject(quay, assets)
    take = next(t for t in quay.takes if t.name == "Three in a row")
    drill = of_take(take)
    assert (drill.ticks, drill.seed, drill.stage, drill.steps) == (take.ticks, take.seed, take.stage, take.steps)
    rows = list(carried(build, drill, (0.0, 200.0), (0.0,)))
    said = advice(build, drill, rows)
    attacks = ["Low sweep", "Thrust", "Overhead hook"]
    assert [next(a for a in attacks if line.startswith(a)) for line in said[-3:]] == attacks
    assert rows[0].touches == (3, 3)
    with pytest.raises(SystemExit) as done:
        main(["rehearse", str(DEMO), "--take", "Three in a row", "--delay", "50", "--json"])
    assert not done.value.code
    found = json.loads(capsys.readouterr().out)
    assert found == json.loads(json.dumps(told(rehearse(build, drill, Quality(50.0)), "server")))
    with pytest.raises(SystemExit) as done:
        main(["rehearse", str(DEMO), "--take", "Three in a row", "--drill", "Sweep touches", "--delay", "50"])
    assert done.value.code
    assert "give one of them" in capsys.readouterr().err


def test_a_pair_is_an_attack_and_so_many_frames_later_its_answer(quay: Project, assets: Assets) -> None:
    """Over no line it is what is played by hand, to the end of both; an answer to be seen first is late by the line."""
    build = CompiledProject(close(quay), assets)
    drill = pair(build, "Low sweep", "Duck roll", 3)
    assert drill.name == "Low sweep against Duck roll"
    by_hand = Simulation(build, drill.seed)
    given = {10: [Input(OSSA, action="Low sweep")], 13: [Input(TARN, action="Duck roll")]}
    made = rehearse(build, drill, Quality())
    assert [r.line() for r in made.records] == [by_hand.tick(given.get(t, [])).line() for t in range(made.ticks)]
    assert not any(f.live() for f in made.records[-1].fighters), "both are over"
    assert any(c.result == "evaded" for r in made.records for c in r.contacts)
    for names, says in (((OSSA, "Duck roll"), "there is no action"), (("Thrust", ""), "there is no action")):
        with pytest.raises(Trouble, match=says):
            pair(build, *names, 0)
    lonely = replace(build.project, stage=replace(build.project.stage, fighters=build.project.stage.fighters[:1]))
    with pytest.raises(Trouble, match="no two on its stage"):
        pair(build.renew(lonely), "Thrust", "Duck roll", 0)


def test_the_command_takes_a_drill_or_a_pair(capsys: pytest.CaptureFixture[str]) -> None:
    def ran(*words: str) -> tuple[int, str]:
        with pytest.raises(SystemExit) as end:
            main(["rehearse", str(DEMO), "--delay", "50", *words])
        out = capsys.readouterr()
        return int(end.value.code or 0), out.out + out.err

    code, out = ran("--pair", "Low sweep", "Duck roll", "--after", "6", "--json")
    assert (code, json.loads(out)["ends"]["b"]) == (0, TARN)
    code, out = ran("--pair", "Low sweep", "Duck roll", "--after", "6")
    assert "events told to Ossa Renn" in out
    for words in ((), ("--drill", "Sweep touches", "--pair", "Thrust", "Cover")):
        code, out = ran(*words)
        assert code == 2
        assert "give one of them" in out


def test_processors_that_share_the_work_come_to_the_same(
    quay: Project, assets: Assets, monkeypatch: pytest.MonkeyPatch
) -> None:
    build = CompiledProject(close(quay), assets)
    steps = (DrillStep(10, OSSA, action="Thrust"), DrillStep(14, TARN, action="Duck roll"))
    drill = Drill(name="two", ticks=60, steps=steps)
    plain = list(carried(build, drill, (0.0, 90.0), (0.0, 0.1), LineWay(held_back=1)))
    asked: list[int] = []

    def pool(count: int, **rest: Any) -> ProcessPoolExecutor:
        asked.append(count)
        return ProcessPoolExecutor(count, **rest)

    monkeypatch.setattr(many, "ProcessPoolExecutor", pool)
    monkeypatch.setattr("veergust.core.study.many.os.cpu_count", lambda: 3)
    assert list(carried(build, drill, (0.0, 90.0), (0.0, 0.1), LineWay(held_back=1), alone=True)) == plain
    assert asked == [3]
    # Each line comes to something else, so that one in another's place is seen.
    assert len({row.pulled_back for row in plain}) == 3
