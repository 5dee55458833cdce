"""Clips as prepared, sampled for the game: the body's travel on the topmost joints, in its axes and units."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from veergust.core.export.axes import Axes
from veergust.core.export.poses import animation, skeleton_in
from veergust.core.files import write_glb
from veergust.core.model import Clip
from veergust.core.motion import Mesh, Pose, carried, ends, quat, seconds, times
from veergust.core.play import CompiledProject


def ticks_of(build: CompiledProject, clip: Clip) -> int:
    """How many ticks of the game a clip lasts, one at least."""
    return max(1, round(seconds(build.assets, clip) * build.project.settings.rate))


def sampled(build: CompiledProject, clip: Clip) -> Pose:
    """The poses of a prepared clip on each tick and on the one it ends ``[N + 1, J, …]``, where its body goes with its
    travel: body(t) · pose(t), the body being at the origin on the first."""
    start, end = ends(build.assets, clip)
    at = times(start, end, ticks_of(build, clip), clip.reverse)
    way, pose = carried(build.assets, clip, at, build.roots)
    turn = quat.from_yaw(way.yaw)
    rotation, translation = pose.rotation.copy(), pose.translation.copy()
    for joint, parent in enumerate(build.assets.skeleton.parents):
        if parent < 0:
            rotation[:, joint] = quat.multiply(turn, rotation[:, joint])
            translation[:, joint] = quat.rotate(turn, translation[:, joint]) + way.place
    return Pose(rotation, translation)


def clip_file(build: CompiledProject, clip: Clip, axes: Axes, mesh: Mesh | None = None) -> bytes:
    """A prepared clip as a GLB: the project's skeleton, with one animation under the clip's name."""
    pose = sampled(build, clip)
    bones = skeleton_in(build.assets.skeleton, axes)
    motion = animation(clip.name, bones, pose, build.project.settings.rate, axes)
    return write_glb(bones, mesh_in(mesh, axes) if mesh is not None else None, (motion,))


def mesh_in(mesh: Mesh, axes: Axes) -> Mesh:
    """The mesh in the game's axes and units; a mirror turns its faces round."""
    handed = float(np.linalg.det(axes.matrix))
    return replace(
        mesh,
        points=axes.places(mesh.points).astype(np.float32),
        normals=axes.directions(mesh.normals).astype(np.float32),
        faces=mesh.faces if handed > 0 else np.ascontiguousarray(mesh.faces[:, ::-1]),
        inverse_bind=axes.frames(mesh.inverse_bind),
    )
