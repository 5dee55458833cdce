"""The way of a body, added up from its steps: by root motion, and flying on."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

import numpy as np
from numpy.typing import NDArray

from veergust.core.kinds.measures import Vector
from veergust.core.motion import quat
from veergust.core.motion.quat import Array
from veergust.core.motion.track import Trajectory


@dataclass(frozen=True)
class Carriage:
    """What moves a body beside the action itself: its layer's ``share`` of root motion, the speed ``slower`` a tick
    (m/s) that friction takes from it, ticks a second."""

    share: float = 1.0
    slower: float = 0.15
    rate: int = 60


WHOLE = Carriage()
"""A layer that speaks for the whole body, on the usual floor, at the usual rate."""


def flown(step: Array, turn: Array, flies: NDArray[np.bool_], carriage: Carriage) -> Trajectory:
    """As ``way_of_steps``, going on with the speed it had, slowed by friction, where it flies."""
    yaw, at, went = 0.0, np.zeros(3), np.zeros(3)
    places, yaws = [at], [yaw]
    for own, spin, flying in zip(step, turn, flies):
        if flying:
            x, y, z = went.tolist()
            x, _, z = slowed((x, y, z), carriage.slower / carriage.rate)
            went = np.array([x, 0.0, z])
        else:
            went = quat.rotate(quat.from_yaw(yaw), own)
        yaw += float(spin)
        at = at + went
        places.append(at)
        yaws.append(yaw)
    return Trajectory(np.array(places), np.array(yaws))


def slowed(speed: Vector, by: float) -> Vector:
    """A velocity or step made shorter by ``by``, down to nothing."""
    x, y, z = speed
    size = sqrt(x * x + y * y + z * z)
    much = max(0.0, size - by) / size if size > 0.0 else 1.0
    return x * much, y * much, z * much


def bodies_of(place: Array, yaw: Array) -> Array:
    """Frames ``[N, 4, 4]`` of bodies at ``place`` ``[N, 3]`` with heading ``yaw`` ``[N]``."""
    out = np.zeros((len(yaw), 4, 4))
    out[:, :3, :3] = quat.to_matrix(quat.from_yaw(yaw))
    out[:, :3, 3] = place
    out[:, 3, 3] = 1.0
    return out


def trajectory_of_steps(step: Array, turn: Array) -> Trajectory:
    """The way that steps ``[N, 3]`` in the body's own frame and turns ``[N]`` make."""
    yaw = np.concatenate([[0.0], np.cumsum(turn)])
    place = np.cumsum(quat.rotate(quat.from_yaw(yaw[:-1]), step), axis=0)
    return Trajectory(np.concatenate([np.zeros((1, 3)), place]), yaw)
