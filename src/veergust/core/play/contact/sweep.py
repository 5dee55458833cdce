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
from numpy.typing import NDArray

from veergust.core.motion import Array, Indices
from veergust.core.play.contact import advance, cutting
from veergust.core.play.contact.hurts import Hurts
from veergust.core.play.contact.volumes import Pieces


def near(hits: Pieces, hurts: Hurts, may: NDArray[np.bool_], swing: Indices, owner: Indices) -> tuple[Indices, Indices]:
    """Which pieces may touch which hurtboxes, as two rows of indexes: the balls around all that each sweeps meet.

    ``may`` ``[S, T]`` says which strike may touch whom, ``swing`` ``[K]`` which strike a piece is of, ``owner`` ``[H]``
    whose a hurtbox is.
    """
    asked = np.ascontiguousarray(may, dtype=np.uint8)
    return cutting.near(hits.middle, hits.size, hurts.ends, hurts.radius, asked, swing, owner)


def meeting(hits: Pieces, hurts: Hurts) -> tuple[Indices, Indices]:
    """As ``near``, where every piece may touch everything."""
    one = np.ones((1, 1), dtype=bool)
    return near(hits, hurts, one, np.zeros(len(hits.owner), dtype=np.intp), np.zeros(len(hurts), dtype=np.intp))


def touches(hits: Pieces, hurts: Hurts, rows: Indices, hurt: Indices) -> tuple[Array, Array]:
    """When in the tick (0…1, inf: never) piece ``rows[i]`` touches hurtbox ``hurt[i]``, and where ``[N, 3]``."""
    times, places = np.empty(len(rows)), np.empty((len(rows), 3))
    advance.pairs(
        rows, hurt, hits.times, hits.ends, hits.radii, hits.half, hits.frames, hits.boxes,
        hurts.ends, hurts.radius, hurts.half, hurts.frames, hurts.boxes, times, places,
    )  # fmt: skip
    return times, places
