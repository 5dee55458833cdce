"""Hurtboxes made in one step, of whatever creature, and what is done to them afterwards."""

from __future__ import annotations

from dataclasses import replace as changed
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from scipy.spatial.transform import Rotation
from tools.made.edits import action, replace, with_action, with_section

from veergust.core.edit.hurtboxes import (
    add_hurtbox,
    hurtboxes_of,
    make_hurtboxes,
    mirror_hurtbox,
    remove_hurtbox,
    set_hurtbox,
    set_region,
    shape_hurtbox,
)
from veergust.core.edit.outfit import height_of
from veergust.core.files.folder import open_project
from veergust.core.files.importing import import_file
from veergust.core.files.saving import save_project
from veergust.core.model import Hurtbox, Mount, Project, Shield, Weapon
from veergust.core.motion.figure import Assets
from veergust.core.motion.skeleton import Skeleton
from veergust.core.trouble import Trouble


def in_capsule(points: Any, box: Hurtbox) -> Any:
    line = np.array(box.offset) + np.linspace(0, 1, 400)[:, None] * (np.array(box.to) - box.offset)
    return np.linalg.norm(points[:, None] - line[None], axis=-1).min(axis=1) <= box.radius + 1e-3


def test_each_holds_the_skin_of_its_joint_and_hardly_more(assets: Assets) -> None:
    mesh, bones = assets.mesh, assets.skeleton
    assert mesh is not None
    boxes = {b.joint: b for b in hurtboxes_of(assets, height_of(assets))}
    assert len(boxes) >= 15
    own = mesh.joints[np.arange(len(mesh.points)), mesh.weights.argmax(axis=1)]
    for joint, box in boxes.items():
        j = bones.index[joint]
        skin = mesh.points[own == j] @ mesh.inverse_bind[j][:3, :3].T + mesh.inverse_bind[j][:3, 3]
        assert in_capsule(skin, box).mean() >= 0.82, joint
        # Not much larger than a box around the skin is wide.
        assert box.radius <= 0.75 * float(np.ptp(skin, axis=0).max()), joint
    # The staff hangs on a hand and is no part of it.
    assert max(b.radius for b in boxes.values() if "hand" in b.joint) < 0.08
    reach = [np.abs([*b.offset, *b.to]).max() for b in boxes.values() if "hand" in b.joint]
    assert max(reach) < 0.25


def test_left_and_right_are_alike(assets: Assets) -> None:
    bones = assets.skeleton
    boxes = {b.joint: b for b in hurtboxes_of(assets, height_of(assets))}
    pairs = 0
    for name, box in boxes.items():
        other = boxes.get(bones.names[bones.mirrored[bones.index[name]]])
        if other is None or other is box:
            continue
        pairs += 1
        assert box.radius == pytest.approx(other.radius, abs=0.006)
        lengths = [np.linalg.norm(np.array(b.to) - b.offset) for b in (box, other)]
        assert lengths[0] == pytest.approx(lengths[1], abs=0.03)
    assert pairs >= 10


def test_regions_are_named_after_what_joints_are(assets: Assets) -> None:
    region = {b.joint: b.region for b in hurtboxes_of(assets, height_of(assets))}
    assert {region[j] for j in ("head", "neck")} == {"head"}
    assert {region[j] for j in ("upper_arm_left", "forearm_right", "hand_left")} == {"arm"}
    assert {region[j] for j in ("thigh_left", "shin_right", "foot_left")} == {"leg"}
    assert {region[j] for j in ("hips", "spine", "chest")} == {"trunk"}


def creature() -> Skeleton:
    """A beast without names that mean anything: a long back, six legs and a tail."""
    names, parents, places = ["base"], [-1], [[0.0, 0.6, 0.0]]
    for n in range(5):
        names, parents, places = [*names, f"x{n}"], [*parents, len(parents) - 1], [*places, [0.0, 0.0, 0.25]]
    for leg in range(6):
        at, side = 1 + leg // 2 * 2 - (leg // 2 == 2), 1.0 if leg % 2 else -1.0
        for step, place in enumerate(([0.2 * side, 0.0, 0.0], [0.0, -0.3, 0.0], [0.0, -0.3, 0.0])):
            parents = [*parents, at if step == 0 else len(parents) - 1]
            names, places = [*names, f"q{leg}{step}"], [*places, place]
    for n in range(4):
        parents = [*parents, 0 if n == 0 else len(parents) - 1]
        names, places = [*names, f"t{n}"], [*places, [0.0, 0.0, -0.3]]
    turn = np.tile([0.0, 0.0, 0.0, 1.0], (len(names), 1))
    return Skeleton(tuple(names), tuple(parents), turn, np.array(places))


