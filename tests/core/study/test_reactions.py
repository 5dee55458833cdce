"""The reaction table: eight sides in play, the cell that answers, rows put where they are asked in time."""

from __future__ import annotations

from dataclasses import replace as changed
from itertools import product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tools.made.captures import stagger
from tools.made.edits import replace
from tools.made.rigs import FAMILIES, figure, motion, shot_from

from tests.conftest import OSSA, TARN
from tests.core.play.test_hits import about, swing
from tests.core.play.test_rules import made, plays, run
from veergust.core.edit.reactions import react_all_round, set_reaction
from veergust.core.model import Clip, Project, Reaction, Rig
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact.answers import EIGHTHS, INSTEAD, SITUATIONS, Touched, eighth, fits, quarter
from veergust.core.play.state import Input
from veergust.core.study.reactions import HitKind, answer_to, sides_of, strengths
from veergust.core.trouble import Trouble

BEARINGS = (0.0, 22.0, 23.0, 45.0, 67.0, 68.0, 90.0, 112.0, 113.0, 157.0, 158.0, 180.0)


def plain_eighth(degrees: float) -> str:
    """By which of eight directions it is nearest to."""
    ways = {name: np.radians(45.0 * n) for n, name in enumerate(EIGHTHS)}
    at = np.radians(degrees)
    return max(ways, key=lambda name: np.cos(at - ways[name]))


@given(st.floats(-180.0, 180.0).filter(lambda d: abs(abs(d) % 45.0 - 22.5) > 0.01 and abs(abs(d) % 90.0 - 45.0) > 0.01))
def test_sides_are_the_nearest_of_four_and_of_eight(degrees: float) -> None:
    assert eighth(degrees) == plain_eighth(degrees)
    four = {name: np.radians(90.0 * n) for n, name in enumerate(("front", "left", "back", "right"))}
    assert quarter(degrees) == max(four, key=lambda name: np.cos(np.radians(degrees) - four[name]))


@pytest.mark.parametrize("degrees", sorted({*BEARINGS, *(-b for b in BEARINGS)}))
def test_the_victim_answers_from_each_of_eight_sides(quay: Project, assets: Assets, degrees: float) -> None:
    """Rows between two straight sides first: each takes its eighth, what is left is the straight one's."""
    order = [e for e in EIGHTHS if " " in e] + [e for e in EIGHTHS if " " not in e]
    rows = tuple(Reaction(action=side, side=side) for side in order)  # type: ignore[arg-type]
    project = about(quay, degrees, swing(), *(made(side) for side in EIGHTHS), rows=rows)
    records = run(project, assets, {0: [Input(OSSA, action="Blow")]}, 6)
    answered = {action for r in records for action, _, _ in plays(r, TARN)}
    assert answered == {plain_eighth(degrees)}


row_of = st.builds(
    Reaction,
    action=st.sampled_from(["A", "B", "C"]),
    side=st.sampled_from(["any", *EIGHTHS]),
    strength=st.sampled_from(["any", "light", "heavy"]),
    situation=st.sampled_from(["any", *SITUATIONS]),
)
hit_of = st.builds(HitKind, st.sampled_from(EIGHTHS), st.sampled_from(["light", "heavy"]), st.sampled_from(SITUATIONS))


@given(st.lists(row_of, max_size=7), hit_of)
def test_what_is_set_answers_and_what_is_taken_away_no_longer_does(rows: list[Reaction], hit: HitKind) -> None:
    """And every other kind of hit is answered as before, but for those that only the straight side's quarter holds."""
    actions = tuple(made(n) for n in ("A", "B", "C", "New"))
    project = Project(actions=actions, reactions=tuple(rows))
    edit = set_reaction(project, hit, "New")
    found = answer_to(edit.project.reactions, hit)
    assert found is not None
    assert (found.row.action, found.own) == ("New", True)
    for side, strength, situation in product(EIGHTHS, ("light", "heavy"), SITUATIONS):
        other = HitKind(side, strength, situation)
        row = edit.project.reactions[found.index]
        asked = {situation, INSTEAD.get(situation, situation)}
        takes = any(fits(row, Touched(other.degrees, strength, s)) for s in asked)
        if other != hit and not takes:
            was, now = answer_to(rows, other), answer_to(edit.project.reactions, other)
            own = (hit.side, hit.strength, hit.situation)
            if was is None or (was.row.side, was.row.strength, was.row.situation) != own:
                assert (was and was.row) == (now and now.row), other
    again = set_reaction(edit.project, hit, "New")
    assert len(again.project.reactions) == len(edit.project.reactions), "one row of its own"
    gone = set_reaction(edit.project, hit, "")
    left = answer_to(gone.project.reactions, hit)
    assert left is None or left.row.action != "New"
    assert not any(r.action == "New" for r in gone.project.reactions)


