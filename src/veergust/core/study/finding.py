"""One thing the checks found wrong."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True)
class Finding:
    """One thing found. ``where`` reads as a path: action › section › span."""

    code: str
    level: Literal["error", "warning", "note"]
    where: str
    says: str
    do: str
