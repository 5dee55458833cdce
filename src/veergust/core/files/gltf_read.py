"""glTF 2.0 in: skeleton, skin, and animations with step, linear and cubic keys."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from veergust.core.files.gltf_data import (
    LONGEST_MOTION,
    MOST_JOINTS,
    GltfDocument,
    files_beside,
    open_gltf,
    plain,
    said_name,
)
from veergust.core.files.gltf_mesh import read_skin
from veergust.core.files.motion_file import MotionFile, Reader
from veergust.core.motion import quat
from veergust.core.motion.quat import Array
from veergust.core.motion.sampling import Motion, Track
from veergust.core.motion.skeleton import Skeleton

FEWEST, SHOWN = 20.0, 60.0
"""A motion with fewer keys a second than the first was keyed by hand, and is shown at the second."""
PATHS = {"rotation": 4, "translation": 3}


def read_gltf(path: Path, *, within: Path | None = None, mesh: bool = True, moved: bool = True) -> MotionFile:
    """Read a glTF file.

    Scale on nodes is folded into the places below them, so that every joint has size 1. Raises ``Trouble`` naming
    the file and the field for anything that cannot be used.
    """
    document = open_gltf(path, within=within)
    left_out: list[str] = []
    nodes = _order(document)
    skeleton, sizes, own = _skeleton(document, nodes, left_out)
    if len(skeleton) == 0:
        raise document.trouble("nodes", "holds no joints", "export it with its skeleton")
    binding = {node: j for j, node in enumerate(nodes)}
    motions: list[Motion] = []
    for i, entry in enumerate(document.items("animations") if moved else []):
        motion = _motion(document, i, entry, binding, sizes, own, left_out)
        if motion is not None:
            motions.append(motion)
    if moved and document.items("animations") and not motions and not document.items("skins"):
        raise document.trouble("animations[0]", "has no keys for any joint", "export it with its keys")
    shape = read_skin(document, skeleton, nodes, sizes, left_out) if mesh else None
    return MotionFile(skeleton, shape, tuple(motions), tuple(dict.fromkeys(left_out)))


def _local(document: GltfDocument, index: int, left_out: list[str]) -> tuple[Array, Array, float]:
    """Turn, place and size of a node. A size below 0 mirrors; turned with it, any signs of a scale come to that."""
    node, field = document.items("nodes")[index], f"nodes[{index}]"
    if "matrix" in node:
        m = document.numbers(node["matrix"], 16, f"{field}.matrix").reshape(4, 4).T
        scale = np.linalg.norm(m[:3, :3], axis=0)
        if (scale < 1e-9).any() or not np.isfinite(scale).all():
            raise document.trouble(f"{field}.matrix", "has no size along an axis")
        sign = 1.0 if np.linalg.det(m[:3, :3]) > 0 else -1.0
        turn, place = quat.from_matrix(m[:3, :3] / scale * sign), m[:3, 3].copy()
    else:
        turn = quat.normalize(document.numbers(node.get("rotation", [0, 0, 0, 1]), 4, f"{field}.rotation"))
        place = document.numbers(node.get("translation", [0, 0, 0]), 3, f"{field}.translation")
        if "scale" not in node:
            return turn, place, 1.0
        stated = document.numbers(node["scale"], 3, f"{field}.scale")
        scale, sign = np.abs(stated), 1.0 if np.sum(stated < 0) % 2 == 0 else -1.0
        turn = quat.multiply(turn, half_turn(stated))
    size = float(np.mean(scale))
    if np.ptp(scale) > 1e-3 * size:
        left_out.append(f"{field} is scaled unevenly; its mean {size:g} is used")
    return turn, place, size * sign


def half_turn(scale: Array) -> Array:
    """The rotation ``[4]`` that is left of the signs of a scale ``[3]`` once it has been mirrored as a whole: none,
    or half a turn about the axis that is unlike the other two."""
    signs = np.where(np.asarray(scale) < 0, -1.0, 1.0)
    odd = np.flatnonzero(signs == np.prod(signs))
    if len(odd) != 1:
        return quat.IDENTITY
    out = np.zeros(4)
    out[odd[0]] = 1.0
    return out


def _parents(document: GltfDocument) -> dict[int, int]:
    parent: dict[int, int] = {}
    for i in range(len(document.items("nodes"))):
        for child in document.children(i):
            if child in parent:
                raise document.trouble(f"nodes[{child}]", "has two parents")
            parent[child] = i
    return parent


def _order(document: GltfDocument) -> list[int]:
    """The nodes that are joints, parents first: the skin's (with no skin: every node without a mesh)."""
    nodes = document.items("nodes")
    parent = _parents(document)
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
        stack.extend(reversed(document.children(node)))
    if len(seen) < len(nodes):
        raise document.trouble("nodes", "form a circle: a node is its own ancestor")
    return order


