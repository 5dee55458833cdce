"""Layers over locomotion, and the masks they speak for."""

from __future__ import annotations

from typing import Literal

from veergust.core.model.base import Degrees, Fraction, Seconds, Speed, Ticks, Value

Rule = Literal["may", "keeps out", "fades", "finishes"]
"""What a layer does in a locomotion state. It may speak; it keeps out, so that nothing starts; it starts nothing and
fades out what plays; or it starts nothing and lets what plays come to its end."""


class Mask(Value, frozen=True):
    """How much of each joint a layer speaks for: ``whole`` body, or from ``joint`` onward feathered over joints."""

    name: str
    joint: str = ""
    feather: Ticks = 0
    weights: tuple[tuple[str, Fraction], ...] = ()


class Speaks(Value, frozen=True):
    """What a layer does in a locomotion state, or in all states of a group."""

    state: str
    rule: Rule = "may"


class AimPoint(Value, frozen=True):
    """A pose of an aim: of a clip at ``time`` (s), where it points ``side`` degrees to the left and ``up`` degrees."""

    clip: str
    side: Degrees = 0.0
    up: Degrees = 0.0
    time: Seconds = 0.0


class Aim(Value, frozen=True):
    """A field of poses that points to a side and up: the difference of the mix of those around from the one ahead is
    added to what plays.

    It goes ``towards`` the nearest other, or the stick, as far as ``side`` and ``up`` (degrees) and no faster than
    ``rate`` (degrees a second), by ``weight``, eased in and out over ``ticks``.
    """

    points: tuple[AimPoint, ...] = ()
    towards: Literal["target", "stick"] = "target"
    side: Degrees = 60.0
    up: Degrees = 40.0
    rate: Speed = 360.0
    weight: Fraction = 1.0
    ticks: Ticks = 8


class Layer(Value, frozen=True):
    """Where actions play, and who wins.

    Its weight is ``weight`` times the parameter ``by`` between 0 and 1 (none: 1). An additive layer adds the
    difference from a pose: that of the clip ``reference`` at ``at`` (s), of the clip played alongside, or locomotion's
    own when the action starts. ``space`` says whether rotations are mixed joint by joint or about the body.
    ``root`` is whether it moves the body where its mask has the root.

    ``scope`` says what it does in which state, ``elsewhere`` in all others, ``pressed`` what becomes of a press while
    it starts nothing. ``taken``: what one that is pressed does while another plays on the layer. ``under``: what
    one that is pressed on a lower layer does while this one plays. ``covered``: what an action here does while one
    above speaks for all its joints. Below a share of ``acts`` strikes and events do nothing. Actions that are put on it
    have its fades. With an ``aim`` it points, in the states in which it may speak.
    """

    name: str
    mode: Literal["override", "additive"] = "override"
    mask: str = ""
    space: Literal["joint", "body"] = "joint"
    weight: Fraction = 1.0
    by: str = ""
    adds: Literal["frame", "alongside", "start"] = "frame"
    reference: str = ""
    at: Seconds = 0.0
    root: bool = True
    scope: tuple[Speaks, ...] = ()
    elsewhere: Rule = "may"
    pressed: Literal["remembered", "nothing"] = "remembered"
    taken: Literal["waits", "refused", "takes over"] = "waits"
    under: Literal["waits", "both play", "ends this"] = "waits"
    covered: Literal["goes on", "waits", "ends"] = "goes on"
    acts: Fraction = 0.5
    blend_in: Ticks = 4
    blend_out: Ticks = 8
    aim: Aim | None = None


class Grip(Value, frozen=True):
    """A hand that is kept on a mount over any mix, such as the other hand on a weapon.

    ``hand`` is its joint, or a mount on that (a palm); ``mount`` is where it is kept. It is so while an action on one
    of ``layers`` shows (none named: always), comes and goes over ``ticks``, and a hold of ``grip`` lets go.
    """

    hand: str
    mount: str
    weight: Fraction = 1.0
    layers: tuple[str, ...] = ()
    ticks: Ticks = 6
