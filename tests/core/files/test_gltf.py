"""glTF in and out: round trips, every way a file can be damaged, and a sentence for each."""

from __future__ import annotations

import base64
import contextlib
import json
import struct
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tools.made import DEMO

from veergust.core.files.assets import load_assets
from veergust.core.files.folder import open_project
from veergust.core.files.gltf_mesh import read_prop
from veergust.core.files.gltf_read import read_gltf
from veergust.core.files.gltf_write import write_glb
from veergust.core.files.importing import import_file
from veergust.core.files.reading import bind
from veergust.core.files.saving import save_project
from veergust.core.model import Project, Rig
from veergust.core.motion import quat
from veergust.core.motion.figure import Assets
from veergust.core.motion.sampling import Motion, Track, evaluate, sample
from veergust.core.motion.skeleton import Skeleton
from veergust.core.trouble import Trouble

SWEEP = DEMO / "clips" / "staff_sweep.glb"


def parts(data: bytes) -> tuple[dict[str, Any], bytes]:
    length = struct.unpack_from("<I", data, 12)[0]
    return json.loads(data[20 : 20 + length]), data[28 + length :]


def join(content: dict[str, Any], binary: bytes) -> bytes:
    text = json.dumps(content).encode()
    text += b" " * (-len(text) % 4)
    head = struct.pack("<4sII", b"glTF", 2, 28 + len(text) + len(binary))
    return (
        head + struct.pack("<II", len(text), 0x4E4F534A) + text + struct.pack("<II", len(binary), 0x004E4942) + binary
    )


@pytest.fixture
def small() -> bytes:
    bones = Skeleton(("root", "arm"), (-1, 0), np.tile(quat.IDENTITY, (2, 1)), np.array([[0, 0, 0], [0, 1.0, 0]]))
    times = np.array([0.0, 0.5, 1.0])
    turns = quat.from_axis_angle([0.0, 0.0, 1.0], [0.0, 40.0, 90.0])
    return write_glb(bones, motions=(Motion("wave", 1.0, 2.0, (Track(1, "rotation", "LINEAR", times, turns),)),))


def test_a_motion_written_and_read_again_is_the_same(assets: Assets, tmp_path: Path) -> None:
    motion = assets.motion("clips/staff_sweep.glb", "staff_sweep")
    assert motion is not None
    path = tmp_path / "again.glb"
    path.write_bytes(write_glb(assets.skeleton, assets.mesh, (motion,)))
    content = read_gltf(path)
    assert content.skeleton.names == assets.skeleton.names
    assert content.skeleton.parents == assets.skeleton.parents
    at = np.linspace(0, motion.seconds, 97)
    one, two = sample(assets.skeleton, motion, at), sample(content.skeleton, content.motions[0], at)
    assert quat.angle_between(one.rotation, two.rotation).max() < 1e-4
    assert np.abs(one.translation - two.translation).max() < 1e-6
    assert content.mesh is not None
    assert assets.mesh is not None
    assert np.array_equal(content.mesh.faces, assets.mesh.faces)
    assert write_glb(assets.skeleton, assets.mesh, (motion,)) == path.read_bytes()


def test_step_and_cubic_keys_survive(tmp_path: Path) -> None:
    bones = Skeleton(("root",), (-1,), np.array([quat.IDENTITY]), np.zeros((1, 3)))
    times = np.array([0.0, 0.4, 1.0])
    rng = np.random.default_rng(3)
    step = Track(0, "translation", "STEP", times, rng.normal(size=(3, 3)))
    cubic = Track(0, "translation", "CUBICSPLINE", times, rng.normal(size=(3, 3, 3)))
    for track in (step, cubic):
        path = tmp_path / f"{track.interpolation}.glb"
        path.write_bytes(write_glb(bones, motions=(Motion("m", 1.0, 30.0, (track,)),)))
        read = read_gltf(path).motions[0].tracks[0]
        at = np.linspace(0, 1, 23)
        assert np.allclose(evaluate(read, at), evaluate(track, at), atol=1e-6)


def rigged(assets: Assets) -> tuple[dict[str, Any], bytes]:
    assert assets.mesh is not None
    motion = assets.motion("clips/idle.glb", "idle")
    assert motion is not None
    return parts(write_glb(assets.skeleton, assets.mesh, (motion,)))


