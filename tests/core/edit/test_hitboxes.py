"""Hitboxes of a strike, and their keys, which go where the strike and its poses go."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tools.made.edits import replace, with_section

from veergust.core.edit.cuts import retime_cut
from veergust.core.edit.hitboxes import add_box, change_box, ease_key, mirror_box, remove_box, remove_key, set_key
from veergust.core.edit.sections import join_sections, split_section
from veergust.core.edit.spans import SpanRef, set_edges, span_of
from veergust.core.files.as_files import project_files, project_from_files
from veergust.core.model import Hitbox, HitboxKey, Project, Strike
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact.volumes import box_frame, shape_at, swept
from veergust.core.trouble import Trouble

SWEEP = SpanRef("Low sweep", 1, "strikes", 0)


def boxes(project: Project, ref: SpanRef = SWEEP) -> tuple[Hitbox, ...]:
    return tuple(span_of(project, ref).boxes)


def keyed(project: Project) -> Project:
    """The sweep's hitbox small where it opens (tick 1) and large where it closes (tick 4)."""
    small = set_key(change_box(project, SWEEP, 0, 1, radius=0.1).project, SWEEP, 0, 1).project
    return change_box(small, SWEEP, 0, 4, radius=0.4).project


def test_hitboxes_are_added_changed_and_removed_with_words(quay: Project) -> None:
    two = add_box(quay, SWEEP, 0)
    assert two.words == "Sweep: hitbox 2 added"
    assert boxes(two.project) == boxes(quay) * 2
    ball = change_box(two.project, SWEEP, 1, 2, shape="sphere", offset=(0.0, 0.5, 0.0))
    assert ball.words == "Sweep: hitbox 2 shape sphere, offset 0 0.5 0"
    assert boxes(ball.project)[0] == boxes(quay)[0]
    assert project_from_files(project_files(ball.project), "x.veergust") == ball.project
    assert remove_box(ball.project, SWEEP, 1).project == quay
    bare = remove_box(quay, SWEEP, 0).project
    assert boxes(bare) == ()
    with pytest.raises(Trouble, match="no hitbox yet"):
        set_key(bare, SWEEP, 0, 2)
    # A new one is never nowhere: on the weapon, or on the limb that is said to strike.
    weapon = quay.rig.weapon
    assert weapon is not None
    assert boxes(add_box(bare, SWEEP, 0).project)[0].mount == weapon.base
    assert boxes(add_box(bare, SWEEP, 0, "foot_left").project)[0].mount == "foot_left"


def test_a_boxs_key_keeps_its_size_and_its_place(quay: Project) -> None:
    bare = remove_box(quay, SWEEP, 0).project
    box = change_box(add_box(bare, SWEEP, 0).project, SWEEP, 0, 1, shape="box", size=(0.1, 0.2, 0.3)).project
    two = set_key(set_key(box, SWEEP, 0, 1).project, SWEEP, 0, 5).project
    wide = change_box(two, SWEEP, 0, 5, size=(0.5, 0.2, 0.1), offset=(0.0, 1.0, 0.0)).project
    found = [shape_at(boxes(wide)[0], t) for t in (1, 3, 5)]
    halves = [s.half for s in found if s.half is not None]
    assert np.allclose(halves, [(0.1, 0.2, 0.3), (0.3, 0.2, 0.2), (0.5, 0.2, 0.1)])
    assert [round(float(s.a[1]), 6) for s in found] == [0.0, 0.5, 1.0]
    assert project_from_files(project_files(wide), "x.veergust") == wide
    # Without its keys it stays as the last one held it; a key from before boxes had sizes goes by its radius.
    last = remove_key(remove_key(wide, SWEEP, 0, 1).project, SWEEP, 0, 5).project
    assert boxes(last)[0].size == (0.5, 0.2, 0.1)
    old = replace(boxes(box)[0], radius=0.1, keys=(HitboxKey(tick=1, offset=(0, 0, 0), to=(0, 0, 0), radius=0.2),))
    half = shape_at(old, 1).half
    assert half is not None
    assert np.allclose(half, (0.2, 0.4, 0.6))


