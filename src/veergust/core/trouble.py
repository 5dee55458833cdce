"""The one error that is meant for the person: a file, a field, what is wrong, what to do."""

from __future__ import annotations


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