def test_any_creature_has_some_on_every_long_bone() -> None:
    bones = creature()
    assets = Assets(bones)
    boxes = {b.joint: b for b in hurtboxes_of(assets, height_of(assets))}
    for j, name in enumerate(bones.names):
        below = [c for c, parent in enumerate(bones.parents) if parent == j]
        if any(np.linalg.norm(bones.rest_translation[c]) > 0.1 for c in below) and name != "base":
            assert name in boxes
            box = boxes[name]
            ends = [bones.rest_translation[c] for c in below]
            assert min(np.linalg.norm(np.array(box.to) - e) for e in ends) < 1e-3
    assert all(b.radius > 0.0 for b in boxes.values())


def test_made_anew_they_keep_names_regions_and_what_names_them(quay: Project, assets: Assets) -> None:
    for name in ("thigh_left", "shin_right"):
        quay = set_hurtbox(quay, name, name=name.replace("_", " ")).project
    over = (Shield(start=0, end=5, hurtboxes=("head", "thigh left")),)
    quay = set_hurtbox(with_section(quay, "Duck roll", 0, shields=over), "head", region="skull").project
    quay = set_region(quay, "skull", 2.0).project
    edit = make_hurtboxes(quay, assets, height_of(assets))
    rig = edit.project.rig
    names = [h.name for h in rig.hurtboxes]
    assert len(names) == len(set(names))
    assert {"head", "thigh left", "shin right"} <= set(names)
    by_name = {h.name: h for h in rig.hurtboxes}
    assert by_name["head"].region == "skull"
    assert {r.name: r.factor for r in rig.regions} == {"skull": 2.0, "trunk": 1.0, "head": 1.5, "arm": 1.0, "leg": 1.0}
    assert action(edit.project, "Duck roll").sections[0].shields == over
    assert edit.words == "20 hurtboxes from its skin"
    assert make_hurtboxes(quay, changed(assets, mesh=None), 1.7).words.endswith("from its joints")


def test_a_new_name_goes_along_and_a_removed_one_is_named_nowhere(quay: Project) -> None:
    shields = (Shield(start=0, end=5, hurtboxes=("head", "chest")), Shield(start=5, end=6, hurtboxes=("hips",)))
    quay = with_action(with_section(quay, "Duck roll", 0, shields=shields), "Cover", shields=(shields[0],))
    renamed = set_hurtbox(quay, "head", name="  skull ").project
    assert action(renamed, "Duck roll").sections[0].shields[0].hurtboxes == ("skull", "chest")
    assert action(renamed, "Cover").shields[0].hurtboxes == ("skull", "chest")
    assert "head" not in {h.name for h in renamed.rig.hurtboxes}
    gone = remove_hurtbox(quay, "head").project
    assert action(gone, "Duck roll").sections[0].shields[0].hurtboxes == ("chest",)
    with pytest.raises(Trouble, match="Duck roll"):
        remove_hurtbox(quay, "hips")
    for wrong in ("", "chest"):
        with pytest.raises(Trouble):
            set_hurtbox(quay, "head", name=wrong)
    with pytest.raises(Trouble, match="no hurtbox"):
        set_hurtbox(quay, "nobody", radius=1.0)


def test_the_other_side_is_made_as_this_one(quay: Project, assets: Assets) -> None:
    quay = set_hurtbox(
        quay, "thigh_left", offset=(0.1, 0.2, 0.3), to=(-0.1, 0.0, 0.4), radius=0.2, region="leg"
    ).project
    made = {h.name: h for h in mirror_hurtbox(quay, assets.skeleton, "thigh_left").project.rig.hurtboxes}
    right = made["thigh_right"]
    assert (right.offset, right.to, right.radius, right.region) == ((-0.1, 0.2, 0.3), (0.1, 0.0, 0.4), 0.2, "leg")
    alone = remove_hurtbox(quay, "thigh_right").project
    again = mirror_hurtbox(alone, assets.skeleton, "thigh_left").project
    assert [h.joint for h in again.rig.hurtboxes].count("thigh_right") == 1
    with pytest.raises(Trouble, match="no other side"):
        mirror_hurtbox(quay, assets.skeleton, "head")


