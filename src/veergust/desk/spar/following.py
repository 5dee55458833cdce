"""The camera that keeps two fighters in the picture."""

from __future__ import annotations

import numpy as np

from veergust.core.play import Record
from veergust.core.scene import Camera
from veergust.desk.stage.view import StageView

RISES = 0.12
"""So much of its way to the height of the floor the camera makes from one picture to the next."""
WIDE, LOW = (5.0, 1.5, 3.2), (3.3, 0.5, 2.4)
"""How far off (m) it is at the least, by how far they are from each other, and beyond that; in a low picture nearer."""


class Following:
    """Keeps the first two in the picture: in its middle what is between them, and up and down with the floors under
    them, but not with their jumps. Who has gone nearer stays as near."""

    def __init__(self, view: StageView) -> None:
        self.view = view
        self.view.camera = Camera(target=(0.0, 0.85, 0.0), yaw=0.0, pitch=8.0, distance=5.6)
        self.floor = 0.0
        """How high (m) the floor is that the camera has risen to."""
        self._least = WIDE[0]

    def follow(self, record: Record, softly: bool, low: bool = False) -> None:
        """Look at where they are on a tick; to another height ``softly``, or at once. A ``low`` picture is one of
        several over one another."""
        a, b = record.fighters[0], record.fighters[1]
        x, _, z = ((a.position + b.position) / 2).tolist()
        gap = float(np.hypot(a.position[0] - b.position[0], a.position[2] - b.position[2]))
        floor = float(np.mean([f.position[1] - f.above for f in (a, b)]))
        risen = (floor - self.floor) * (RISES if softly else 1.0)
        self.floor += risen
        camera = self.view.camera
        least, share, beyond = LOW if low else WIDE
        far = max(least, gap * share + beyond) if camera.distance >= self._least else camera.distance
        self._least = least
        self.view.camera = Camera((x, camera.target[1] + risen, z), camera.yaw, camera.pitch, far, camera.lens)
