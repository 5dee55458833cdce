"""Motion files of every kind brought into a project: figures, foreign skeletons, props, copies out again."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from msgspec.structs import replace
from tools.made import DEMO
from tools.made.foreign import as_bvh, names_in, t_pose

from tests.core.files.test_gltf import join, parts
from tests.core.files.validating import asked, validated
from veergust.core.edit.poses import put_pose
from veergust.core.files.assets import load_assets
from veergust.core.files.editable import editable_copy
from veergust.core.files.folder import open_project
from veergust.core.files.gltf_read import read_gltf
from veergust.core.files.gltf_write import write_glb
from veergust.core.files.importing import Imported, arrive, bring_prop, import_file, take_in
from veergust.core.files.progress import Stopped
from veergust.core.files.reading import read_motion
from veergust.core.files.saving import save_project
from veergust.core.model import Clip, Project
from veergust.core.motion import quat
from veergust.core.motion.figure import Assets
from veergust.core.motion.prepared import clip_pose
from veergust.core.motion.sampling import Motion, sample
from veergust.core.motion.skeleton import forward
from veergust.core.scene.dress import figure_mesh
from veergust.core.trouble import Trouble


def motion_of(assets: Assets, name: str) -> Motion:
    motion = assets.motion(f"clips/{name}.glb", name)
    assert motion is not None
    return motion


def bvh(assets: Assets, tmp_path: Path, name: str, **options: Any) -> Path:
    path = tmp_path / f"{name}_other.bvh"
    options.setdefault("names", names_in("camel"))
    path.write_text(as_bvh(assets, motion_of(assets, name), **options))
    return path


def played(done: Imported, folder: Path, clip: int = -1) -> np.ndarray:
    assets, missing = load_assets(done.project, folder)
    assert not missing
    pose = clip_pose(assets, done.project.clips[clip], np.linspace(0, 0.6, 7))
    return forward(assets.skeleton, pose.rotation, pose.translation)[..., :3, 3]


def test_a_foreign_clip_comes_in_with_its_mapping_and_plays_as_its_source(
    assets: Assets, quay: Project, folder: Path, tmp_path: Path
) -> None:
    source = bvh(assets, tmp_path, "staff_sweep", bind=t_pose(assets.skeleton))
    done = import_file(quay, folder, source)
    clip = done.project.clips[-1]
    assert (clip.name, clip.file) == ("staff_sweep_other", "clips/staff_sweep_other.bvh")
    # It has no root of its own, so its hips carry the body.
    assert clip.root_joint == "hips"
    assert (folder / clip.file).read_bytes() == source.read_bytes()
    assert open_project(folder) == done.project
    assert len(done.project.sources) == 1
    # Every joint that moves in the file answers to one of the figure's, so nothing is left out.
    assert done.left_out == ()
    here = played(done, folder)
    own = played(Imported(quay, (), ()), folder, [c.name for c in quay.clips].index("staff_sweep"))
    mapped = [assets.skeleton.index[n] for n in names_in("camel")]
    assert np.abs(here - own)[:, mapped].max() < 0.006


def test_a_mended_mapping_is_kept_and_used_for_the_next_file_of_that_skeleton(
    assets: Assets, quay: Project, folder: Path, tmp_path: Path
) -> None:
    first = arrive(quay, folder, bvh(assets, tmp_path, "staff_sweep"))
    assert not first.known
    assert first.rig is not None
    mended = replace(first.rig, joints=tuple(p for p in first.rig.joints if p[1] != "head"), scale=0.02)
    done = take_in(quay, folder, type(first)(first.source, first.content, mended, True))
    second = arrive(done.project, folder, bvh(assets, tmp_path, "walk"))
    assert second.known
    assert second.rig == mended
    other = arrive(done.project, folder, bvh(assets, tmp_path, "idle", names=names_in("short")))
    assert not other.known
    after = take_in(done.project, folder, second)
    assert after.project.sources == (mended,)
    assert any("'Head'" in words for words in after.left_out)
    again, _ = load_assets(after.project, folder)
    assert again.foreign == {"clips/staff_sweep_other.bvh", "clips/walk_other.bvh"}
    # Clips that are loaded are not read again while the mapping stays, and all are when it changes.
    kept, _ = load_assets(after.project, folder, known=again)
    key = ("clips/walk_other.bvh", "walk_other")
    assert kept.motions[key] is again.motions[key]
    changed, _ = load_assets(replace(after.project, sources=(replace(mended, scale=0.01),)), folder, known=again)
    assert changed.motions[key] is not again.motions[key]


def test_giving_up_half_way_leaves_nothing_behind(assets: Assets, quay: Project, folder: Path, tmp_path: Path) -> None:
    before = sorted(p.name for p in folder.rglob("*"))
    arrival = arrive(quay, folder, bvh(assets, tmp_path, "staff_sweep"))

    def stop(says: str, share: float) -> None:
        raise Stopped

    with pytest.raises(Stopped):
        take_in(quay, folder, arrival, progress=stop)
    assert sorted(p.name for p in folder.rglob("*")) == before


@pytest.mark.parametrize(
    ("unit", "lie", "word"), [(100.0, None, "centimetres"), (39.37, "lying", "inches"), (1.0, None, "")]
)
def test_a_bvh_as_the_first_file_becomes_the_figure_in_metres_and_upright(
    assets: Assets, tmp_path: Path, unit: float, lie: str | None, word: str
) -> None:
    folder = tmp_path / "new.veergust"
    save_project(Project(name="New"), folder)
    lying = quat.from_axis_angle([1.0, 0.0, 0.0], 90.0) if lie else None
    source = bvh(assets, tmp_path, "walk", unit=unit, lie=lying)
    done = import_file(open_project(folder), folder, source)
    loaded, _ = load_assets(done.project, folder)
    places = loaded.skeleton.rest_world[:, :3, 3]
    assert 1.3 < np.ptp(places[:, 1]) < 2.0
    assert done.project.rig.hips == "Hips"
    assert any(word in words for words in done.left_out) or not word
    left = places[loaded.skeleton.index["LeftUpLeg"]] - places[loaded.skeleton.index["RightUpLeg"]]
    assert left[0] > 0.1
    # A second file of the same skeleton needs no mapping.
    assert arrive(done.project, folder, bvh(assets, tmp_path, "run", unit=unit, lie=lying)).rig is None
    mesh = figure_mesh(loaded, done.project.rig)
    assert mesh is not None
    assert len(mesh.faces) > 50


def differ(one: np.ndarray, two: np.ndarray) -> float:
    """The largest difference of two arrays of quaternions, q and −q being the same turn."""
    return float(np.minimum(np.abs(one - two).max(axis=-1), np.abs(one + two).max(axis=-1)).max())


def scaled(assets: Assets, unit: float) -> bytes:
    """The figure with a motion in another unit, under a node that makes up for it."""
    content, binary = parts(write_glb(assets.skeleton, assets.mesh, (motion_of(assets, "walk"),)))
    floats = bytearray(binary)
    views, accessors = content["bufferViews"], content["accessors"]
    moving = {a["output"] for m in content["animations"] for a in m["samplers"]}
    for index in moving | {content["meshes"][0]["primitives"][0]["attributes"]["POSITION"]}:
        if accessors[index]["type"] == "VEC3":
            view = views[accessors[index]["bufferView"]]
            start, size = view.get("byteOffset", 0), view["byteLength"]
            values = np.frombuffer(bytes(floats[start : start + size]), "<f4") / np.float32(unit)
            floats[start : start + size] = values.astype("<f4").tobytes()
    bind = accessors[content["skins"][0]["inverseBindMatrices"]]["bufferView"]
    start, size = views[bind].get("byteOffset", 0), views[bind]["byteLength"]
    matrices = np.frombuffer(bytes(floats[start : start + size]), "<f4").reshape(-1, 16).copy()
    matrices[:, 12:15] /= np.float32(unit)
    floats[start : start + size] = matrices.tobytes()
    for node in content["nodes"]:
        if "translation" in node:
            node["translation"] = [v / unit for v in node["translation"]]
    roots = content["scenes"][0]["nodes"]
    content["nodes"].append({"name": "unit", "scale": [unit] * 3, "children": [roots[0]]})
    content["scenes"][0]["nodes"] = [len(content["nodes"]) - 1, *roots[1:]]
    return join(content, bytes(floats))


def test_scale_on_nodes_is_folded_into_places_keys_and_skin(assets: Assets, tmp_path: Path) -> None:
    path = tmp_path / "cm.glb"
    path.write_bytes(scaled(assets, 0.01))
    read = read_gltf(path)
    which = [read.skeleton.index[n] for n in assets.skeleton.names]
    assert np.abs(read.skeleton.rest_world[which, :3, 3] - assets.skeleton.rest_world[:, :3, 3]).max() < 1e-5
    at = np.linspace(0, 1, 11)
    here, there = sample(assets.skeleton, motion_of(assets, "walk"), at), sample(read.skeleton, read.motions[0], at)
    ours = forward(assets.skeleton, here.rotation, here.translation)
    theirs = forward(read.skeleton, there.rotation, there.translation)[:, which]
    assert np.abs(ours[..., :3, 3] - theirs[..., :3, 3]).max() < 1e-5
    assert read.mesh is not None
    assert assets.mesh is not None
    one = (ours @ assets.mesh.inverse_bind)[5]
    two = (theirs @ read.mesh.inverse_bind[which])[5]
    first = np.einsum("ij,j->i", one[assets.mesh.joints[0, 0]], [*assets.mesh.points[0], 1.0])
    joint = which.index(int(read.mesh.joints[0, 0]))
    second = np.einsum("ij,j->i", two[joint], [*read.mesh.points[0], 1.0])
    assert np.allclose(first, second, atol=1e-5)


def test_an_editable_copy_reads_back_the_same_with_its_keyed_poses(assets: Assets, quay: Project, folder: Path) -> None:
    plain = next(c for c in quay.clips if c.name == "overhead")
    edit, name = editable_copy(quay, assets, folder, plain)
    assert (name, edit.words) == ("overhead_copy", "Editable copy overhead_copy")
    loaded, _ = load_assets(edit.project, folder)
    at = np.linspace(0, 1.0, 41)
    made = edit.project.clips[-1]
    one, two = clip_pose(assets, plain, at), clip_pose(loaded, made, at)
    assert differ(one.rotation, two.rotation) < 1e-6
    assert np.abs(one.translation - two.translation).max() < 1e-6
    turned = clip_pose(assets, plain, np.array([0.5]))
    turned.rotation[0, assets.skeleton.index["head"]] = quat.IDENTITY
    posed = put_pose(quay, assets, "overhead", 0.5, turned).project
    clip = next(c for c in posed.clips if c.name == "overhead")
    edit, name = editable_copy(posed, assets, folder, clip)
    loaded, _ = load_assets(edit.project, folder)
    ticks = np.arange(60) / 60
    one, two = clip_pose(assets, clip, ticks), clip_pose(loaded, edit.project.clips[-1], ticks)
    assert differ(one.rotation, two.rotation) < 1e-6
    assert edit.project.clips[-1].poses == ()
    with pytest.raises(Trouble, match="is gone"):
        editable_copy(quay, assets, folder, Clip(name="lost", file="clips/lost.glb"))


@asked
def test_the_gltf_validator_finds_nothing_wrong_with_what_is_written(
    assets: Assets, quay: Project, folder: Path
) -> None:
    clip = next(c for c in quay.clips if c.name == "overhead")
    edit, _ = editable_copy(quay, assets, folder, clip)
    validated(folder / edit.project.clips[-1].file)


def test_a_prop_rides_on_its_mount_in_every_pose(assets: Assets, quay: Project, folder: Path, tmp_path: Path) -> None:
    source = tmp_path / "buckler.glb"
    source.write_bytes((DEMO / "clips" / "figure.glb").read_bytes())
    edit, name = bring_prop(quay, folder, source, "palm L")
    assert (name, edit.words) == ("buckler", "New prop buckler")
    rig = replace(edit.project.rig, props=(replace(edit.project.rig.props[0], offset=(0.0, -0.1, 0.0), scale=0.2),))
    project = replace(edit.project, rig=rig)
    loaded, missing = load_assets(project, folder)
    assert not missing
    bare, dressed = figure_mesh(loaded, quay.rig), figure_mesh(loaded, rig)
    assert bare is not None
    assert dressed is not None
    assert assets.mesh is not None
    assert len(dressed.points) == len(bare.points) + len(assets.mesh.points)
    pose = clip_pose(loaded, next(c for c in quay.clips if c.name == "overhead"), np.array([0.4]))
    world = forward(loaded.skeleton, pose.rotation, pose.translation)[0]
    hand = loaded.skeleton.index["hand_left"]
    point = len(bare.points)
    assert dressed.joints[point, 0] == hand
    at = world[hand] @ dressed.inverse_bind[hand] @ np.array([*dressed.points[point], 1.0])
    offset = np.array(next(m for m in rig.mounts if m.name == "palm L").offset) - [0.0, 0.1, 0.0]
    want = world[hand] @ np.array([*(offset + 0.2 * loaded.props["clips/buckler.glb"].points[0]), 1.0])
    assert np.allclose(at, want, atol=1e-5)
    (folder / "clips" / "buckler.glb").unlink()
    assert load_assets(project, folder)[1] == ["clips/buckler.glb is not in the folder"]
    with pytest.raises(Trouble, match="is not a"):
        bring_prop(quay, folder, bvh(assets, tmp_path, "walk"), "palm L")


def odd(assets: Assets, act: Any) -> bytes:
    content, binary = parts(write_glb(assets.skeleton, assets.mesh, (motion_of(assets, "idle"),)))
    spoilt = bytearray(binary)
    act(content, spoilt)
    return join(content, bytes(spoilt))


def test_odd_and_damaged_files_are_taken_or_refused_in_words_and_never_by_half(
    assets: Assets, quay: Project, folder: Path, tmp_path: Path
) -> None:
    def keys(content: Any, which: str) -> dict[str, Any]:
        return content["accessors"][content["animations"][0]["samplers"][0][which]]

    def one_key(content: Any, _: bytearray) -> None:
        for sampler in content["animations"][0]["samplers"]:
            content["accessors"][sampler["input"]]["count"] = 1
            content["accessors"][sampler["output"]]["count"] = 1

    def long_quaternions(content: Any, data: bytearray) -> None:
        view = content["bufferViews"][keys(content, "output")["bufferView"]]
        start, size = view.get("byteOffset", 0), view["byteLength"]
        values = np.frombuffer(bytes(data[start : start + size]), "<f4") * np.float32(3.7)
        data[start : start + size] = values.tobytes()

    def lost_joint(content: Any, _: bytearray) -> None:
        content["skins"][0]["joints"][3] = 4000

    def squeezed(content: Any, _: bytearray) -> None:
        content["extensionsRequired"] = ["KHR_draco_mesh_compression"]

    def uneven(content: Any, _: bytearray) -> None:
        content["nodes"][0]["scale"] = [1.0, 1.2, 1.0]

    taken = {"one key": one_key, "long quaternions": long_quaternions}
    for name, act in taken.items():
        path = tmp_path / f"{name.replace(' ', '_')}.glb"
        path.write_bytes(odd(assets, act))
        done = import_file(quay, folder, path, save=False)
        loaded, _ = load_assets(done.project, folder)
        pose = clip_pose(loaded, done.project.clips[-1], np.array([0.0, 0.3]))
        assert np.allclose(np.linalg.norm(pose.rotation, axis=-1), 1.0)
    refused = {"joint": (lost_joint, "skins[0].joints"), "squeezed": (squeezed, "without compression")}
    before = sorted(p.name for p in folder.rglob("*"))
    for name, (act, says) in refused.items():
        path = tmp_path / f"{name}.glb"
        path.write_bytes(odd(assets, act))
        with pytest.raises(Trouble) as caught:
            import_file(quay, folder, path)
        assert says in str(caught.value)
    path = tmp_path / "uneven.glb"
    path.write_bytes(odd(assets, uneven))
    assert any("scaled unevenly" in words for words in read_motion(path).left_out)
    with pytest.raises(Trouble, match="is not a"):
        import_file(quay, folder, tmp_path / "notes.fbx")
    assert sorted(p.name for p in folder.rglob("*")) == before
