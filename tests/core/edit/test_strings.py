"""Actions put together on their commands: made by the edit, and then played with every press early and late."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from tools.made.edits import replace, section

from tests.conftest import OSSA
from tests.core.play.test_rules import blow, made, opposite, plays, run
from veergust.core.edit.commands import add_command, bind, who_has
from veergust.core.edit.spans import SpanRef, add
from veergust.core.edit.strings import How, in_words, links, make_string, with_twins
from veergust.core.model import Action, Exit, Project, StartRule
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.state import Input
from veergust.core.study.findings import findings
from veergust.core.trouble import Trouble

NAMES = ["Jab", "Cross", "Hook"]


def three(quay: Project) -> Project:
    """Three blows of half a second; the first has its strike in the first of two sections, the last has none."""
    jab = replace(blow("Jab", start=4, end=8), start=StartRule(commands=("dodge",)))
    jab = replace(
        jab, sections=(replace(jab.sections[0], name="Swing", then="After"), section("idle", 0.3, name="After"))
    )
    cross = replace(blow("Cross", start=10, end=13), start=StartRule(commands=("light",)))
    hook = made("Hook", section("idle", 0.5))
    return opposite(replace(quay, actions=(), reactions=()), jab, cross, hook)


def string(project: Project, assets: Assets, how: How, commands: list[str], memory: int = 20) -> Project:
    build = CompiledProject(project, assets)
    return make_string(project, build, NAMES, commands, how, memory).project


def order(project: Project, assets: Assets, presses: dict[int, str], ticks: int = 200) -> list[tuple[int, str]]:
    """(tick, action) of everything that begins."""
    records = run(project, assets, {t: [Input(OSSA, c)] for t, c in presses.items()}, ticks)
    return [(r.tick, a) for r in records for a, s, frame in plays(r) if frame == 0 and s != "After"]


def test_a_string_goes_from_the_end_of_each_strike_to_the_end_of_its_section(quay: Project, assets: Assets) -> None:
    project = three(quay)
    steps = links(CompiledProject(project, assets), NAMES, ["light"], "string")
    assert [(s.start, s.to, s.first, s.last) for s in steps] == [("Jab", "Cross", 8, 30), ("Cross", "Hook", 13, 30)]
    assert in_words(steps)[0] == "light on 8–30 of Jab → Cross"
    changed = string(project, assets, "string", ["light"])
    starts = {a.name: a.start.commands for a in changed.actions}
    assert starts == {"Jab": ("light",), "Cross": (), "Hook": ()}, "what they started on before is taken from them"
    assert {a.start.string_memory for a in changed.actions} == {20}
    codes = {f.code for f in findings(CompiledProject(changed, assets))}
    assert not codes & {"start-shadowed", "never-started", "exit-target-missing", "combo-early"}


@pytest.mark.parametrize(("second", "cross_at"), [(3, 8), (8, 9), (20, 21), (29, 30)])
@pytest.mark.parametrize("how", ["string", "round"])
def test_a_string_is_played_with_presses_early_and_late(
    quay: Project, assets: Assets, how: How, second: int, cross_at: int
) -> None:
    """A press before the window waits for it, one in it is taken on its tick."""
    project = string(three(quay), assets, how, ["light"])
    seen = order(project, assets, {0: "light", second: "light"})
    assert seen[0] == (0, "Jab")
    assert seen[1][1] == "Cross"
    assert seen[1][0] in (cross_at - 1, cross_at)


def test_a_string_that_goes_round_comes_back_and_one_that_does_not_ends(quay: Project, assets: Assets) -> None:
    mash = dict.fromkeys(range(0, 240, 5), "light")
    ends = [a for _, a in order(string(three(quay), assets, "string", ["light"], 0), assets, mash, 240)]
    round_ = [a for _, a in order(string(three(quay), assets, "round", ["light"], 0), assets, mash, 240)]
    for seen in (ends, round_):
        assert seen[:3] == NAMES
        assert seen == (NAMES * 9)[: len(seen)]
    # Round it goes out of the last by its combo, otherwise only when that is over.
    assert len(round_) > len(ends)


def test_each_step_may_have_a_command_of_its_own(quay: Project, assets: Assets) -> None:
    project = string(three(quay), assets, "string", ["light", "heavy", "light"])
    assert [a for _, a in order(project, assets, {0: "light", 10: "heavy", 30: "light"})] == NAMES
    assert [a for _, a in order(project, assets, {0: "light", 10: "light"}, 60)] == ["Jab"]


def test_made_again_it_is_the_same_and_windows_follow_their_strikes(quay: Project, assets: Assets) -> None:
    once = string(three(quay), assets, "string", ["light"])
    assert string(once, assets, "string", ["light"]) == once
    jab = once.actions[0]
    later = replace(jab.sections[0], strikes=(replace(jab.sections[0].strikes[0], end=12),))
    moved = replace(once, actions=(replace(jab, sections=(later, jab.sections[1])), *once.actions[1:]))
    again = string(moved, assets, "string", ["light"])
    assert [(e.start, e.end) for e in again.actions[0].sections[0].exits] == [(12, 30)]


def test_by_chance_one_command_starts_any_of_them(quay: Project, assets: Assets) -> None:
    project = string(three(quay), assets, "chance", ["heavy"])
    assert [(p.name, p.commands) for p in project.pools if p not in quay.pools] == [("one of Jab", ("heavy",))]
    assert {a.start.commands for a in project.actions} == {()}
    seen = {a for _, a in order(project, assets, dict.fromkeys(range(0, 1000, 50), "heavy"), 1000)}
    assert seen == set(NAMES)


def test_a_pair_of_mirrored_twins_goes_left_and_right(quay: Project, assets: Assets) -> None:
    """The twin is the same action on the other side: its poses are the mirrored ones, its boxes go along."""
    project, names = with_twins(three(quay), ["Cross"])
    assert names == ["Cross", "Cross mirrored"]
    build = CompiledProject(project, assets)
    made_ = make_string(project, build, names, ["light"], "round").project
    mash = dict.fromkeys(range(0, 200, 5), "light")
    seen = [a for _, a in order(made_, assets, mash, 200)]
    assert seen == (["Cross", "Cross mirrored"] * 9)[: len(seen)]
    assert len(seen) > 4
    build = CompiledProject(made_, assets)
    one, other = build.action("Cross"), build.action("Cross mirrored")
    assert one is not None
    assert other is not None
    a, b = one.world_of(0)[:, :, :3, 3], other.world_of(0)[:, :, :3, 3]
    swapped = b[:, list(assets.skeleton.mirrored)] * np.array([-1.0, 1.0, 1.0])
    assert project.rig.weapon is not None
    weapon = build.mount(project.rig.weapon.tip)
    assert weapon is not None
    body = [j for j in range(len(assets.skeleton)) if j != weapon[0]]  # which hand holds the weapon is said by the clip
    np.testing.assert_allclose(swapped[:, body], a[:, body], atol=1e-6)
    assert [s.strikes for s in other.action.sections] == [s.strikes for s in one.action.sections]


def test_what_cannot_be_put_together_is_said(quay: Project, assets: Assets) -> None:
    project = three(quay)
    build = CompiledProject(project, assets)
    with pytest.raises(Trouble, match="choose two to 6"):
        make_string(project, build, ["Jab"], ["light"], "string")
    with pytest.raises(Trouble, match="no command"):
        make_string(project, build, NAMES, [], "string")
    with pytest.raises(Trouble, match="no command"):
        make_string(project, build, NAMES, ["no such"], "string")
    taken = make_string(project, build, NAMES, ["light"], "string")
    assert taken.notes == ()
    other = replace(project, actions=(*project.actions, made("Other", start=StartRule(commands=("light",)))))
    notes = make_string(other, CompiledProject(other, assets), NAMES, ["light"], "string").notes
    assert notes == ("light also starts Other: give it another command there.",)


# Commands and their keys


def test_a_new_command_takes_a_free_key_or_is_told_whose_it_is(quay: Project) -> None:
    key = next(c.keys[0] for c in quay.commands if c.name == "light")
    assert who_has(quay, key) == "light"
    with pytest.raises(Trouble, match=f"{key} is the key of light"):
        add_command(quay, "kick", key)
    taken = add_command(quay, "kick", key, take_over=True).project
    assert who_has(taken, key) == "kick"
    assert next(c for c in taken.commands if c.name == "light").keys == ("pad west",)
    free = add_command(quay, " kick ", "F7").project
    assert who_has(free, "F7") == "kick"
    assert bind(free, "kick", "F8").project.commands[-1].keys == ("F7", "F8")
    assert bind(free, "kick", "F7").project == free
    with pytest.raises(Trouble, match="is the key of light"):
        bind(free, "kick", key)
    assert who_has(bind(free, "kick", key, take_over=True).project, key) == "kick"
    for name, says in (("", "needs a name"), ("light", "there is a command")):
        with pytest.raises(Trouble, match=says):
            add_command(quay, name)


# What a new span guesses


def guessed(project: Project, assets: Assets, kind: str, at: tuple[int, int], **how: Any) -> tuple[Any, str]:
    build = CompiledProject(project, assets)
    name = project.actions[0].name
    edit, ref = add(project, SpanRef(name, 0, kind, 0), *at, compiled=build.action(name), **how)
    return getattr(edit.project.actions[0].sections[0], kind)[ref.index], " ".join(edit.notes)


def test_a_new_exit_is_a_combo_after_the_strike_on_the_actions_own_command(quay: Project, assets: Assets) -> None:
    project = three(quay)
    made_, says = guessed(project, assets, "exits", (2, 6))
    assert made_ == Exit(start=8, end=30, kind="combo", command="dodge", to="Cross")
    assert says.startswith("A combo: dodge leads to Cross after the strike.")
    # Where one follows the strike already, or there is none, it is a cancel into what another command starts.
    again = replace(project, actions=(with_exit(project, made_), *project.actions[1:]))
    other, says = guessed(again, assets, "exits", (2, 6))
    assert other == Exit(start=2, end=6, kind="cancel", command="light", to="Cross")
    assert says.startswith("A cancel: light leads to Cross.")
    whole, _ = guessed(project, assets, "exits", (2, 6), whole=True)
    assert (whole.start, whole.end) == (0, 30)
    pointed, _ = guessed(project, assets, "exits", (11, 15), pointed=True)
    assert (pointed.start, pointed.end, pointed.kind) == (11, 15, "combo")


def with_exit(project: Project, exit_: Exit) -> Action:
    first = project.actions[0]
    return replace(first, sections=(replace(first.sections[0], exits=(exit_,)), *first.sections[1:]))


def test_the_last_of_a_group_leads_to_itself(quay: Project, assets: Assets) -> None:
    project = three(quay)
    alone = replace(project, actions=(replace(project.actions[0], group="by itself"), *project.actions[1:]))
    made_, _ = guessed(alone, assets, "exits", (2, 6))
    assert made_.to == "Jab"


@pytest.mark.parametrize(("clip", "kind"), [("dodge_roll", "root"), ("idle", "none")])
def test_a_new_drive_goes_by_root_motion_where_the_clip_travels(
    quay: Project, assets: Assets, clip: str, kind: str
) -> None:
    project = opposite(replace(quay, actions=(), reactions=()), made("Goes", section(clip, 0.5)))
    drive, says = guessed(project, assets, "drives", (2, 20))
    assert drive.kind == kind
    assert says.startswith(f"Drive {kind}: the clip ")


def test_a_new_gate_waits_for_the_actions_own_command_to_be_let_go(quay: Project, assets: Assets) -> None:
    gate, says = guessed(three(quay), assets, "gates", (2, 6))
    assert [(c.test, c.name) for c in gate.conditions] == [("released", "dodge")]
    assert gate.to == "After"
    assert says.startswith("A gate to After: ")
