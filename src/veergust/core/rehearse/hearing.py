"""What each screen of a rehearsal tells of events: each once, of those that are meant for it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from veergust.core.play import Fired, Record
from veergust.core.rehearse.ends import PlayingEnd

SPANS = ("begin", "end")
"""What opens and closes is a matter of play, which goes on at each end."""
NTH = "number "


@dataclass(frozen=True)
class Which:
    """What tells one event from another: whose it is, of which of its starts, of what kind, what it is called, and
    which of these."""

    fighter: str
    serial: int
    kind: str
    name: str
    mark: str


@dataclass(frozen=True)
class Heard:
    """An event on somebody's screen, on its tick ``told``, and the one on which it counted (``due``; None: it never
    happened)."""

    which: Which
    told: int
    due: int | None

    @property
    def late(self) -> int:
        """By how many ticks it came after it counted; less than 0 where it was guessed before."""
        return self.told - self.due if self.due is not None else 0


def meant_for(event: Fired, player: str) -> bool:
    """Whether an event is for a player's screen."""
    return event.whom == "everyone" or (event.whom == "owner" and event.fighter == player)


def heard(player: PlayingEnd, counted: list[Record]) -> list[Heard]:
    """What a player's screen tells of events, in order.

    What a picture has gone over is told with it, be it a guess; what turns out to have been is told as soon as it is
    known; nothing is told twice. An event that nothing tells from others of its name is told when it is known.
    """
    due = {which: tick for tick, which in _events(counted, player.name)}
    sure = list(_events(player.known, player.name))
    told: dict[Which, int] = {}
    for tick, (known, guessed) in enumerate(player.passed):
        while sure and sure[0][0] < known:
            told.setdefault(sure.pop(0)[1], tick)
        for _, which in _events(guessed, player.name):
            if not which.mark.startswith(NTH):
                told.setdefault(which, tick)
    return [Heard(which, tick, due.get(which)) for which, tick in told.items()]


def _events(records: Sequence[Record], player: str) -> Iterator[tuple[int, Which]]:
    """The events of some ticks that are for a player's screen, with the tick of each; those that nothing tells from
    others are counted."""
    many: Counter[tuple[str, int, str, str]] = Counter()
    for record in records:
        for event in record.events:
            if event.kind not in SPANS and meant_for(event, player):
                plain = event.fighter, event.serial, event.kind, event.name
                many[plain] += not event.mark
                yield record.tick, Which(*plain, event.mark or f"{NTH}{many[plain]}")
