"""Clips: what is taken from a source file, how it is prepared, and poses keyed by hand."""

from __future__ import annotations

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from veergust.core.model.action import RootUse
from veergust.core.model.base import Degrees, Hertz, Magnification, Metres, Place, Rate, Seconds, Turn, Value

Unit = Annotated[float, Meta(ge=-2, le=2)]
Quat = tuple[Unit, Unit, Unit, Unit]
PoseEase = Literal["linear", "smooth", "in", "out", "hold"]


class PoseKey(Value, frozen=True):
    """A pose at ``time`` (source seconds), as what is added to what lies under it.

    ``turns`` are local rotations (x, y, z, w) that follow the joint's own, ``places`` shifts of its local place (m);
    joints not listed stay as they are. ``ease`` shapes the way to the next key; ``hold`` stays until it.
    """

    time: Seconds
    ease: PoseEase = "smooth"
    turns: tuple[tuple[str, Quat], ...] = ()
    places: tuple[tuple[str, Place], ...] = ()


class FootSpan(Value, frozen=True):
    """A foot on the floor from ``start`` to ``end`` (source seconds)."""

    joint: str
    start: Seconds
    end: Seconds


class Mark(Value, frozen=True):
    """A place in a source to find again (source seconds), with a word for it."""

    time: Seconds
    name: str = ""


class Clean(Value, frozen=True):
    """How a take is cleaned, laid over its source: what is faster than so much is taken out of ``trunk``, ``arms`` and
    ``legs`` (Hz; 0: nothing); the figure is lifted by ``floor``; ``feet`` that stand are kept from sliding, blended in
    and out over ``feet_blend``; the joint ``hand`` is kept to the joint ``to``, which holds the weapon."""

    trunk: Hertz = 0.0
    arms: Hertz = 0.0
    legs: Hertz = 0.0
    floor: Metres = 0.0
    feet: bool = False
    feet_blend: Annotated[float, Meta(ge=0, le=2)] = 0.1
    hand: str = ""
    to: str = ""


class Clip(Value, frozen=True):
    """A clip and its preparation; the source file is never touched. Times in source seconds.

    Where it is mirrored, here or in a cut, and ``swaps``, what hangs on one hand alone, such as a weapon, goes to the
    other. ``reverse`` plays it from out to in.

    ``root`` says what of the travel of ``root_joint`` moves the body (empty: the rig's root, else its hips); the hips'
    way is averaged over ``smooth`` seconds (standard deviation of a Gaussian), and ``forward`` (degrees about +Y) is
    how far the body's ahead lies from where that joint looks.
    ``in_place`` takes the travel out of the pose and moves nobody. ``contacts`` are
    the feet on the floor as the person set them; None: as they are found. ``poses`` lie over the source; with no
    file they lie over the rest pose, and the clip is a rough one made of them. ``identity`` stays when it is called
    otherwise (empty: its name).
    """

    name: str
    file: str = ""
    animation: str = ""
    start: Seconds = msgspec.field(default=0.0, name="in")
    end: Seconds | None = msgspec.field(default=None, name="out")
    rate: Rate = 1.0
    mirror: bool = False
    swaps: bool = False
    reverse: bool = False
    loop: bool = False
    root: RootUse = RootUse()
    root_joint: str = ""
    smooth: Annotated[float, Meta(ge=0, le=10)] = 0.2
    forward: Degrees = 0.0
    in_place: bool = False
    contacts: tuple[FootSpan, ...] | None = None
    poses: tuple[PoseKey, ...] = ()
    tags: tuple[str, ...] = ()
    marks: tuple[Mark, ...] = ()
    clean: Clean = Clean()
    identity: str = ""


class SourceRig(Value, frozen=True):
    """How a foreign skeleton, known by its ``fingerprint``, answers to the figure's.

    ``joints`` are pairs (its joint, the figure's). ``turn`` (x, y, z degrees about fixed axes) stands it upright on
    +Y looking along +Z; ``scale`` is metres of the figure's travel for one of its units. ``plant`` keeps feet that
    stand in the source standing.
    """

    fingerprint: str
    name: str = ""
    joints: tuple[tuple[str, str], ...] = ()
    turn: Turn = (0.0, 0.0, 0.0)
    scale: Magnification = 1.0
    plant: bool = True
