"""A plain body for figures whose file has no mesh."""

from __future__ import annotations

import numpy as np

from veergust.core.motion import quat
from veergust.core.motion.figure import Mesh
from veergust.core.motion.skeleton import Skeleton


def mannequin(skeleton: Skeleton) -> Mesh:
    """A tapered eight-sided limb for every bone, each riding on its parent joint."""
    points, normals, joints, faces = [], [], [], []
    world = skeleton.rest_world[:, :3, 3]
    size = max(float(np.ptp(world[:, 1])), 0.5) if len(world) else 1.0
    around = np.linspace(0, 2 * np.pi, 8, endpoint=False)
    count = 0
    for j, parent in enumerate(skeleton.parents):
        # A root on the floor that only carries the hips is no part of the body.
        if parent < 0 or (skeleton.parents[parent] < 0 and skeleton.parents.count(parent) == 1):
            continue
        a, b = world[parent], world[j]
        length = float(np.linalg.norm(b - a))
        if length < 0.01 * size:
            continue
        thick = min(0.25 * length, 0.05 * size)
        spin = quat.to_matrix(quat.between(np.array([0.0, 1.0, 0.0]), b - a))
        for along, radius in ((0.0, 0.4), (0.2, 1.0), (0.85, 0.7), (1.0, 0.2)):
            ring = np.stack([np.cos(around), np.zeros(8), np.sin(around)], axis=-1)
            points.append(a + (b - a) * along + (ring * radius * thick) @ spin.T)
            normals.append(ring @ spin.T)
            joints.append(np.full(8, parent))
        for row in range(3):
            low = count + row * 8 + np.arange(8)
            high = count + row * 8 + np.roll(np.arange(8), -1)
            faces.append(np.stack([low, low + 8, high], axis=1))
            faces.append(np.stack([high, low + 8, high + 8], axis=1))
        count += 32
    if not points:
        return Mesh(
            np.zeros((0, 3), np.float32),
            np.zeros((0, 3), np.float32),
            np.zeros((0, 4), np.int32),
            np.zeros((0, 4), np.float32),
            np.zeros((0, 3), np.int32),
            np.asarray(np.linalg.inv(skeleton.rest_world), dtype=np.float64),
        )
    which = np.concatenate(joints)
    ride = np.zeros((len(which), 4), np.int32)
    ride[:, 0] = which
    weights = np.zeros((len(which), 4), np.float32)
    weights[:, 0] = 1.0
    return Mesh(
        np.concatenate(points).astype(np.float32),
        np.concatenate(normals).astype(np.float32),
        ride,
        weights,
        np.concatenate(faces).astype(np.int32),
        np.asarray(np.linalg.inv(skeleton.rest_world), dtype=np.float64),
    )
