"""Meshes out of glTF: the skinned body of a figure, and still props."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from veergust.core.files.gltf_data import GltfDocument, open_gltf
from veergust.core.files.gltf_schema import Node, Primitive, Skin
from veergust.core.motion import Array, Mesh, Skeleton, quat


def read_skin(
    document: GltfDocument, skeleton: Skeleton, order: list[int], sizes: Array, left_out: list[str]
) -> Mesh | None:
    """All meshes that ride on the joints of a file, which are the nodes ``order``, each of size ``sizes`` ``[J]``.

    Each is bound by its own skin; one without a skin rides on the joint it hangs on.
    """
    nodes = document.content.nodes
    body = _Body(document, skeleton, {node: j for j, node in enumerate(order)}, sizes, left_out)
    holders = [i for i, n in enumerate(nodes) if n.mesh is not None]
    for index in [i for i in holders if nodes[i].skin is not None]:
        body.skinned(index)
    for index in [i for i in holders if nodes[i].skin is None]:
        body.rigid(index)
    return body.mesh()


Part = tuple[Array, Array, NDArray[np.intp], Array, NDArray[np.intp]]
"""Points, normals, joints, weights and faces of a part of a mesh."""


class _Body:
    """Puts the meshes of a file together, as one that is bound to the skeleton's joints once."""

    def __init__(
        self, document: GltfDocument, skeleton: Skeleton, place: dict[int, int], sizes: Array, left_out: list[str]
    ) -> None:
        self.document, self.skeleton, self.place, self.sizes = document, skeleton, place, sizes
        self.left_out = left_out
        self.bind = np.tile(np.eye(4), (len(skeleton), 1, 1))
        self.bound: set[int] = set()
        self.parts: list[Part] = []
        self.above = document.parents()

    def skinned(self, index: int) -> None:
        """A mesh with a skin."""
        document = self.document
        node = document.content.nodes[index]
        skin = document.item(document.content.skins, "skins", node.skin, f"nodes[{index}].skin")
        field = f"skins[{node.skin}]"
        joints = np.array([self.place[j] for j in skin.joints], dtype=np.intp)
        bind = self._binding(skin, joints, field)
        shift = self._shift(joints, bind, field)
        for points, normals, rows, weights, faces in self._parts(index):
            if len(points) and rows.max() >= len(joints):
                raise document.trouble(f"nodes[{index}].mesh", "points past the joints of its skin")
            moved = shift[rows[np.arange(len(rows)), weights.argmax(axis=1)]]
            points = np.einsum("vij,vj->vi", moved[:, :3, :3], points) + moved[:, :3, 3]
            normals = np.einsum("vij,vj->vi", moved[:, :3, :3], normals)
            self.parts.append((points, _unit(normals), joints[rows], weights, faces))

    def _binding(self, skin: Skin, joints: NDArray[np.intp], field: str) -> Array:
        """The inverse bind matrices ``[N, 4, 4]`` of a skin for joints of size 1."""
        bind = np.tile(np.eye(4), (len(joints), 1, 1))
        if skin.inverse_bind_matrices is not None:
            stated = self.document.accessor(skin.inverse_bind_matrices, f"{field}.inverseBindMatrices")
            if len(stated) < len(joints) or stated.shape[1] != 16:
                raise self.document.trouble(f"{field}.inverseBindMatrices", "holds fewer matrices than joints")
            bind = stated[: len(joints)].reshape(-1, 4, 4).transpose(0, 2, 1).astype(np.float64)
        # A joint of size s places M · s where the one of size 1 places M, so the scale goes into the binding.
        bind[:, :3] *= self.sizes[joints, None, None]
        return bind

    def _shift(self, joints: NDArray[np.intp], bind: Array, field: str) -> Array:
        """What a skin's points go through ``[N, 4, 4]``, so that they are bound as the skins before bound theirs."""
        known = [k for k, j in enumerate(joints) if j in self.bound]
        shift = np.tile(np.eye(4), (len(joints), 1, 1))
        if known:
            shift[known] = np.linalg.inv(self.bind[joints[known]]) @ bind[known]
            same = np.allclose(shift[known], shift[known[0]], atol=1e-5 * max(float(np.abs(bind).max()), 1.0))
            if same:
                shift[:] = shift[known[0]]
            else:
                self.left_out.append(f"{field} binds joints otherwise than another skin; its heaviest joints decide")
        for k, j in enumerate(joints):
            if j not in self.bound:
                self.bind[j] = bind[k] @ np.linalg.inv(shift[k])
                self.bound.add(int(j))
        return shift

    def rigid(self, index: int) -> None:
        """A mesh without a skin: it rides on the nearest joint it hangs on."""
        matrix, at = np.eye(4), index
        while at not in self.place:
            matrix = _matrix(self.document.content.nodes[at]) @ matrix
            if at not in self.above:
                self.left_out.append(f"the mesh of nodes[{index}] hangs on no joint")
                return
            at = self.above[at]
        joint = self.place[at]
        matrix[:3] *= self.sizes[joint]
        matrix = np.linalg.inv(self.bind[joint]) @ matrix
        for points, normals, _, _, faces in self._parts(index):
            rows = np.zeros((len(points), 4), dtype=np.intp)
            rows[:, 0] = joint
            weights = np.tile([1.0, 0.0, 0.0, 0.0], (len(points), 1))
            points = points @ matrix[:3, :3].T + matrix[:3, 3]
            self.parts.append((points, _unit(normals @ matrix[:3, :3].T), rows, weights, faces))

    def _parts(self, index: int) -> list[Part]:
        node = self.document.content.nodes[index]
        out = []
        for p, (primitive, field) in enumerate(_primitives(self.document, index)):
            part = _primitive(self.document, primitive, node.skin is not None, field)
            if part is None:
                self.left_out.append(f"mesh part {p} is no triangles that a joint moves")
            else:
                out.append(part)
            if primitive.targets:
                self.left_out.append(f"the morph targets of meshes[{node.mesh}] are left out")
        return out

    def mesh(self) -> Mesh | None:
        """All of it; None when there is nothing."""
        if not self.parts:
            return None
        starts = np.cumsum([0] + [len(p[0]) for p in self.parts[:-1]])
        joined = [np.concatenate([p[i] for p in self.parts]) for i in range(4)]
        faces = np.concatenate([p[4] + s for p, s in zip(self.parts, starts)])
        if len(self.sizes) and np.mean(self.sizes < 0) > 0.5:
            faces = faces[:, ::-1]  # what is mirrored shows its other side
        return Mesh(
            joined[0].astype(np.float32),
            joined[1].astype(np.float32),
            joined[2].astype(np.int32),
            joined[3].astype(np.float32),
            faces.astype(np.int32),
            self.bind,
        )


