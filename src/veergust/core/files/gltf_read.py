"""glTF 2.0 in: skeleton, skin, and animations with step, linear and cubic keys."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Literal

import numpy as np

from veergust.core.files.gltf_data import GltfDocument, files_beside, open_gltf, said_name
from veergust.core.files.gltf_mesh import read_skin
from veergust.core.files.gltf_schema import Animation, Channel, Node, Sampler
from veergust.core.files.motion_file import LONGEST_MOTION, MOST_JOINTS, MotionFile, Reader
from veergust.core.motion import Array, Motion, Skeleton, Track, quat

FEWEST, SHOWN = 20.0, 60.0
"""A motion with fewer keys a second than the first was keyed by hand, and is shown at the second."""
PATHS = {"rotation": 4, "translation": 3}


def read_gltf(path: Path, *, within: Path | None = None, mesh: bool = True, moved: bool = True) -> MotionFile:
    """Read a glTF file.

    Scale on nodes is folded into the places below them, so that every joint has size 1. Raises ``Trouble`` naming
    the file and the field for anything that cannot be used.
    """
    document = open_gltf(path, within=within)
    content = document.content
    left_out: list[str] = []
    parent = document.parents()
    nodes = _order(document, parent)
    skeleton, sizes, own = _skeleton(document, nodes, parent, left_out)
    if len(skeleton) == 0:
        raise document.trouble("nodes", "holds no joints", "export it with its skeleton")
    binding = {node: j for j, node in enumerate(nodes)}
    motions: list[Motion] = []
    for i, entry in enumerate(content.animations if moved else ()):
        motion = _motion(document, i, entry, binding, sizes, own, left_out)
        if motion is not None:
            motions.append(motion)
    if moved and content.animations and not motions and not content.skins:
        raise document.trouble("animations[0]", "has no keys for any joint", "export it with its keys")
    shape = read_skin(document, skeleton, nodes, sizes, left_out) if mesh else None
    return MotionFile(skeleton, shape, tuple(motions), tuple(dict.fromkeys(left_out)))


def _locals(document: GltfDocument, order: list[int], left_out: list[str]) -> tuple[Array, Array, Array]:
    """Turns ``[J, 4]``, places ``[J, 3]`` and sizes ``[J]`` of nodes. A size below 0 mirrors; turned with it, any
    signs of a scale come to that."""
    nodes = [document.content.nodes[i] for i in order]
    turns = np.array([n.rotation or (0.0, 0.0, 0.0, 1.0) for n in nodes], dtype=float).reshape(-1, 4)
    turns = quat.normalize(turns)
    places = np.array([n.translation or (0.0, 0.0, 0.0) for n in nodes], dtype=float).reshape(-1, 3)
    sizes = np.ones(len(nodes))
    for j, (index, node) in enumerate(zip(order, nodes)):
        if node.matrix is not None:
            turns[j], places[j], scale, sign = _taken_apart(document, node, f"nodes[{index}]")
        elif node.scale is not None:
            scale, sign = np.abs(node.scale), 1.0 if np.sum(np.array(node.scale) < 0) % 2 == 0 else -1.0
            turns[j] = quat.multiply(turns[j], half_turn(np.array(node.scale)))
        else:
            continue
        size = float(np.mean(scale))
        if np.ptp(scale) > 1e-3 * size:
            left_out.append(f"nodes[{index}] is scaled unevenly; its mean {size:g} is used")
        sizes[j] = size * sign
    return turns, places, sizes


def _taken_apart(document: GltfDocument, node: Node, field: str) -> tuple[Array, Array, Array, float]:
    """Turn, place, scale along three axes and its sign, of a node's matrix."""
    m = np.array(node.matrix).reshape(4, 4).T
    scale = np.linalg.norm(m[:3, :3], axis=0)
    if (scale < 1e-9).any() or not np.isfinite(scale).all():
        raise document.trouble(f"{field}.matrix", "has no size along an axis")
    sign = 1.0 if np.linalg.det(m[:3, :3]) > 0 else -1.0
    return quat.from_matrix(m[:3, :3] / scale * sign), m[:3, 3], scale, sign


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


def _order(document: GltfDocument, parent: dict[int, int]) -> list[int]:
    """The nodes that are joints, parents first: the skin's (with no skin: every node without a mesh)."""
    nodes = document.content.nodes
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
        stack.extend(reversed(nodes[node].children))
    if len(seen) < len(nodes):
        raise document.trouble("nodes", "form a circle: a node is its own ancestor")
    return order


def _skeleton(
    document: GltfDocument, order: list[int], parent: dict[int, int], left_out: list[str]
) -> tuple[Skeleton, Array, Array]:
    """The skeleton of the joint nodes, and the sizes ``[J]`` they have with everything above them, and of their own."""
    names: dict[str, None] = {}
    for node in order:
        name = said_name(document.content.nodes[node].name) or f"joint_{node}"
        if name in names:
            raise document.trouble(
                f"nodes[{node}].name", f"joint name {name!r} stands twice", "give each joint its own name"
            )
        names[name] = None
    place = {node: i for i, node in enumerate(order)}
    turn, at, own = _locals(document, order, left_out)
    parents = tuple(place.get(parent.get(node, -1), -1) for node in order)
    sizes = np.ones(len(order))
    above = np.ones(len(order))
    for j, p in enumerate(parents):
        above[j] = sizes[p] if p >= 0 else 1.0
        sizes[j] = above[j] * own[j]
    large = np.abs(sizes)
    if not np.isfinite(sizes).all() or (len(sizes) and (large.min() < 1e-9 or large.max() > 1e9)):
        raise document.trouble("nodes.scale", "has a size that cannot be used", "export it with scale 1")
    return Skeleton(tuple(names), parents, turn, at * above[:, None]), sizes, own


