"""Pools: every item can be picked, as often as it weighs, without dull repeats, in play as in the trial."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from tools.made.edits import adding, alone, section, with_section

from tests.conftest import OSSA, Found
from tests.core.play.test_rules import blow, made, opposite, plays, run
from veergust.core.edit.pools import add_pool, remove_pool, set_apart, set_weight
from veergust.core.edit.sections import rename_section
from veergust.core.model import Action, Condition, Gate, Layer, Pool, PoolItem, Project, StartRule
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.flow.pick import counts, pick
from veergust.core.play.flow.preview import Preview
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.play.take.record import Record
from veergust.core.study.findings import findings
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


def test_a_gate_picks_a_section_from_its_pool(quay: Project, assets: Assets) -> None:
    pool = Pool(name="Ways", items=(PoolItem(name="Swing"), PoolItem(name="Settle")), apart=1)
    floor = Gate(start=0, end=8, to="Ways", conditions=(Condition(test="on_floor"),))
    project = alone(replace(with_section(quay, "Low sweep", 0, gates=(floor,)), pools=(pool,)))
    went = []
    for seed in range(12):
        simulation = Simulation(CompiledProject(project, assets), seed=seed)
        for tick in range(4):
            simulation.tick([Input(OSSA, action="Low sweep")] if tick == 0 else [])
        went.append(simulation.fighters[0].live()[0].part.section.name)
    assert set(went) == {"Swing", "Settle"}


def fork(quay: Project, *names: str, apart: int = 1) -> Project:
    """A draw that goes on to one of a pool of endings, which each go back to it."""
    draw = section(name="Draw", seconds=0.05, then="Ways")
    ends = [section(name=n, seconds=0.05, then="Draw") for n in names]
    pool = Pool(name="Ways", items=tuple(PoolItem(name=n) for n in names), apart=apart)
    return alone(replace(quay, actions=(Action(name="Fork", sections=(draw, *ends)),), pools=(pool,), reactions=()))


def went(project: Project, assets: Assets, seed: int, ticks: int = 200) -> list[str]:
    simulation = Simulation(CompiledProject(project, assets), seed=seed)
    out = []
    for tick in range(ticks):
        simulation.tick([Input(OSSA, action="Fork")] if tick == 0 else [])
        voice = simulation.fighters[0].live()[0]
        out += [voice.part.section.name] if voice.frame == 0 else []
    return out


def test_a_section_goes_on_to_one_of_its_pool(quay: Project, assets: Assets) -> None:
    project = fork(quay, "High", "Low", "Feint")
    picks = went(project, assets, seed=4)
    assert picks[::2] == ["Draw"] * len(picks[::2])
    assert set(picks[1::2]) == {"High", "Low", "Feint"}
    assert all(a != b for a, b in zip(picks[1::2], picks[3::2]))
    assert picks == went(project, assets, seed=4) != went(project, assets, seed=5)


def test_each_pool_has_a_memory_of_its_own(quay: Project, assets: Assets) -> None:
    """Two pools in turn: a pick from the one is no reason to repeat in the other."""
    project = fork(quay, "High", "Low")
    draw, high, low = project.actions[0].sections
    back = Pool(name="Back", items=(PoolItem(name="Draw"), PoolItem(name="Again")), apart=1)
    ways = (draw, replace(high, then="Back"), replace(low, then="Back"), replace(draw, name="Again"))
    turns = replace(project, actions=(replace(project.actions[0], sections=ways),), pools=(*project.pools, back))
    picks = went(turns, assets, seed=1)
    for one in (picks[1::2], picks[2::2]):
        assert all(a != b for a, b in zip(one, one[1:]))


def test_the_path_of_a_pool_is_its_first_and_changes_with_it(quay: Project, assets: Assets) -> None:
    project = fork(quay, "High", "Low")
    project = with_section(with_section(project, "Fork", 1, then="end"), "Fork", 2, then="end")
    build = CompiledProject(project, assets)

    def path(build: CompiledProject) -> list[str]:
        compiled = build.action("Fork")
        assert compiled is not None
        return [compiled.sections[i].section.name for i in compiled.path]

    assert path(build) == ["Draw", "High"]
    assert [f.code for f in findings(build) if f.at.part not in ("locomotion", "thrown")] == ["never-started"]
    other = set_weight(set_weight(project, "Ways", "High", 0.0).project, "Ways", "High", 1.0).project
    assert path(build.renew(other)) == ["Draw", "Low"]
    emptied = replace(project, pools=())
    assert "section-missing" in {f.code for f in findings(build.renew(emptied))}
    with pytest.raises(Trouble, match="Fork › Draw leads to it"):
        remove_pool(project, "Ways")


def test_the_sheet_s_preview_goes_through_the_pool_too(quay: Project, assets: Assets) -> None:
    compiled = CompiledProject(fork(quay, "High", "Low", "Feint"), assets).action("Fork")
    assert compiled is not None
    shown = Preview(compiled, compiled.entry)
    seen = []
    for _ in range(120):
        shown.step()
        seen += [shown.compiled.sections[shown.section].section.name] if shown.tick == 0 else []
    assert set(seen) == {"Draw", "High", "Low", "Feint"}


def test_a_pool_follows_the_section_it_names(quay: Project) -> None:
    project = fork(quay, "High", "Low")
    renamed = rename_section(project, "Fork", 1, "Above").project
    assert [i.name for i in renamed.pools[0].items] == ["Above", "Low"]
    shared = replace(project, actions=(*project.actions, replace(project.actions[0], name="Other")))
    kept = rename_section(shared, "Fork", 1, "Above").project
    assert [i.name for i in kept.pools[0].items] == ["High", "Low"]


# A pool that a command starts


def variants(quay: Project, *actions: Action, **pool: Any) -> Project:
    """Nothing but these actions, all in one pool on *heavy*."""
    items = tuple(PoolItem(name=a.name) for a in actions)
    pools = (Pool(name="any", items=items, commands=("heavy",), **pool),)
    return opposite(replace(quay, actions=(), reactions=(), pools=pools), *actions)


def starts(records: list[Record]) -> list[tuple[int, str]]:
    """(tick, action) of every action that is seen on its first frame."""
    return [(r.tick, a) for r in records for a, _, frame in plays(r) if frame == 0]


def test_a_command_starts_one_of_a_pool_and_none_of_the_last_again(quay: Project, assets: Assets) -> None:
    project = variants(quay, made("A"), made("B"), made("C"), apart=2)
    pressed = {t: [Input(OSSA, "heavy")] for t in range(0, 1200, 40)}
    seen = starts(run(project, assets, pressed, 1200))
    assert [t for t, _ in seen] == list(pressed), "one for each press, on its tick"
    names = [a for _, a in seen]
    assert {names.count(n) for n in "ABC"} == {10}, "with two apart of three they take turns"
    assert all(len(set(names[n : n + 3])) == 3 for n in range(len(names) - 2))


def test_of_a_pool_only_what_is_ready_and_may_start_here_is_started(quay: Project, assets: Assets) -> None:
    """Its own cooldown, states and conditions count for each; a press with none of them ready waits its buffer."""
    never = Condition(test="on_floor", value=0.0)
    project = variants(
        quay,
        made("Tired", start=StartRule(cooldown=10_000)),
        made("Elsewhere", start=StartRule(states=("Swimming",))),
        made("Airborne", start=StartRule(conditions=(never,))),
        apart=0,
    )
    pressed = {t: [Input(OSSA, "heavy")] for t in range(0, 400, 40)}
    assert starts(run(project, assets, pressed, 400)) == [(0, "Tired")]


@pytest.mark.parametrize("under", ["light", "heavy"])
def test_an_action_on_the_same_command_comes_before_a_pool(quay: Project, assets: Assets, under: str) -> None:
    project = variants(quay, made("A"), made("B"))
    project = adding(project, made("First", start=StartRule(commands=(under,))))
    seen = starts(run(project, assets, {5: [Input(OSSA, "heavy")]}, 20))
    assert [a == "First" for _, a in seen] == [under == "heavy"]


def test_a_pool_is_started_once_by_a_press_in_a_hit_stop_and_not_by_one_that_is_too_old(
    quay: Project, assets: Assets
) -> None:
    blow_ = replace(blow(start=3, end=6, hit_stop=20), start=StartRule(commands=("light",)))
    project = variants(quay, made("A", layer="Over"), apart=0)
    project = adding(project, blow_)
    project = replace(project, layers=(Layer(name="Body"), Layer(name="Over")))
    touch = next(r.tick for r in run(project, assets, {0: [Input(OSSA, "light")]}, 20) if r.contacts)
    inputs = {0: [Input(OSSA, "light")], touch + 4: [Input(OSSA, "heavy")]}
    seen = starts(run(project, assets, inputs, 80))
    assert [a for t, a in seen if a == "A"] == ["A"]
    at = next(t for t, a in seen if a == "A")
    assert at > touch + 4, "time stands still for both"


def test_what_a_pool_is_started_on_is_checked(quay: Project, found_in: Found) -> None:
    project = variants(quay, made("A"), made("B"))
    codes = {f.code for f in found_in(project)}
    assert "command-unknown" not in codes
    assert "never-started" not in codes
    wrong = replace(project, pools=tuple(replace(p, commands=("no such",)) for p in project.pools))
    found = [f for f in found_in(wrong) if f.code == "command-unknown"]
    assert [f.level for f in found] == ["error"]
    shadowed = adding(project, made("First", start=StartRule(commands=("heavy",))))
    found = [f for f in found_in(shadowed) if f.code == "start-shadowed"]
    assert ["First starts on it" in f.says for f in found] == [True]
    aside = adding(project, made("First", start=StartRule(commands=("heavy",), states=("Guard",))))
    assert not [f for f in found_in(aside) if f.code == "start-shadowed"]
