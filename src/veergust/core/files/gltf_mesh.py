"""Meshes out of glTF: the skinned body of a figure, and still props."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from veergust.core.files.gltf_data import GltfDocument, open_gltf
from veergust.core.motion import quat
from veergust.core.motion.figure import Mesh
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Skeleton


def read_skin(
    document: GltfDocument, skeleton: Skeleton, order: list[int], sizes: Array, left_out: list[str]
) -> Mesh | None:
    """The skinned mesh of a file whose joints are the nodes ``order``, each of size ``sizes`` ``[J]``."""
    skins = document.items("skins")
    holders = [n for n in document.items("nodes") if "mesh" in n and "skin" in n]
    if not skins or not holders:
        return None
    place = {node: j for j, node in enumerate(order)}
    nodes = [place[j] for j in skins[0]["joints"]]
    bind = np.tile(np.eye(4), (len(skeleton), 1, 1))
    if "inverseBindMatrices" in skins[0]:
        stated = document.accessor(skins[0]["inverseBindMatrices"], "skins[0].inverseBindMatrices")
        if len(stated) < len(nodes) or stated.shape[1] != 16:
            raise document.trouble("skins[0].inverseBindMatrices", "holds fewer matrices than joints")
        bind[nodes] = stated[: len(nodes)].reshape(-1, 4, 4).transpose(0, 2, 1)
    # A joint of size s places M · s where the one of size 1 places M, so the scale goes into the binding.
    bind[:, :3] *= sizes[:, None, None]
    parts: list[tuple[Any, ...]] = []
    for holder in holders:
        entry = document.item("meshes", holder["mesh"], "nodes.mesh")
        for p, primitive in enumerate(entry.get("primitives", [])):
            part = _primitive(document, primitive, np.array(nodes), f"meshes[{holder['mesh']}].primitives[{p}]")
            if part is None:
                left_out.append(f"mesh part {p} is not skinned triangles")
            else:
                parts.append(part)
    if not parts:
        return None
    starts = np.cumsum([0] + [len(p[0]) for p in parts[:-1]])
    joined = [np.concatenate([p[i] for p in parts]) for i in range(4)]
    faces = np.concatenate([p[4] + s for p, s in zip(parts, starts)])
    return Mesh(
        joined[0].astype(np.float32),
        joined[1].astype(np.float32),
        joined[2].astype(np.int32),
        joined[3].astype(np.float32),
        faces.astype(np.int32),
        bind,
    )


def _primitive(document: GltfDocument, primitive: Any, nodes: Any, field: str) -> tuple[Any, ...] | None:
    attributes = primitive.get("attributes") if isinstance(primitive, dict) else None
    if not isinstance(attributes, dict) or primitive.get("mode", 4) != 4:
        return None
    if not {"POSITION", "JOINTS_0", "WEIGHTS_0"} <= set(attributes):
        return None
    points = document.accessor(attributes["POSITION"], f"{field}.POSITION")
    joints = document.accessor(attributes["JOINTS_0"], f"{field}.JOINTS_0").astype(np.int64)
    weights = document.accessor(attributes["WEIGHTS_0"], f"{field}.WEIGHTS_0").astype(np.float64)
    if points.shape[1] != 3 or joints.shape != (len(points), 4) or weights.shape != (len(points), 4):
        raise document.trouble(field, "has positions, joints and weights of different counts")
    if len(points) and joints.max() >= len(nodes):
        raise document.trouble(f"{field}.JOINTS_0", "points past the skin's joints")
    faces = _faces(document, primitive, len(points), field)
    if "NORMAL" in attributes:
        normals = document.accessor(attributes["NORMAL"], f"{field}.NORMAL")
    else:
        normals = _normals(points, faces)
    total = weights.sum(axis=1, keepdims=True)
    weights = np.where(total > 0, weights / np.maximum(total, 1e-9), [1.0, 0.0, 0.0, 0.0])
    return points, normals, nodes[joints], weights, faces


def _faces(document: GltfDocument, primitive: dict[str, Any], count: int, field: str) -> Any:
    if "indices" in primitive:
        faces = document.accessor(primitive["indices"], f"{field}.indices")[:, 0].astype(np.int64)
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
    nodes = document.items("nodes")
    parts: list[tuple[Any, ...]] = []
    seen: set[int] = set()
    below = {c for i in range(len(nodes)) for c in document.children(i)}
    stack = [(i, np.eye(4)) for i in range(len(nodes)) if i not in below]
    while stack:
        index, above = stack.pop()
        if index in seen:
            raise document.trouble(f"nodes[{index}]", "has two parents")
        seen.add(index)
        node = document.item("nodes", index, "nodes.children")
        matrix = above @ _matrix(document, node, f"nodes[{index}]")
        if "mesh" in node:
            entry = document.item("meshes", node["mesh"], f"nodes[{index}].mesh")
            for p, primitive in enumerate(entry.get("primitives", [])):
                part = _still(document, primitive, matrix, f"meshes[{node['mesh']}].primitives[{p}]")
                if part is not None:
                    parts.append(part)
        stack += [(c, matrix) for c in document.children(index)]
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


def _matrix(document: GltfDocument, node: dict[str, Any], field: str) -> Array:
    out = np.eye(4)
    if "matrix" in node:
        return document.numbers(node["matrix"], 16, f"{field}.matrix").reshape(4, 4).T
    turn = quat.normalize(document.numbers(node.get("rotation", [0, 0, 0, 1]), 4, f"{field}.rotation"))
    size = document.numbers(node.get("scale", [1, 1, 1]), 3, f"{field}.scale")
    out[:3, :3] = quat.to_matrix(turn) * size
    out[:3, 3] = document.numbers(node.get("translation", [0, 0, 0]), 3, f"{field}.translation")
    return out


def _still(document: GltfDocument, primitive: Any, matrix: Array, field: str) -> tuple[Any, ...] | None:
    attributes = primitive.get("attributes") if isinstance(primitive, dict) else None
    if not isinstance(attributes, dict) or primitive.get("mode", 4) != 4 or "POSITION" not in attributes:
        return None
    points = document.accessor(attributes["POSITION"], f"{field}.POSITION").astype(np.float64)
    if points.shape[1] != 3:
        raise document.trouble(f"{field}.POSITION", "should hold three numbers a point")
    faces = _faces(document, primitive, len(points), field)
    placed = points @ matrix[:3, :3].T + matrix[:3, 3]
    return placed, _normals(placed, faces), faces