def _skeleton(document: GltfDocument, order: list[int], left_out: list[str]) -> tuple[Skeleton, Array, Array]:
    """The skeleton of the joint nodes, and the sizes ``[J]`` they have with everything above them, and of their own."""
    nodes = document.items("nodes")
    parent = _parents(document)
    names: dict[int, str] = {}
    taken: set[str] = set()
    for node in order:
        name = said_name(nodes[node].get("name")) or f"joint_{node}"
        if name in taken:
            raise document.trouble(
                f"nodes[{node}].name", f"joint name {name!r} stands twice", "give each joint its own name"
            )
        taken.add(name)
        names[node] = name
    place = {node: i for i, node in enumerate(order)}
    local = [_local(document, node, left_out) for node in order]
    parents = tuple(place.get(parent.get(node, -1), -1) for node in order)
    sizes = np.ones(len(order))
    above = np.ones(len(order))
    for j, p in enumerate(parents):
        above[j] = sizes[p] if p >= 0 else 1.0
        sizes[j] = above[j] * local[j][2]
    large = np.abs(sizes)
    if not np.isfinite(sizes).all() or (len(sizes) and (large.min() < 1e-9 or large.max() > 1e9)):
        raise document.trouble("nodes.scale", "has a size that cannot be used", "export it with scale 1")
    turn = np.array([t for t, _, _ in local]).reshape(-1, 4)
    at = np.array([p for _, p, _ in local]).reshape(-1, 3) * above[:, None]
    return Skeleton(tuple(names.values()), parents, turn, at), sizes, np.array([s for _, _, s in local])


def _joint_nodes(document: GltfDocument, parent: dict[int, int]) -> set[int]:
    nodes, skins = document.items("nodes"), document.items("skins")
    keyed = _keyed(document)
    if not skins:
        return {i for i, n in enumerate(nodes) if i in keyed or ("mesh" not in n and "camera" not in n)}
    wanted: set[int] = set()
    for i, skin in enumerate(skins):
        joints = skin.get("joints")
        if not isinstance(joints, list) or not joints:
            raise document.trouble(f"skins[{i}].joints", "should be a list of nodes")
        for joint in joints:
            document.item("nodes", joint, f"skins[{i}].joints")
        wanted |= set(joints)
    # Nodes between two joints are joints too, or the chain would break; so is a node above them that turns or
    # moves the whole figure, in rest or while it plays.
    for joint in sorted(wanted):
        way: list[int] = []
        at, steps = parent.get(joint), 0
        while at is not None and steps <= len(nodes):
            if at in wanted or at in keyed or _moves(nodes[at]):
                wanted.update(way)
                wanted.add(at)
                way = []
            else:
                way.append(at)
            at, steps = parent.get(at), steps + 1
    return wanted


def _keyed(document: GltfDocument) -> set[int]:
    """The nodes that an animation moves."""
    out: set[int] = set()
    for entry in document.items("animations"):
        channels = entry.get("channels")
        for channel in channels if isinstance(channels, list) else []:
            target = channel.get("target") if isinstance(channel, dict) else None
            if isinstance(target, dict) and plain(target.get("path")) in PATHS:
                out.add(plain(target.get("node")))
    return out