@given(ticks=st.lists(st.integers(1, 4), min_size=1, max_size=5))
def test_a_key_put_between_others_changes_nothing(ticks: list[int], quay: Project) -> None:
    before = keyed(quay)
    after = before
    for tick in ticks:
        after = set_key(after, SWEEP, 0, tick).project
    for tick in range(1, 5):
        old, new = shape_at(boxes(before)[0], tick), shape_at(boxes(after)[0], tick)
        for a, b in ((old.a, new.a), (old.b, new.b), (old.radius, new.radius)):
            assert b == pytest.approx(a, abs=1e-8)


@pytest.mark.parametrize("ease", ["even", "eased", "hold"])
@pytest.mark.parametrize("shape", ["sphere", "capsule", "box"])
def test_a_hitbox_goes_on_from_a_key_as_that_says(ease: Any, shape: Any) -> None:
    """From one key to the next by its own way, the next by its own; before the first and after the last it stays."""
    keys = (
        HitboxKey(tick=2, offset=(0, 0, 0), to=(0, 1, 0), radius=0.1, size=(0.1, 0.2, 0.3), ease=ease),
        HitboxKey(tick=6, offset=(1, 0, 0), to=(0, 3, 0), radius=0.5, size=(0.5, 0.4, 0.3)),
        HitboxKey(tick=8, offset=(1, 0, 4), to=(0, 3, 0), radius=0.5, size=(0.5, 0.4, 0.3), ease="hold"),
    )
    box = Hitbox(mount="grip", shape=shape, keys=keys)
    share = {"even": [0.25, 0.5, 0.75], "eased": [0.15625, 0.5, 0.84375], "hold": [0.0, 0.0, 0.0]}[ease]
    for tick, part in zip(range(1, 8), [0.0, 0.0, *share, 1.0]):
        found = shape_at(box, tick)
        assert found.radius == pytest.approx(0.1 + 0.4 * part)
        assert found.a == pytest.approx([part, 0, 0])
        assert found.b == pytest.approx([0, 1 + 2 * part, 0] if shape == "capsule" else found.a)
        if shape == "box":
            assert found.half is not None
            assert found.half == pytest.approx([0.1 + 0.4 * part, 0.2 + 0.2 * part, 0.3])
    assert [shape_at(box, t).a[2] for t in (7, 8, 9, 30)] == [2.0, 4.0, 4.0, 4.0]
    assert shape_at(box, 0).radius == 0.1


def test_the_way_from_a_key_is_set_for_the_last_one_before(quay: Project) -> None:
    two = keyed(quay)
    held = ease_key(two, SWEEP, 0, 3, "hold").project
    assert [k.ease for k in boxes(held)[0].keys] == ["hold", "even"]
    assert [k.ease for k in boxes(ease_key(held, SWEEP, 0, 4, "eased").project)[0].keys] == ["hold", "eased"]
    # A key put where it holds changes nothing, and is saved with its way.
    more = set_key(held, SWEEP, 0, 3).project
    assert [shape_at(boxes(more)[0], t).radius for t in range(6)] == [
        shape_at(boxes(held)[0], t).radius for t in range(6)
    ]
    assert project_from_files(project_files(more), "p") == more
    with pytest.raises(Trouble, match="no key"):
        ease_key(quay, SWEEP, 0, 1, "hold")


def test_a_keyed_hitbox_is_set_on_the_frame_looked_at(quay: Project) -> None:
    project = keyed(quay)
    assert [round(shape_at(boxes(project)[0], t).radius, 6) for t in (1, 2, 3, 4)] == [0.1, 0.2, 0.3, 0.4]
    wide = change_box(project, SWEEP, 0, 2, radius=0.5).project
    assert [k.tick for k in boxes(wide)[0].keys] == [1, 2, 4]
    less = remove_key(remove_key(wide, SWEEP, 0, 1).project, SWEEP, 0, 4).project
    assert shape_at(boxes(less)[0], 4).radius == 0.5
    still = remove_key(less, SWEEP, 0, 2).project
    assert (boxes(still)[0].keys, boxes(still)[0].radius) == ((), 0.5)


