"""glTF as others write it: skins of their own, meshes on joints, mirrored scales, armatures that move.

Each file is made here, and what it shows is worked out from its matrices alone.
"""

from __future__ import annotations

import json
import struct
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from tests.core.files.validating import asked, validated
from veergust.core.files.assets import load_assets
from veergust.core.files.editable import editable_copy
from veergust.core.files.folder import open_project
from veergust.core.files.gltf_read import read_gltf
from veergust.core.files.importing import import_file
from veergust.core.files.motion_file import MotionFile
from veergust.core.files.saving import save_project
from veergust.core.model import Project
from veergust.core.motion.sampling import sample
from veergust.core.motion.skeleton import forward
from veergust.core.trouble import Trouble


class Made:
    """A glTF file that is being made."""

    def __init__(self) -> None:
        self.data = bytearray()
        self.json: dict[str, Any] = {"asset": {"version": "2.0"}, "accessors": [], "bufferViews": [], "nodes": []}

    def array(self, values: Any, kind: str, component: int = 5126) -> int:
        flat = np.asarray(values, {5126: np.float32, 5121: np.uint8, 5125: np.uint32}[component])
        self.data.extend(b"\0" * (-len(self.data) % 4))
        self.json["bufferViews"].append({"buffer": 0, "byteOffset": len(self.data), "byteLength": flat.nbytes})
        self.data.extend(flat.tobytes())
        count = flat.size // {"SCALAR": 1, "VEC3": 3, "VEC4": 4, "MAT4": 16}[kind]
        self.json["accessors"].append(
            {"bufferView": len(self.json["bufferViews"]) - 1, "componentType": component, "count": count, "type": kind}
        )
        return len(self.json["accessors"]) - 1

    def mesh(self, points: Any, joints: Any = None) -> int:
        """A mesh of one triangle a joint row; with ``joints`` each point rides on one of its skin's."""
        points = np.asarray(points, float)
        attributes = {"POSITION": self.array(points, "VEC3")}
        if joints is not None:
            rows = np.zeros((len(points), 4), int)
            rows[:, 0] = joints
            attributes["JOINTS_0"] = self.array(rows, "VEC4", 5121)
            attributes["WEIGHTS_0"] = self.array(np.tile([1.0, 0, 0, 0], (len(points), 1)), "VEC4")
        faces = self.array(np.arange(len(points) // 3 * 3), "SCALAR", 5125)
        self.json.setdefault("meshes", []).append({"primitives": [{"attributes": attributes, "indices": faces}]})
        return len(self.json["meshes"]) - 1

    def skin(self, joints: list[int], binds: list[np.ndarray]) -> int:
        stated = self.array(np.stack([b.T for b in binds]), "MAT4")
        self.json.setdefault("skins", []).append({"joints": joints, "inverseBindMatrices": stated})
        return len(self.json["skins"]) - 1

    def moved(self, node: int, path: str, times: Any, values: Any) -> None:
        [animation] = self.json.setdefault("animations", [{"name": "move", "samplers": [], "channels": []}])
        kind = "VEC4" if path == "rotation" else "VEC3"
        animation["samplers"].append({"input": self.array(times, "SCALAR"), "output": self.array(values, kind)})
        animation["channels"].append(
            {"sampler": len(animation["samplers"]) - 1, "target": {"node": node, "path": path}}
        )

    def read(self, folder: Path) -> MotionFile:
        self.json["buffers"] = [{"byteLength": len(self.data)}]
        below = {c for n in self.json["nodes"] for c in n.get("children", [])}
        self.json["scenes"] = [{"nodes": [i for i in range(len(self.json["nodes"])) if i not in below]}]
        text = json.dumps(self.json).encode()
        text += b" " * (-len(text) % 4)
        data = bytes(self.data) + b"\0" * (-len(self.data) % 4)
        path = folder / "made.glb"
        head = struct.pack("<4sII", b"glTF", 2, 28 + len(text) + len(data))
        parts = (struct.pack("<II", len(text), 0x4E4F534A), text, struct.pack("<II", len(data), 0x004E4942), data)
        path.write_bytes(head + b"".join(parts))
        return read_gltf(path)


def matrix(node: dict[str, Any], at: dict[str, Any] | None = None) -> np.ndarray:
    """A node's own matrix, as the format defines it: T · R · S."""
    node = node | (at or {})
    out = np.eye(4)
    out[:3, :3] = Rotation.from_quat(node.get("rotation", [0, 0, 0, 1])).as_matrix() @ np.diag(
        node.get("scale", [1, 1, 1])
    )
    out[:3, 3] = node.get("translation", [0, 0, 0])
    return out


def world(nodes: list[dict[str, Any]], index: int, at: dict[int, dict[str, Any]] | None = None) -> np.ndarray:
    """A node's matrix in the world."""
    above = next((i for i, n in enumerate(nodes) if index in n.get("children", [])), None)
    own = matrix(nodes[index], (at or {}).get(index))
    return own if above is None else world(nodes, above, at) @ own


def shown(content: MotionFile, seconds: float | None = None) -> tuple[dict[str, np.ndarray], np.ndarray]:
    """Where the joints are, by name, and the points of the mesh, in rest or at a time."""
    bones = content.skeleton
    pose = bones.rest_pose() if seconds is None else sample(bones, content.motions[0], np.array([seconds]))
    joints = forward(bones, pose.rotation, pose.translation)[0]
    mesh = content.mesh
    if mesh is None:
        return {n: joints[j, :3, 3] for j, n in enumerate(bones.names)}, np.zeros((0, 3))
    skin = (joints @ mesh.inverse_bind)[mesh.joints]
    homogeneous = np.concatenate([mesh.points, np.ones((len(mesh.points), 1))], axis=1)
    points = np.einsum("vk,vkij,vj->vi", mesh.weights, skin, homogeneous)[:, :3]
    return {n: joints[j, :3, 3] for j, n in enumerate(bones.names)}, points


TRIANGLE = np.array([[0.0, 0, 0], [0.1, 0, 0], [0, 0.1, 0]])


def two_skins(constant: bool = True) -> tuple[Made, np.ndarray]:
    made = Made()
    made.json["nodes"] = [
        {"name": "hips", "translation": [0, 1, 0], "children": [1, 2]},
        {"name": "chest", "translation": [0, 0.4, 0]},
        {"name": "tail", "translation": [0, 0, -0.3]},
        {"name": "body", "mesh": made.mesh(np.concatenate([TRIANGLE, TRIANGLE + [0, 1.4, 0]]), [0, 0, 0, 1, 1, 1]), "skin": 0},
        {"name": "fur", "mesh": made.mesh(np.concatenate([TRIANGLE, TRIANGLE]), [0, 0, 0, 1, 1, 1]), "skin": 1},
    ]  # fmt: skip
    nodes = made.json["nodes"]
    bind = {j: np.linalg.inv(world(nodes, j)) for j in (0, 1, 2)}
    made.skin([0, 1], [bind[0], bind[1]])
    # The second skin names its joints in another order, and was bound half a metre farther on.
    away = np.eye(4)
    away[:3, 3] = [0.5, 0, 0]
    other = away if constant else np.diag([1.0, 1, 1, 1])
    made.skin([1, 0], [bind[1] @ away, bind[0] @ other])
    made.moved(0, "rotation", [0, 1], [[0, 0, 0, 1], list(Rotation.from_euler("y", 90, degrees=True).as_quat())])
    body = np.concatenate([TRIANGLE, TRIANGLE + [0, 1.4, 0]])
    fur = np.concatenate([TRIANGLE + [0.5, 0, 0], TRIANGLE + ([0.5, 0, 0] if constant else [0, 0, 0])])
    return made, np.concatenate([body, fur])


@pytest.mark.parametrize("constant", [True, False], ids=["one shift", "a shift a joint"])
def test_each_mesh_is_bound_by_its_own_skin(constant: bool, tmp_path: Path) -> None:
    made, wanted = two_skins(constant)
    content = made.read(tmp_path)
    _, points = shown(content)
    assert np.allclose(points, wanted, atol=1e-5)
    # A quarter turn of the hips carries all of it about them.
    turned = Rotation.from_euler("y", 90, degrees=True).apply(wanted - [0, 1, 0]) + [0, 1, 0]
    assert np.allclose(shown(content, 1.0)[1], turned, atol=1e-5)
    assert constant is not any("otherwise" in words for words in content.left_out)


def test_a_mesh_without_a_skin_comes_along_on_the_joint_it_hangs_on(tmp_path: Path) -> None:
    made = Made()
    made.json["nodes"] = [
        {"name": "hips", "translation": [0, 1, 0], "scale": [2, 2, 2], "children": [1]},
        {"name": "hand", "translation": [0.4, 0, 0], "children": [2]},
        {"name": "grip", "translation": [0, 0.1, 0], "rotation": [0.5, 0.5, 0.5, 0.5], "children": [3]},
        {"name": "blade", "scale": [1, 3, 1], "mesh": made.mesh(TRIANGLE)},
        {"name": "body", "mesh": made.mesh(TRIANGLE, [0, 0, 0]), "skin": 0},
    ]
    nodes = made.json["nodes"]
    made.skin([0, 1], [np.linalg.inv(world(nodes, 0)), np.linalg.inv(world(nodes, 1))])
    made.moved(1, "rotation", [0, 1], [[0, 0, 0, 1], [0, 0, 1, 0]])
    content = made.read(tmp_path)
    for seconds, at in ((None, {}), (1.0, {1: {"rotation": [0, 0, 1, 0]}})):
        blade = world(nodes, 3, at)
        wanted = TRIANGLE @ blade[:3, :3].T + blade[:3, 3]
        assert np.allclose(shown(content, seconds)[1][3:], wanted, atol=1e-5)


def test_an_armature_that_rests_where_it_is_and_moves_all_the_same_carries_the_figure(tmp_path: Path) -> None:
    made = Made()
    made.json["nodes"] = [
        {"name": "armature", "children": [1]},
        {"name": "hips", "translation": [0, 1, 0], "children": [2]},
        {"name": "chest", "translation": [0, 0.4, 0]},
        {"name": "body", "mesh": made.mesh(TRIANGLE, [0, 0, 0]), "skin": 0},
    ]
    nodes = made.json["nodes"]
    made.skin([1, 2], [np.linalg.inv(world(nodes, 1)), np.linalg.inv(world(nodes, 2))])
    made.moved(0, "translation", [0, 1], [[0, 0, 0], [0, 0, 3]])
    content = made.read(tmp_path)
    assert content.skeleton.names[0] == "armature"
    assert np.allclose(shown(content, 1.0)[0]["chest"], [0, 1.4, 3])


turns = st.tuples(*[st.floats(-180, 180)] * 3).map(
    lambda a: list(Rotation.from_euler("xyz", a, degrees=True).as_quat())
)
signs = st.sampled_from([[1, 1, 1], [-1, -1, -1], [-1, 1, 1], [1, -1, 1], [-1, -1, 1], [1, 1, -1]])
sizes = st.sampled_from([1.0, 0.01, 2.5])
places = st.tuples(*[st.floats(-2, 2)] * 3).map(list)


@settings(max_examples=60, deadline=None)
@given(data=st.data())
def test_any_chain_of_turned_scaled_and_mirrored_nodes_is_where_its_matrices_say(
    data: st.DataObject, tmp_path_factory: pytest.TempPathFactory
) -> None:
    """Rest and key alike, for scales of any signs on any node."""
    made, count = Made(), 4
    for i in range(count):
        size = data.draw(sizes) if i == 0 else 1.0
        node: dict[str, Any] = {
            "name": f"j{i}", "rotation": data.draw(turns), "translation": data.draw(places),
            "scale": [size * s for s in data.draw(signs)],
        }  # fmt: skip
        if i + 1 < count:
            node["children"] = [i + 1]
        made.json["nodes"].append(node)
    nodes = made.json["nodes"]
    keyed = data.draw(st.integers(0, count - 1))
    turn, place = data.draw(turns), data.draw(places)
    made.moved(keyed, "rotation", [0, 1], [nodes[keyed]["rotation"], turn])
    made.moved(keyed, "translation", [0, 1], [nodes[keyed]["translation"], place])
    content = made.read(tmp_path_factory.mktemp("chain"))
    at = {keyed: {"rotation": turn, "translation": place}}
    for seconds, state in ((None, {}), (1.0, at)):
        joints, _ = shown(content, seconds)
        for i in range(count):
            assert np.allclose(joints[f"j{i}"], world(nodes, i, state)[:3, 3], atol=1e-4)


def test_a_mirrored_body_shows_its_outside(tmp_path: Path) -> None:
    made = Made()
    made.json["nodes"] = [
        {"name": "hips", "scale": [-1, 1, 1], "children": [1]},
        {"name": "chest", "translation": [0.2, 0.4, 0]},
        {"name": "body", "mesh": made.mesh(TRIANGLE, [0, 0, 0]), "skin": 0},
    ]
    made.skin([0, 1], [np.eye(4), np.eye(4)])
    content = made.read(tmp_path)
    joints, points = shown(content)
    assert np.allclose(joints["chest"], [-0.2, 0.4, 0])
    assert np.allclose(points, TRIANGLE * [-1, 1, 1], atol=1e-6)
    assert content.mesh is not None
    a, b, c = points[content.mesh.faces[0]]
    assert np.cross(b - a, c - a)[2] > 0, "it is seen from where it was seen"


@pytest.mark.parametrize("where", ["skinned", "still"])
def test_primitives_that_are_no_list_are_a_sentence(where: str, tmp_path: Path) -> None:
    made, _ = two_skins()
    made.json["meshes"][0]["primitives"] = True
    if where == "still":
        del made.json["nodes"][3]["skin"]
        made.json["nodes"][0]["children"].append(3)
    with pytest.raises(Trouble, match=r"meshes\[0\].primitives: should be a list"):
        made.read(tmp_path)


def test_morph_targets_are_left_out_and_said(tmp_path: Path) -> None:
    made, _ = two_skins()
    made.json["meshes"][0]["primitives"][0]["targets"] = [{"POSITION": 0}]
    assert any("morph" in words for words in made.read(tmp_path).left_out)


def ridden() -> Made:
    """A blade on a hand, an armature that moves, and all of it mirrored."""
    made = Made()
    made.json["nodes"] = [
        {"name": "armature", "scale": [-1, 1, 1], "children": [1]},
        {"name": "hips", "translation": [0, 1, 0], "children": [2]},
        {"name": "hand", "translation": [0.4, 0, 0], "children": [3]},
        {"name": "blade", "translation": [0, 0.1, 0], "mesh": made.mesh(TRIANGLE)},
        {"name": "body", "mesh": made.mesh(TRIANGLE, [0, 0, 0]), "skin": 0},
    ]
    nodes = made.json["nodes"]
    made.skin([1, 2], [np.linalg.inv(world(nodes, 1)), np.linalg.inv(world(nodes, 2))])
    made.moved(0, "translation", [0, 0.7, 1], [[0, 0, 0], [0, 0, 1], [0, 0, 3]])
    made.moved(2, "rotation", [0, 1], [[0, 0, 0, 1], [0, 0, 1, 0]])
    return made


@asked
@pytest.mark.parametrize("shape", [lambda: two_skins()[0], lambda: two_skins(False)[0], ridden])
def test_an_editable_copy_of_any_shape_is_as_the_validator_wants_it(shape: Callable[[], Made], tmp_path: Path) -> None:
    """Brought into a project from nothing, and written again as an editable copy."""
    home = tmp_path / "harbour.veergust"
    save_project(Project(name="harbour"), home)
    shape().read(tmp_path)
    import_file(open_project(home), home, tmp_path / "made.glb")
    project = open_project(home)
    assets, missing = load_assets(project, home)
    assert missing == []
    clip = next(c for c in project.clips if c.file)
    edit, name = editable_copy(project, assets, home, clip)
    made = next(c for c in edit.project.clips if c.name == name)
    validated(home / made.file)
    again = read_gltf(home / made.file)
    assert again.motions[0].seconds == pytest.approx(1.0)
