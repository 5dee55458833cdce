"""Floors that go to and fro: where they are on a tick."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from msgspec.structs import replace

from veergust.core.kinds import Vector
from veergust.core.model import Floor
from veergust.core.motion import Array
from veergust.core.play.body.floors import rows_of
from veergust.core.play.compiled.project import CompiledProject


def goes(floor: Floor) -> bool:
    """Whether a floor is a platform."""
    return any(floor.goes)


def has_platforms(build: CompiledProject) -> bool:
    """Whether a floor of the stage goes to and fro."""
    return any(goes(floor) for floor in build.project.stage.floors)


def gone(floor: Floor, tick: int) -> Vector:
    """How far (m: x, y, z) a platform is from its place on a tick: it rests, goes, rests there and comes back.

    Of its way it has done ``3 t² − 2 t³`` when it has gone for the part ``t`` of its time.
    """
    half = floor.takes + floor.rests
    at = max(tick, 0) % (2 * half)
    back = at >= half
    t = min(max((at % half - floor.rests) / floor.takes, 0.0), 1.0)
    much = t * t * (3.0 - 2.0 * t)
    much = 1.0 - much if back else much
    x, y, z = floor.goes
    return x * much, y * much, z * much


def moved(floor: Floor, tick: int) -> Floor:
    """A floor as it is on a tick."""
    if not goes(floor):
        return floor
    x, y, z = gone(floor, tick)
    (lx, lz), (hx, hz) = floor.low, floor.high
    return replace(floor, low=(lx + x, lz + z), high=(hx + x, hz + z), height=floor.height + y)


class Platforms(NamedTuple):
    """The platforms of a stage from one tick to the next: which floors they are, all floors as rows ``[n, 7]`` as they
    were and as they are, and how far each platform has gone (m)."""

    which: tuple[int, ...]
    before: Array
    now: Array
    by: tuple[Vector, ...]


def platforms_on(floors: Sequence[Floor], tick: int) -> Platforms:
    """What platforms do on a tick; on the first one nothing."""
    which = tuple(n for n, floor in enumerate(floors) if goes(floor))
    before, now = (rows_of([moved(f, t) for f in floors]) for t in (tick - 1, tick))
    steps = []
    for n in which:
        a, b = gone(floors[n], tick - 1), gone(floors[n], tick)
        steps.append((b[0] - a[0], b[1] - a[1], b[2] - a[2]))
    return Platforms(which, before, now, tuple(steps))
