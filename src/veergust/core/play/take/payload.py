"""What an event hands to the game beside its name, where its payload is pairs of a name and a value."""

from __future__ import annotations

import re
from collections.abc import Iterable

_NUMBER = re.compile(r"-?\d+(\.\d+)?")
_PAIR = re.compile(r"\s*([^\s=:,;]+)\s*[=:]\s*([^\s=:,;]+)\s*[,;]?")


def read_pairs(payload: str) -> list[tuple[str, str]] | None:
    """The pairs of a payload such as ``speed=9, up=2``; None when it says anything else."""
    out: list[tuple[str, str]] = []
    at = 0
    while payload[at:].strip():
        found = _PAIR.match(payload, at)
        if found is None:
            return None
        out.append((found[1], found[2]))
        at = found.end()
    return out


def read_numbers(payload: str) -> dict[str, float]:
    """The pairs of a payload whose values are numbers, by name."""
    return {name: float(value) for name, value in read_pairs(payload) or () if _NUMBER.fullmatch(value)}


def write_pairs(pairs: Iterable[tuple[str, str]]) -> str:
    """Pairs as a payload. What would part a name or a value becomes a line below; an empty one is left out."""
    clean = [tuple(re.sub(r"[\s=:,;]+", "_", part.strip()) for part in pair) for pair in pairs]
    return ", ".join(f"{name}={value}" for name, value in clean if name and value)
