"""Layers and masks edited: nothing is left without a layer, and a mask says what was painted in the fewest words."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from tools.made.foreign import names_in

from veergust.core.edit import layers, masks
from veergust.core.edit.parameters import rename_parameter
from veergust.core.model import Kept, Layer, Mask, Parameter, Project
from veergust.core.motion.blend import mask_weights
from veergust.core.motion.figure import Assets
from veergust.core.motion.naming import nearest
from veergust.core.motion.skeleton import Skeleton
from veergust.core.trouble import Trouble


@pytest.fixture
def two(quay: Project) -> Project:
    """The demo with two layers only."""
    layers = (Layer(name="Body"), Layer(name="Reactions"))
    actions = tuple(a if a.layer in ("Body", "Reactions") else replace(a, layer="Body") for a in quay.actions)
    return replace(quay, layers=layers, actions=actions)


def stack(project: Project) -> list[str]:
    return [y.name for y in project.layers]


def test_a_layer_goes_over_the_one_it_is_added_to(two: Project) -> None:
    quay = two

    edit, name = layers.add_layer(quay, "Body")
    assert stack(edit.project) == ["Body", name, "Reactions"]
    edit, again = layers.double_layer(edit.project, "Body")
    assert stack(edit.project) == ["Body", again, name, "Reactions"]
    assert replace(edit.project.layers[1], name="Body") == quay.layers[0]
    for to, wanted in ((0, 0), (3, 3), (9, 3), (-2, 0)):
        moved = layers.move_layer(edit.project, again, to).project
        assert stack(moved).index(again) == wanted
        assert sorted(stack(moved)) == sorted(stack(edit.project))


def test_a_layer_that_is_removed_leaves_no_action_without_one(two: Project) -> None:
    quay, first = two, two.actions[0]
    quay = replace(quay, actions=(replace(first, kept=(Kept(name="old", action=first),)), *quay.actions[1:]))
    with pytest.raises(Trouble, match="without a layer"):
        layers.remove_layer(quay, "Body")
    with pytest.raises(Trouble, match="without a layer"):
        layers.remove_layer(quay, "Body", "Body")
    left = layers.remove_layer(quay, "Body", "Reactions").project
    assert {a.layer for a in left.actions} == {"Reactions"}
    assert left.actions[0].kept[0].action.layer == "Reactions"
    named = layers.rename_layer(quay, "Body", "Trunk").project
    assert named.actions[0].layer == named.actions[0].kept[0].action.layer == "Trunk"
    for bad in ("", "  ", "Reactions"):
        with pytest.raises(Trouble):
            layers.rename_layer(quay, "Body", bad)


def test_a_rule_stands_for_a_state_a_group_or_elsewhere(quay: Project) -> None:
    there = replace(quay, layers=(Layer(name="Body"),))
    there = layers.set_rule(there, "Body", "walk", "fades").project
    there = layers.set_rule(there, "Body", "idle", "keeps out").project
    there = layers.set_rule(there, "Body", "", "finishes").project
    assert [(r.state, r.rule) for r in there.layers[0].scope] == [("idle", "keeps out"), ("walk", "fades")]
    assert there.layers[0].elsewhere == "finishes"
    there = layers.set_rule(there, "Body", "idle", None).project
    assert [r.state for r in there.layers[0].scope] == ["walk"]


def test_an_action_that_is_put_on_a_layer_takes_its_fades_where_it_had_the_old_ones(quay: Project) -> None:
    made = replace(quay, layers=(Layer(name="Body", blend_in=5, blend_out=6), Layer(name="Arms", blend_in=1)))
    usual, own = (replace(a, blend_in=i, blend_out=o) for a, i, o in ((quay.actions[0], 5, 6), (quay.actions[1], 5, 9)))
    made = replace(made, actions=(usual, own))
    for n, wanted in ((0, (1, 8)), (1, (5, 9))):
        action = layers.put_on(made, made.actions[n].name, "Arms").project.actions[n]
        assert (action.layer, action.blend_in, action.blend_out) == ("Arms", *wanted)


def test_a_parameter_that_is_renamed_is_so_in_the_layers(quay: Project) -> None:
    ground = replace(quay.locomotion, parameters=(Parameter(name="loud"),))
    made = replace(quay, locomotion=ground, layers=(Layer(name="Body", by="loud"),))
    assert rename_parameter(made, "loud", "force").project.layers[0].by == "force"


def test_more_layers_than_anybody_can_use_are_refused(quay: Project) -> None:
    project = replace(quay, layers=tuple(Layer(name=f"L{n}") for n in range(layers.MOST_LAYERS)))
    with pytest.raises(Trouble, match="most"):
        layers.add_layer(project)


@settings(max_examples=200)
@given(data=st.data())
def test_a_mask_gives_what_was_painted(data: st.DataObject, assets: Assets) -> None:
    bones = assets.skeleton
    painted = np.array(
        data.draw(st.lists(st.sampled_from([0.0, 0.25, 0.5, 1.0]), min_size=len(bones), max_size=len(bones)))
    )
    mask = masks.mask_of(bones, "m", painted, (("tail", 0.5),))
    assert np.allclose(masks.weights_in(bones, mask), painted, atol=1e-3)
    assert ("tail", 0.5) in mask.weights


def test_a_mask_from_a_joint_on_is_said_so(assets: Assets) -> None:
    bones = assets.skeleton
    for joint, feather in (("waist", 1), ("chest", 3), ("upper_arm_left", 0), ("", 0)):
        mask = masks.mask_of(bones, "m", mask_weights(bones, joint, feather))
        assert (mask.joint, mask.feather, mask.weights) == (joint, feather, ())


def test_painting_adds_takes_away_and_mirrors(quay: Project, assets: Assets) -> None:
    bones = assets.skeleton
    project, name = masks.add_mask(quay, "mine")
    made = masks.fill(project.project, bones, name, 0.0).project
    made = masks.from_here_on(made, bones, name, "upper_arm_left", 1).project
    got = dict(zip(bones.names, masks.weights_in(bones, made.masks[-1])))
    assert (got["upper_arm_left"], got["forearm_left"], got["hand_left"], got["upper_arm_right"]) == (0.5, 1, 1, 0)
    made = masks.mirrored(made, bones, name).project
    got = dict(zip(bones.names, masks.weights_in(bones, made.masks[-1])))
    assert (got["upper_arm_right"], got["forearm_right"]) == (0.5, 1)
    made = masks.from_here_on(made, bones, name, "forearm_left", much=0.0).project
    made = masks.set_weight(made, bones, name, ("head", "neck"), 0.3).project
    got = dict(zip(bones.names, masks.weights_in(bones, made.masks[-1])))
    assert (got["hand_left"], got["forearm_right"], got["head"]) == (0, 1, 0.3)
    with pytest.raises(Trouble, match="speaks for it"):
        masks.remove_mask(replace(made, layers=(Layer(name="Body", mask=name),)), name)
    assert (
        masks.rename_mask(replace(made, layers=(Layer(name="Body", mask=name),)), name, "arms").project.layers[0].mask
        == "arms"
    )


@pytest.mark.parametrize("manner", ["camel", "short", "prefixed"])
def test_a_mask_of_another_figure_is_brought_to_this_one(manner: str, quay: Project, assets: Assets) -> None:
    """Its joints have other names there; each is found by what part of the body it is."""
    other = names_in(manner)
    for own in ("forearm_left", "upper_arm_right", "head", "thigh_left", "hand_right"):
        assert nearest(assets.skeleton, other[own]) == own
    foreign = Mask(name="arm", joint=other["upper_arm_right"], weights=((other["hand_right"], 0.5),))
    made = masks.for_this_figure(replace(quay, masks=(foreign,)), assets.skeleton, "arm").project.masks[0]
    assert (made.joint, made.weights) == ("upper_arm_right", (("hand_right", 0.5),))


def test_a_mask_of_nothing_like_this_figure_is_said_to_be_so(quay: Project, assets: Assets) -> None:
    foreign = replace(quay, masks=(Mask(name="m", joint="zzz_tentacle_9"),))
    with pytest.raises(Trouble, match="no joint like"):
        masks.for_this_figure(foreign, assets.skeleton, "m")


def test_a_creature_without_sides_has_masks_as_well() -> None:
    worm = Skeleton(
        tuple(f"ring{n}" for n in range(9)), (-1, *range(8)), np.tile([0.0, 0, 0, 1], (9, 1)), np.ones((9, 3))
    )
    project = Project(masks=(Mask(name="m"),))
    made = masks.from_here_on(masks.fill(project, worm, "m", 0.0).project, worm, "m", "ring4", 2).project
    assert made.masks[0] == Mask(name="m", joint="ring4", feather=2)
    assert masks.mirrored(made, worm, "m").project.masks == made.masks
