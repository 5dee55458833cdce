"""Names: one that is free, and one that a person typed."""

from __future__ import annotations

from collections.abc import Container

from veergust.core.trouble import Trouble


def free(wish: str, taken: Container[str]) -> str:
    """``wish``, or with a number behind it where it is taken."""
    name, n = wish, 2
    while name in taken:
        name, n = f"{wish} {n}", n + 1
    return name


def typed(new: str, old: str, taken: Container[str], kind: str) -> str:
    """A name typed for a ``kind`` of thing that was ``old``. Raises ``Trouble`` when it is empty or taken."""
    new = new.strip()
    if not new:
        raise Trouble(f"a {kind} needs a name", field="name", do="type one")
    if new != old and new in taken:
        raise Trouble(f"there is a {kind} {new!r} already", field="name", do="choose another name")
    return new
