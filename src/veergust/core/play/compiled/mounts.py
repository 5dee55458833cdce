"""Where a mount goes along an action."""

from __future__ import annotations

import numpy as np

from veergust.core.motion import Array
from veergust.core.play.compiled.action import CompiledAction
from veergust.core.play.compiled.project import CompiledProject


def mount_trajectory(build: CompiledProject, compiled: CompiledAction, mount: str) -> Array | None:
    """Places ``[N, 3]`` (m) of a mount on all N rows of an action that starts at the origin, ahead being +z.

    The body's own travel is in them, and a mirrored pose carries the mount on its other side. None when the rig has
    no such mount or joint.
    """
    straight, turned = build.mount(mount), build.mount(mount, True)
    if straight is None or turned is None:
        return None
    points = [np.zeros((0, 4))]
    for i in compiled.order:
        part = compiled.sections[i]
        world = compiled.world_of(i)[: part.ticks]
        points.append(world[:, straight[0]] @ straight[1][:, 3])
        mirrored = part.mirrored_rows[: part.ticks]
        if mirrored.any():
            points[-1] = np.where(mirrored[:, None], world[:, turned[0]] @ turned[1][:, 3], points[-1])
    return np.asarray((compiled.bodies[: compiled.rows] @ np.concatenate(points)[:, :, None])[:, :3, 0])
