"""Results that were worked out lately, kept with all that they were worked out from."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

K = TypeVar("K", bound=Hashable)
T = TypeVar("T")


class Results(Generic[K, T]):
    """The results asked for last, up to ``most`` of them, or of their ``size``.

    A key is all that a result depends on. What it tells by its identity is kept beside the result, so that nothing else
    comes to have that identity.
    """

    def __init__(self, most: float, size: Callable[[T], float] = lambda _: 1) -> None:
        self.most, self.size = most, 0.0
        self._size = size
        self._rows: OrderedDict[K, tuple[object, T]] = OrderedDict()

    def __len__(self) -> int:
        return len(self._rows)

    def of(self, key: K, work: Callable[[], T], alive: object = None) -> T:
        """What ``key`` stands for, worked out if it is not there; ``alive`` is what the key tells by identity."""
        row = self._rows.get(key)
        if row is None:
            row = self._rows[key] = alive, work()
            self.size += self._size(row[1])
            self.keep(self.most)
        else:
            self._rows.move_to_end(key)
        return row[1]

    def keep(self, most: float) -> None:
        """Have no more than this, from now on; those not asked for the longest go, and the last one stays."""
        self.most = most
        while self.size > most and len(self._rows) > 1:
            _, (_, old) = self._rows.popitem(last=False)
            self.size -= self._size(old)

    def without(self, gone: Callable[[K], bool]) -> Results[K, T]:
        """The same but for those of some keys."""
        out: Results[K, T] = Results(self.most, self._size)
        out._rows = OrderedDict((key, row) for key, row in self._rows.items() if not gone(key))
        out.size = sum(self._size(made) for _, made in out._rows.values())
        return out
