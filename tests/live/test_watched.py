"""What a game told of its ticks, held against what is played here."""

from __future__ import annotations

from typing import Any

import pytest

from tests.conftest import OSSA, TARN
from veergust.core.live.watched import MOST, Watched, first_apart, given_of
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.play.take.record import Record
from veergust.core.trouble import Trouble

Json = dict[str, Any]


@pytest.fixture(scope="module")
def records(build: CompiledProject) -> list[Record]:
    """A sweep that touches."""
    ours = Simulation(build, 1)
    return [ours.tick([Input(OSSA, "light")] if tick == 4 else []) for tick in range(60)]


def told(records: list[Record]) -> list[Json]:
    return [record.line() for record in records]


def test_the_same_bout_is_the_same_and_what_is_otherwise_is_told_at_its_first_tick(records: list[Record]) -> None:
    watched = Watched()
    watched.hear(told(records))
    assert watched.touches == sum(len(r.contacts) for r in records) > 0
    assert first_apart(records, watched.ticks) is None
    first = next(r.tick for r in records if r.contacts)

    def changed(tick: int, **what: Any) -> tuple[int, str] | None:
        lines = told(records)
        row = lines[tick]
        row["contacts"] = what.get("contacts", row["contacts"])
        row["fighters"][0] |= {k: v for k, v in what.items() if k != "contacts"}
        other = Watched()
        other.hear(lines)
        return first_apart(records, other.ticks)

    assert changed(first, contacts=[]) == (first, "0 touched there, and 1 here")
    assert changed(20, ground="run") == (20, f"{OSSA} was in run there, and is in idle here")
    at, words = changed(9, actions=[]) or (0, "")
    assert (at, words) == (9, f"{OSSA} played nothing there, and Low sweep / Wind-up, frame 5 here")
    assert changed(30, name="Nobody") == (30, "Nobody is not here")


def test_what_is_no_tick_is_passed_over_and_a_bout_begun_anew_is_another(records: list[Record]) -> None:
    watched = Watched()
    watched.hear([None, 5, {}, {"tick": "x", "fighters": []}, {"tick": 3, "fighters": [7]}, *told(records[:30])])
    assert [t.tick for t in watched.ticks] == list(range(30))
    plays = watched.playing(OSSA)
    assert plays is not None
    assert (plays.action, plays.section, plays.frame) == ("Low sweep", "Settle", 0)
    assert watched.playing(TARN) == watched.playing("Nobody") or watched.touches > 0
    watched.hear(told(records[:2]))
    assert ([t.tick for t in watched.ticks], watched.touches) == ([0, 1], 0)
    assert watched.playing(OSSA) is None


def test_what_was_given_is_read_or_refused_in_words() -> None:
    rows = [{"tick": 3, "fighter": OSSA, "action": "Thrust", "from": "Thrust"}, {"tick": 5, "fighter": TARN,
            "axis": "move", "value": [0.5, 0]}]  # fmt: skip
    given = given_of({"first": 0, "ticks": 9, "seed": 4, "inputs": rows, "more": 1})
    assert [(s.tick, s.fighter, s.action, s.section, s.value) for s in given.inputs] == [
        (3, OSSA, "Thrust", "Thrust", (0.0, 0.0)), (5, TARN, "", "", (0.5, 0.0)),
    ]  # fmt: skip
    for result, says in (
        ({"first": 0, "ticks": 9, "seed": 4, "inputs": [{"tick": -1, "fighter": OSSA}]}, "cannot be read"),
        ([], "cannot be read"),
        ({"first": 12, "ticks": 40, "seed": 4, "inputs": []}, "no longer knows how its bout began"),
        ({"first": 0, "ticks": 0, "seed": 4, "inputs": []}, "nothing was played"),
        ({"first": 0, "ticks": MOST + 1, "seed": 4, "inputs": []}, "nothing was played"),
    ):  # fmt: skip
        with pytest.raises(Trouble, match=says):
            given_of(result)
