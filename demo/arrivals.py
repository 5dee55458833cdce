"""Files to bring in: a clip of another rig, still with its rest frame, pre-roll and tail, and a prop.

They lie beside the demo project, so that importing, mapping and preparing can be tried at once.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np

from bvh_out import as_bvh, t_pose
from veergust.core.files.gltf_write import write_glb
from veergust.core.motion import quat
from veergust.core.motion.figure import Assets, Mesh
from veergust.core.motion.sampling import Motion, Track, sample
from veergust.core.motion.skeleton import Skeleton

# What the harbour guard's rig calls the parts; it has no root, no fingers and nothing in its hands.
MIDDLE = {"hips": "Pelvis", "waist": "Back1", "spine": "Back2", "chest": "Back3", "neck": "Neck", "head": "Head"}
LIMBS = {
    "collar": "Collar", "upper_arm": "UpArm", "forearm": "LowArm", "hand": "Wrist",
    "thigh": "UpLeg", "shin": "LowLeg", "foot": "Ankle", "toes": "Toe",
}  # fmt: skip
NAMES = MIDDLE | {
    f"{own}_{side}": f"{side[0].upper()}_{name}" for own, name in LIMBS.items() for side in ("left", "right")
}
FPS, TALLER, STILL = 30.0, 1.12, 0.7


def guard(bones: Skeleton, motion: Motion) -> str:
    """``motion`` on a taller rig as BVH: centimetres, Z up, resting in a T that is its first frame."""
    tall = Skeleton(bones.names, bones.parents, bones.rest_rotation, bones.rest_translation * TALLER)
    lead, tail = round(STILL * FPS), round(1.2 * FPS)
    length = round(motion.seconds * FPS)
    at = np.concatenate([np.zeros(lead), np.arange(length + 1) / FPS, np.full(tail, motion.seconds)])
    pose = sample(bones, motion, at)
    rest = t_pose(tall)
    turn = np.concatenate([rest.rotation, pose.rotation])
    place = np.concatenate(
        [rest.translation, bones.rest_translation * TALLER + (pose.translation - bones.rest_translation) * TALLER]
    )
    times = np.arange(len(turn)) / FPS
    tracks = [Track(j, "rotation", "STEP", times, turn[:, j]) for j in range(len(bones))]
    tracks += [Track(j, "translation", "STEP", times, place[:, j]) for j in range(len(bones))]
    moved = Motion(motion.name, float(times[-1]), FPS, tuple(tracks))
    lie = quat.from_axis_angle([1.0, 0.0, 0.0], 90.0)
    return as_bvh(Assets(tall), moved, NAMES, fps=FPS, unit=100.0, order="ZYX", bind=rest, lie=lie)


def buckler() -> bytes:
    """A small round shield with a boss, its grip at the origin, looking along +Z."""
    rings = [(0.0, 0.075), (0.045, 0.06), (0.06, 0.02), (0.2, 0.0), (0.205, -0.012), (0.0, -0.012)]
    around = np.linspace(0, 2 * np.pi, 28, endpoint=False)
    points = np.concatenate(
        [np.stack([np.cos(around) * r, np.sin(around) * r, np.full(28, z)], axis=-1) for r, z in rings]
    )
    faces = []
    for row in range(len(rings) - 1):
        low, high = row * 28 + np.arange(28), row * 28 + np.roll(np.arange(28), -1)
        faces += [np.stack([low, low + 28, high], axis=1), np.stack([high, low + 28, high + 28], axis=1)]
    corners = points[np.concatenate(faces)]
    flat = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals = np.zeros_like(points)
    for k in range(3):
        np.add.at(normals, np.concatenate(faces)[:, k], flat)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    normals[np.linalg.norm(normals, axis=1) < 0.5] = [0.0, 0.0, 1.0]
    one = Skeleton(("buckler",), (-1,), np.array([quat.IDENTITY]), np.zeros((1, 3)))
    ride, weight = np.zeros((len(points), 4), np.int32), np.zeros((len(points), 4), np.float32)
    weight[:, 0] = 1.0
    mesh = Mesh(
        points.astype(np.float32), normals.astype(np.float32), ride, weight,
        np.concatenate(faces).astype(np.int32), np.eye(4)[None],
    )  # fmt: skip
    return write_glb(one, mesh)


def make(folder: Path, bones: Skeleton, motion: Motion) -> None:
    folder.mkdir(exist_ok=True)
    (folder / "harbour_guard.bvh").write_text(guard(bones, motion))
    (folder / "buckler.glb").write_bytes(buckler())
