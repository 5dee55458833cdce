"""Hitboxes and hurtboxes as they are drawn: capsules as they are, boxes by their edges."""

from __future__ import annotations

import numpy as np

from veergust.core.play import Volume
from veergust.core.scene.things import Tube

EDGE = 0.006
SIGNS = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)])
EDGES = [(a, b) for a in range(8) for b in range(a + 1, 8) if np.abs(SIGNS[a] - SIGNS[b]).sum() == 2]


def volume_tubes(volume: Volume, role: str, filled: bool) -> list[Tube]:
    """What shows a volume as it is now."""
    if volume.half is None:
        return [Tube(*volume.now, volume.radius, role, filled)]
    frame = volume.box_frame
    corners = (SIGNS * volume.half) @ frame[:3, :3].T + frame[:3, 3]
    return [Tube(corners[a], corners[b], EDGE, role, filled) for a, b in EDGES]
