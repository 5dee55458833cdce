"""What is told of two states of a project: each kind of edit as what it is, renames as renames, and nothing else."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable

import msgspec
import numpy as np
import pytest
from tools.made.edits import replace, with_action
from tools.made.storm import storm

from tests.conftest import TARN
from veergust.core.changes.matching import key_of, pairs
from veergust.core.changes.numbers import numbers
from veergust.core.changes.telling import changes
from veergust.core.edit import (
    actions,
    clips,
    commands,
    cuts,
    drills,
    fields,
    kept_takes,
    layers,
    locomotion,
    masks,
    parameters,
    sections,
    spans,
    stages,
    staging,
)  # fmt: skip
from veergust.core.edit.alternates import keep
from veergust.core.edit.identity import settled
from veergust.core.edit.reactions import set_reaction
from veergust.core.edit.spans import Edit, SpanRef
from veergust.core.model import Action, Parameter, Project
from veergust.core.motion.figure import Assets
from veergust.core.motion.quat import Array
from veergust.core.motion.sampling import Track
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.facts import facts
from veergust.core.study.reactions import HitKind

SWEEP, EXIT = SpanRef("Low sweep", 1, "strikes", 0), SpanRef("Low sweep", 1, "exits", 0)


def says(old: Project, new: Project) -> list[str]:
    return [one.says for one in changes(old, new)]


EDITS: dict[str, tuple[Callable[[Project, Assets], Edit], list[str]]] = {
    "an edge": (
        lambda p, a: spans.set_edges(p, book(p, a), SWEEP, 2, 5),
        ["Low sweep: Swing › Sweep opens 1 → 2"],
    ),
    "a number of a strike": (
        lambda p, a: fields.set_fields(p, [SWEEP], damage=20.0),
        ["Low sweep: Swing › Sweep damage 13 → 20"],
    ),
    "where an exit leads": (
        lambda p, a: fields.set_fields(p, [EXIT], to="Overhead hook"),
        ["Low sweep: Swing › light leads to Thrust → Overhead hook"],
    ),
    "a window": (
        lambda p, a: spans.set_edges(p, book(p, a), EXIT, 5, 12),
        ["Low sweep: Swing › light may lead to Thrust from 7 → 5"],
    ),
    "a span more": (
        lambda p, a: spans.add(p, SpanRef("Thrust", 0, "holds", 0), 2, 5)[0],
        ["Thrust: Draw back › new: hold feet"],
    ),
    "a span less": (lambda p, a: spans.remove(p, SWEEP), ["Low sweep: Swing › strike Sweep is gone"]),
    "a renamed action": (
        lambda p, a: actions.rename_action(p, "Thrust", "Long point"),
        ["Long point: renamed Thrust → Long point"],
    ),
    "a renamed section": (
        lambda p, a: sections.rename_section(p, "Low sweep", 1, "Round"),
        ["Low sweep: Round: renamed Swing → Round"],
    ),
    "a renamed clip": (
        lambda p, a: clips.rename_clip(p, "idle", "stand"),
        ["stand: renamed idle → stand"],
    ),
    "a renamed command": (
        lambda p, a: commands.rename_command(p, "light", "jab it"),
        ["jab it: renamed light → jab it"],
    ),
    "a renamed layer": (lambda p, a: layers.rename_layer(p, "Arms", "Upper"), ["Upper: renamed Arms → Upper"]),
    "a renamed mask": (
        lambda p, a: masks.rename_mask(p, "upper body", "torso"),
        ["torso: renamed upper body → torso"],
    ),
    "a renamed state": (lambda p, a: locomotion.rename(p, "walk", "stroll"), ["stroll: renamed walk → stroll"]),
    "a renamed fighter": (lambda p, a: staging.set_fighter(p, TARN, name="Taro"), ["Taro: renamed Tarn → Taro"]),
    "a renamed take": (
        lambda p, a: kept_takes.rename_take(p, "Round the post", "Round"),
        ["Round: renamed Round the post → Round"],
    ),
    "a renamed drill": (
        lambda p, a: drills.set_drill(p, "Sweep touches", "named", name="It touches"),
        ["It touches: renamed Sweep touches → It touches"],
    ),
    "a clip's preparation": (
        lambda p, a: clips.set_clip(p, "walk", loop=False),
        ["walk: loop yes → no"],
    ),
    "a state's clip": (
        lambda p, a: locomotion.set_state(p, "walk", "clip", clip="run"),
        ["walk: clip – → run"],
    ),
    "a parameter more": (
        lambda p, a: parameters.add_parameter(p, Parameter(name="heat")),
        ["heat: new"],
    ),
    "a key more": (lambda p, a: commands.bind(p, "light", "M"), ["light: keys +M"]),
    "a key less": (lambda p, a: commands.unbind(p, "light", "A"), ["light: keys −A"]),
    "a version kept": (lambda p, a: keep(p, "Thrust", "quick"), ["Thrust: new: version first", "Thrust: version first → quick"]),
    "another place on the stage": (
        lambda p, a: staging.set_fighter(p, TARN, position=(1.5, 0.0, 0.0)),
        ["Tarn: position 0.85, 0, 0 → 1.5, 0, 0"],
    ),
    "a floor more": (lambda p, a: stages.add_floors(p, "wall")[0], ["wall: new"]),
    "a layer's weight": (
        lambda p, a: layers.set_layer(p, "Arms", "weight", weight=0.5),
        ["Arms: weight 1 → 0.5"],
    ),
    "a drill gone": (lambda p, a: drills.remove_drill(p, "Sweep touches"), ["Sweep touches: removed"]),
    "who answers": (
        lambda p, a: set_reaction(p, HitKind("back", "heavy", "standing"), "Fall"),
        [],
    ),
    "an action's fades": (
        lambda p, a: Edit(with_action(p, "Thrust", blend_in=9), ""),
        ["Thrust: fades in over 4 → 9 f"],
    ),
    "tags": (lambda p, a: Edit(with_action(p, "Thrust", tags=("long",)), ""), ["Thrust: tags −light +long"]),
}  # fmt: skip


def book(project: Project, assets: Assets):  # type: ignore[no-untyped-def]
    compiled = CompiledProject(project, assets).action("Low sweep")
    assert compiled is not None
    return compiled


@pytest.mark.parametrize("kind", EDITS)
def test_an_edit_is_told_as_what_it_is(quay: Project, assets: Assets, kind: str) -> None:
    make, told = EDITS[kind]
    after = make(quay, assets).project
    found = says(quay, after)
    if told:
        assert sorted(found) == sorted(told)
    else:
        assert len(found) == 1
    assert says(after, after) == []
    assert says(quay, quay) == []


def bare(project: Project) -> Project:
    """A project without pins, which follow their edges."""

    def without(value: object) -> object:
        if isinstance(value, dict):
            return {k: without(v) for k, v in value.items() if k not in ("start_pin", "end_pin", "pin", "identity")}
        return [without(v) for v in value] if isinstance(value, list | tuple) else value

    return msgspec.convert(without(msgspec.to_builtins(project)), Project)


@pytest.mark.parametrize("seed", [3])
def test_of_a_storm_of_edits_each_is_told_and_going_back_is_too(quay: Project, assets: Assets, seed: int) -> None:
    before = quay
    for edit in storm(quay, assets, seed, 120):
        there, back = changes(before, edit.project), changes(edit.project, before)
        if bare(before) == bare(edit.project):
            continue  # only where an edge is pinned to
        assert there, edit.words
        assert back, edit.words
        kinds = {"added": "removed", "removed": "added"}
        told = sorted(kinds.get(one.what, one.what) for one in there)
        assert told == sorted(one.what for one in back), edit.words
        before = edit.project
    assert changes(before, before) == []


def test_two_edits_of_one_thing_are_both_told_and_a_rename_hides_neither(quay: Project, assets: Assets) -> None:
    after = actions.rename_action(quay, "Low sweep", "Wide sweep").project
    after = sections.rename_section(after, "Wide sweep", 1, "Round").project
    after = fields.set_fields(after, [SpanRef("Wide sweep", 1, "strikes", 0)], damage=20.0).project
    assert says(quay, after) == [
        "Wide sweep: renamed Low sweep → Wide sweep",
        "Wide sweep: Round: renamed Swing → Round",
        "Wide sweep: Round › Sweep damage 13 → 20",
    ]


def test_an_action_under_a_name_that_another_once_had_is_new(quay: Project, assets: Assets) -> None:
    """Renamed, and another made under the old name: what it is stays with the first."""
    after = actions.rename_action(quay, "Thrust", "Long point").project
    after = settled(replace(after, actions=(*after.actions, Action(name="Thrust"))), quay)
    assert sorted(map(str, map(key_of, after.actions))) == sorted([*(a.name for a in quay.actions), "Thrust 2"])
    told = [(c.of, c.what) for c in changes(quay, after)]
    assert ("Long point", "renamed") in told
    assert ("Thrust", "added") in told


def test_what_a_change_comes_to_is_told_in_the_numbers_of_the_action(quay: Project, assets: Assets) -> None:
    later = spans.set_edges(quay, book(quay, assets), SWEEP, 5, 9).project
    later = cuts.retime_cut(later, assets, "Low sweep", 0, 0, 6).project
    old, new = CompiledProject(quay, assets), CompiledProject(later, assets)
    found = {one.what: one for one in numbers(old, new, changes(quay, later))}
    was, now = facts(old, "Low sweep"), facts(new, "Low sweep")
    assert was is not None
    assert now is not None
    for name in ("startup", "total", "on_hit", "on_guard"):
        assert (found[name].old, found[name].new) == (getattr(was, name), getattr(now, name))
    assert found["ticks"].says == "Low sweep: Wind-up 8 → 6 f"
    assert {one.of for one in numbers(old, new, changes(quay, later))} == {"Low sweep"}


def test_a_clip_that_moves_otherwise_is_told_by_how_far_and_whose_numbers_it_changes(
    quay: Project, assets: Assets
) -> None:
    """The hand of one clip turned, from the middle on: the joints after it move, and no other clip does."""
    clip = next(c for c in quay.clips if c.name == "staff_sweep")
    motion = assets.motion(clip.file, clip.animation)
    assert motion is not None
    track = next(t for t in motion.tracks if t.path == "rotation" and len(t.times) > 20)
    values = track.values.copy()
    late = track.times > track.times[len(track.times) // 2]
    values[late] = np.roll(values[late], 1, axis=1)
    tracks = tuple(replace_track(t, values) if t is track else t for t in motion.tracks)
    other = dataclasses.replace(motion, tracks=tracks)
    moved = dataclasses.replace(assets, motions={**assets.motions, (clip.file, motion.name): other}, tracks={})
    found = numbers(CompiledProject(quay, assets), CompiledProject(quay, moved), [])
    told = [one for one in found if one.what == "motion"]
    assert [one.of for one in told] == ["staff_sweep"]
    assert told[0].new["from"] == pytest.approx(float(track.times[late][0]) * 60, abs=1.5)
    assert told[0].new["metres"] > 0.01
    assert {one.of for one in found} <= {"staff_sweep", "Low sweep"}
    assert numbers(CompiledProject(quay, assets), CompiledProject(quay, assets), []) == []


def replace_track(track: Track, values: Array) -> Track:
    return dataclasses.replace(track, values=values)


def test_what_answers_to_what_goes_by_identity_then_name_then_purpose_then_place(quay: Project) -> None:
    sweep, thrust, *_ = quay.actions
    renamed = replace(sweep, name="Other", identity=sweep.name)
    assert pairs((sweep, thrust), (thrust, renamed)) == [(1, 0), (0, 1)]
    exits = sweep.sections[1].exits
    later = tuple(replace(e, start=e.start + 1) for e in exits)
    assert pairs(exits, later) == [(n, n) for n in range(len(exits))]
    assert pairs(exits, later[1:]) == [*((n + 1, n) for n in range(len(exits) - 1)), (0, None)]