def _unit(normals: Array) -> Array:
    return np.asarray(normals / np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-9))


def _primitives(document: GltfDocument, index: int) -> Iterator[tuple[Primitive, str]]:
    """The parts of the mesh that a node holds, each with the field it stands in."""
    which = document.content.nodes[index].mesh
    entry = document.item(document.content.meshes, "meshes", which, f"nodes[{index}].mesh")
    for p, primitive in enumerate(entry.primitives):
        yield primitive, f"meshes[{which}].primitives[{p}]"


def _is_shown(primitive: Primitive) -> bool:
    return primitive.mode == 4 and "POSITION" in primitive.attributes


def _primitive(document: GltfDocument, primitive: Primitive, skinned: bool, field: str) -> Part | None:
    """A part of a mesh; its joints are places in the skin's list. None when it is not of a kind that is shown."""
    attributes = primitive.attributes
    if not _is_shown(primitive) or (skinned and not {"JOINTS_0", "WEIGHTS_0"} <= set(attributes)):
        return None
    points = document.accessor(attributes["POSITION"], f"{field}.POSITION").astype(np.float64)
    joints = np.zeros((len(points), 4), dtype=np.intp)
    weights = np.tile([1.0, 0.0, 0.0, 0.0], (len(points), 1))
    if skinned:
        joints = document.accessor(attributes["JOINTS_0"], f"{field}.JOINTS_0").astype(np.intp)
        weights = document.accessor(attributes["WEIGHTS_0"], f"{field}.WEIGHTS_0").astype(np.float64)
    if points.shape[1] != 3 or joints.shape != (len(points), 4) or weights.shape != (len(points), 4):
        raise document.trouble(field, "has positions, joints and weights of different counts")
    faces = _faces(document, primitive, len(points), field)
    if "NORMAL" in attributes:
        normals = document.accessor(attributes["NORMAL"], f"{field}.NORMAL").astype(np.float64)
        if normals.shape != points.shape:
            raise document.trouble(f"{field}.NORMAL", "has another count than the positions")
    else:
        normals = _normals(points, faces)
    total = weights.sum(axis=1, keepdims=True)
    weights = np.where(total > 0, weights / np.maximum(total, 1e-9), [1.0, 0.0, 0.0, 0.0])
    return points, normals, joints, weights, faces


