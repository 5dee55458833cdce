"""glTF 2.0 out: one binary file with a skeleton, an optional skinned mesh, and motions.

What is written is a small part of the format (https://registry.khronos.org/glTF/specs/2.0/glTF-2.0.html), as plain
JSON and one buffer; the Khronos validator is asked about it in the tests.
"""

from __future__ import annotations

import json
import struct
from typing import Any

import numpy as np
from numpy.typing import NDArray

from veergust.core.motion import Mesh, Motion, Skeleton

COMPONENTS = {"uint8": 5121, "uint16": 5123, "uint32": 5125, "float32": 5126}
VERTICES, FACES = 34962, 34963
"""What a view of the buffer is for: the format's ``ARRAY_BUFFER`` and ``ELEMENT_ARRAY_BUFFER``."""
TRIANGLES = 4
JSON_CHUNK, BINARY_CHUNK = 0x4E4F534A, 0x004E4942


class _Packer:
    """Collects arrays into one buffer, and an accessor for each."""

    def __init__(self) -> None:
        self.data = bytearray()
        self.views: list[dict[str, Any]] = []
        self.accessors: list[dict[str, Any]] = []

    def add(self, values: NDArray[Any], kind: str, target: int | None = None, bounds: bool = False) -> int:
        flat = np.ascontiguousarray(values)
        self.data.extend(b"\0" * (-len(self.data) % 4))
        view = {"buffer": 0, "byteOffset": len(self.data), "byteLength": flat.nbytes}
        self.views.append(view if target is None else view | {"target": target})
        self.data.extend(flat.tobytes())
        accessor = {
            "bufferView": len(self.views) - 1,
            "byteOffset": 0,
            "componentType": COMPONENTS[flat.dtype.name],
            "normalized": False,
            "count": len(flat),
            "type": kind,
        }
        if bounds:
            rows = flat.reshape(len(flat), -1)
            accessor["max"] = [float(v) for v in rows.max(axis=0)]
            accessor["min"] = [float(v) for v in rows.min(axis=0)]
        self.accessors.append(accessor)
        return len(self.accessors) - 1


def write_glb(skeleton: Skeleton, mesh: Mesh | None = None, motions: tuple[Motion, ...] = ()) -> bytes:
    """The bytes of a GLB file holding the skeleton, its mesh and its motions; the same input gives the same
    bytes."""
    pack = _Packer()
    nodes = [_node(skeleton, j) for j in range(len(skeleton))]
    roots = [j for j, p in enumerate(skeleton.parents) if p < 0]
    shown: dict[str, Any] = {}
    if mesh is not None:
        shown = _mesh(pack, skeleton, mesh)
        nodes.append({"mesh": 0, "skin": 0, "name": "body"})
        roots.append(len(nodes) - 1)
    moved = {"animations": [_animation(pack, motion) for motion in motions]} if motions else {}
    document = {
        "accessors": pack.accessors,
        "asset": {"generator": "veergust", "version": "2.0"},
        "bufferViews": pack.views,
        "buffers": [{"byteLength": len(pack.data)}],
        "nodes": nodes,
        "scene": 0,
        "scenes": [{"nodes": roots}],
        **shown,
        **moved,
    }
    held = {name: value for name, value in sorted(document.items()) if value or value == 0}
    return _binary(json.dumps(held, separators=(",", ":")).encode(), bytes(pack.data))


def _binary(text: bytes, data: bytes) -> bytes:
    """The container: a header, the JSON and the buffer, each padded to whole words."""
    text += b" " * (-len(text) % 4)
    data += b"\0" * (-len(data) % 4)
    chunks = struct.pack("<II", len(text), JSON_CHUNK) + text + struct.pack("<II", len(data), BINARY_CHUNK) + data
    return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks


def _node(skeleton: Skeleton, joint: int) -> dict[str, Any]:
    children = [c for c, p in enumerate(skeleton.parents) if p == joint]
    return {
        "rotation": [float(v) for v in skeleton.rest_rotation[joint]],
        "translation": [float(v) for v in skeleton.rest_translation[joint]],
        **({"children": children} if children else {}),
        "name": skeleton.names[joint],
    }


def _mesh(pack: _Packer, skeleton: Skeleton, mesh: Mesh) -> dict[str, Any]:
    """The skinned mesh and its skin."""
    f4, index = np.float32, np.uint8 if len(skeleton) < 256 else np.uint16
    attributes = {
        "POSITION": pack.add(mesh.points.astype(f4), "VEC3", VERTICES, bounds=True),
        "NORMAL": pack.add(mesh.normals.astype(f4), "VEC3", VERTICES),
        # Where nothing of a joint is used the format wants it to be the first.
        "JOINTS_0": pack.add(np.where(mesh.weights > 0.0, mesh.joints, 0).astype(index), "VEC4", VERTICES),
        "WEIGHTS_0": pack.add(mesh.weights.astype(f4), "VEC4", VERTICES),
    }
    faces = pack.add(mesh.faces.astype(np.uint32).reshape(-1), "SCALAR", FACES)
    bind = mesh.inverse_bind.transpose(0, 2, 1).reshape(-1, 16).astype(f4)
    primitive = {"attributes": attributes, "indices": faces, "mode": TRIANGLES}
    skin = {
        "inverseBindMatrices": pack.add(bind, "MAT4"),
        "skeleton": 0,
        "joints": list(range(len(skeleton))),
    }
    return {"meshes": [{"primitives": [primitive], "name": "body"}], "skins": [skin]}


def _animation(pack: _Packer, motion: Motion) -> dict[str, Any]:
    samplers, channels = [], []
    inputs: dict[bytes, int] = {}
    for track in motion.tracks:
        times = track.times.astype(np.float32)
        key = times.tobytes()
        if key not in inputs:
            inputs[key] = pack.add(times, "SCALAR", bounds=True)
        values = track.values.astype(np.float32)
        values = values.reshape(-1, values.shape[-1])
        kind = "VEC4" if track.path == "rotation" else "VEC3"
        output = pack.add(values, kind)
        samplers.append({"input": inputs[key], "interpolation": track.interpolation, "output": output})
        channels.append({"sampler": len(samplers) - 1, "target": {"node": track.joint, "path": track.path}})
    return {"name": motion.name, "channels": channels, "samplers": samplers}
