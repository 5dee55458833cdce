"""Axes and units as the game has them: places, turns and matrices carried over from ours."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from veergust.core.motion import Array

Up = Literal["y", "z"]
Hand = Literal["right", "left"]
Unit = Literal["m", "cm"]
UNITS: dict[str, float] = {"m": 1.0, "cm": 100.0}


@dataclass(frozen=True)
class Axes:
    """Which axis is ``up``, which ``hand`` the axes are of, and the ``unit`` of lengths.

    Ours are y up, right-handed, metres: a body looks along +z and has +x to its left. With z up a body looks along −y.
    In left-handed axes +x is to its right, and the other two are as in right-handed ones.
    """

    up: Up = "y"
    hand: Hand = "right"
    unit: Unit = "m"

    @cached_property
    def matrix(self) -> Array:
        """From our directions to theirs ``[3, 3]``, without the unit."""
        upright = np.eye(3) if self.up == "y" else np.array([[1.0, 0.0, 0.0], [0.0, 0.0, -1.0], [0.0, 1.0, 0.0]])
        flip = np.diag([1.0 if self.hand == "right" else -1.0, 1.0, 1.0])
        return np.asarray(flip @ upright)

    @property
    def scale(self) -> float:
        """How many of their units a metre has."""
        return UNITS[self.unit]

    def places(self, points: ArrayLike) -> Array:
        """Places or lengths along axes ``[…, 3]``."""
        return np.asarray(points, dtype=float) @ self.matrix.T * self.scale

    def directions(self, vectors: ArrayLike) -> Array:
        """Directions without a length ``[…, 3]``."""
        return np.asarray(vectors, dtype=float) @ self.matrix.T

    def halves(self, sizes: ArrayLike) -> Array:
        """Half extents ``[…, 3]``: never below 0."""
        return np.asarray(sizes, dtype=float) @ np.abs(self.matrix).T * self.scale

    def turns(self, quats: Array) -> Array:
        """Rotations ``[…, 4]`` (x, y, z, w). A mirror turns the other way about the mirrored axis."""
        handed = float(np.linalg.det(self.matrix))
        quats = np.asarray(quats)
        return np.concatenate([quats[..., :3] @ self.matrix.T * handed, quats[..., 3:]], axis=-1)

    def frames(self, matrices: Array) -> Array:
        """Frames ``[…, 4, 4]``."""
        out = np.array(matrices, dtype=float)
        out[..., :3, :3] = self.matrix @ out[..., :3, :3] @ self.matrix.T
        out[..., :3, 3] = self.places(out[..., :3, 3])
        return out

    def length(self, metres: float) -> float:
        """A length, a speed or the like."""
        return metres * self.scale
