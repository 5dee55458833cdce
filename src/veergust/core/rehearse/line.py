"""A line between two ends: late, unevenly late, and now and then not at all, the same for the same seed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from math import ceil
from random import Random
from typing import Generic, TypeVar

from veergust.core.trouble import Trouble

T = TypeVar("T")


@dataclass(frozen=True)
class Quality:
    """How a line is: its delay one way and how far that is off either way (ms), and the share (0…1) that is lost."""

    delay: float = 0.0
    spread: float = 0.0
    loss: float = 0.0

    def __post_init__(self) -> None:
        if not (0.0 <= self.delay <= 5_000.0 and 0.0 <= self.spread <= 5_000.0):
            raise Trouble("a delay is between 0 and 5000 ms", do="give another")
        if not 0.0 <= self.loss < 1.0:
            raise Trouble("a loss is a share from 0 up to, but not, 1", do="write 0.05 for five in a hundred")


@dataclass
class Line(Generic[T]):
    """Carries messages one way. What is not known to have arrived goes along again with every packet."""

    quality: Quality
    rate: int
    draw: Random
    unsure: list[tuple[int, T]] = field(default_factory=list)
    under_way: list[tuple[int, tuple[tuple[int, T], ...]]] = field(default_factory=list)
    sent: int = 0
    got: set[int] = field(default_factory=set)

    def send(self, tick: int, messages: Sequence[T] = ()) -> None:
        """Send messages on a tick, with all that may not have arrived."""
        for message in messages:
            self.unsure.append((self.sent, message))
            self.sent += 1
        lost = self.draw.random() < self.quality.loss
        late = self.quality.delay + self.draw.uniform(-1.0, 1.0) * self.quality.spread
        if self.unsure and not lost:
            ticks = ceil(max(late, 0.0) / 1000.0 * self.rate - 1e-9)
            self.under_way.append((tick + ticks, tuple(self.unsure)))

    def arrived(self, tick: int) -> list[T]:
        """The messages that arrive by a tick, each once, in the order they were sent."""
        there = [packet for packet in self.under_way if packet[0] <= tick]
        self.under_way = [packet for packet in self.under_way if packet[0] > tick]
        new = {number: message for _, packet in there for number, message in packet if number not in self.got}
        self.got |= set(new)
        self.unsure = [row for row in self.unsure if row[0] not in self.got]
        return [new[number] for number in sorted(new)]