def test_a_node_above_the_joints_that_turns_the_figure_is_part_of_it(assets: Assets, tmp_path: Path) -> None:
    content, binary = rigged(assets)
    roots = content["scenes"][0]["nodes"]
    half = float(np.sqrt(0.5))
    content["nodes"].append(
        {"name": "above", "children": [0], "rotation": [half, 0, 0, half], "translation": [0, 0.5, 0]}
    )
    content["nodes"].append({"name": "plain", "children": [len(content["nodes"]) - 1]})
    content["scenes"][0]["nodes"] = [len(content["nodes"]) - 1, *roots[1:]]
    (tmp_path / "a.glb").write_bytes(join(content, binary))
    read = read_gltf(tmp_path / "a.glb").skeleton
    assert read.names[0] == "above"
    assert "plain" not in read.names
    head, own = read.index["head"], assets.skeleton.index["head"]
    x, y, z = assets.skeleton.rest_world[own, :3, 3]
    assert read.rest_world[head, :3, 3] == pytest.approx([x, 0.5 - z, y], abs=1e-6)


@pytest.mark.parametrize("name", ["\ud800", "a\udfff", "\udc00\ud800 b", "plain \U0001f5e1"])
def test_half_a_sign_in_a_name_comes_in_as_a_mark(name: str, assets: Assets, tmp_path: Path) -> None:
    content, binary = rigged(assets)
    content["nodes"][0]["name"], content["animations"][0]["name"] = f"top {name}", f"idle {name}"
    content["meshes"][0]["name"] = content["skins"][0]["name"] = name
    (tmp_path / "a.glb").write_bytes(join(content, binary))
    save_project(Project(name="x"), tmp_path / "x.veergust")
    done = import_file(open_project(tmp_path / "x.veergust"), tmp_path / "x.veergust", tmp_path / "a.glb")
    assert open_project(tmp_path / "x.veergust") == done.project
    loaded, missing = load_assets(done.project, tmp_path / "x.veergust")
    assert not missing
    assert loaded.skeleton.names[0].startswith("top ")
    assert ("\ufffd" in loaded.skeleton.names[0]) == (not name.startswith("plain"))
    assert str(loaded.skeleton.names).encode()


@pytest.mark.parametrize(("attribute", "kept"), [("NORMAL", 5), ("JOINTS_0", 5), ("WEIGHTS_0", 5), ("POSITION", 5)])
def test_what_a_mesh_says_of_fewer_points_is_a_sentence(
    attribute: str, kept: int, assets: Assets, tmp_path: Path
) -> None:
    content, binary = rigged(assets)
    primitive = content["meshes"][0]["primitives"][0]
    assert attribute in primitive["attributes"]
    accessor = dict(content["accessors"][primitive["attributes"][attribute]], count=kept)
    content["accessors"].append(accessor)
    primitive["attributes"][attribute] = len(content["accessors"]) - 1
    (tmp_path / "a.glb").write_bytes(join(content, binary))
    with pytest.raises(Trouble, match=r"a\.glb, meshes\[0\]"):
        read_gltf(tmp_path / "a.glb")


def test_nodes_between_joints_are_joints_too(assets: Assets, tmp_path: Path) -> None:
    content, binary = rigged(assets)
    neck = assets.skeleton.index["neck"]
    content["skins"][0]["joints"] = [j for j in content["skins"][0]["joints"] if j != neck]
    content["skins"][0].pop("inverseBindMatrices")
    content["meshes"][0]["primitives"] = []
    (tmp_path / "a.glb").write_bytes(join(content, binary))
    read = read_gltf(tmp_path / "a.glb")
    assert "neck" in read.skeleton.names
    assert read.skeleton.parents[read.skeleton.index["head"]] == read.skeleton.index["neck"]
    assert read.mesh is None


def test_keys_for_joints_the_figure_lacks_are_left_out_and_said_so(assets: Assets, tmp_path: Path) -> None:
    content, binary = parts((DEMO / "clips" / "idle.glb").read_bytes())
    names = [n["name"] for n in content["nodes"]]
    content["nodes"][names.index("sash")]["name"] = "scarf"
    (tmp_path / "a.glb").write_bytes(join(content, binary))
    bound = bind(read_gltf(tmp_path / "a.glb"), assets.skeleton, Rig(), ())
    assert bound.left_out == ("joint 'scarf' is not in the figure",)
    assert not bound.foreign
    assert assets.skeleton.index["sash"] not in {t.joint for t in bound.motions[0].tracks}


