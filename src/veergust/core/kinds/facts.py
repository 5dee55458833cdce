"""The facts of an action as they are shown: label by label, on the strip, beside a version, in a report."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol


class Numbers(Protocol):
    """The numbers of an action: ticks, metres and damage; None where one does not apply."""

    @property
    def startup(self) -> int | None: ...
    @property
    def active(self) -> int: ...
    @property
    def gaps(self) -> int: ...
    @property
    def recovery(self) -> int | None: ...
    @property
    def total(self) -> int | None: ...
    @property
    def on_hit(self) -> int | None: ...
    @property
    def on_guard(self) -> int | None: ...
    @property
    def reach(self) -> float | None: ...
    @property
    def travel(self) -> tuple[float, float, float]: ...
    @property
    def damage(self) -> float: ...


@dataclass(frozen=True)
class FactKind:
    """A fact: its label, what it is (for a tip), and how it is written; a dash where a number does not apply."""

    label: str
    tip: str
    write: Callable[[Numbers], str]


def _whole(n: int | None) -> str:
    return "–" if n is None else str(n)


def _signed(n: int | None) -> str:
    return "–" if n is None else f"{n:+d}".replace("-", "−")


def _far(facts: Numbers) -> float:
    return float((facts.travel[0] ** 2 + facts.travel[2] ** 2) ** 0.5)


FACTS = (
    FactKind("startup", "Frames before the first one on which it hits", lambda f: _whole(f.startup)),
    FactKind(
        "active",
        "Frames on which it hits; frames between that do not stand behind the +",
        lambda f: f"{f.active}+{f.gaps}" if f.gaps else str(f.active),
    ),
    FactKind("recovery", "Frames from the last that hits to control", lambda f: _whole(f.recovery)),
    FactKind("total", "All of its frames", lambda f: _whole(f.total)),
    FactKind("on hit", "By how many frames the attacker acts first after a hit", lambda f: _signed(f.on_hit)),
    FactKind("on guard", "By how many frames the attacker acts first when guarded", lambda f: _signed(f.on_guard)),
    FactKind(
        "reach",
        "How far off a standing target is touched",
        lambda f: "–" if f.reach is None else f"{f.reach:.2f} m",
    ),
    FactKind("travel", "How far the body goes over the floor", lambda f: f"{_far(f):.2f} m"),
    FactKind("damage", "Of all strikes that open", lambda f: f"{f.damage:g}"),
)
"""In the order they are shown."""


def written(facts: Numbers) -> dict[str, str]:
    """The facts as they are written, by label."""
    return {kind.label: kind.write(facts) for kind in FACTS}
