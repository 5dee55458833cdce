"""What is thrown or spawned and flies: a ball with a strike of its own."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Meta

from veergust.core.model.action import Strike
from veergust.core.model.base import Amount, Count, Degrees, Fraction, Metres, Size, Speed, Value


class Thrown(Value, frozen=True):
    """A thing that an event of kind ``spawn`` and its name lets go.

    It begins with ``speed`` ahead and ``up`` (m/s; the event's payload may say both otherwise), falls by ``gravity``
    (m/s²), turns towards its target by at most ``turns`` degrees a second, and is gone after ``life`` ticks. It
    ``aims`` ahead, or at the nearest other where that lies within ``limit`` degrees of ahead. On floors and walls it
    keeps ``bounce`` of its speed (0: it ends there), and ends once it has touched more than ``pierce`` victims. Where
    it does not ``outlive`` its action it ends with that.
    """

    name: str
    speed: Speed = 9.0
    up: Metres = 2.0
    gravity: Amount = 9.81
    turns: Speed = 0.0
    life: Annotated[int, Meta(ge=1, le=3600)] = 120
    radius: Size = 0.1
    aims: Literal["ahead", "target"] = "ahead"
    limit: Degrees = 60.0
    bounce: Fraction = 0.0
    pierce: Count = 0
    outlives: bool = True
    strike: Strike = Strike(start=0, end=1, name="")
