"""One thing the checks found wrong, and where: a place that can be gone to, not only read."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Part = Literal[
    "action", "clip", "rig", "mask", "layer", "reactions", "pool", "locomotion", "stage", "thrown", "command"
]


@dataclass(frozen=True)
class Ref:
    """A place in a project: a part of it by ``name``, and in an action a section, a span of it, or a frame of it.

    ``words`` are the steps of the path as they read. A part that has no name of its own (the rig) has an empty one;
    ``kind`` and ``index`` find a span as the section holds it.
    """

    part: Part
    name: str
    words: tuple[str, ...]
    section: int | None = None
    kind: str = ""
    index: int | None = None
    frame: int | None = None

    def __str__(self) -> str:
        return " › ".join(self.words)


def in_action(
    name: str,
    *words: str,
    section: int | None = None,
    kind: str = "",
    index: int | None = None,
    frame: int | None = None,
) -> Ref:
    """A place in an action: the words behind its name, and what they stand for."""
    return Ref("action", name, (name, *words), section, kind, index, frame)


@dataclass(frozen=True)
class Finding:
    """One thing found: a code for it, where it is, what is wrong, and what to do."""

    code: str
    level: Literal["error", "warning", "note"]
    at: Ref
    says: str
    do: str

    @property
    def where(self) -> str:
        """Where it is, as a path: action › section › span."""
        return str(self.at)
