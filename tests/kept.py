"""What was worked out lately, for tests that ask for the same again."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

T = TypeVar("T")


class Kept(Generic[T]):
    """The last ``most`` things that were worked out, by all that they depend on.

    ``alive`` is kept with each: what its key names by identity.
    """

    def __init__(self, most: int) -> None:
        self.most = most
        self.rows: OrderedDict[Hashable, tuple[object, T]] = OrderedDict()

    def of(self, key: Hashable, work: Callable[[], T], alive: object = None) -> T:
        """What a key stands for."""
        if key not in self.rows:
            self.rows[key] = alive, work()
            if len(self.rows) > self.most:
                self.rows.popitem(last=False)
        self.rows.move_to_end(key)
        return self.rows[key][1]
