"""How platforms take along who stands on them, or in their way."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from veergust.core.kinds import PUSH, Vector
from veergust.core.motion import Array
from veergust.core.play.body.collide import sweep
from veergust.core.play.body.floors import height_of
from veergust.core.play.body.platforms import Platforms
from veergust.core.play.pose import feet
from veergust.core.play.state import NOWHERE, FighterState

STANDS = 1e-6
"""What is no more than this (m) off a floor stands on it."""
NOTHING_ROUND = np.zeros((0, 5))


def take_along(
    platforms: Platforms, fighter: FighterState, radius: float, discs: Sequence[tuple[float, ...]]
) -> Vector:
    """Move a body, with its feet, with the platform it stands on, or out of the way of one that comes against it. Walls
    and the round things ``discs`` stop it. Gives how far (m) what it stands on went, which is in its speed when it
    leaves it.
    """
    x, y, z = fighter.position.tolist()
    on = _under(platforms, x, y, z) if fighter.grounded else None
    by = NOWHERE
    round_it = np.array(discs) if discs and PUSH.on(fighter.holding()) and not fighter.down else NOTHING_ROUND
    if on is not None:
        by = platforms.by[on]
        place, _, _ = sweep(fighter.position, np.array([by[0], 0.0, by[2]]), radius, platforms.now, round_it)
        fighter.position = np.array([place[0], y + by[1], place[2]])
        footing, rows = fighter.footing, fighter.footing.feet.copy()
        feet.take_along(rows, place[0] - x, by[1], place[2] - z)
        high = footing.height + by[1] if footing.height is not None else None
        fighter.footing = footing._replace(feet=rows, height=high)
    for n, (dx, dy, dz) in enumerate(platforms.by):
        if n != on and (dx or dz or (dy and not fighter.grounded)):
            _push(platforms, n, fighter, radius, round_it)
    return by


def _under(platforms: Platforms, x: float, y: float, z: float) -> int | None:
    """Which of the platforms, as they were, somebody stands on at a place; None for none."""
    for n, which in enumerate(platforms.which):
        lx, lz, hx, hz = platforms.before[which, :4].tolist()
        if lx <= x <= hx and lz <= z <= hz and abs(height_of(platforms.before, which, x, z) - y) <= STANDS:
            return n
    return None


def _push(platforms: Platforms, n: int, fighter: FighterState, radius: float, round_it: Array) -> None:
    """A platform that comes against a body takes it along: seen from the platform it is the body that comes, and is
    stopped."""
    bx, by, bz = platforms.by[n]
    up = 0.0 if fighter.grounded else by
    alone = platforms.before[platforms.which[n]][None].copy()
    (x, y, z), walls, landed = sweep(fighter.position, np.array([-bx, -up, -bz]), radius, alone, NOTHING_ROUND)
    if not walls and not landed:
        return
    step = np.array([x + bx, y + up, z + bz]) - fighter.position
    others = np.delete(platforms.now, platforms.which[n], axis=0)
    fighter.position = np.array(sweep(fighter.position, step, radius, others, round_it)[0])
