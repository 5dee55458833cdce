"""glTF 2.0 in: skeleton, skin, and animations with step, linear and cubic keys."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from veergust.core.files.gltf_data import MOST_JOINTS, Document, open_gltf, plain
from veergust.core.motion import quat
from veergust.core.motion.figure import Mesh
from veergust.core.motion.quat import Array
from veergust.core.motion.sampling import Motion, Track
from veergust.core.motion.skeleton import Skeleton

PATHS = {"rotation": 4, "translation": 3}


@dataclass(frozen=True, eq=False)
class GltfContent:
    """What was read: the skeleton, a mesh if the file has a skinned one, motions, and what was left out."""

    skeleton: Skeleton
    mesh: Mesh | None
    motions: tuple[Motion, ...]
    left_out: tuple[str, ...]


def read_gltf(
    path: Path, *, within: Path | None = None, skeleton: Skeleton | None = None, mesh: bool = True
) -> GltfContent:
    """Read a glTF file. With ``skeleton`` given, its animations are bound to that one by joint name.

    Raises ``Trouble`` naming the file and the field for anything that cannot be used.
    """
    document = open_gltf(path, within=within)
    own, order = _skeleton(document)
    left_out: list[str] = []
    target = skeleton or own
    if len(target) == 0:
        raise document.trouble("nodes", "holds no joints", "export it with its skeleton")
    binding: dict[int, int] = {}
    for node, name in order.items():
        if name in target.index:
            binding[node] = target.index[name]
        else:
            left_out.append(f"joint {name!r} is not in the figure")
    motions = tuple(
        _motion(document, i, entry, binding, left_out) for i, entry in enumerate(document.items("animations"))
    )
    shape = _mesh(document, own, order, left_out) if mesh and skeleton is None else None
    return GltfContent(target, shape, motions, tuple(dict.fromkeys(left_out)))


def _children(document: Document, index: int) -> list[int]:
    nodes = document.items("nodes")
    children = nodes[index].get("children", [])
    if not isinstance(children, list) or not all(isinstance(c, int) and 0 <= c < len(nodes) for c in children):
        raise document.trouble(f"nodes[{index}].children", "refers to nodes the file does not have")
    return children


def _numbers(document: Document, value: object, count: int, field: str) -> Array:
    if (
        not isinstance(value, list)
        or len(value) != count
        or not all(isinstance(v, int | float) and not isinstance(v, bool) for v in value)
    ):
        raise document.trouble(field, f"should be {count} numbers")
    out = np.array(value, dtype=np.float64)
    if not np.isfinite(out).all():
        raise document.trouble(field, "holds a value that is not a number")
    return out


def _local(document: Document, index: int) -> tuple[Array, Array]:
    node, field = document.items("nodes")[index], f"nodes[{index}]"
    if "matrix" in node:
        m = _numbers(document, node["matrix"], 16, f"{field}.matrix").reshape(4, 4).T
        scale = np.linalg.norm(m[:3, :3], axis=0)
        if (scale < 1e-9).any():
            raise document.trouble(f"{field}.matrix", "has no size along an axis")
        return quat.from_matrix(m[:3, :3] / scale), m[:3, 3].copy()
    turn = _numbers(document, node.get("rotation", [0, 0, 0, 1]), 4, f"{field}.rotation")
    return quat.normalize(turn), _numbers(document, node.get("translation", [0, 0, 0]), 3, f"{field}.translation")


def _skeleton(document: Document) -> tuple[Skeleton, dict[int, str]]:
    """The skeleton of the skin's joints (with no skin: of every node without a mesh), parents first."""
    nodes = document.items("nodes")
    parent: dict[int, int] = {}
    for i in range(len(nodes)):
        for child in _children(document, i):
            if child in parent:
                raise document.trouble(f"nodes[{child}]", "has two parents")
            parent[child] = i
    wanted = _joint_nodes(document, parent)
    if len(wanted) > MOST_JOINTS:
        raise document.trouble("skins[0].joints", f"has more than {MOST_JOINTS} joints")
    order: list[int] = []
    stack = [i for i in reversed(range(len(nodes))) if i not in parent]
    seen: set[int] = set()
    while stack:
        node = stack.pop()
        seen.add(node)
        if node in wanted:
            order.append(node)
        stack.extend(reversed(_children(document, node)))
    if len(seen) < len(nodes):
        raise document.trouble("nodes", "form a circle: a node is its own ancestor")
    names: dict[int, str] = {}
    taken: set[str] = set()
    for node in order:
        name = nodes[node].get("name")
        name = name if isinstance(name, str) and name else f"joint_{node}"
        if name in taken:
            raise document.trouble(
                f"nodes[{node}].name", f"joint name {name!r} stands twice", "give each joint its own name"
            )
        taken.add(name)
        names[node] = name
    place = {node: i for i, node in enumerate(order)}
    local = [_local(document, node) for node in order]
    return (
        Skeleton(
            tuple(names.values()),
            tuple(place.get(parent.get(node, -1), -1) for node in order),
            np.array([turn for turn, _ in local]).reshape(-1, 4),
            np.array([at for _, at in local]).reshape(-1, 3),
        ),
        names,
    )


