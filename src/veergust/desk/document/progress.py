"""How far a work is that nothing else can be done beside, told as often as anybody can read it."""

from __future__ import annotations

import time
from collections.abc import Callable

from veergust import core

SOON = 0.5
"""Seconds that a work may take without a word."""
EVERY = 0.1
"""Seconds between two words about it."""
Stop = Callable[[], None]
Telling = Callable[[str, float, Stop | None], object]
"""Takes what is being done, how far it is (0…1), and what gives it up, if it can be."""


class Teller:
    """Teller how far a work is, it tells that on; one that ``may_stop`` raises ``Stopped`` when it was given up."""

    def __init__(self, tell: Telling, *, may_stop: bool) -> None:
        self.tell, self.may_stop = tell, may_stop
        self._stopped = False
        self._next = time.monotonic() + SOON

    def __call__(self, says: str, share: float) -> None:
        now = time.monotonic()
        if now > self._next:
            self._next = now + EVERY
            self.tell(says, share, self.stop if self.may_stop else None)
            if self._stopped:
                raise core.files.Stopped

    def stop(self) -> None:
        """Give it up."""
        self._stopped = True
