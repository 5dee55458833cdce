"""What a change of meaning is."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Mutant:
    """A change of ``old`` to ``new`` in a file of the package, which breaks a ``rule`` that a ``test`` is named for."""

    rule: str
    file: str
    old: str
    new: str
    test: str
