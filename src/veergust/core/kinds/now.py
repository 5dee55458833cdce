"""A line of the Now card, and the frame it speaks of."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from veergust.core.kinds.compiled import Build, Compiled


@dataclass(frozen=True)
class NowItem:
    """One line of the Now card: its role, words, a note, and the span it is about."""

    role: str
    says: str
    note: str = ""
    section: int | None = None
    kind: str = ""
    index: int = 0
    open: bool = True


@dataclass(frozen=True)
class ShownFrame:
    """A frame of an action that is looked at: ``tick`` of ``section``, whose row 0 is frame ``first`` of the sheet.

    ``covered`` is how much of the weapon the hitboxes cover there (None: nothing to compare with), ``moved`` how far
    the body has gone over the floor (m).
    """

    build: Build
    compiled: Compiled
    section: int
    tick: int
    first: int
    covered: Callable[[], float | None]
    moved: float