def _moves(node: dict[str, Any]) -> bool:
    """Whether a node places what is below it anywhere else than where it stands itself."""
    still = {"rotation": [0, 0, 0, 1], "translation": [0, 0, 0], "scale": [1, 1, 1]}
    return "matrix" in node or any(node.get(key, value) != value for key, value in still.items())


def _motion(
    document: GltfDocument,
    index: int,
    entry: dict[str, Any],
    binding: dict[int, int],
    sizes: Array,
    own: Array,
    left_out: list[str],
) -> Motion | None:
    field = f"animations[{index}]"
    name = said_name(entry.get("name")) or f"animation_{index}"
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
        joint = binding[node]
        track = _track(document, samplers[which], joint, path, f"{field} ({name}).samplers[{which}]")
        if path == "translation" and sizes[joint] != own[joint]:
            track = replace(track, values=track.values * (sizes[joint] / own[joint]))
        stated = document.items("nodes")[node].get("scale", [1, 1, 1])
        if path == "rotation" and min(stated) < 0:
            track = replace(track, values=quat.multiply(track.values, half_turn(stated)))
        tracks.append(track)
    if not tracks:
        left_out.append(f"{name!r} has no keys for any joint")
        return None
    seconds = max(float(t.times[-1]) for t in tracks)
    steps = np.concatenate([np.diff(t.times) for t in tracks if len(t.times) > 1] or [np.array([1 / 30])])
    fps = float(np.clip(round(1.0 / float(np.median(steps)), 2), 1.0, 1000.0))
    if fps < FEWEST:
        left_out.append(f"{name!r} has keys far apart; it is shown at {SHOWN:g} frames a second")
        fps = SHOWN
    return Motion(name, seconds, fps, tuple(tracks))


def _track(document: GltfDocument, sampler: dict[str, Any], joint: int, path: Any, field: str) -> Track:
    kind = plain(sampler.get("interpolation", "LINEAR"))
    if kind not in ("STEP", "LINEAR", "CUBICSPLINE"):
        raise document.trouble(f"{field}.interpolation", "is not known")
    times = _times(document, sampler.get("input"), f"{field}.input")
    values = document.accessor(sampler.get("output"), f"{field}.output").astype(np.float64)
    keys = len(times) * (3 if kind == "CUBICSPLINE" else 1)
    if values.shape != (keys, PATHS[path]):
        raise document.trouble(f"{field}.output", f"should hold {keys} values of {PATHS[path]} and holds {len(values)}")
    if kind == "CUBICSPLINE":
        values = values.reshape(len(times), 3, -1)
        if path == "rotation":
            values[:, 1] = quat.normalize(values[:, 1])
    elif path == "rotation":
        values = quat.normalize(values)
    return Track(joint, path, kind, times, values)


def _times(document: GltfDocument, index: object, field: str) -> Array:
    """The times of keys, looked at once: most tracks of an animation share them."""
    at = index if isinstance(index, int) and not isinstance(index, bool) else -1
    known = document.times.get(at)
    if known is not None:
        return known
    times: Array = document.accessor(index, field)[:, 0].astype(np.float64)
    if len(times) == 0:
        raise document.trouble(field, "has no keys")
    if (np.diff(times) <= 0).any() or times[0] < 0:
        raise document.trouble(field, "has keys out of order")
    if times[-1] > LONGEST_MOTION:
        raise document.trouble(field, f"lasts longer than {LONGEST_MOTION:g} s", "export it in parts")
    document.times[at] = times
    return times


READER = Reader(
    (".glb", ".gltf"),
    "glTF 2.0",
    lambda path, within, mesh, moved: read_gltf(path, within=within, mesh=mesh, moved=moved),
    files_beside,
)
