"""Steps that are taken back and forth."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from veergust.core.model import Project


@dataclass(frozen=True)
class Step:
    """One step back: what was done, the projects before and after, and how much of what others did was known then."""

    words: str
    before: Project
    after: Project
    known: int = 0