def _joint_nodes(document: Document, parent: dict[int, int]) -> set[int]:
    nodes, skins = document.items("nodes"), document.items("skins")
    if not skins:
        return {i for i, n in enumerate(nodes) if "mesh" not in n and "camera" not in n}
    joints = skins[0].get("joints")
    if not isinstance(joints, list) or not joints:
        raise document.trouble("skins[0].joints", "should be a list of nodes")
    for joint in joints:
        document.item("nodes", joint, "skins[0].joints")
    wanted = set(joints)
    # Nodes between two joints are joints too, or the chain would break; so is a node above them that turns or
    # moves the whole figure.
    for joint in joints:
        way: list[int] = []
        at, steps = parent.get(joint), 0
        while at is not None and steps <= len(nodes):
            if at in wanted or _moves(nodes[at]):
                wanted.update(way)
                wanted.add(at)
                way = []
            else:
                way.append(at)
            at, steps = parent.get(at), steps + 1
    return wanted


def _moves(node: dict[str, Any]) -> bool:
    """Whether a node places what is below it anywhere else than where it stands itself."""
    still = {"rotation": [0, 0, 0, 1], "translation": [0, 0, 0]}
    return "matrix" in node or any(node.get(key, value) != value for key, value in still.items())


def _motion(
    document: Document, index: int, entry: dict[str, Any], binding: dict[int, int], left_out: list[str]
) -> Motion:
    field = f"animations[{index}]"
    name = entry.get("name")
    name = name if isinstance(name, str) and name else f"animation_{index}"
    samplers, channels = entry.get("samplers"), entry.get("channels")
    if not isinstance(samplers, list) or not isinstance(channels, list):
        raise document.trouble(field, "lacks its samplers or channels")
    tracks = []
    for c, channel in enumerate(channels):
        where = f"{field}.channels[{c}]"
        target = channel.get("target") if isinstance(channel, dict) else None
        if not isinstance(target, dict):
            raise document.trouble(f"{where}.target", "should be an object")
        path, node = plain(target.get("path")), plain(target.get("node"))
        if path not in PATHS:
            left_out.append(f"keys for {path or 'nothing'} in {name!r} are not used")
            continue
        if node not in binding:
            left_out.append(f"keys for node {node} in {name!r} move no joint")
            continue
        which = channel.get("sampler")
        if not isinstance(which, int) or not 0 <= which < len(samplers) or not isinstance(samplers[which], dict):
            raise document.trouble(f"{where}.sampler", "refers to a sampler the file does not have")
        tracks.append(_track(document, samplers[which], binding[node], path, f"{field} ({name}).samplers[{which}]"))
    if not tracks:
        raise document.trouble(f"{field} ({name})", "has no keys for any joint", "export it with its keys")
    seconds = max(float(t.times[-1]) for t in tracks)
    steps = np.concatenate([np.diff(t.times) for t in tracks if len(t.times) > 1] or [np.array([1 / 30])])
    fps = float(np.clip(round(1.0 / float(np.median(steps)), 2), 1.0, 1000.0))
    return Motion(name, seconds, fps, tuple(tracks))


