"""What a run stops on is told on its tick and on no other, by what is seen in the records beside it."""

from __future__ import annotations

import pytest
from tools.made.edits import replace, section

from tests.conftest import OSSA, TARN
from tests.core.play.test_hits import about, swing
from tests.core.play.test_rules import made, run
from tests.core.play.test_touching import OPENS, one_layer
from veergust.core.model import Event, Project, Reaction
from veergust.core.motion.figure import Assets
from veergust.core.play.state import Input
from veergust.core.play.take.stops import STOPS


@pytest.mark.parametrize(
    ("stop", "ticks", "words"),
    [
        ("a strike opens", [OPENS], "Ossa Renn: Blow/One opens"),
        ("a touch", [OPENS], "Blow"),
        ("an action starts", [0, OPENS], "Ossa Renn starts Blow"),
        ("a reaction", [OPENS], "Tarn: Reel"),
        ("one can act again", [OPENS + 2 + 12], "Tarn can act again"),
        ("an event", [5], "Ossa Renn: woosh"),
        ("a landing", [], ""),
    ],
)
def test_a_run_stops_where_it_is_asked_to(
    quay: Project, assets: Assets, stop: str, ticks: list[int], words: str
) -> None:
    blow = swing(name="Blow", victim_stop=2)
    part = replace(blow.sections[0], events=(Event(tick=5, kind="sound", name="woosh"),))
    project = about(quay, 0.0, replace(blow, sections=(part,)), made("Reel", section("idle", 0.2)),
                    rows=(Reaction(action="Reel"),))  # fmt: skip
    records = run(one_layer(project), assets, {0: [Input(OSSA, action="Blow")]}, 40)
    told = {n: STOPS[stop](r, records[n - 1] if n else None) for n, r in enumerate(records)}
    assert [n for n, said in told.items() if said] == ticks
    assert not ticks or words in told[ticks[0]]


def test_a_landing_is_told_on_the_tick_of_it(quay: Project, assets: Assets) -> None:
    project = about(quay, 0.0, swing(knockback=(0.0, 3.0, 0.0)))
    records = run(one_layer(project), assets, {0: [Input(OSSA, action="Blow")]}, 90)
    lands = [n for n in range(1, 90) if STOPS["a landing"](records[n], records[n - 1])]
    up = [n for n, r in enumerate(records) if not r.fighter(TARN).grounded]
    assert lands == [max(up) + 1]