def test_what_is_not_there_cannot_answer(quay: Project) -> None:
    hit = HitKind("front left", "light", "standing")
    with pytest.raises(Trouble, match="nobody"):
        set_reaction(quay, hit, "nobody")
    with pytest.raises(Trouble, match="no such part"):
        set_reaction(quay, hit, "Reel front", "no such part")
    with pytest.raises(Trouble, match="another row"):
        set_reaction(quay, hit, "")


def test_strengths_go_from_the_least_damage_on(quay: Project) -> None:
    found = strengths(quay)
    assert set(found) >= {"light", "heavy", "graze"}
    assert found.index("light") < found.index("heavy")


NAMES = {"hit_front": "front", "HitBack": "back", "stagger L": "left", "hit-front-left": "front left",
         "reel_rear_r": "back right", "front_to_back": "", "flinch": ""}  # fmt: skip


def test_clips_say_their_side_by_name(build: CompiledProject) -> None:
    found = sides_of(build, list(NAMES))
    assert found == {side: name for name, side in NAMES.items() if side}
    assert list(found) == [e for e in EIGHTHS if e in found]


@pytest.mark.parametrize("family", FAMILIES)
@pytest.mark.parametrize("away", [45.0 * n for n in range(8)])
def test_clips_show_their_side_by_where_they_give_way(family: str, away: float) -> None:
    """A made-up figure shoved off in each of eight directions, shot turned and off the origin, with noise."""
    taken, rng = stagger(start=(0.0, 0.0), turned=0.0), np.random.default_rng(int(away))
    t = np.arange(len(taken.hips)) / taken.fps
    gone = 0.4 * np.clip(t / 0.3, 0.0, 1.0) ** 0.5
    hips = taken.hips.copy()
    for axis, part in ((0, np.sin(np.radians(away))), (2, np.cos(np.radians(away)))):
        hips[:, axis] = gone * part + rng.normal(scale=0.003, size=len(t))
    shot = shot_from(changed(taken, hips=hips), (20.0, -7.0), 130.0)
    bones = figure(family)
    assets = Assets(bones, None, {("s.glb", "s"): motion(family, shot, "s")})
    rig = Rig(figure="s.glb", hips="Hip", root="Root" if "Root" in bones.index else "")
    project = Project(rig=rig, clips=(Clip(name="s", file="s.glb", animation="s"),))
    found = sides_of(CompiledProject(project, assets), ["s"])
    assert list(found) == [EIGHTHS[round((away + 180.0) / 45.0) % 8]]


def test_many_sides_are_answered_at_once(quay: Project, assets: Assets) -> None:
    build = CompiledProject(quay, assets)
    clips = sides_of(build, ["hit_front", "hit_back", "hit_left", "hit_right"])
    assert clips == {"front": "hit_front", "left": "hit_left", "back": "hit_back", "right": "hit_right"}
    hit = HitKind("front", "heavy", "air")
    edit = react_all_round(quay, assets, clips, hit)
    for side, clip in clips.items():
        found = answer_to(edit.project.reactions, HitKind(side, "heavy", "air"))
        assert found is not None
        assert found.own
        action = next(a for a in edit.project.actions if a.name == found.row.action)
        assert [c.clip for s in action.sections for c in s.cuts] == [clip]
    # What has only that clip is taken as it is; a clip that nothing plays gets an action.
    assert len(edit.project.actions) == len(quay.actions)
    more = replace(quay, clips=(*quay.clips, Clip(name="shove_front_left", file=quay.clips[0].file)))
    made_new = react_all_round(more, assets, {"front left": "shove_front_left"}, hit)
    assert len(made_new.project.actions) == len(quay.actions) + 1
    with pytest.raises(Trouble, match="side"):
        react_all_round(quay, assets, {}, hit)
