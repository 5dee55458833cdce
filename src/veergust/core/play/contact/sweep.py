"""Whether a moving hitbox touches a moving hurtbox between two ticks, and when.

Hitboxes that turn go along the arc: a rigid motion between two frames is a screw, a turn about an axis and a slide
along it (Chasles), and it is cut into pieces of at most ``PIECE`` degrees, each taken as straight. A chord of such a
piece lies within (1 − cos(PIECE / 2)) of its radius of the arc: 1.4 mm at 1.5 m. Hurtboxes go straight.

Within a piece both move evenly. Their distance changes no faster than their end points move and their radii grow, so
stepping ahead by (distance / speed) can never jump over a touch: this is conservative advancement (B. Mirtich,
*Impulse-based Dynamic Simulation of Rigid Body Systems*, 1996). Distances between segments follow C. Ericson,
*Real-Time Collision Detection*, 2005, section 5.1.9. The steps themselves are compiled (``advance``).
"""

from __future__ import annotations

import numpy as np

from veergust.core.motion.quat import Array
from veergust.core.play.contact import advance

PIECE = 5.0


def first_touch(
    hit: tuple[Array, Array, Array, Array],
    hurt: tuple[Array, Array, Array, Array],
    radius: Array,
    radius_end: Array | None = None,
) -> tuple[Array, Array]:
    """Times ``[N]`` in 0…1 at which capsules first touch (inf: never) and where ``[N, 3]``.

    ``hit`` and ``hurt`` are end points at the last tick and now: (a₀, b₀, a₁, b₁), each ``[N, 3]``; ``radius``
    is the sum of both radii, going evenly to ``radius_end``. Equal ends make spheres.
    """
    times, places = np.empty(len(radius)), np.zeros((len(radius), 3))
    advance.capsules(*hit, *hurt, radius, radius if radius_end is None else radius_end, times, places)
    return times, places


def first_touch_box(
    half: Array, half_end: Array, hurt: tuple[Array, Array, Array, Array], radius: Array
) -> tuple[Array, Array]:
    """As ``first_touch`` for boxes of half extents ``[N, 3]``; ``hurt`` is in the box's own frame at both ticks."""
    times, places = np.empty(len(radius)), np.zeros((len(radius), 3))
    advance.boxes(half, half_end, *hurt, radius, times, places)
    return times, places
