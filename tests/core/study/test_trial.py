"""Layers tried: a round is what play gives of it, and who moves a joint is told by shares that sum to one."""

from __future__ import annotations

import re

import numpy as np
import pytest
from msgspec.structs import replace
from tools.made.edits import WIDE, adding, alone, section

from tests.conftest import OSSA
from veergust.core.model import Action, Layer, Project, Speaks
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.scene.speaking import mix_scene, tinted
from veergust.core.study.layers import moved_by
from veergust.core.study.trial import BEFORE, SETTLES, Trial, Trying, speed_of, usual_trying


def armed(quay: Project) -> Project:
    toss = Action(name="Toss", layer="Arms", sections=(section("overhead", 0.8),), blend_in=6, blend_out=10)
    flinch = Action(name="Flinch", layer="Added", sections=(section("react_front", 0.3),), blend_in=2, blend_out=4)
    layers = (
        *quay.layers,
        Layer(name="Arms", mask="upper body", root=False),
        Layer(name="Added", mode="additive", reference="idle", scope=(Speaks(state="run", rule="keeps out"),)),
    )
    return replace(adding(quay, toss, flinch), layers=layers)


def test_a_round_is_what_play_gives(quay: Project, assets: Assets) -> None:
    """The same started in a bout: walked up to speed, the action asked for, tick by tick the same pose."""
    build = CompiledProject(armed(quay), assets)
    trial = Trial(build, Trying("walk", 1.4, (("Arms", "Toss"),)))
    ground = replace(build.project.locomotion, transitions=(), entry="walk")
    simulation = Simulation(CompiledProject(alone(replace(build.project, locomotion=ground), floors=WIDE), assets))
    fighter = simulation.fighter(OSSA)
    fighter.velocity = (0.0, 0.0, 1.4)
    fighter.facing, fighter.position = 0.0, np.zeros(3)
    stick = 1.4 / ground.run_speed
    for t in range(-SETTLES - 1, 60):
        given = [Input(OSSA, axis="move", value=(0.0, stick))] if t == -SETTLES - 1 else []
        given += [Input(OSSA, action="Toss")] if t == BEFORE else []
        now = simulation.tick(given).fighter(OSSA)
        if t >= 0:
            there = trial.at(t).fighters[0]
            assert there.pose is not None
            assert now.pose is not None
            assert np.allclose(
                there.pose.rotation, now.pose.rotation, atol=1e-3
            )  # the feet have settled from elsewhere


def test_a_round_ends_once_all_is_faded_out(quay: Project, assets: Assets) -> None:
    trial = Trial(CompiledProject(armed(quay), assets), Trying("idle", 0.0, (("Arms", "Toss"),)))
    last = trial.at(10_000)
    assert trial.ticks == len(trial.records) < 100
    assert last is trial.records[-1]
    assert not last.fighters[0].voices
    shown = [bool(r.fighters[0].voices) for r in trial.records]
    assert shown.index(True) == BEFORE


def test_what_starts_nothing_in_a_state_is_not_played(quay: Project, assets: Assets) -> None:
    build = CompiledProject(armed(quay), assets)
    both = (("Arms", "Toss"), ("Added", "Flinch"))
    run, walk = (Trial(build, Trying(state, 1.0, both)) for state in ("run", "walk"))
    assert [v.layer for v in run.at(BEFORE + 2).fighters[0].voices] == ["Arms"]
    assert [v.layer for v in walk.at(BEFORE + 2).fighters[0].voices] == ["Arms", "Added"]


def test_who_moves_a_joint_is_told_in_words(quay: Project, assets: Assets) -> None:
    build = CompiledProject(armed(quay), assets)
    trial = Trial(build, Trying("walk", 1.4, (("Arms", "Toss"), ("Added", "Flinch"))))
    index = assets.skeleton.index
    for tick in (BEFORE + 2, BEFORE + 12, 40):
        fighter = trial.at(tick).fighters[0]
        said = moved_by(trial.build, fighter)
        assert said[index["thigh_left"]].startswith("walk")
        for words in said:
            shares = [int(n) for n in re.findall(r" (\d+)", words)]
            assert not shares or abs(sum(shares) - 100) <= 1
    fighter = trial.at(BEFORE + 12).fighters[0]
    said = moved_by(trial.build, fighter)
    assert said[index["hand_left"]] == "Toss + Flinch"
    assert said[index["waist"]].startswith("walk 50 · Toss 50")


def test_the_figure_is_tinted_by_who_moves_it(quay: Project, assets: Assets) -> None:
    build = CompiledProject(armed(quay), assets)
    trial = Trial(build, Trying("walk", 1.4, (("Arms", "Toss"),)))
    fighter = trial.at(BEFORE + 12).fighters[0]
    body = tinted(trial.build, fighter, lambda name: f"role of {name}")
    assert body.roles == ("role of Arms",)
    assert body.tints is not None
    index = assets.skeleton.index
    assert (body.tints[0, index["hand_left"]], body.tints[0, index["foot_left"]]) == (1.0, 0.0)
    two = mix_scene(trial.build, fighter, lambda _: "hold", (trial.build, fighter, "here", "there"))
    apart = two.bodies[0].joints[0, 0, 3] - two.bodies[1].joints[0, 0, 3]
    assert apart == pytest.approx(1.25)
    assert [label.text for label in two.labels] == ["here", "there"]


def test_a_state_is_tried_at_the_speed_it_is_made_for(quay: Project, assets: Assets) -> None:
    build = CompiledProject(quay, assets)
    speeds = {name: speed_of(build, state) for name, state in build.states.items()}
    assert (speeds["idle"], speeds["walk"], speeds["run"], speeds["guard walk"]) == (0.0, 1.2, 4.2, 0.9)


def test_something_is_tried_at_first_whatever_there_is(quay: Project, assets: Assets) -> None:
    first = usual_trying(CompiledProject(quay, assets))
    assert (first.state, first.actions[0][0]) == ("idle", "Arms")
    bare = usual_trying(CompiledProject(Project(), assets))
    assert bare.actions == ()
    assert Trial(CompiledProject(Project(), assets), bare).at(3).fighters[0].pose is not None
