"""A clip as its preparation makes it: its ends, its poses at any source time, and its body's travel.

Everything that shows or plays a clip asks here, so that the library, the sheet, locomotion and the export agree.
"""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from veergust.core.model import Clean, Clip, RootUse
from veergust.core.motion.cleaning import cleaned
from veergust.core.motion.figure import Assets
from veergust.core.motion.poses import overlay
from veergust.core.motion.quat import Array
from veergust.core.motion.sampling import Motion, sample
from veergust.core.motion.skeleton import Pose, mirror
from veergust.core.motion.track import BodyTrack, Carrier, Roots, Trajectory, make_track, remove, way_between

ROUGH_FPS = 60.0
WHOLE = RootUse()
AS_IT_IS = Clean()
MOST_CLEANED = 24
MOST_TRACKS, MOST_KEPT = 1024, 2_000_000
"""So many tracks, and frames of them, are kept: some 80 MB at the most."""


def motion_of(assets: Assets, clip: Clip | None) -> Motion | None:
    """The motion under a clip: its file's, or for a rough clip one without tracks; None when the file lacks it."""
    if clip is None:
        return None
    if not clip.file:
        return Motion(clip.name, max((key.time for key in clip.poses), default=0.0), ROUGH_FPS, ())
    motion = assets.motion(clip.file, clip.animation)
    return motion if motion is None or clip.clean == AS_IT_IS else _cleaned(assets, motion, clip)


def _cleaned(assets: Assets, motion: Motion, clip: Clip) -> Motion:
    """A motion as its clip cleans it, worked out once; of those that were tried the last few are kept."""
    key = (clip.file, clip.animation, clip.clean)
    found = assets.cleaned.get(key)
    if found is None:
        while len(assets.cleaned) >= MOST_CLEANED:
            assets.cleaned.pop(next(iter(assets.cleaned)))
        found = assets.cleaned[key] = cleaned(assets.skeleton, motion, clip.clean)
    return found


def ends(assets: Assets, clip: Clip) -> tuple[float, float]:
    """Source seconds at which a clip is cut in and out."""
    motion = motion_of(assets, clip)
    end = clip.end if clip.end is not None else (motion.seconds if motion else clip.start)
    return clip.start, max(end, clip.start)


def seconds(assets: Assets, clip: Clip) -> float:
    """How long a clip lasts as prepared."""
    start, end = ends(assets, clip)
    return (end - start) / max(clip.rate, 1e-6)


def times(start: float, end: float, steps: int, reverse: bool = False) -> Array:
    """Source times ``[steps + 1]`` from one end to the other, backwards when reversed."""
    at = start + (end - start) * np.arange(steps + 1) / max(steps, 1)
    return at[::-1].copy() if reverse else at


def source_pose(assets: Assets, clip: Clip, at: Array, *, keyed: bool = True) -> Pose:
    """Poses ``[F, J, …]`` of a clip at source times, with its keyed poses (unless not wanted), not mirrored."""
    bones = assets.skeleton
    motion = motion_of(assets, clip)
    pose = sample(bones, motion if motion is not None else Motion("", 0.0, ROUGH_FPS, ()), at)
    return overlay(bones, pose, clip.poses, at) if keyed else pose


def clip_pose(assets: Assets, clip: Clip, at: Array, *, turned: bool = False) -> Pose:
    """Poses of a clip in its source's world at source times, mirrored when the clip is (and back when ``turned``)."""
    pose = source_pose(assets, clip, at)
    return mirror(assets.skeleton, pose, clip.swaps) if clip.mirror != turned else pose


def track_of(
    assets: Assets, clip: Clip | None, roots: Roots, use: RootUse = WHOLE, *, turned: bool = False
) -> BodyTrack:
    """The body's track of a clip; standing still when its file lacks it.

    A part moves the body when the clip and ``use`` both have it on (``up``: when either has). ``turned`` mirrors the
    clip once more. Kept with the assets, by all that it depends on.
    """
    motion = motion_of(assets, clip)
    if clip is None or motion is None or len(assets.skeleton) == 0:
        return BodyTrack(np.zeros(1), np.zeros((1, 3)), np.zeros(1), Carrier(0, False))
    own = clip.root
    parts = RootUse(
        forward=use.forward and own.forward,
        side=use.side and own.side,
        up=use.up or own.up,
        turn=use.turn and own.turn,
    )
    mirrored = clip.mirror != turned
    source = (clip.file, clip.animation, clip.start, clip.end, clip.reverse, clip.poses, clip.clean)
    key = (*source, clip.root_joint, clip.smooth, clip.loop, clip.forward, roots, parts, mirrored)
    track = assets.tracks.get(key)
    if track is None:
        if len(assets.tracks) >= MOST_TRACKS or sum(len(t.times) for t in assets.tracks.values()) > MOST_KEPT:
            assets.tracks.clear()
        track = assets.tracks[key] = make_track(assets.skeleton, motion, clip, roots, mirrored, parts)
    return track


def carried(
    assets: Assets, clip: Clip | None, at: Array, roots: Roots, use: RootUse = WHOLE, *, turned: bool = False
) -> tuple[Trajectory, Pose]:
    """A clip at source times ``[F]``: the body's way from the first of them, and the poses about the body.

    The multipliers of the clip and of ``use``, and ``in_place``, weigh the way, not what is taken out of the pose.
    """
    bones = assets.skeleton
    if clip is None or motion_of(assets, clip) is None or len(bones) == 0:
        still = np.broadcast_to(bones.rest_rotation, (len(at), *bones.rest_rotation.shape)).copy()
        rest = Pose(still, np.broadcast_to(bones.rest_translation, (len(at), *bones.rest_translation.shape)).copy())
        return Trajectory(np.zeros((len(at), 3)), np.zeros(len(at))), rest
    place, yaw = track_of(assets, clip, roots, use, turned=turned).at(at)
    pose = clip_pose(assets, clip, at, turned=turned)
    return way_between(place, yaw, scale_of(clip, use)), remove(bones, pose, place, yaw, roots.hips)


def travel_of(assets: Assets, clip: Clip, at: Array, roots: Roots) -> Trajectory:
    """The body's way over a clip from the first of its source times ``[F]`` on, without its poses."""
    return way_between(*track_of(assets, clip, roots).at(at), scale_of(clip))


def scale_of(clip: Clip, use: RootUse = WHOLE) -> float:
    """How much of the travel that is taken out of a clip's pose moves the body."""
    return 0.0 if clip.in_place else clip.root.scale * use.scale


def about_body(assets: Assets, clip: Clip | None, at: float, roots: Roots) -> Pose:
    """One pose of a clip about its body, with everything but the height of its travel taken out."""
    bare = replace(clip, root=RootUse(), in_place=False) if clip is not None else None
    return carried(assets, bare, np.array([at]), roots)[1]
