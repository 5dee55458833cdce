"""The figure's own data beside its skeleton: mounts, hurtboxes, body capsule, weapon."""

from __future__ import annotations

from typing import Literal

from veergust.core.model.base import Factor, Magnification, Place, Size, Turn, Value


class Mount(Value, frozen=True):
    """A named point on a joint; ``offset`` in the joint's frame (m), ``turn`` as x, y, z angles (degrees)."""

    name: str
    joint: str
    offset: Place = (0.0, 0.0, 0.0)
    turn: Turn = (0.0, 0.0, 0.0)


class Hurtbox(Value, frozen=True):
    """A capsule on a joint, or on a mount, from ``offset`` to ``to`` (in its frame, m; equal ends make a sphere), or a
    box of half extents ``size`` about ``offset``. ``region`` names the part of the body it belongs to, ``postures`` in
    which it is there (none: in all).

    With ``spans`` it is a box along the body's axes from its joint to that one, as large as they are apart up and
    ahead, and ``radius`` deep to either side; where the two lie on each other it is not there."""

    name: str
    joint: str
    offset: Place = (0.0, 0.0, 0.0)
    to: Place = (0.0, 0.0, 0.0)
    radius: Size = 0.1
    region: str = ""
    postures: tuple[Literal["standing", "ducking", "down"], ...] = ()
    size: tuple[Size, Size, Size] | None = None
    spans: str = ""


class Region(Value, frozen=True):
    """A part of the body, and how many times a strike's damage it takes."""

    name: str
    factor: Factor = 1.0


class Capsule(Value, frozen=True):
    """The body for collision with the stage: standing on the floor at the body's position."""

    radius: Size = 0.3
    height: Size = 1.75


class Weapon(Value, frozen=True):
    """The line from base to tip, both mounts, whose sweep is drawn and measured."""

    base: str
    tip: str
    radius: Size = 0.03


class Prop(Value, frozen=True):
    """A glTF mesh in the project folder carried on a mount: ``offset`` (m) and ``turn`` (x, y, z degrees) there."""

    name: str
    file: str
    mount: str
    offset: Place = (0.0, 0.0, 0.0)
    turn: Turn = (0.0, 0.0, 0.0)
    scale: Magnification = 1.0


class Rig(Value, frozen=True):
    """What belongs to the skeleton in ``figure`` (a motion file in the project folder).

    ``root`` names the joint whose travel moves the body; empty means the hips projected to the floor. The figure's
    file is made ``unit`` times as large (metres for one of its units) and turned by ``turn`` (x, y, z degrees).
    ``sheets`` are those of a figure that is drawn, in the order by which poses name them.
    """

    figure: str = ""
    unit: Magnification = 1.0
    turn: Turn = (0.0, 0.0, 0.0)
    root: str = ""
    hips: str = ""
    mounts: tuple[Mount, ...] = ()
    hurtboxes: tuple[Hurtbox, ...] = ()
    regions: tuple[Region, ...] = ()
    capsule: Capsule = Capsule()
    weapon: Weapon | None = None
    props: tuple[Prop, ...] = ()
    sheets: tuple[str, ...] = ()
