"""A clip as its preparation makes it: its ends, its poses at any source time, and its body's travel.

Everything that shows or plays a clip asks here, so that the library, the sheet, locomotion and the export agree.
"""

from __future__ import annotations

import numpy as np

from veergust.core.model import Clip, RootUse
from veergust.core.motion.figure import Cast
from veergust.core.motion.poses import overlay
from veergust.core.motion.quat import Array
from veergust.core.motion.root import Travel, extract
from veergust.core.motion.sampling import Motion, sample
from veergust.core.motion.skeleton import Pose, mirror

ROUGH_FPS = 60.0
WHOLE = RootUse()


def motion_of(cast: Cast, clip: Clip | None) -> Motion | None:
    """The motion under a clip: its file's, or for a rough clip one without tracks; None when the file lacks it."""
    if clip is None:
        return None
    if not clip.file:
        return Motion(clip.name, max((key.time for key in clip.poses), default=0.0), ROUGH_FPS, ())
    return cast.motion(clip.file, clip.animation)


def ends(cast: Cast, clip: Clip) -> tuple[float, float]:
    """Source seconds at which a clip is cut in and out."""
    motion = motion_of(cast, clip)
    end = clip.end if clip.end is not None else (motion.seconds if motion else clip.start)
    return clip.start, max(end, clip.start)


def seconds(cast: Cast, clip: Clip) -> float:
    """How long a clip lasts as prepared."""
    start, end = ends(cast, clip)
    return (end - start) / max(clip.rate, 1e-6)


def times(start: float, end: float, steps: int, reverse: bool = False) -> Array:
    """Source times ``[steps + 1]`` from one end to the other, backwards when reversed."""
    at = start + (end - start) * np.arange(steps + 1) / max(steps, 1)
    return at[::-1].copy() if reverse else at


def source_pose(cast: Cast, clip: Clip, at: Array, *, keyed: bool = True) -> Pose:
    """Poses ``[F, J, …]`` of a clip at source times, with its keyed poses (unless not wanted), not mirrored."""
    bones = cast.skeleton
    motion = motion_of(cast, clip)
    pose = sample(bones, motion if motion is not None else Motion("", 0.0, ROUGH_FPS, ()), at)
    return overlay(bones, pose, clip.poses, at) if keyed else pose


def clip_pose(cast: Cast, clip: Clip, at: Array, *, turned: bool = False) -> Pose:
    """Poses of a clip at source times, mirrored when the clip is (and back again when ``turned``)."""
    pose = source_pose(cast, clip, at)
    return mirror(cast.skeleton, pose) if clip.mirror != turned else pose


def root_of(cast: Cast, clip: Clip | None, default: int) -> int:
    """The joint whose travel moves the body."""
    return cast.skeleton.index.get(clip.root_joint, default) if clip is not None else default


def travel_of(cast: Cast, clip: Clip | None, pose: Pose, default: int, use: RootUse = WHOLE) -> tuple[Travel, Pose]:
    """The body's travel over ``pose``, and the pose that is left.

    A part counts when the clip and ``use`` both have it on; ``default`` is the rig's root joint. The clip's
    multiplier and ``in_place`` weigh the travel, not what is taken out of the pose; that of ``use`` is left to
    whoever gave it.
    """
    if len(cast.skeleton) == 0:
        return Travel(np.zeros((len(pose.turn), 3)), np.zeros(len(pose.turn))), pose
    own = clip.root if clip is not None else WHOLE
    travel, left = extract(
        cast.skeleton,
        pose,
        root_of(cast, clip, default),
        forward_on=use.forward and own.forward,
        side_on=use.side and own.side,
        up_on=use.up or own.up,
        turn_on=use.turn and own.turn,
    )
    scale = 0.0 if clip is not None and clip.in_place else own.scale
    if scale != 1.0:
        travel = Travel(travel.place * scale, travel.yaw * scale)
    return travel, left