def _faces(document: GltfDocument, primitive: Primitive, count: int, field: str) -> Any:
    if primitive.indices is not None:
        faces = document.accessor(primitive.indices, f"{field}.indices")[:, 0].astype(np.int64)
    else:
        faces = np.arange(count)
    faces = faces[: len(faces) // 3 * 3].reshape(-1, 3)
    if len(faces) and (faces.max() >= count or faces.min() < 0):
        raise document.trouble(f"{field}.indices", "points past the mesh's points")
    return faces


def _normals(points: Any, faces: Any) -> Any:
    out = np.zeros_like(points, dtype=np.float64)
    corners = points[faces]
    flat = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    for i in range(3):
        np.add.at(out, faces[:, i], flat)
    return out / np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-9)


def read_prop(path: Path, *, within: Path | None = None) -> Mesh:
    """Every triangle of a glTF file where its nodes place it, riding on one joint at the origin."""
    document = open_gltf(path, within=within)
    nodes, below = document.content.nodes, document.parents()
    parts: list[tuple[Any, ...]] = []
    stack = [(i, np.eye(4)) for i in range(len(nodes)) if i not in below]
    while stack:
        index, above = stack.pop()
        node = nodes[index]
        matrix = above @ _matrix(node)
        if node.mesh is not None:
            for primitive, field in _primitives(document, index):
                if _is_shown(primitive):
                    parts.append(_still(document, primitive, matrix, field))
        stack += [(c, matrix) for c in node.children]
    if not parts:
        raise document.trouble("meshes", "holds no triangles", "export it with its mesh")
    counts = np.cumsum([0] + [len(p[0]) for p in parts[:-1]])
    points = np.concatenate([p[0] for p in parts])
    ride = np.zeros((len(points), 4), np.int32)
    return Mesh(
        points.astype(np.float32),
        np.concatenate([p[1] for p in parts]).astype(np.float32),
        ride,
        np.tile(np.array([1, 0, 0, 0], np.float32), (len(points), 1)),
        np.concatenate([p[2] + n for p, n in zip(parts, counts)]).astype(np.int32),
        np.eye(4)[None],
    )


def _matrix(node: Node) -> Array:
    """Where a node places what is below it ``[4, 4]``."""
    if node.matrix is not None:
        return np.array(node.matrix).reshape(4, 4).T
    out = np.eye(4)
    turn = quat.normalize(np.array(node.rotation or (0.0, 0.0, 0.0, 1.0), dtype=float))
    out[:3, :3] = quat.to_matrix(turn) * np.array(node.scale or (1.0, 1.0, 1.0))
    out[:3, 3] = node.translation or (0.0, 0.0, 0.0)
    return out


def _still(document: GltfDocument, primitive: Primitive, matrix: Array, field: str) -> tuple[Any, ...]:
    points = document.accessor(primitive.attributes["POSITION"], f"{field}.POSITION").astype(np.float64)
    if points.shape[1] != 3:
        raise document.trouble(f"{field}.POSITION", "should hold three numbers a point")
    faces = _faces(document, primitive, len(points), field)
    placed = points @ matrix[:3, :3].T + matrix[:3, 3]
    return placed, _normals(placed, faces), faces
