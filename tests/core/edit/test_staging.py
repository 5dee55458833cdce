"""Who stands where, edited: added, set, renamed with their drills, taken away."""

from __future__ import annotations

import pytest
from tools.made.edits import replace

from tests.conftest import OSSA, TARN
from veergust.core.edit.staging import (
    MOST,
    add_fighter,
    add_post,
    remove_fighter,
    remove_post,
    set_fighter,
    set_post,
    set_scaling,
)
from veergust.core.model import Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.take.drills import run_drill
from veergust.core.trouble import Trouble


def test_a_target_is_like_the_one_beside_it_and_only_stands(quay: Project) -> None:
    edit, name = add_fighter(quay, TARN)
    [made] = [f for f in edit.project.stage.fighters if f.name == name]
    beside = next(f for f in quay.stage.fighters if f.name == TARN)
    assert (made.plays, made.answer, made.health, made.facing) == ("stands", "", beside.health, beside.facing)
    assert made.position != beside.position
    assert edit.project.stage.fighters[: len(quay.stage.fighters)] == quay.stage.fighters
    project = quay
    for _ in range(MOST - len(quay.stage.fighters)):
        project = add_fighter(project)[0].project
    assert len({f.name for f in project.stage.fighters}) == MOST
    with pytest.raises(Trouble, match="as many as there may be"):
        add_fighter(project)


def test_the_keys_are_one_fighters_at_a_time(quay: Project) -> None:
    played = set_fighter(quay, TARN, plays="keys").project
    assert {f.name: f.plays for f in played.stage.fighters} == {OSSA: "stands", TARN: "keys"}
    moved = set_fighter(played, OSSA, position=(1.0, 0.0, 2.0), poise=30.0, team="Ferry").project
    there = moved.stage.fighters[0]
    assert (there.position, there.poise, there.team) == ((1.0, 0.0, 2.0), 30.0, "Ferry")


def test_a_new_name_goes_along_in_drills_which_still_pass(quay: Project, assets: Assets) -> None:
    named = set_fighter(quay, TARN, name="Marit").project
    assert TARN not in str(named.drills)
    build = CompiledProject(named, assets)
    assert all(run_drill(build, drill).passed for drill in named.drills)
    with pytest.raises(Trouble):
        set_fighter(quay, TARN, name=OSSA)
    with pytest.raises(Trouble):
        set_fighter(quay, TARN, name=quay.stage.posts[0].name)
    with pytest.raises(Trouble, match="plays in"):
        remove_fighter(quay, TARN)
    free = replace(quay, drills=())
    assert [f.name for f in remove_fighter(free, TARN).project.stage.fighters] == [OSSA]


def test_posts_and_strings(quay: Project) -> None:
    edit, name = add_post(quay)
    made = set_post(edit.project, name, health=20.0, name="barrel", position=(1.0, 0.0, 1.0)).project
    assert (made.stage.posts[-1].name, made.stage.posts[-1].health) == ("barrel", 20.0)
    assert remove_post(made, "barrel").project.stage == quay.stage
    assert set_scaling(quay, damage=0.5).project.settings.scaling.damage == 0.5
    for bad in (lambda: set_post(quay, "gone", health=1.0), lambda: set_post(made, "barrel", name=OSSA),
                lambda: set_fighter(quay, "gone", health=1.0)):  # fmt: skip
        with pytest.raises(Trouble):
            bad()