def _joint_nodes(document: GltfDocument, parent: dict[int, int]) -> set[int]:
    nodes, skins = document.content.nodes, document.content.skins
    keyed = {c.target.node for a in document.content.animations for c in a.channels if c.target.path in PATHS}
    if not skins:
        return {i for i, n in enumerate(nodes) if i in keyed or (n.mesh is None and n.camera is None)}
    wanted: set[int] = set()
    for i, skin in enumerate(skins):
        for joint in skin.joints:
            document.item(nodes, "nodes", joint, f"skins[{i}].joints")
        wanted |= set(skin.joints)
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


def _moves(node: Node) -> bool:
    """Whether a node places what is below it anywhere else than where it stands itself."""
    stated = ((node.rotation, (0, 0, 0, 1)), (node.translation, (0, 0, 0)), (node.scale, (1, 1, 1)))
    return node.matrix is not None or any(value not in (None, still) for value, still in stated)


def _motion(
    document: GltfDocument,
    index: int,
    entry: Animation,
    binding: dict[int, int],
    sizes: Array,
    own: Array,
    left_out: list[str],
) -> Motion | None:
    field = f"animations[{index}]"
    name = said_name(entry.name) or f"animation_{index}"
    tracks = []
    for c, channel in enumerate(entry.channels):
        path, node = channel.target.path, channel.target.node
        if path not in PATHS:
            left_out.append(f"keys for {path or 'nothing'} in {name!r} are not used")
            continue
        if node is None or node not in binding:
            left_out.append(f"keys for node {node} in {name!r} move no joint")
            continue
        sampler = document.item(entry.samplers, "samplers", channel.sampler, f"{field}.channels[{c}].sampler")
        joint = binding[node]
        track = _track(document, sampler, joint, channel, f"{field} ({name}).samplers[{channel.sampler}]")
        if path == "translation" and sizes[joint] != own[joint]:
            track = replace(track, values=track.values * (sizes[joint] / own[joint]))
        stated = document.content.nodes[node].scale
        if path == "rotation" and stated is not None and min(stated) < 0:
            track = replace(track, values=quat.multiply(track.values, half_turn(np.array(stated))))
        tracks.append(track)
    if not tracks:
        left_out.append(f"{name!r} has no keys for any joint")
        return None
    seconds = max(float(t.times[-1]) for t in tracks)
    # Most tracks share their times, which are one array then.
    apart = {key: np.diff(times) for key, times in {id(t.times): t.times for t in tracks}.items()}
    steps = np.concatenate([apart[id(t.times)] for t in tracks if len(t.times) > 1] or [np.array([1 / 30])])
    fps = float(np.clip(round(1.0 / float(np.median(steps)), 2), 1.0, 1000.0))
    if fps < FEWEST:
        left_out.append(f"{name!r} has keys far apart; it is shown at {SHOWN:g} frames a second")
        fps = SHOWN
    return Motion(name, seconds, fps, _of_length_one(tracks))


def _of_length_one(tracks: list[Track]) -> tuple[Track, ...]:
    """The tracks, with the quaternions of rotations normalized, all in one go."""
    turns = [t.values for t in tracks if t.path == "rotation" and t.values.ndim == 2]
    if not turns:
        return tuple(tracks)
    rows = np.concatenate(turns)
    made = iter(np.split(quat.normalize(rows), np.cumsum([len(v) for v in turns])[:-1]))
    return tuple(
        Track(t.joint, t.path, t.interpolation, t.times, next(made))
        if t.path == "rotation" and t.values.ndim == 2
        else t
        for t in tracks
    )


def _track(document: GltfDocument, sampler: Sampler, joint: int, channel: Channel, field: str) -> Track:
    kind = sampler.interpolation
    path: Literal["rotation", "translation"] = "rotation" if channel.target.path == "rotation" else "translation"
    times = _times(document, sampler.input, f"{field}.input")
    values = document.accessor(sampler.output, f"{field}.output").astype(np.float64)
    keys = len(times) * (3 if kind == "CUBICSPLINE" else 1)
    if values.shape != (keys, PATHS[path]):
        raise document.trouble(f"{field}.output", f"should hold {keys} values of {PATHS[path]} and holds {len(values)}")
    if kind == "CUBICSPLINE":
        values = values.reshape(len(times), 3, -1)
        if path == "rotation":
            values[:, 1] = quat.normalize(values[:, 1])
    return Track(joint, path, kind, times, values)


def _times(document: GltfDocument, index: int | None, field: str) -> Array:
    """The times of keys, looked at once: most tracks of an animation share them."""
    at = -1 if index is None else index
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
    lambda path, within, mesh, moved: read_gltf(path, within=within, mesh=mesh, moved=moved),
    files_beside,
)
