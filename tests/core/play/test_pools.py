"""Pools: every item can be picked, as often as it weighs, without dull repeats, in play as in the trial."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from tests.conftest import OSSA
from tests.core.edits import alone, with_section
from veergust.core.edit.pools import add_pool, remove_pool, set_apart, set_weight
from veergust.core.model import Condition, Gate, Pool, PoolItem, Project
from veergust.core.motion.figure import Cast
from veergust.core.play.book import Book
from veergust.core.play.bout import Bout
from veergust.core.play.pick import counts, pick
from veergust.core.play.state import Input
from veergust.core.trouble import Trouble


def pool_of(*weights: float, apart: int = 0) -> Pool:
    return Pool(name="p", items=tuple(PoolItem(name=f"i{n}", weight=w) for n, w in enumerate(weights)), apart=apart)


@given(weights=st.lists(st.floats(0.1, 10.0), min_size=1, max_size=6), share=st.floats(0.0, 1.0, exclude_max=True))
def test_an_item_comes_up_by_its_weight(weights: list[float], share: float) -> None:
    pool = pool_of(*weights)
    names = {i.name for i in pool.items}
    at = share * sum(weights)
    want = next(n for n in range(len(weights)) if sum(weights[: n + 1]) > at - 1e-9)
    assert pick(pool, names, (), share) in (f"i{want}", f"i{min(want + 1, len(weights) - 1)}")
    assert pick(pool, names - {"i0"}, (), share) != "i0"
    assert pick(pool, set(), (), share) is None


@pytest.mark.parametrize("apart", [0, 1, 2])
def test_the_last_of_the_set_is_picked_too_and_none_of_the_last_picks_again(apart: int) -> None:
    pool = pool_of(1.0, 1.0, 2.0, apart=apart)
    found = counts(pool, 600)
    assert sum(found.values()) == 600
    assert min(found.values()) > 60
    recent: tuple[str, ...] = ()
    for n in range(200):
        name = pick(pool, found, recent, (n * 0.618) % 1.0)
        assert name is not None
        assert name not in (recent[-apart:] if apart else ())
        recent = (*recent, name)
    assert counts(pool_of(1.0, apart=3), 5) == {"i0": 5}


def test_pools_are_made_weighed_and_kept_while_something_leads_to_them(quay: Project) -> None:
    project = add_pool(quay, "Openers").project
    project = set_weight(project, "Openers", "Thrust", 2.0).project
    project = set_apart(project, "Openers", 0).project
    assert project.pools == (Pool(name="Openers", items=(PoolItem(name="Thrust", weight=2.0),), apart=0),)
    assert set_weight(project, "Openers", "Thrust", 0.0).project.pools[0].items == ()
    exit_ = project.actions[0].sections[2].exits[0]
    led = with_section(project, "Low sweep", 2, exits=(replace(exit_, to_kind="pool", to="Openers"),))
    with pytest.raises(Trouble, match="Low sweep › Settle leads to it"):
        remove_pool(led, "Openers")
    assert remove_pool(project, "Openers").project == quay
    for bad in (lambda: add_pool(project, "Openers"), lambda: set_weight(project, "Openers", "Thrust", -1.0)):
        with pytest.raises(Trouble):
            bad()


def test_a_gate_picks_a_section_from_its_pool(quay: Project, cast: Cast) -> None:
    pool = Pool(name="Ways", items=(PoolItem(name="Swing"), PoolItem(name="Settle")), apart=1)
    floor = Gate(start=0, end=8, to="Ways", conditions=(Condition(test="on_floor"),))
    project = alone(replace(with_section(quay, "Low sweep", 0, gates=(floor,)), pools=(pool,)))
    went = []
    for seed in range(12):
        bout = Bout(Book(project, cast), seed=seed)
        for tick in range(4):
            bout.tick([Input(OSSA, action="Low sweep")] if tick == 0 else [])
        went.append(bout.fighters[0].live()[0].part.section.name)
    assert set(went) == {"Swing", "Settle"}
