"""What is kept of a fighter's feet from tick to tick while they are laid on the floor."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from veergust.core.motion import Array
from veergust.core.play.pose.feet import COLUMNS


class Footing(NamedTuple):
    """All feet of a fighter, rows of ``feet.Foothold``.

    The pelvis is ``lower`` by so much (m), the figure trails so far ``behind`` its body's height, all of it counts by
    its ``weight``, and the body was at a ``height`` on the tick before (None: in the air).
    """

    feet: Array
    lower: float = 0.0
    behind: float = 0.0
    weight: float = 0.0
    height: float | None = None


NO_FOOTING = Footing(np.zeros((0, COLUMNS)))
