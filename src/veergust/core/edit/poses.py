"""Keying poses by hand: rough clips made of nothing else, and corrections laid over a source."""

from __future__ import annotations

from typing import Any

import numpy as np
from msgspec.structs import replace

from veergust.core.edit.clips import add_clip, clip_of, free_clip_name, with_clip
from veergust.core.edit.spans import Edit
from veergust.core.model import Clip, PoseKey, Project
from veergust.core.motion import Assets, Pose, clip_pose, key_of, mirror, motion_of, source_pose
from veergust.core.trouble import Trouble, named

SAME = 1e-4
ROUGH_LENGTH = 24


def new_rough(project: Project, assets: Assets, source: str, at: float, wish: str = "rough") -> tuple[Edit, str]:
    """A rough clip of two equal poses, the pose of ``source`` at a source time (the rest pose without one)."""
    clip = clip_of(project, source)
    rest = assets.skeleton.rest_pose()
    pose = clip_pose(assets, clip, np.array([at])) if clip is not None and motion_of(assets, clip) is not None else rest
    name = free_clip_name(project, wish)
    last = ROUGH_LENGTH / project.settings.rate
    keys = tuple(key_of(assets.skeleton, t, rest, pose) for t in (0.0, round(last, 9)))
    return add_clip(project, Clip(name=name, poses=keys), f"New rough clip {name}"), name


def _clip(project: Project, name: str) -> Clip:
    return named(project.clips, name, "clip", field="clip")


def frame(project: Project, time: float) -> int:
    """The frame a source time falls on, at the project's rate."""
    return round(time * project.settings.rate)


def _at(project: Project, frame_: int) -> float:
    return round(frame_ / project.settings.rate, 9)


def _keys(project: Project, clip: Clip, keys: list[PoseKey], words: str) -> Edit:
    changed = replace(clip, poses=tuple(sorted(keys, key=lambda k: k.time)))
    return Edit(with_clip(project, changed), f"{clip.name}: {words}")


def key_index(clip: Clip, time: float) -> int | None:
    """Which key stands on a time, if any."""
    return next((i for i, key in enumerate(clip.poses) if abs(key.time - time) < SAME), None)


def put_pose(project: Project, assets: Assets, name: str, time: float, wanted: Pose, words: str = "") -> Edit:
    """Key ``wanted`` (mirrored as the clip is) at a source time.

    The first key of a correction over a source gets keys that change nothing three frames to either side, so that
    the rest of the clip stays as it is.
    """
    clip = _clip(project, name)
    if clip.mirror:
        wanted = mirror(assets.skeleton, wanted, clip.swaps)
    under = source_pose(assets, clip, np.array([time]), keyed=False)
    old = key_index(clip, time)
    ease = clip.poses[old].ease if old is not None else "smooth"
    key = key_of(assets.skeleton, round(time, 9), under, wanted, ease)
    keys = [k for i, k in enumerate(clip.poses) if i != old]
    if clip.file and not clip.poses:
        reach = 3 / project.settings.rate
        motion = motion_of(assets, clip)
        last = motion.seconds if motion else time + reach
        keys += [PoseKey(time=round(t, 9)) for t in (time - reach, time + reach) if 0.0 <= t <= last]
    return _keys(project, clip, [*keys, key], words or f"pose at frame {frame(project, time)}")


def remove_pose(project: Project, name: str, index: int) -> Edit:
    """Take a key away. A rough clip keeps one."""
    clip = _clip(project, name)
    if not clip.file and len(clip.poses) == 1:
        raise Trouble("a rough clip needs a pose", field="poses", do="remove the clip instead")
    keys = [k for i, k in enumerate(clip.poses) if i != index]
    return _keys(project, clip, keys, f"no pose at frame {frame(project, clip.poses[index].time)}")


def move_pose(project: Project, name: str, index: int, to_frame: int) -> Edit:
    """Move a key to another frame, between its neighbours."""
    clip = _clip(project, name)
    low = frame(project, clip.poses[index - 1].time) + 1 if index > 0 else 0
    high = frame(project, clip.poses[index + 1].time) - 1 if index + 1 < len(clip.poses) else 10**6
    to = min(max(to_frame, low), high)
    keys = list(clip.poses)
    was = frame(project, keys[index].time)
    keys[index] = replace(keys[index], time=_at(project, to))
    return _keys(project, clip, keys, f"pose at {was} → {to}")


def ease_pose(project: Project, name: str, index: int, ease: Any) -> Edit:
    """Shape the way from a key to the next."""
    clip = _clip(project, name)
    keys = list(clip.poses)
    keys[index] = replace(keys[index], ease=ease)
    return _keys(project, clip, keys, f"from frame {frame(project, keys[index].time)} {ease}")


def insert_time(project: Project, name: str, at_frame: int, frames: int) -> Edit:
    """Put ``frames`` in at a frame (take them out when negative): later keys move, and none passes another."""
    clip = _clip(project, name)
    if clip.file:
        raise Trouble("its time is its source's", field="poses", do="insert time in a rough clip, or change its rate")
    keys: list[PoseKey] = []
    for key in sorted(clip.poses, key=lambda k: k.time):
        at = frame(project, key.time)
        if at >= at_frame:
            floor = frame(project, keys[-1].time) + 1 if keys else 0
            at = max(at + frames, floor)
        keys.append(replace(key, time=_at(project, at)))
    did = f"{frames} frames in at {at_frame}" if frames >= 0 else f"{-frames} frames out at {at_frame}"
    return _keys(project, clip, keys, did)
