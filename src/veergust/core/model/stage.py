"""The stage an action is tried on: floors, posts and fighters."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Meta

from veergust.core.model.base import Amount, Degrees, Metres, Place, Size, Ticks, Value


class Floor(Value, frozen=True):
    """A rectangle of floor: x and z from ``low`` to ``high`` at ``height`` (m). Its rim is a ledge.

    A ramp's far end along x or z is ``rise`` higher (or lower, below 0). A platform ``goes`` so far from there (m: x,
    y, z) and back again, ``takes`` so many ticks for it each way, beginning and ending softly, and ``rests`` for so
    many at either end, first where it stands.
    """

    name: str = "floor"
    low: tuple[Metres, Metres] = (-10.0, -10.0)
    high: tuple[Metres, Metres] = (10.0, 10.0)
    height: Metres = 0.0
    rise: Metres = 0.0
    along: Literal["x", "z"] = "x"
    goes: Place = (0.0, 0.0, 0.0)
    takes: Annotated[int, Meta(ge=1, le=36000)] = 120
    rests: Ticks = 60


class Post(Value, frozen=True):
    """A standing target: a round post that can be touched and does not move.

    With ``health`` it takes damage; its last hit fells it, and lets the effect ``falls`` go off.
    """

    name: str = "post"
    position: Place = (0.0, 0.0, 2.0)
    radius: Size = 0.14
    height: Size = 1.1
    health: Amount = 0.0
    falls: str = ""


Plays = Literal[
    "keys",
    "second",
    "stands",
    "strikes back",
    "guards",
    "guards once touched",
    "presses",
    "hits back",
    "walks in",
    "walks away",
    "once up",
    "random",
    "replays",
]
"""Who gives a fighter's commands: the keys, a second player, or what it does by itself."""


class Fighter(Value, frozen=True):
    """Who stands where; ``facing`` in degrees about +Y, 0 towards +Z. ``plays`` says who gives the commands.

    By itself it only ``stands``; or it presses ``answer``: ``strikes back`` once hurt, when somebody is near; holds it
    (``guards``, or only once it was touched); ``presses`` it every so many ticks (``every``); ``hits back`` with it on
    the first tick on which it can after a touch; acts so ``once up`` after it has lain. It ``walks in`` until somebody
    is as ``near`` (m), pressing it there, or ``walks away`` up to there. ``random`` presses and goes by chance, of the
    seed. It ``replays`` the inputs of the drill ``replay``.

    ``project`` is whose figure, ground and actions it has: the name of a project folder beside this one (empty: this
    one's own).

    Those of one ``team`` do not strike each other (empty: of none). ``poise`` is how much it takes before it reels (0:
    every touch makes it). So much a second of it, and of what a guard has taken, ``recovers`` once it was left alone
    for ``rests`` ticks.
    """

    name: str
    position: Place = (0.0, 0.0, 0.0)
    facing: Degrees = 90.0
    health: Amount = 100.0
    plays: Plays = "stands"
    answer: str = ""
    every: Annotated[int, Meta(ge=1, le=3600)] = 30
    near: Annotated[float, Meta(ge=0, le=100)] = 1.2
    replay: str = ""
    team: str = ""
    poise: Amount = 0.0
    recovers: Amount = 10.0
    rests: Ticks = 60
    project: str = ""


class Stage(Value, frozen=True):
    """One place to try things; a fighter that falls below ``put_back_below`` is put back where it began."""

    name: str = "Stage"
    floors: tuple[Floor, ...] = (Floor(),)
    posts: tuple[Post, ...] = ()
    fighters: tuple[Fighter, ...] = ()
    put_back_below: Metres = -3.0