def test_they_are_saved_and_read_with_their_regions(quay: Project, tmp_path: Path) -> None:
    edit, name = add_hurtbox(quay, "head")
    quay = set_region(set_hurtbox(edit.project, name, region="hat").project, "hat", 0.25).project
    save_project(replace(quay, clips=(), actions=()), tmp_path / "p")
    rig = open_project(tmp_path / "p").rig
    assert rig == quay.rig
    assert rig.hurtboxes[-1] == Hurtbox(name="head 2", joint="head", region="hat")


def test_a_figure_that_is_brought_in_has_them_of_its_skin(tmp_path: Path) -> None:
    from tools.made import DEMO

    folder = tmp_path / "p"
    save_project(Project(name="p"), folder)
    (file,) = [p for p in DEMO.rglob("*.glb") if p.stem == "figure"] or [next(DEMO.rglob("*.glb"))]
    found = import_file(open_project(folder), folder, file).project.rig.hurtboxes
    assert {h.region for h in found} >= {"head", "arm", "leg", "trunk"}
    assert max(h.radius for h in found) < 0.35


def held(project: Project) -> Project:
    """The figure with a staff from one mount to another, turned, on the right hand."""
    hand = next(h.joint for h in project.rig.hurtboxes if h.joint.endswith("hand_right"))
    grip = Mount(name="haft", joint=hand, offset=(0.1, 0.0, 0.0), turn=(0.0, 90.0, 20.0))
    end = Mount(name="point", joint=hand, offset=(0.1, 0.9, 0.3), turn=(10.0, 0.0, 0.0))
    mounts = (*project.rig.mounts, grip, end)
    return replace(project, rig=replace(project.rig, mounts=mounts, weapon=Weapon("haft", "point", 0.04)))


def test_one_on_the_weapons_base_goes_along_the_weapon(quay: Project, assets: Assets) -> None:
    project = held(quay)
    edit, name = add_hurtbox(project, "haft")
    box = next(h for h in edit.project.rig.hurtboxes if h.name == name)
    base, tip = (next(m for m in project.rig.mounts if m.name == n) for n in ("haft", "point"))
    turn = Rotation.from_euler("xyz", base.turn, degrees=True)
    assert np.allclose(np.array(base.offset) + turn.apply(box.to), tip.offset, atol=2e-4)
    assert (box.offset, box.radius) == ((0.0, 0.0, 0.0), 0.04)
    # Made anew from the figure, what is on a mount stays as it is.
    again = make_hurtboxes(edit.project, assets, height_of(assets)).project
    assert box in again.rig.hurtboxes
    assert len({h.name for h in again.rig.hurtboxes}) == len(again.rig.hurtboxes)
    # On any other mount it is a ball.
    other, name = add_hurtbox(project, "point")
    assert next(h for h in other.project.rig.hurtboxes if h.name == name) == Hurtbox(name="point", joint="point")


def test_a_capsule_is_made_a_box_as_large_and_a_capsule_again(quay: Project) -> None:
    box = Hurtbox(
        name="block", joint=quay.rig.hurtboxes[0].joint, offset=(0.0, 0.1, 0.0), to=(0.0, 0.5, 0.0), radius=0.1
    )
    project = replace(quay, rig=replace(quay.rig, hurtboxes=(*quay.rig.hurtboxes, box)))
    made = shape_hurtbox(project, "block", box=True).project
    square = next(h for h in made.rig.hurtboxes if h.name == "block")
    assert (square.offset, square.size) == ((0.0, 0.3, 0.0), (0.1, 0.3, 0.1))
    assert shape_hurtbox(made, "block", box=True).project is made
    back = next(h for h in shape_hurtbox(made, "block", box=False).project.rig.hurtboxes if h.name == "block")
    assert back == box