def _track(document: Document, sampler: dict[str, Any], joint: int, path: Any, field: str) -> Track:
    kind = plain(sampler.get("interpolation", "LINEAR"))
    if kind not in ("STEP", "LINEAR", "CUBICSPLINE"):
        raise document.trouble(f"{field}.interpolation", "is not known")
    times = document.accessor(sampler.get("input"), f"{field}.input")[:, 0].astype(np.float64)
    values = document.accessor(sampler.get("output"), f"{field}.output").astype(np.float64)
    if len(times) == 0:
        raise document.trouble(f"{field}.input", "has no keys")
    if (np.diff(times) <= 0).any() or times[0] < 0:
        raise document.trouble(f"{field}.input", "has keys out of order")
    keys = len(times) * (3 if kind == "CUBICSPLINE" else 1)
    if values.shape != (keys, PATHS[path]):
        raise document.trouble(
            f"{field}.output", f"should hold {keys} values of {PATHS[path]} and holds {len(values)}"
        )
    if kind == "CUBICSPLINE":
        values = values.reshape(len(times), 3, -1)
        if path == "rotation":
            values[:, 1] = quat.normalize(values[:, 1])
    elif path == "rotation":
        values = quat.normalize(values)
    return Track(joint, path, kind, times, values)


def _mesh(document: Document, skeleton: Skeleton, order: dict[int, str], left_out: list[str]) -> Mesh | None:
    skins = document.items("skins")
    holders = [n for n in document.items("nodes") if "mesh" in n and "skin" in n]
    if not skins or not holders:
        return None
    nodes = [skeleton.index[order[j]] for j in skins[0]["joints"]]
    bind = np.tile(np.eye(4), (len(skeleton), 1, 1))
    if "inverseBindMatrices" in skins[0]:
        stated = document.accessor(skins[0]["inverseBindMatrices"], "skins[0].inverseBindMatrices")
        if len(stated) < len(nodes) or stated.shape[1] != 16:
            raise document.trouble("skins[0].inverseBindMatrices", "holds fewer matrices than joints")
        bind[nodes] = stated[: len(nodes)].reshape(-1, 4, 4).transpose(0, 2, 1)
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


def _primitive(document: Document, primitive: Any, nodes: Any, field: str) -> tuple[Any, ...] | None:
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
    if "indices" in primitive:
        faces = document.accessor(primitive["indices"], f"{field}.indices")[:, 0].astype(np.int64)
    else:
        faces = np.arange(len(points))
    faces = faces[: len(faces) // 3 * 3].reshape(-1, 3)
    if len(faces) and faces.max() >= len(points):
        raise document.trouble(f"{field}.indices", "points past the mesh's points")
    if "NORMAL" in attributes:
        normals = document.accessor(attributes["NORMAL"], f"{field}.NORMAL")
    else:
        normals = _normals(points, faces)
    total = weights.sum(axis=1, keepdims=True)
    weights = np.where(total > 0, weights / np.maximum(total, 1e-9), [1.0, 0.0, 0.0, 0.0])
    return points, normals, nodes[joints], weights, faces


def _normals(points: Any, faces: Any) -> Any:
    out = np.zeros_like(points, dtype=np.float64)
    corners = points[faces]
    flat = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    for i in range(3):
        np.add.at(out, faces[:, i], flat)
    return out / np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-9)
