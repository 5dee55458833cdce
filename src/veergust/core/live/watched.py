"""What a game told of its ticks, and the same bout played here."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Sequence
from typing import Any

import msgspec

from veergust.core.model import DrillStep
from veergust.core.play import Record
from veergust.core.trouble import Trouble

MOST = 36_000
"""So many ticks are kept: ten minutes at 60 a second."""


class ToldAction(msgspec.Struct, frozen=True):
    """An action that a fighter plays there: where it is in it."""

    action: str
    section: str
    frame: int


class ToldFighter(msgspec.Struct, frozen=True):
    """A fighter on a tick of the game."""

    name: str
    ground: str
    actions: tuple[ToldAction, ...] = ()


class ToldContact(msgspec.Struct, frozen=True):
    """A touch that came in the game."""

    strike: str
    attacker: str
    victim: str
    result: str = ""


class ToldTick(msgspec.Struct, frozen=True):
    """A tick of the game. What else is said of it is not asked for."""

    tick: int
    fighters: tuple[ToldFighter, ...]
    contacts: tuple[ToldContact, ...] = ()


class ToldBout(msgspec.Struct, frozen=True):
    """All that was given in a bout since its tick ``first``."""

    first: int
    ticks: int
    seed: int
    inputs: tuple[DrillStep, ...]


class Watched:
    """The last ticks of a game, as it told them."""

    def __init__(self) -> None:
        self.ticks: deque[ToldTick] = deque(maxlen=MOST)
        self.touches = 0
        """How many touches the bout had since it is watched."""

    def hear(self, rows: Iterable[Any]) -> None:
        """Take in what it told; a bout that began anew takes the place of the last. What is no tick is passed over."""
        for row in rows:
            try:
                told = msgspec.convert(row, ToldTick)
            except msgspec.ValidationError:
                continue
            if self.ticks and told.tick <= self.ticks[-1].tick:
                self.ticks.clear()
                self.touches = 0
            self.ticks.append(told)
            self.touches += len(told.contacts)

    def playing(self, fighter: str) -> ToldAction | None:
        """What a fighter plays on the last tick, on its topmost layer."""
        fighters = self.ticks[-1].fighters if self.ticks else ()
        return next((f.actions[-1] for f in fighters if f.name == fighter and f.actions), None)


def given_of(result: Any) -> ToldBout:
    """What was given in a bout, by which it is played again.

    Raises:
        Trouble: it is none, or its beginning is no longer known.
    """
    try:
        given = msgspec.convert(result, ToldBout)
    except msgspec.ValidationError as error:
        raise Trouble(f"what the game says was given cannot be read ({error})", do="see docs/live.md") from error
    if given.first > 0:
        raise Trouble("the game no longer knows how its bout began", do="start it over there, and play it again")
    if not 0 < given.ticks <= MOST:
        raise Trouble("nothing was played there yet", do="let it go on for a moment")
    return given


def first_apart(records: Sequence[Record], told: Iterable[ToldTick]) -> tuple[int, str] | None:
    """The first tick on which a bout played here is another than the one that was told, and what is otherwise."""
    by_tick = {r.tick: r for r in records}
    for there in told:
        here = by_tick.get(there.tick)
        if here is None:
            continue
        for f in there.fighters:
            mine = next((one for one in here.fighters if one.name == f.name), None)
            if mine is None:
                return there.tick, f"{f.name} is not here"
            was = [(a.action, a.section, a.frame) for a in f.actions]
            now = [(v.compiled.action.name, v.part.section.name, v.frame) for v in mine.live()]
            if was != now:
                return there.tick, f"{f.name} played {_words(was)} there, and {_words(now)} here"
            if f.ground != mine.locomotion[-1].state:
                return there.tick, f"{f.name} was in {f.ground} there, and is in {mine.locomotion[-1].state} here"
        touched = [(c.strike, c.attacker, c.victim) for c in there.contacts]
        ours = [(c.strike.name, c.attacker, c.victim) for c in here.contacts]
        if touched != ours:
            return there.tick, f"{len(touched)} touched there, and {len(ours)} here"
    return None


def _words(playing: Sequence[tuple[str, str, int]]) -> str:
    return " and ".join(f"{action} / {section}, frame {frame}" for action, section, frame in playing) or "nothing"
