"""glTF 2.0 out: one binary file with a skeleton, an optional skinned mesh, and motions."""

from __future__ import annotations

from typing import Any

import numpy as np
import pygltflib as g
from numpy.typing import NDArray

from veergust.core.motion.figure import Mesh
from veergust.core.motion.sampling import Motion
from veergust.core.motion.skeleton import Skeleton


class _Packer:
    """Collects arrays into one buffer, and an accessor for each."""

    def __init__(self) -> None:
        self.data = bytearray()
        self.views: list[Any] = []
        self.accessors: list[Any] = []

    def add(self, values: NDArray[Any], kind: str, target: int | None = None, bounds: bool = False) -> int:
        components = {
            "float32": g.FLOAT,
            "uint8": g.UNSIGNED_BYTE,
            "uint16": g.UNSIGNED_SHORT,
            "uint32": g.UNSIGNED_INT,
        }
        flat = np.ascontiguousarray(values)
        self.data.extend(b"\0" * (-len(self.data) % 4))
        view = g.BufferView(buffer=0, byteOffset=len(self.data), byteLength=flat.nbytes, target=target)
        self.data.extend(flat.tobytes())
        self.views.append(view)
        accessor = g.Accessor(
            bufferView=len(self.views) - 1,
            componentType=components[flat.dtype.name],
            count=len(flat),
            type=kind,
        )
        if bounds:
            rows = flat.reshape(len(flat), -1)
            accessor.min = [float(v) for v in rows.min(axis=0)]
            accessor.max = [float(v) for v in rows.max(axis=0)]
        self.accessors.append(accessor)
        return len(self.accessors) - 1


def write_glb(skeleton: Skeleton, mesh: Mesh | None = None, motions: tuple[Motion, ...] = ()) -> bytes:
    """The bytes of a GLB file holding the skeleton, its mesh and its motions; the same input gives the same
    bytes."""
    pack = _Packer()
    nodes = [
        g.Node(
            name=name,
            rotation=[float(v) for v in skeleton.rest_rotation[j]],
            translation=[float(v) for v in skeleton.rest_translation[j]],
            children=[c for c, p in enumerate(skeleton.parents) if p == j],
        )
        for j, name in enumerate(skeleton.names)
    ]
    out = g.GLTF2(asset=g.Asset(version="2.0", generator="veergust"))
    roots = [j for j, p in enumerate(skeleton.parents) if p < 0]
    if mesh is not None:
        _put_mesh(out, pack, skeleton, mesh)
        nodes.append(g.Node(name="body", mesh=0, skin=0))
        roots.append(len(nodes) - 1)
    out.nodes = nodes
    out.scenes = [g.Scene(nodes=roots)]
    out.scene = 0
    for motion in motions:
        out.animations.append(_animation(pack, motion))
    out.bufferViews, out.accessors = pack.views, pack.accessors
    out.buffers = [g.Buffer(byteLength=len(pack.data))]
    out.set_binary_blob(bytes(pack.data))
    return b"".join(out.save_to_bytes())


def _put_mesh(out: Any, pack: _Packer, skeleton: Skeleton, mesh: Mesh) -> None:
    f4 = np.float32
    attributes = g.Attributes(
        POSITION=pack.add(mesh.points.astype(f4), "VEC3", g.ARRAY_BUFFER, bounds=True),
        NORMAL=pack.add(mesh.normals.astype(f4), "VEC3", g.ARRAY_BUFFER),
        JOINTS_0=pack.add(mesh.joints.astype(np.uint8 if len(skeleton) < 256 else np.uint16), "VEC4", g.ARRAY_BUFFER),
        WEIGHTS_0=pack.add(mesh.weights.astype(f4), "VEC4", g.ARRAY_BUFFER),
    )
    faces = pack.add(mesh.faces.astype(np.uint32).reshape(-1), "SCALAR", g.ELEMENT_ARRAY_BUFFER)
    out.meshes = [g.Mesh(name="body", primitives=[g.Primitive(attributes=attributes, indices=faces)])]
    bind = mesh.inverse_bind.transpose(0, 2, 1).reshape(-1, 16).astype(f4)
    out.skins = [g.Skin(inverseBindMatrices=pack.add(bind, "MAT4"), joints=list(range(len(skeleton))), skeleton=0)]


def _animation(pack: _Packer, motion: Motion) -> Any:
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
        samplers.append(
            g.AnimationSampler(input=inputs[key], output=pack.add(values, kind), interpolation=track.interpolation)
        )
        target = g.AnimationChannelTarget(node=track.joint, path=track.path)
        channels.append(g.AnimationChannel(sampler=len(samplers) - 1, target=target))
    return g.Animation(name=motion.name, samplers=samplers, channels=channels)
