"""How long a clip lasts and how far it carries the body."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from veergust.core.model import Clip
from veergust.core.motion.figure import Cast
from veergust.core.motion.prepared import clip_pose, ends, motion_of, root_of, seconds, times, travel_of
from veergust.core.motion.root import Travel
from veergust.core.motion.sampling import Motion
from veergust.core.motion.skeleton import Skeleton

EMPTY = Travel(np.zeros((1, 3)), np.zeros(1))


def clip_travel(cast: Cast, clip: Clip, default_root: int) -> Travel:
    """The body's way over a prepared clip, at the source's own rate; nothing when its file lacks it."""
    motion = motion_of(cast, clip)
    if motion is None:
        return EMPTY
    cast, default_root = _chain_alone(cast, clip, root_of(cast, clip, default_root))
    start, end = ends(cast, clip)
    steps = max(1, round((end - start) * motion.fps))
    return travel_of(cast, clip, clip_pose(cast, clip, times(start, end, steps, clip.reverse)), default_root)[0]


def _chain_alone(cast: Cast, clip: Clip, root: int) -> tuple[Cast, int]:
    """The cast with no joints but the travelling one and those above it: all that its way depends on."""
    bones = cast.skeleton
    chain: list[int] = []
    at = root
    while 0 <= at < len(bones):
        chain.insert(0, at)
        at = bones.parents[at]
    motion = motion_of(cast, clip)
    # Mirrored, a joint of one side takes the way of the other's, which the chain has not.
    if motion is None or any(bones.mirrored[j] != j for j in chain):
        return cast, root
    place = {j: i for i, j in enumerate(chain)}
    alone = Skeleton(
        tuple(bones.names[j] for j in chain),
        tuple(place.get(bones.parents[j], -1) for j in chain),
        bones.rest_turn[chain],
        bones.rest_place[chain],
    )
    tracks = tuple(replace(t, joint=place[t.joint]) for t in motion.tracks if t.joint in place)
    few = Motion(motion.name, motion.seconds, motion.fps, tracks)
    return Cast(alone, None, {(clip.file, clip.animation): few}), len(chain) - 1


def length_and_travel(cast: Cast, clip: Clip, default_root: int) -> tuple[float, float]:
    """Seconds a clip lasts, and metres from where the body starts to where it ends."""
    way = clip_travel(cast, clip, default_root).place
    return seconds(cast, clip), float(np.linalg.norm(way[-1]))