def test_a_file_without_a_skin_gives_its_nodes_as_joints(small: bytes, tmp_path: Path) -> None:
    (tmp_path / "a.glb").write_bytes(small)
    read = read_gltf(tmp_path / "a.glb")
    assert read.skeleton.names == ("root", "arm")
    assert read.motions[0].fps == 60.0, "two keys a second were set by hand"
    assert read.motions[0].seconds == 1.0


def test_weights_are_made_to_add_up(assets: Assets, tmp_path: Path) -> None:
    content, binary = rigged(assets)
    entry = content["accessors"][content["meshes"][0]["primitives"][0]["attributes"]["WEIGHTS_0"]]
    view = content["bufferViews"][entry["bufferView"]]
    spoilt = bytearray(binary)
    weights = np.frombuffer(binary, "<f4", entry["count"] * 4, view["byteOffset"]) * 3.0
    weights[:4] = 0.0
    spoilt[view["byteOffset"] : view["byteOffset"] + weights.nbytes] = weights.astype("<f4").tobytes()
    (tmp_path / "a.glb").write_bytes(join(content, bytes(spoilt)))
    mesh = read_gltf(tmp_path / "a.glb").mesh
    assert mesh is not None
    assert np.allclose(mesh.weights.sum(axis=1), 1.0, atol=1e-6)


def test_buffers_in_the_file_and_beside_it(small: bytes, tmp_path: Path) -> None:
    content, binary = parts(small)
    content["buffers"][0]["uri"] = "data:application/octet-stream;base64," + base64.b64encode(binary).decode()
    (tmp_path / "a.gltf").write_text(json.dumps(content))
    content["buffers"][0]["uri"] = "wave%20one.bin"
    (tmp_path / "wave one.bin").write_bytes(binary)
    (tmp_path / "b.gltf").write_text(json.dumps(content))
    for name in ("a.gltf", "b.gltf"):
        assert read_gltf(tmp_path / name).motions[0].name == "wave"


def test_sparse_and_normalised_accessors(small: bytes, tmp_path: Path) -> None:
    content, binary = parts(small)
    rotation = content["animations"][0]["samplers"][0]["output"]
    extra = struct.pack("<B3x", 1) + struct.pack("<4f", 0, 0, 0, 1)
    at = len(binary)
    content["bufferViews"] += [
        {"buffer": 0, "byteOffset": at, "byteLength": 4},
        {"buffer": 0, "byteOffset": at + 4, "byteLength": 16},
    ]
    views = len(content["bufferViews"])
    content["accessors"][rotation]["sparse"] = {
        "count": 1,
        "indices": {"bufferView": views - 2, "componentType": 5121},
        "values": {"bufferView": views - 1},
    }
    content["buffers"][0]["byteLength"] = at + 20
    (tmp_path / "s.glb").write_bytes(join(content, binary + extra))
    turned = read_gltf(tmp_path / "s.glb").motions[0].tracks[0].values[1]
    assert np.allclose(turned, quat.IDENTITY)


