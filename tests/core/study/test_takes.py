"""Takes held against each other: against edits whose outcome is known."""

from __future__ import annotations

import json

from tools.made.edits import action, replace, with_action

from tests.conftest import OSSA, TARN
from veergust.core.model import Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.play.take.record import Record, write_take
from veergust.core.study.takes import compared


def take(project: Project, assets: Assets, given: dict[int, list[Input]], ticks: int = 90) -> list[Record]:
    simulation = Simulation(CompiledProject(project, assets))
    return [simulation.tick(given.get(t, [])) for t in range(ticks)]


KEYS = {5: [Input(OSSA, "light")], 22: [Input(OSSA, "light")]}


def touches(records: list[Record], strike: str = "Sweep") -> list[int]:
    return [r.tick for r in records for c in r.contacts if c.attacker == OSSA and c.strike.name == strike]


def begun(records: list[Record], who: str, name: str) -> list[int]:
    """When an action of somebody is on its first frame of its first section, as the take file has it."""
    rows = [(r.tick, json.loads(write_take([r]))["fighters"]) for r in records]
    plays = [(t, a) for t, fighters in rows for f in fighters if f["name"] == who for a in f["actions"]]
    ticks = [t for t, a in plays if a["action"] == name]
    return [t for t in ticks if t - 1 not in ticks]


def arrow(old: list[int], new: list[int]) -> str:
    return f"{old[0] if old else '–'} → {new[0] if new else '–'}"


def test_a_take_is_like_itself(quay: Project, assets: Assets) -> None:
    found = compared(take(quay, assets, KEYS), take(quay, assets, KEYS))
    assert (found.first, found.differences) == (None, ())
    longer = compared(take(quay, assets, KEYS), take(quay, assets, KEYS, 95))
    assert longer.first == 90


def test_a_strike_that_opens_later_is_told_by_its_ticks(quay: Project, assets: Assets) -> None:
    sweep = action(quay, "Low sweep")
    later = tuple(
        replace(s, strikes=tuple(replace(k, start=k.start + 5, end=k.end + 5, damage=k.damage + 3) for k in s.strikes))
        for s in sweep.sections
    )
    changed = with_action(quay, "Low sweep", sections=later)
    old, new = take(quay, assets, KEYS), take(changed, assets, KEYS)
    found = compared(old, new)
    # Nothing is otherwise before the first touch there was.
    assert found.first == touches(old)[0]
    says = [d.says for d in found.differences]
    assert touches(new) != touches(old)
    assert f"Sweep of {OSSA} hit {TARN}: {arrow(touches(old), touches(new))}" in says
    assert f"Point of {OSSA} hit {TARN}: {arrow(touches(old, 'Point'), touches(new, 'Point'))}" in says
    health = [r[-1].fighter(TARN).health for r in (old, new)]
    ends = f"{TARN} is left with {health[0]:g} → {health[1]:g}"
    assert (ends in says) == (health[0] != health[1])
    assert [d.tick for d in found.differences[:-1]] == sorted(d.tick for d in found.differences[:-1])


def test_what_no_longer_comes_and_what_is_new_are_told(quay: Project, assets: Assets) -> None:
    old = take(quay, assets, KEYS)
    new = take(quay, assets, {5: KEYS[5], 40: [Input(TARN, "thrust")]})
    says = [d.says for d in compared(old, new).differences]
    assert begun(old, OSSA, "Thrust")
    assert not begun(new, OSSA, "Thrust")
    for who in (OSSA, TARN):
        before, after = (begun(records, who, "Thrust") for records in (old, new))
        if before == after:
            assert not any(words.startswith(f"{who} begins Thrust") for words in says)
            continue
        assert f"{who} begins Thrust: {arrow(before, after)}" in says


def test_takes_differ_from_the_tick_on_which_anybody_is_elsewhere(quay: Project, assets: Assets) -> None:
    old = take(quay, assets, KEYS)
    new = take(quay, assets, {**KEYS, 50: [Input(TARN, axis="move", value=(0.0, 0.05))]})
    places = [[r.fighter(TARN).position for r in records] for records in (old, new)]
    first = next(t for t, (a, b) in enumerate(zip(*places)) if abs(a - b).max() > 1e-6)
    assert compared(old, new).first == first
