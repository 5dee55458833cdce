"""The one error that is meant for the person: a file, a field, what is wrong, what to do; and that of a name."""

from __future__ import annotations

from collections.abc import Iterable
from difflib import get_close_matches
from typing import Protocol, TypeVar

SHOWN = 8
"""So many names are offered in place of one that is not there."""


class Trouble(Exception):
    """Something the person gave cannot be used.

    ``says`` is what is wrong and ``do`` what to do about it, both plain; ``file`` and ``field`` name the place.
    ``str(trouble)`` is one sentence with all of it.
    """

    def __init__(self, says: str, *, file: str = "", field: str = "", do: str = "") -> None:
        super().__init__(says)
        self.says = says
        self.file = file
        self.field = field
        self.do = do

    def __str__(self) -> str:
        place = ", ".join(part for part in (self.file, self.field) if part)
        head = f"{place}: {self.says}" if place else self.says
        return f"{head}; {self.do}." if self.do else f"{head}."


class Unknown(Trouble):
    """A name that nothing has: the ``kind`` of thing that was asked for and its ``name``.

    It says what there is instead: the name that differs least, or the first few.
    """

    def __init__(self, kind: str, name: str, there: Iterable[str], *, file: str = "", field: str = "") -> None:
        names = list(there)
        lower = {n.lower(): n for n in reversed(names)}
        near = [lower[n] for n in get_close_matches(name.lower(), lower, 1, 0.75)]
        some = near or names[:SHOWN]
        more = ", …" if not near and len(names) > SHOWN else ""
        do = f"use {'' if len(some) == 1 else 'one of '}{', '.join(some)}{more}" if some else "there are none here yet"
        super().__init__(f"there is no {kind} {name!r}", file=file, field=field, do=do)
        self.kind = kind
        self.name = name


class Named(Protocol):
    """What has a name."""

    @property
    def name(self) -> str:
        """What it is called."""


N = TypeVar("N", bound=Named)


def named(things: Iterable[N], name: str, kind: str, *, file: str = "", field: str = "") -> N:
    """The thing of that name. Raises ``Unknown`` when there is none."""
    there = list(things)
    for thing in there:
        if thing.name == name:
            return thing
    raise Unknown(kind, name, (thing.name for thing in there), file=file, field=field)