def spoil(small: bytes) -> dict[str, tuple[bytes, str]]:
    """A damaged file by what is wrong, with a word its sentence must hold."""
    content, binary = parts(small)

    def changed(act: Any) -> bytes:
        copy = json.loads(json.dumps(content))
        act(copy)
        return join(copy, binary)

    def nan_key() -> bytes:
        view = content["bufferViews"][
            content["accessors"][content["animations"][0]["samplers"][0]["output"]]["bufferView"]
        ]
        spoilt = bytearray(binary)
        struct.pack_into("<f", spoilt, view["byteOffset"] + 4, float("nan"))
        return join(content, bytes(spoilt))

    def late_key() -> bytes:
        view = content["bufferViews"][
            content["accessors"][content["animations"][0]["samplers"][0]["input"]]["bufferView"]
        ]
        spoilt = bytearray(binary)
        struct.pack_into("<f", spoilt, view["byteOffset"], 0.9)
        return join(content, bytes(spoilt))

    return {
        "cut short": (small[: len(small) // 2], "cut short"),
        "greedy buffer": (changed(lambda c: c["buffers"][0].update(byteLength=4_000_000_000)), "4000000000"),
        "greedy view": (changed(lambda c: c["bufferViews"][0].update(byteLength=99_999)), "bufferViews[0]"),
        "greedy accessor": (changed(lambda c: c["accessors"][0].update(count=4_000_000_000)), "accessors[0]"),
        "bare accessor": (
            changed(lambda c: (c["accessors"][0].pop("bufferView"), c["accessors"][0].update(count=10**9))),
            "accessors[0]",
        ),
        "secret": (changed(lambda c: c["buffers"][0].update(uri="../../secret.bin")), "../../secret.bin"),
        "absolute": (changed(lambda c: c["buffers"][0].update(uri="/etc/hostname")), "/etc/hostname"),
        "scheme": (changed(lambda c: c["buffers"][0].update(uri="http://x/y.bin")), "outside"),
        "nan": (nan_key(), "not a number"),
        "late": (late_key(), "out of order"),
        "circle": (changed(lambda c: c["nodes"][1].update(children=[0])), "circle"),
        "two parents": (changed(lambda c: c["nodes"].append({"name": "x", "children": [1]})), "two parents"),
        "same name": (changed(lambda c: c["nodes"][1].update(name="root")), "stands twice"),
        "wrong type": (changed(lambda c: c.update(nodes={"a": 1})), "nodes"),
        "compressed": (changed(lambda c: c.update(extensionsRequired=["EXT_meshopt_compression"])), "EXT_meshopt"),
        "no keys": (changed(lambda c: c["animations"][0].update(channels=[])), "animations[0]"),
        "wrong count": (changed(lambda c: c["accessors"][0].update(count=2)), "samplers"),
        "not json": (small[:20] + b"{" + small[21:24] + b"\xff" * 40 + small[64:], "JSON"),
        "empty": (b"", "JSON"),
        "version 1": (small[:4] + struct.pack("<I", 1) + small[8:], "version 1"),
        "bad matrix": (changed(lambda c: c["nodes"][1].update(matrix=[0] * 16)), "matrix"),
        "wordy numbers": (changed(lambda c: c["nodes"][1].update(translation=["a", 0, 0])), "3 numbers"),
    }


def test_every_damage_gets_a_sentence_naming_file_and_field(small: bytes, tmp_path: Path) -> None:
    for name, (data, word) in spoil(small).items():
        path = tmp_path / "bad.glb"
        path.write_bytes(data)
        with pytest.raises(Trouble) as caught:
            read_gltf(path)
        assert word in str(caught.value), (name, str(caught.value))
        assert caught.value.file == "bad.glb"
        assert caught.value.do, name


def test_a_link_out_of_the_folder_is_refused(small: bytes, tmp_path: Path) -> None:
    content, binary = parts(small)
    (tmp_path / "secret.bin").write_bytes(binary)
    inner = tmp_path / "in"
    inner.mkdir()
    (inner / "link.bin").symlink_to(tmp_path / "secret.bin")
    content["buffers"][0]["uri"] = "link.bin"
    (inner / "a.gltf").write_text(json.dumps(content))
    with pytest.raises(Trouble, match="outside the folder"):
        read_gltf(inner / "a.gltf")


@settings(max_examples=80)
@given(st.data())
def test_flipped_and_cut_bytes_raise_nothing_but_trouble(small: bytes, tmp_path: Path, data: st.DataObject) -> None:
    spoilt = bytearray(small)
    for _ in range(data.draw(st.integers(1, 6))):
        spoilt[data.draw(st.integers(0, len(spoilt) - 1))] = data.draw(st.integers(0, 255))
    cut = data.draw(st.integers(0, len(spoilt)))
    path = tmp_path / "fuzz.glb"
    path.write_bytes(bytes(spoilt[:cut] if data.draw(st.booleans()) else spoilt))
    try:
        content = read_gltf(path)
        for motion in content.motions:
            assert np.isfinite(sample(content.skeleton, motion, np.linspace(0, motion.seconds, 5)).rotation).all()
    except Trouble:
        return


JSON = st.recursive(
    st.none() | st.booleans() | st.integers(-5, 2**40) | st.floats(allow_nan=False) | st.text(max_size=6),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=6), inner, max_size=4),
    max_leaves=8,
)


@settings(max_examples=100)
@given(value=JSON, where=st.integers(0, 10**6))
def test_any_json_value_in_any_place_raises_nothing_but_trouble(
    small: bytes, tmp_path: Path, value: Any, where: int
) -> None:
    content, binary = parts(small)
    slots: list[tuple[Any, Any]] = []

    def walk(node: Any) -> None:
        for key in list(node.keys()) if isinstance(node, dict) else range(len(node)):
            slots.append((node, key))
            if isinstance(node[key], dict | list):
                walk(node[key])

    walk(content)
    holder, key = slots[where % len(slots)]
    holder[key] = value
    path = tmp_path / "fuzz.glb"
    path.write_bytes(join(content, binary))
    for read in (read_gltf, read_prop):
        with contextlib.suppress(Trouble):
            read(path)
