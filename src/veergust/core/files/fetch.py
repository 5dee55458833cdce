"""The bytes of a file: one that somebody named outright, or one of a project, also while a save brings it in."""

from __future__ import annotations

from pathlib import Path

from veergust.core.files.beneath import Beneath, Missing, read_regular
from veergust.core.files.plan import coming


def fetch(path: Path, within: Path | None = None) -> bytes:
    """The bytes of ``path``, which must lie beneath ``within`` if that is given.

    Raises ``Missing``, or another ``Trouble``.
    """
    if within is None:
        return read_regular(path)
    name = path.relative_to(within).as_posix()
    with Beneath(within) as place:
        try:
            return place.read(name, label=path.name)
        except Missing:
            staged = coming(place, name)
            return staged if staged is not None else place.read(name, label=path.name)
