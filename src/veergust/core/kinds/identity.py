"""What an action, a section or a clip is, whatever it is called: so that what was handed over is found again."""

from __future__ import annotations

from veergust.core.model import Action, Clip, Section

Lasting = Action | Section | Clip
LASTING = (Action, Section, Clip)


def identity(one: Lasting) -> str:
    """Its identity: the name it had when it was made, unless another has that."""
    return one.identity or one.name


def kept_identity(one: Lasting, name: str) -> str:
    """What is written of its identity once it is called ``name``: nothing where they are the same."""
    return "" if identity(one) == name else identity(one)