def test_keys_go_with_a_strike_that_is_moved_and_stay_when_an_edge_is(quay: Project, assets: Assets) -> None:
    project = keyed(quay)
    compiled = CompiledProject(project, assets).action("Low sweep")
    assert compiled is not None
    moved = set_edges(project, compiled, SWEEP, 3, 7).project
    assert [k.tick for k in boxes(moved)[0].keys] == [3, 6]
    longer = set_edges(project, compiled, SWEEP, 1, 9).project
    assert [k.tick for k in boxes(longer)[0].keys] == [1, 4]


def test_keys_follow_their_poses_when_the_cut_is_retimed(quay: Project, assets: Assets) -> None:
    project = keyed(quay)
    strike = span_of(project, SWEEP)
    double = retime_cut(project, assets, "Low sweep", 1, 0, 24).project  # from 12
    assert span_of(double, SWEEP).start == 2 * strike.start
    assert [k.tick for k in boxes(double)[0].keys] == [2, 8]
    assert shape_at(boxes(double)[0], 5).radius == pytest.approx(0.25)


def test_keys_stay_on_their_frames_when_sections_are_cut_and_joined(quay: Project, assets: Assets) -> None:
    strike = replace(span_of(keyed(quay), SWEEP), start=6, end=10)
    late = tuple(replace(k, tick=k.tick + 5) for k in strike.boxes[0].keys)
    strike = replace(strike, boxes=(replace(strike.boxes[0], keys=late),))
    project = with_section(quay, "Low sweep", 1, strikes=(strike,))
    two = split_section(project, assets, "Low sweep", 1, 4).project
    assert [k.tick for k in boxes(two, SpanRef("Low sweep", 2, "strikes", 0))[0].keys] == [2, 5]
    one = join_sections(two, assets, "Low sweep", 1).project
    assert [k.tick for k in boxes(one)[0].keys] == [6, 9]


def test_a_hitbox_is_mirrored_onto_the_other_side(quay: Project, assets: Assets) -> None:
    """Where the mirrored figure has its own: the same place of the pose turned over."""
    left = Hitbox(mount="foot L", offset=(0.03, -0.02, 0.05), to=(0.05, 0.0, 0.2), radius=0.07, name="toe",
                  keys=(HitboxKey(tick=2, offset=(0.01, 0.0, 0.1), to=(0.0, 0.0, 0.2), radius=0.1),))  # fmt: skip
    project = with_section(quay, "Low sweep", 1, strikes=(Strike(start=1, end=5, boxes=(left,)),))
    ref = SpanRef("Low sweep", 1, "strikes", 0)
    made = mirror_box(project, assets.skeleton, ref, 0).project
    strike = span_of(made, ref)
    assert isinstance(strike, Strike)
    one, two = strike.boxes
    assert (one, two.mount, two.radius, two.name) == (left, "foot R", 0.07, "toe")
    build = CompiledProject(made, assets)
    rest = assets.skeleton.rest_world
    for tick in (1, 2, 4):
        a, b = (swept(box, tick, False, f, f, True).now for box in (one, two)
                for f in [box_frame(build, box, rest, False)] if f is not None)  # fmt: skip
        for p, q in zip(a, b):
            assert np.allclose(p * [-1.0, 1.0, 1.0], q, atol=1e-6)
    middle = Strike(start=1, end=5, boxes=(replace(left, mount="hips"),))
    with pytest.raises(Trouble, match="no other side"):
        mirror_box(with_section(quay, "Low sweep", 1, strikes=(middle,)), assets.skeleton, ref, 0)
