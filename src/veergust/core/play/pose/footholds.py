"""What is kept of a fighter's feet from tick to tick while they are laid on the floor."""

from __future__ import annotations

from dataclasses import dataclass

from veergust.core.motion.plain import NOWHERE, UP, Vector

GIVES_WAY = 10
"""Ticks over which a foot goes back to its pose."""


@dataclass(frozen=True)
class Foothold:
    """A foot: the place where its ball stands (None while it does not), and how far (m) it is laid off its pose.

    ``gone`` is how far it was off when it was let go, ``ticks`` ago; ``steps`` says that it goes back by a step of its
    own. ``high`` is its floor's height in the world (m), ``laid`` how far that is from the body's, ``up`` the direction
    up from it, ``rise`` how much (m) it is lifted, ``press`` how much it is brought down to stand, ``ball`` where the
    pose had its ball.
    """

    at: Vector | None = None
    off: Vector = NOWHERE
    gone: Vector = NOWHERE
    ticks: int = GIVES_WAY
    steps: bool = False
    high: float | None = None
    laid: float = 0.0
    rise: float = 0.0
    press: float = 0.0
    ball: Vector | None = None
    up: Vector = UP


@dataclass(frozen=True)
class Footing:
    """All feet of a fighter, how far (m) the pelvis is lowered, how far the figure trails behind its body's height, and
    how much of all that counts."""

    feet: tuple[Foothold, ...] = ()
    lower: float = 0.0
    behind: float = 0.0
    weight: float = 0.0
    height: float | None = None


NO_FOOTING = Footing()
