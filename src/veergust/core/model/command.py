"""Named inputs, and how the hands make them."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Meta

from veergust.core.model.base import Ticks, Value

Way = Literal["forward", "forward left", "left", "back left", "back", "back right", "right", "forward right", "centre"]
"""Where the stick lies, as whoever holds it stands."""
Within = Annotated[int, Meta(ge=1, le=600)]
"""The most ticks between one part of a gesture and the next."""


class Gesture(Value, frozen=True):
    """What the hands do for a command that is no plain press.

    ``held``: the command ``of`` which it is made has been down for ``ticks``. ``let go``: it is let go after so long at
    least. ``double``: it is pressed twice, ``within`` so many ticks. ``together``: all of them are pressed within so
    many ticks. ``motion``: the stick goes along ``ways``, each ``within`` so many ticks of the one before, and then,
    likewise, the command is pressed (with none: once the last way is there). Ways are counted from where the body
    looks, or from where its ``target`` is; ``wide`` ones have those beside them too, and between ``strict`` ones no
    other may come. The parameter ``sets`` becomes how many of ``levels`` (ticks) the command was down for.
    """

    kind: Literal["held", "let go", "double", "together", "motion"]
    of: tuple[str, ...] = ()
    ticks: Ticks = 0
    within: Within = 12
    ways: tuple[Way, ...] = ()
    about: Literal["body", "target"] = "body"
    wide: bool = False
    strict: bool = False
    levels: tuple[Ticks, ...] = ()
    sets: str = ""


class Command(Value, frozen=True):
    """A named input: the keys it is bound to, for how many ticks a press is remembered (None: as the project), and what
    the hands do for it (None: a press of one of its keys).

    Among the keys are buttons of the mouse (``mouse right``) and, for whoever plays with it, of a pad (``pad south``).
    ``second`` are the keys of the second player.
    """

    name: str
    keys: tuple[str, ...] = ()
    second: tuple[str, ...] = ()
    buffer: Ticks | None = None
    gesture: Gesture | None = None
