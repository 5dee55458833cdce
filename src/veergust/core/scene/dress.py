"""The figure's mesh with its props in its hands, as one mesh: so that every stage, skin and strip shows them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from veergust.core.model import Mount, Prop, Rig
from veergust.core.motion import Array, Assets, Mesh, Skeleton, quat
from veergust.core.scene.mannequin import mannequin


def figure_mesh(assets: Assets, rig: Rig) -> Mesh | None:
    """What is drawn for a project: the file's mesh or a plain mannequin, and the props; None without a figure."""
    if len(assets.skeleton) == 0:
        return None
    if assets.skeleton.picture >= 0:
        return _drawn(assets, rig)
    body = assets.mesh if assets.mesh is not None else mannequin(assets.skeleton)
    parts = [body]
    for prop in rig.props:
        part = _worn(prop, rig, assets)
        if part is not None:
            parts.append(_bound(part, body))
    return _joined(parts) if len(parts) > 1 else body


def _drawn(assets: Assets, rig: Rig) -> Mesh:
    """The drawings of a figure, and four points on its root that are as far apart as they reach."""
    sheets = tuple(assets.sheets.get(file) for file in rig.sheets)
    reach = np.array([s.around(n) for s in sheets if s is not None for n in range(len(s.rects))]).reshape(-1, 4)
    low, high = (reach[:, :2].min(axis=0), reach[:, 2:].max(axis=0)) if len(reach) else (np.zeros(2), np.ones(2))
    points = np.array([(0.0, y, z) for z in (low[0], high[0]) for y in (low[1], high[1])], dtype=np.float32)
    weights = np.tile(np.array([1, 0, 0, 0], np.float32), (4, 1))
    bind = np.asarray(np.linalg.inv(assets.skeleton.rest_world), dtype=np.float64)
    none = np.zeros((0, 3), np.int32)
    riding = np.zeros((4, 4), np.int32)
    return Mesh(points, points, riding, weights, none, bind, sheets, assets.skeleton.picture)


def mount_matrix(skeleton: Skeleton, rig: Rig, name: str) -> tuple[int, Array] | None:
    """The joint of a mount (or a joint of that name) and the mount's frame ``[4, 4]`` in it."""
    mount = next((m for m in rig.mounts if m.name == name), Mount(name=name, joint=name))
    if mount.joint not in skeleton.index:
        return None
    return skeleton.index[mount.joint], placed(mount.offset, mount.turn)


def placed(offset: tuple[float, ...], turn: tuple[float, ...], scale: float = 1.0) -> Array:
    """A frame ``[4, 4]`` from an offset (m), angles about x, y, z (degrees) and a scale."""
    out = np.eye(4)
    out[:3, :3] = quat.to_matrix(quat.from_euler(turn)) * scale
    out[:3, 3] = offset
    return out


Worn = tuple[int, Array, Array, NDArray[np.int32]]


def _worn(prop: Prop, rig: Rig, assets: Assets) -> Worn | None:
    """Joint, points and normals in the joint's frame, and faces of a prop; None when its file or mount is gone."""
    mesh, mount = assets.props.get(prop.file), mount_matrix(assets.skeleton, rig, prop.mount)
    if mesh is None or mount is None:
        return None
    joint, frame = mount
    frame = frame @ placed(prop.offset, prop.turn, prop.scale)
    points = mesh.points @ frame[:3, :3].T + frame[:3, 3]
    normals = mesh.normals @ (frame[:3, :3] / max(prop.scale, 1e-9)).T
    return joint, points, normals, mesh.faces


def _bound(part: Worn, body: Mesh) -> Mesh:
    """A rigid part as skin of the body's skeleton: its points where its joint was bound."""
    joint, points, normals, faces = part
    back = np.linalg.inv(body.inverse_bind[joint])
    ride = np.zeros((len(points), 4), np.int32)
    ride[:, 0] = joint
    return Mesh(
        (points @ back[:3, :3].T + back[:3, 3]).astype(np.float32),
        (normals @ back[:3, :3].T).astype(np.float32),
        ride,
        np.tile(np.array([1, 0, 0, 0], np.float32), (len(points), 1)),
        faces,
        body.inverse_bind,
    )


def _joined(parts: list[Mesh]) -> Mesh:
    starts = np.cumsum([0] + [len(p.points) for p in parts[:-1]])
    return Mesh(
        np.concatenate([p.points for p in parts]),
        np.concatenate([p.normals for p in parts]),
        np.concatenate([p.joints for p in parts]),
        np.concatenate([p.weights for p in parts]),
        np.concatenate([p.faces + n for p, n in zip(parts, starts)]).astype(np.int32),
        parts[0].inverse_bind,
    )
