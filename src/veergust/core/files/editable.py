"""An editable copy of a clip: its source as a GLB on the figure, for the animation package."""

from __future__ import annotations

from dataclasses import replace as with_
from pathlib import Path

import numpy as np
from msgspec.structs import replace

from veergust.core.edit import Edit, add_clip, free_clip_name
from veergust.core.files.as_files import slug
from veergust.core.files.beneath import Beneath
from veergust.core.files.gltf_write import write_glb
from veergust.core.files.lock import Lock
from veergust.core.files.saving import add_files
from veergust.core.model import Clip, Project
from veergust.core.motion import ROUGH_FPS, Assets, Motion, Track, motion_of, source_pose
from veergust.core.trouble import Trouble


def editable_copy(
    project: Project, assets: Assets, folder: Path, clip: Clip, lock: Lock | None = None
) -> tuple[Edit, str]:
    """Write the whole source of ``clip`` as ``clips/NAME.glb`` on the figure's skeleton with its mesh, and add a clip
    that plays it, prepared the same way. Poses keyed by hand are keys of the copy.

    Gives the edit and the new clip's name. Raises ``Trouble`` when the source is gone.
    """
    motion = motion_of(assets, clip)
    if motion is None:
        raise Trouble(f"its file {clip.file} is gone", file=clip.name, do="bring it back first")
    name = free_clip_name(project, f"{clip.name}_copy")
    file = f"clips/{slug(name)}.glb"
    n = 2
    with Beneath(folder) as place:
        while place.kind(file):
            file, n = f"clips/{slug(name)}_{n}.glb", n + 1
    made = with_(baked(assets, clip, motion), name=name)
    data = write_glb(assets.skeleton, assets.mesh, (made,))
    add_files(folder, {file: data}, lock=lock)
    copy = replace(clip, name=name, file=file, animation=name, poses=())
    return add_clip(project, copy, f"Editable copy {name}"), name


def baked(assets: Assets, clip: Clip, motion: Motion) -> Motion:
    """A clip's motion with its keyed poses in it: its own keys where it has none, else a key on every frame."""
    if not clip.poses:
        return motion
    fps = motion.fps if clip.file else ROUGH_FPS
    frames = max(1, round(motion.seconds * fps))
    at = motion.seconds * np.arange(frames + 1) / frames
    pose = source_pose(assets, clip, at)
    bones = assets.skeleton
    tracks: list[Track] = []
    for j in range(len(bones)):
        tracks.append(Track(j, "rotation", "LINEAR", at, pose.rotation[:, j].copy()))
        if np.abs(pose.translation[:, j] - bones.rest_translation[j]).max() > 1e-7:
            tracks.append(Track(j, "translation", "LINEAR", at, pose.translation[:, j].copy()))
    return Motion(motion.name, motion.seconds, fps, tuple(tracks))
