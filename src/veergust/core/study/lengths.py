"""How long a clip lasts and how far it carries the body."""

from __future__ import annotations

import numpy as np

from veergust.core.model import Clip
from veergust.core.motion import Assets, Roots, Trajectory, ends, motion_of, seconds, times, travel_of

EMPTY = Trajectory(np.zeros((1, 3)), np.zeros(1))


def clip_travel(assets: Assets, clip: Clip, roots: Roots) -> Trajectory:
    """The body's way over a prepared clip, at the source's own rate; nothing when its file lacks it."""
    motion = motion_of(assets, clip)
    if motion is None:
        return EMPTY
    start, end = ends(assets, clip)
    steps = max(1, round((end - start) * motion.fps))
    return travel_of(assets, clip, times(start, end, steps, clip.reverse), roots)


def length_and_travel(assets: Assets, clip: Clip, roots: Roots) -> tuple[float, float]:
    """Seconds a clip lasts, and metres from where the body starts to where it ends."""
    way = clip_travel(assets, clip, roots).place
    return seconds(assets, clip), float(np.linalg.norm(way[-1]))
