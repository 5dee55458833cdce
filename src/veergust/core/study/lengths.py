"""How long a clip lasts and how far it carries the body."""

from __future__ import annotations

import numpy as np

from veergust.core.model import Clip
from veergust.core.motion.figure import Cast
from veergust.core.motion.prepared import ends, motion_of, seconds, times, travel_of
from veergust.core.motion.track import Roots, Travel

EMPTY = Travel(np.zeros((1, 3)), np.zeros(1))


def clip_travel(cast: Cast, clip: Clip, roots: Roots) -> Travel:
    """The body's way over a prepared clip, at the source's own rate; nothing when its file lacks it."""
    motion = motion_of(cast, clip)
    if motion is None:
        return EMPTY
    start, end = ends(cast, clip)
    steps = max(1, round((end - start) * motion.fps))
    return travel_of(cast, clip, times(start, end, steps, clip.reverse), roots)


def length_and_travel(cast: Cast, clip: Clip, roots: Roots) -> tuple[float, float]:
    """Seconds a clip lasts, and metres from where the body starts to where it ends."""
    way = clip_travel(cast, clip, roots).place
    return seconds(cast, clip), float(np.linalg.norm(way[-1]))
