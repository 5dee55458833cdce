"""How a body goes over the floor: the rule of every tick, and the way of one that is alone, added up by it."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, hypot, sin, sqrt
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from veergust.core.kinds import Vector
from veergust.core.motion import Array, Trajectory, quat


class MovingBody(Protocol):
    """A body as it goes over the floor: the ``velocity`` locomotion gives it and how fast it ``went`` by its own doing
    (m/s), whether the stick had a say on the last tick, and how much of it actions had left to locomotion."""

    velocity: Vector
    went: Vector
    left: float
    steered: bool
    grounded: bool


@dataclass(frozen=True)
class Pace:
    """How fast a body comes up to speed, slows down with the stick and by friction (m/s²), how much of that it has in
    the air, and ticks a second."""

    acceleration: float = 18.0
    braking: float = 18.0
    friction: float = 9.0
    air_control: float = 0.15
    rate: int = 60


@dataclass(frozen=True)
class Carriage:
    """What moves a body beside the action itself: its layer's ``share`` of the body, and its ``pace``."""

    share: float = 1.0
    pace: Pace = Pace()


WHOLE = Carriage()
"""A layer that speaks for the whole body, at the usual pace."""
CREEPS = 1e-3
"""Who goes more slowly (m/s) stands, and is not braked: what is left of a motion has some way or other."""
SLOWER = 1.0 - 1e-6
"""Whose wish along its way is less than this share of its speed is braked. Along a wall the two are the same."""


IN_THE_AIR = -1.0
"""What actions had left to locomotion of a body that has come off the floor since: its speed is its own until it
stands."""


@dataclass(slots=True)
class Given:
    """What moves a body on a tick but root motion: how much of its speed the ``stick`` gives it on the frame it leaves
    and on the one it comes to (``next``), the velocity that is wanted (m/s: x, z), by how much it ``flies`` on, what is
    ``left`` to locomotion, and what becomes of ``momentum`` meanwhile; one that nothing drives ``drops`` straight."""

    stick: float
    next: float
    want: tuple[float, float]
    flies: float
    left: float
    momentum: str
    drops: bool = False


def go(body: MovingBody, given: Given, pace: Pace) -> tuple[float, float]:
    """How far (m: x, z) a body goes on a tick but for root motion and knocks; its velocity is brought a tick on."""
    dt = 1.0 / pace.rate
    if given.stick > 0.0 and given.next > 0.0:
        if not body.steered:
            body.velocity, body.left = (body.went[0], body.velocity[1], body.went[2]), 1.0
        body.velocity = _steered(body, given.want, pace)
    elif given.stick == 0.0 and given.momentum == "fade" and not given.drops and (body.left < 0.0 or not body.grounded):
        # Without a floor nothing slows it, whatever comes in; one that it lands on slows it by friction.
        body.left = IN_THE_AIR
        if body.grounded:
            body.velocity = slowed((body.velocity[0], 0.0, body.velocity[2]), pace.friction * dt)
    elif given.stick == 0.0 and given.momentum != "keep":
        much = given.left / body.left if given.momentum == "fade" and body.left > 1e-9 else 0.0
        body.velocity = (body.velocity[0] * much, body.velocity[1], body.velocity[2] * much)
        body.left = given.left
    body.steered = given.stick > 0.0
    x, z = body.velocity[0] * dt, body.velocity[2] * dt
    if given.flies > 0.0:
        flown = slowed(body.went, pace.friction * dt) if body.grounded else body.went
        x, z = x + flown[0] * dt * given.flies, z + flown[2] * dt * given.flies
    return x, z


def _steered(body: MovingBody, want: tuple[float, float], pace: Pace) -> Vector:
    """The locomotion's velocity, brought nearer to what the stick asks for."""
    was_x, up, was_z = body.velocity
    far = hypot(want[0] - was_x, want[1] - was_z)
    speed = was_x * was_x + was_z * was_z
    slower = speed > CREEPS * CREEPS and want[0] * was_x + want[1] * was_z < speed * SLOWER
    change = (pace.braking if slower else pace.acceleration) / pace.rate
    change *= 1.0 if body.grounded else pace.air_control
    much = 1.0 if far <= change else change / far
    return was_x + (want[0] - was_x) * much, up, was_z + (want[1] - was_z) * much


@dataclass(slots=True)
class Alone:
    """A body at a standstill on open floor, whose stick nobody touches."""

    velocity: Vector = (0.0, 0.0, 0.0)
    went: Vector = (0.0, 0.0, 0.0)
    left: float = 1.0
    steered: bool = True
    grounded: bool = True


@dataclass(frozen=True, eq=False)
class Driven:
    """What drives a body on ``N`` frames: root motion's ``step`` ``[N, 3]`` (m, in the body's frame before each) and
    ``turn`` ``[N]`` (radians), the ``stick``'s scale and whether it ``flies`` ``[N]``, and its fade in ``shown``
    ``[N]``."""

    step: Array
    turn: Array
    stick: Array
    flies: NDArray[np.bool_]
    shown: Array

    @property
    def by_root(self) -> bool:
        """Whether root motion alone moves it."""
        return not (self.flies.any() or self.stick.any())


def trajectory_alone(driven: Driven, carriage: Carriage, momentum: str) -> Trajectory:
    """The way of a body that begins at a standstill: by the rule of every tick, ``go``, and by root motion."""
    body, pace, share = Alone(), carriage.pace, carriage.share
    at_x = at_y = at_z = yaw = 0.0
    places, yaws = [(at_x, at_y, at_z)], [yaw]
    stick = (1.0 - share + share * driven.stick).tolist()
    shown, flying = driven.shown.tolist(), driven.flies.tolist()
    for n, ((right, up, ahead), spin) in enumerate(zip(driven.step.tolist(), driven.turn.tolist())):
        much = share * shown[n]
        onward = stick[n + 1] if n + 1 < len(stick) else 1.0
        flies = much if flying[n] else 0.0
        x, z = go(body, Given(stick[n], onward, (0.0, 0.0), flies, max(1.0 - much, 0.0), momentum), pace)
        c, s = cos(yaw), sin(yaw)
        x, z = x + c * right + s * ahead, z + c * ahead - s * right
        body.went = (x * pace.rate, 0.0, z * pace.rate)
        yaw += spin
        at_x, at_y, at_z = at_x + x, at_y + up, at_z + z
        places.append((at_x, at_y, at_z))
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
