"""Motion written as BVH, as other programs hand it over: other names, unit, axes and rest pose."""

from __future__ import annotations

import numpy as np
from scipy.spatial.transform import Rotation

from veergust.core.motion import quat
from veergust.core.motion.figure import Assets
from veergust.core.motion.quat import Array
from veergust.core.motion.sampling import Motion, sample
from veergust.core.motion.skeleton import Pose, Skeleton, forward


def t_pose(bones: Skeleton) -> Pose:
    """The rest pose with the arms raised straight out to the sides."""
    pose = bones.rest_pose()
    for side, angle in (("left", 90.0), ("right", -90.0)):
        pose.rotation[0, bones.index[f"upper_arm_{side}"]] = quat.from_axis_angle([0.0, 0.0, 1.0], angle)
    return pose


def as_bvh(
    assets: Assets,
    motion: Motion,
    names: dict[str, str],
    *,
    fps: float = 30.0,
    unit: float = 100.0,
    order: str = "ZXY",
    bind: Pose | None = None,
    lie: Array | None = None,
    ends: str = "\n",
) -> str:
    """BVH text of ``motion``, with rest pose ``bind`` and everything turned by ``lie`` (a quaternion)."""
    bones = assets.skeleton
    frames = round(motion.seconds * fps) + 1
    pose = sample(bones, motion, np.arange(frames) / fps)
    world = forward(bones, pose.rotation, pose.translation)
    bind = bind or bones.rest_pose()
    rest = forward(bones, bind.rotation, bind.translation)[0]
    lying = quat.to_matrix(lie) if lie is not None else np.eye(3)
    keep = [j for j, name in enumerate(bones.names) if name in names]
    away = lying @ world[:, :, :3, :3] @ np.linalg.inv(rest[:, :3, :3]) @ lying.T
    parent = {j: next((p for p in _above(bones, j) if p in keep), -1) for j in keep}
    lines, columns = ["HIERARCHY"], []

    def put(j: int, depth: int) -> None:
        pad = "  " * depth
        top = parent[j] < 0
        offset = np.zeros(3) if top else lying @ (rest[j, :3, 3] - rest[parent[j], :3, 3]) * unit
        turned = " ".join(f"{axis}rotation" for axis in order)
        channels = f"6 Xposition Yposition Zposition {turned}" if top else f"3 {turned}"
        lines.extend([f"{pad}{'ROOT' if top else 'JOINT'} {names[bones.names[j]]}", pad + "{"])
        lines.append(f"{pad}  OFFSET {' '.join(f'{v:.6f}' for v in offset)}")
        lines.append(f"{pad}  CHANNELS {channels}")
        if top:
            columns.append(world[:, j, :3, 3] @ lying.T * unit)
        local = away[:, j] if top else np.swapaxes(away[:, parent[j]], 1, 2) @ away[:, j]
        columns.append(Rotation.from_matrix(local).as_euler(order, degrees=True))
        below = [c for c in keep if parent[c] == j]
        for child in below:
            put(child, depth + 1)
        if not below:
            lines.extend([f"{pad}  End Site", pad + "  {", f"{pad}    OFFSET 0 {0.1 * unit:.6f} 0", pad + "  }"])
        lines.append(pad + "}")

    put(keep[0], 0)
    rows = np.concatenate(columns, axis=1)
    lines += ["MOTION", f"Frames: {frames}", f"Frame Time: {1 / fps:.8f}"]
    lines += [" ".join(f"{v:.6f}" for v in row) for row in rows]
    return ends.join(lines) + ends


def _above(bones: Skeleton, joint: int) -> list[int]:
    out, at = [], bones.parents[joint]
    while at >= 0:
        out.append(at)
        at = bones.parents[at]
    return out
