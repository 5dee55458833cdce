"""What a fighter's hands have done lately, and the commands that are made of it.

Hands go on in hit stop: all of this counts ticks as they come. A gesture that is recognised takes the presses it is
made of: they start nothing on their own any more. Of several that one press completes the one of most parts is meant,
then the order of the list of commands counts.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import atan2, degrees, hypot
from typing import NamedTuple

from veergust.core.model import Command, Gesture, Way

DEAD = 0.2
"""A stick that is out by less than this lies in the centre; whoever walks by keys has it out by a third."""
WAYS: tuple[Way, ...] = (
    "forward", "forward left", "left", "back left", "back", "back right", "right", "forward right",
)  # fmt: skip
REST = 10
"""After so many ticks in the centre a stick is at rest."""
LATELY = 24
"""So many presses and ways are remembered at most."""


@dataclass(frozen=True)
class Press:
    """A remembered press: its command, how many ticks were played since it was ``made`` (−1: it was made in hit stop
    and no tick has been played yet), and on which tick that was."""

    command: str
    age: int = 0
    made: int = 0

    @property
    def mark(self) -> tuple[str, int]:
        """What tells it from every other."""
        return self.command, self.made


class Beginning(NamedTuple):
    """A press, or a way of the stick, and the tick on which it began."""

    what: str
    tick: int


class Hands(NamedTuple):
    """Commands that are down and since when, presses and ways of late (the newest first; ways about the body and about
    the target), and which presses have become part of a gesture.

    Ways about the body are counted from where it looked (``ahead``, degrees) when the stick was last at rest, in the
    centre for some ticks (``rests``): a body that turns with the stick does not turn them.
    """

    down: tuple[Beginning, ...] = ()
    presses: tuple[Beginning, ...] = ()
    about_body: tuple[Beginning, ...] = ()
    about_target: tuple[Beginning, ...] = ()
    taken: tuple[Beginning, ...] = ()
    ahead: float = 0.0
    rests: int = REST


STILL = Hands()


class Made(NamedTuple):
    """A gesture that was made: its command, how many parts it has, the presses it takes, how long its command was
    down."""

    command: Command
    parts: int
    takes: tuple[Beginning, ...]
    down: int = 0

    @property
    def level(self) -> int:
        """How many of its levels were reached."""
        gesture = self.command.gesture
        return sum(self.down >= ticks for ticks in gesture.levels) if gesture is not None else 0


def way_of(stick: tuple[float, float], ahead: float) -> Way:
    """Where a stick (x, z) lies for somebody who looks ``ahead`` (degrees about +Y, 0 towards +Z)."""
    x, z = stick
    if hypot(x, z) < DEAD:
        return "centre"
    turned = (degrees(atan2(x, z)) - ahead) % 360.0
    return WAYS[int((turned + 22.5) // 45.0) % 8]


def gone_on(
    hands: Hands,
    pressed: Sequence[str],
    let_go: Sequence[str],
    stick: tuple[float, float],
    facing: float,
    towards: float,
    tick: int,
) -> tuple[Hands, tuple[tuple[str, int], ...]]:
    """The hands on a tick, and what was let go on it with how long it was down.

    ``facing`` is where the body looks, ``towards`` where its target is (degrees).
    """
    ahead = facing if hands.rests >= REST else hands.ahead
    rests = hands.rests + 1 if way_of(stick, ahead) == "centre" else 0
    ways = way_of(stick, ahead), way_of(stick, towards)
    since = dict(hands.down)
    up = tuple((name, tick - since[name]) for name in dict.fromkeys(let_go) if name in since)
    down = [m for m in hands.down if m.what not in let_go and m.what not in pressed]
    down += [Beginning(name, tick) for name in dict.fromkeys(pressed) if name not in let_go]
    presses = (*(Beginning(name, tick) for name in dict.fromkeys(pressed)), *hands.presses)[:LATELY]
    sides = []
    for past, way in zip((hands.about_body, hands.about_target), ways):
        moved = not past or past[0].what != way
        sides.append((Beginning(way, tick), *past)[:LATELY] if moved else past)
    return Hands(tuple(down), presses, sides[0], sides[1], hands.taken[:LATELY], ahead, rests), up


def made(commands: Sequence[Command], hands: Hands, up: Sequence[tuple[str, int]], tick: int) -> list[Made]:
    """The gestures that are complete on a tick, of which no two take one press."""
    found = [
        one
        for c in commands
        if c.gesture is not None and (one := _made(c, c.gesture, hands, dict(up), tick)) is not None
    ]
    out: list[Made] = []
    taken: set[Beginning] = set()
    for one in sorted(found, key=lambda m: -m.parts):
        if not taken & set(one.takes):
            taken |= set(one.takes)
            out.append(one)
    return out


def held_on(command: Command, hands: Hands, tick: int) -> bool:
    """Whether a command that is held for a while is held, once it has been for so long."""
    gesture = command.gesture
    if gesture is None or gesture.kind != "held" or not gesture.of:
        return False
    return any(m.what == gesture.of[0] and tick - m.tick >= gesture.ticks for m in hands.down)


def _made(command: Command, gesture: Gesture, hands: Hands, up: dict[str, int], tick: int) -> Made | None:
    """A command whose gesture is complete on this tick."""
    of = gesture.of
    down = dict(hands.down)
    if gesture.kind == "motion":
        return _motion(command, gesture, hands, tick)
    if not of:
        return None
    if gesture.kind == "held":
        long = tick - down[of[0]] if of[0] in down else -1
        return Made(command, 1, (), long) if long == gesture.ticks and long >= 0 else None
    if gesture.kind == "let go":
        long = up.get(of[0], -1)
        return Made(command, 1, (), long) if long >= gesture.ticks else None
    free = [p for p in hands.presses if p not in hands.taken]
    if gesture.kind == "double":
        mine = [p for p in free if p.what == of[0]][:2]
        near = len(mine) == 2 and mine[0].tick == tick and tick - mine[1].tick <= gesture.within
        return Made(command, 2, tuple(mine)) if near else None
    parts = [next((p for p in hands.presses if p.what == name), None) for name in dict.fromkeys(of)]
    there = [p for p in parts if p is not None and p not in hands.taken]
    whole = len(there) == len(parts) and max(p.tick for p in there) == tick
    near = whole and tick - min(p.tick for p in there) <= gesture.within
    return Made(command, len(parts), tuple(there)) if near else None


def _motion(command: Command, gesture: Gesture, hands: Hands, tick: int) -> Made | None:
    """A command whose stick and press are complete on this tick."""
    press = None
    if gesture.of:
        press = next((p for p in hands.presses if p.what == gesture.of[0] and p not in hands.taken), None)
        if press is None or press.tick != tick:
            return None
    past = hands.about_body if gesture.about == "body" else hands.about_target
    if not gesture.ways or (press is None and (not past or past[0].tick != tick)):
        return None
    if not _along(gesture, past, tick, press is not None):
        return None
    return Made(command, len(gesture.ways) + len(gesture.of), (press,) if press is not None else ())


def _along(gesture: Gesture, past: Sequence[Beginning], tick: int, then: bool) -> bool:
    """Whether the stick went along the ways of a motion, the last of them on this tick, or ``then`` soon before it."""

    def left(n: int, first: int, by: int) -> bool:
        """Whether the first ``n`` ways lie in the past from ``first`` on, the last left soon before the tick ``by``."""
        if n == 0:
            return True
        for at in range(first, len(past)):
            here = past[at]
            until = past[at - 1].tick if at > 0 else tick
            if by - until > gesture.within:
                return False
            fits = _fits(gesture, gesture.ways[n - 1], here.what)
            if fits and (then or n < len(gesture.ways) or here.tick == tick) and left(n - 1, at + 1, here.tick):
                return True
            if gesture.strict and here.what != "centre":
                return False
        return False

    return left(len(gesture.ways), 0, tick)


def _fits(gesture: Gesture, way: str, here: str) -> bool:
    if here == way or not gesture.wide or "centre" in (way, here):
        return here == way
    apart = (WAYS.index(way) - WAYS.index(here)) % 8
    return apart in (0, 1, 7)
