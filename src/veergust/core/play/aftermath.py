"""What touches leave behind on either side, from tick to tick."""

from __future__ import annotations

from typing import NamedTuple

from veergust.core.kinds import Vector
from veergust.core.model import Strike


class SoFar(NamedTuple):
    """What an action has touched so far: how often, which regions, with strikes of which strengths, and by groups of
    strikes whom."""

    touches: int = 0
    regions: tuple[str, ...] = ()
    strengths: tuple[str, ...] = ()
    groups: tuple[tuple[str, str], ...] = ()

    def and_of(self, region: str, strength: str, group: str, victim: str) -> SoFar:
        """With another touch."""
        regions = self.regions if region in self.regions else (*self.regions, region)
        strengths = self.strengths if strength in self.strengths else (*self.strengths, strength)
        groups = (*self.groups, (group, victim)) if group else self.groups
        return SoFar(self.touches + 1, regions, strengths, groups)


class Shove(NamedTuple):
    """A push that slows over its own ticks: how fast (m/s) it began, over how many ticks it falls, and how."""

    velocity: Vector
    ticks: int
    ease: str
    age: int = 0

    def now(self) -> Vector:
        """How fast it still is."""
        part = self.age / self.ticks
        left = {"hold": 1.0, "even": 1.0 - part, "eased": 1.0 - part * part * (3.0 - 2.0 * part)}[self.ease]
        return self.velocity[0] * left, self.velocity[1] * left, self.velocity[2] * left


class Swinging(NamedTuple):
    """A strike that is open and runs something if it touches nobody: its action's serial, what it is called in the
    take, itself, and whether it has touched."""

    serial: int
    label: str
    strike: Strike
    met: bool = False
