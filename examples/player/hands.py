"""Presses that are remembered, what the hands have done lately, and the gestures made of it.

Hands count ticks as they come, in hit stop too.
"""

from __future__ import annotations

from collections.abc import Sequence
from math import atan2, degrees, hypot
from typing import Any, NamedTuple

Json = dict[str, Any]
OUT = 0.2
"""A stick that is out by less lies in the centre."""
WAYS = ("forward", "forward left", "left", "back left", "back", "back right", "right", "forward right")
AT_REST = 10
"""A stick that was in the centre for so many ticks is at rest."""
LATELY = 24
"""So many presses and ways are remembered."""


class Press(NamedTuple):
    """A press: how many ticks were played since (−1: made in hit stop, none yet), and on which tick it was made."""

    command: str
    age: int
    made: int


class Began(NamedTuple):
    """A press, or a way of the stick, and its first tick."""

    what: str
    tick: int


class Gesture(NamedTuple):
    """A gesture that is complete: its command, how many parts it has, the presses it takes, how long it was down."""

    command: Json
    parts: int
    takes: tuple[Began, ...]
    long: int = 0


def way_of(stick: tuple[float, float], ahead: float) -> str:
    """The eighth of a turn in which a stick lies, of somebody who looks ahead (degrees)."""
    if hypot(*stick) < OUT:
        return "centre"
    turned = (degrees(atan2(*stick)) - ahead) % 360.0
    return WAYS[int((turned + 22.5) // 45.0) % 8]


class Hands:
    """What is down and since when, presses and ways of late (the newest first), and what became part of a gesture."""

    def __init__(self) -> None:
        self.down: dict[str, int] = {}
        self.presses: list[Began] = []
        self.ways: dict[str, list[Began]] = {"body": [], "target": []}
        self.taken: list[Began] = []
        self.ahead, self.rests = 0.0, AT_REST
        self.up: dict[str, int] = {}
        """What was let go on this tick, and how long it was down."""

    def go_on(
        self,
        pressed: Sequence[str],
        let_go: Sequence[str],
        stick: tuple[float, float],
        facing: float,
        towards: float,
        tick: int,
    ) -> None:
        """The hands on a tick; the target lies ``towards`` (degrees)."""
        if self.rests >= AT_REST:
            self.ahead = facing
        self.rests = self.rests + 1 if way_of(stick, self.ahead) == "centre" else 0
        self.up = {name: tick - self.down[name] for name in dict.fromkeys(let_go) if name in self.down}
        self.down = {n: t for n, t in self.down.items() if n not in let_go and n not in pressed}
        self.down |= {name: tick for name in pressed if name not in let_go}
        self.presses = [*(Began(name, tick) for name in dict.fromkeys(pressed)), *self.presses][:LATELY]
        for about, way in (("body", way_of(stick, self.ahead)), ("target", way_of(stick, towards))):
            past = self.ways[about]
            if not past or past[0].what != way:
                self.ways[about] = [Began(way, tick), *past][:LATELY]
        self.taken = self.taken[:LATELY]

    def made(self, commands: Sequence[Json], tick: int) -> list[Gesture]:
        """The gestures that are complete on a tick, of which no two take one press: those of most parts first."""
        found = [one for c in commands if (one := self._made(c, c["gesture"], tick)) is not None]
        out: list[Gesture] = []
        taken: set[Began] = set()
        for one in sorted(found, key=lambda g: -g.parts):
            if not taken & set(one.takes):
                taken |= set(one.takes)
                out.append(one)
        return out

    def holds_on(self, command: Json, tick: int) -> bool:
        """Whether a command that is held for a while is so."""
        gesture = command["gesture"]
        if gesture["kind"] != "held" or not gesture["of"]:
            return False
        since = self.down.get(gesture["of"][0])
        return since is not None and tick - since >= gesture["ticks"]

    def _made(self, command: Json, gesture: Json, tick: int) -> Gesture | None:
        kind, of = gesture["kind"], gesture["of"]
        if kind == "motion":
            return self._motion(command, gesture, tick)
        if not of:
            return None
        if kind == "held":
            since = self.down.get(of[0])
            return (
                Gesture(command, 1, (), tick - since)
                if since is not None and tick - since == gesture["ticks"]
                else None
            )
        if kind == "let go":
            long = self.up.get(of[0], -1)
            return Gesture(command, 1, (), long) if long >= gesture["ticks"] else None
        if kind == "double":
            mine = [p for p in self.presses if p.what == of[0] and p not in self.taken][:2]
            near = len(mine) == 2 and mine[0].tick == tick and tick - mine[1].tick <= gesture["within"]
            return Gesture(command, 2, tuple(mine)) if near else None
        names = list(dict.fromkeys(of))
        newest = [next((p for p in self.presses if p.what == name), None) for name in names]
        parts = [p for p in newest if p is not None and p not in self.taken]
        if len(parts) < len(names) or max(p.tick for p in parts) != tick:
            return None
        near = tick - min(p.tick for p in parts) <= gesture["within"]
        return Gesture(command, len(parts), tuple(parts)) if near else None

    def _motion(self, command: Json, gesture: Json, tick: int) -> Gesture | None:
        press = None
        if gesture["of"]:
            free = (p for p in self.presses if p.what == gesture["of"][0] and p not in self.taken)
            press = next(free, None)
            if press is None or press.tick != tick:
                return None
        past, ways = self.ways[gesture["about"]], gesture["ways"]
        if not ways or (press is None and (not past or past[0].tick != tick)):
            return None
        if not _went(gesture, past, len(ways), 0, tick, tick, press is not None):
            return None
        return Gesture(command, len(ways) + len(gesture["of"]), (press,) if press is not None else ())


def _went(gesture: Json, past: Sequence[Began], many: int, first: int, by: int, tick: int, then: bool) -> bool:
    """Whether the first ``many`` ways lie in the past from ``first`` on, the last of them left soon before ``by``."""
    if many == 0:
        return True
    ways = gesture["ways"]
    for at in range(first, len(past)):
        here = past[at]
        until = past[at - 1].tick if at > 0 else tick
        if by - until > gesture["within"]:
            return False
        last = many == len(ways)
        if _fits(gesture, ways[many - 1], here.what) and (then or not last or here.tick == tick):
            if _went(gesture, past, many - 1, at + 1, here.tick, tick, then):
                return True
        if gesture["strict"] and here.what != "centre":
            return False
    return False


def _fits(gesture: Json, way: str, here: str) -> bool:
    if here == way or not gesture["wide"] or "centre" in (way, here):
        return here == way
    return (WAYS.index(way) - WAYS.index(here)) % 8 in (0, 1, 7)
