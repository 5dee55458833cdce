"""How far a long work is, and giving it up."""

from __future__ import annotations

from collections.abc import Callable

Progress = Callable[[str, float], None]
"""Told what is being done and how far it is (0…1); may raise ``Stopped`` to give up."""


class Stopped(Exception):
    """The person gave up a long work; nothing of it stays."""


def no_progress(says: str, share: float) -> None:
    """Nobody watches."""
