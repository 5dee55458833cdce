"""Poses about the body, for whoever plays an export: each section of an action tick by tick, and locomotion's clips."""

from __future__ import annotations

from typing import Any

import numpy as np

from veergust.core.export.axes import Axes
from veergust.core.export.plain import number
from veergust.core.files import write_glb
from veergust.core.motion import Array, Beat, Motion, Pose, Skeleton, Track
from veergust.core.play import CompiledAction, LocomotionClip

Json = dict[str, Any]
AS_REST = 1e-7
"""What is off its rest pose by less is not written."""


def skeleton_in(skeleton: Skeleton, axes: Axes) -> Skeleton:
    """The skeleton in the game's axes and units."""
    return Skeleton(
        skeleton.names, skeleton.parents, axes.turns(skeleton.rest_rotation), axes.places(skeleton.rest_translation)
    )


def animation(name: str, bones: Skeleton, pose: Pose, rate: float, axes: Axes) -> Motion:
    """Poses ``[F, J, …]`` in our axes as an animation of a skeleton in the game's, ``rate`` a second."""
    at: Array = np.arange(len(pose.rotation)) / rate
    tracks: list[Track] = []
    for joint in range(len(bones)):
        turns, places = axes.turns(pose.rotation[:, joint]), axes.places(pose.translation[:, joint])
        for path, values, rest in (
            ("rotation", turns, bones.rest_rotation[joint]),
            ("translation", places, bones.rest_translation[joint]),
        ):
            if np.abs(values - rest).max() > AS_REST:
                still = np.abs(values - values[0]).max() <= 1e-9
                kept, rows = (at[:1], values[:1]) if still else (at, values)
                tracks.append(Track(joint, path, "LINEAR", kept, rows))  # type: ignore[arg-type]
    if not tracks:  # a pose at rest is an animation as well
        tracks.append(Track(0, "rotation", "LINEAR", at[:1], bones.rest_rotation[:1]))
    return Motion(name, float(at[-1]), rate, tuple(tracks))


def action_file(compiled: CompiledAction, skeleton: Skeleton, rate: int, axes: Axes) -> bytes:
    """An action as a GLB: an animation for each of its sections, with a key on each tick, one for the moment it ends,
    and those on which it plays on while it is faded out."""
    bones = skeleton_in(skeleton, axes)
    motions = []
    for part in compiled.sections:
        rows = [(p.rotation, p.translation) for p in (part.pose, part.tail)]
        whole = Pose(*(np.concatenate(values) for values in zip(*rows)))
        motions.append(animation(part.section.name, bones, whole, rate, axes))
    return write_glb(bones, None, tuple(motions))


def ground_file(name: str, clip: LocomotionClip, axes: Axes) -> bytes:
    """A clip that locomotion plays as a GLB, about the body, on locomotion's own grid."""
    bones = skeleton_in(clip.skeleton, axes)
    rate = max(clip.last, 1) / clip.seconds
    return write_glb(bones, None, (animation(name, bones, clip.pose, rate, axes),))


def ground_of(clip: LocomotionClip, path: str, axes: Axes) -> Json:
    """What locomotion knows of a clip: its file, how long it lasts, its pace and the beat of its steps."""
    left, ahead = clip.pace
    return {
        "file": path,
        "frames": clip.last + 1,
        "seconds": number(clip.seconds),
        "pace": {"left": number(axes.length(left)), "ahead": number(axes.length(ahead))},
        "beat": _beat(clip.beat) if clip.beat is not None else None,
    }


def _beat(beat: Beat) -> Json:
    return {"laps": beat.laps, "half_steps": [number(v) for v in beat.phase]}
