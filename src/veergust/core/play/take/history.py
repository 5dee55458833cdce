"""The records of a bout that may last an hour: the newest as they are, the older ones packed, and read when asked for.

A packed tick of two fighters takes about a kilobyte. What a project is made of (compiled actions, strikes …) is not
packed but pointed to, so that a record is the same once it is read again, but for its poses, which the simulation
works out anew.
"""

from __future__ import annotations

import io
import pickle
import zlib
from array import array
from collections.abc import Callable, Iterator, Sequence
from types import MappingProxyType
from typing import Any, overload

from veergust.core.model import Action, Event, Fighter, Strike, Thrown
from veergust.core.play.compiled.action import CompiledAction
from veergust.core.play.state import FighterState
from veergust.core.play.take.record import Record
from veergust.core.results import Results

FRESH = 300
"""So many records are kept with their poses."""
PACKED = 32
"""So many are packed together."""
READ = 24
"""So many packs stay read."""
TOUCHED, PRESSED, OPENS, HANDS = 1, 2, 4, 8
"""What of a tick is marked: somebody was touched, pressed something, opened a strike, let go of something or moved the
stick another way."""
_reading: list[list[object]] = []


def _pointed(at: int) -> object:
    return _reading[-1][at]


class History(Sequence[Record]):
    """Records in the order of their ticks; ``marks`` tells what happened on each without reading it."""

    def __init__(self) -> None:
        self.packs: list[bytes] = []
        self.fresh: list[Record] = []
        self.marks = array("B")
        self._table: list[object] = []
        self._places: dict[int, int] = {}
        self._read = Results[int, list[Record]](READ)
        kinds = (CompiledAction, Action, Event, Fighter, Strike, Thrown)
        self._reduce: dict[type, Callable[[Any], Any]] = dict.fromkeys(kinds, self._point)
        self._reduce[MappingProxyType] = lambda there: (MappingProxyType, (dict(there),))

    def copy(self) -> History:
        """Another that begins as this one is; packs are shared."""
        out = History()
        out.packs, out.fresh, out.marks = list(self.packs), list(self.fresh), self.marks[:]
        out._table, out._places = self._table, self._places
        return out

    # Packing

    def _point(self, part: object) -> tuple[Callable[[int], object], tuple[int]]:
        at = self._places.get(id(part))
        if at is None:
            at = self._places[id(part)] = len(self._table)
            self._table.append(part)  # what an identity stands for is kept with it
        return _pointed, (at,)

    def _pack(self, records: list[Record]) -> bytes:
        out = io.BytesIO()
        pickler = pickle.Pickler(out, 5)
        pickler.dispatch_table = self._reduce
        pickler.dump([record.slim() for record in records])
        return zlib.compress(out.getvalue(), 5)

    def _unpack(self, number: int) -> list[Record]:
        def read() -> list[Record]:
            _reading.append(self._table)
            try:
                records: list[Record] = pickle.loads(zlib.decompress(self.packs[number]))
            finally:
                _reading.pop()
            return records

        return self._read.of(number, read)

    # Growing and being cut

    def append(self, record: Record) -> None:
        """One tick more."""
        self.fresh.append(record)
        opens = any(e.kind == "begin" and e.name.startswith("strike") for e in record.events)
        pressed = any(f.pressed for f in record.fighters)
        hands = any(_let_go_or_moved(f, record.tick) for f in record.fighters)
        self.marks.append(TOUCHED * bool(record.contacts) | PRESSED * pressed | OPENS * opens | HANDS * hands)
        if len(self.fresh) >= FRESH + PACKED:
            self.packs.append(self._pack(self.fresh[:PACKED]))
            del self.fresh[:PACKED]

    def cut(self, length: int) -> None:
        """Forget all but the first ``length``."""
        packs = min(len(self.packs), length // PACKED)
        if packs < len(self.packs):
            self.fresh = list(self._unpack(packs))
            del self.packs[packs:]
            self._read = self._read.without(lambda number: number >= packs)
        del self.fresh[max(length - len(self.packs) * PACKED, 0) :]
        del self.marks[length:]

    def drop(self, most: int) -> int:
        """Forget the oldest where there are more than ``most``; how many went."""
        packs = min(max(len(self) - most, 0) // PACKED, len(self.packs))
        if packs:
            del self.packs[:packs], self.marks[: packs * PACKED]
            self._read = Results(READ)
        return packs * PACKED

    # Being read

    def marked(self, mark: int, first: int, end: int) -> list[int]:
        """The places ``[first, end)`` that have a mark: ``TOUCHED``, ``PRESSED``, ``OPENS``, ``HANDS``."""
        return [first + n for n, marks in enumerate(self.marks[first:end]) if marks & mark]

    def __len__(self) -> int:
        return len(self.packs) * PACKED + len(self.fresh)

    @overload
    def __getitem__(self, at: int) -> Record: ...
    @overload
    def __getitem__(self, at: slice) -> Sequence[Record]: ...
    def __getitem__(self, at: int | slice) -> Record | Sequence[Record]:
        if isinstance(at, slice):
            return HistoryPart(self, range(len(self))[at])
        length = len(self)
        if not -length <= at < length:
            raise IndexError(at)
        pack, n = divmod(at % length, PACKED)
        return self._unpack(pack)[n] if pack < len(self.packs) else self.fresh[at % length - len(self.packs) * PACKED]

    def __iter__(self) -> Iterator[Record]:
        return (self[at] for at in range(len(self)))


def _let_go_or_moved(fighter: FighterState, tick: int) -> bool:
    """Whether a fighter's hands did something else than press."""
    ways = fighter.hands.about_body, fighter.hands.about_target
    return bool(fighter.let_go) or any(way and way[0].tick == tick for way in ways)


class HistoryPart(Sequence[Record]):
    """A part of a history, which is read when it is asked for."""

    def __init__(self, history: History, places: range) -> None:
        self.history, self.places = history, places

    def __len__(self) -> int:
        return len(self.places)

    @overload
    def __getitem__(self, at: int) -> Record: ...
    @overload
    def __getitem__(self, at: slice) -> Sequence[Record]: ...
    def __getitem__(self, at: int | slice) -> Record | Sequence[Record]:
        places = self.places[at]
        return HistoryPart(self.history, places) if isinstance(places, range) else self.history[places]
