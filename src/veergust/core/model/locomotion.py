"""Locomotion as a state chart: states and groups of them, the transitions between, parameters, and what corrects it."""

from __future__ import annotations

from typing import Literal

from veergust.core.model.base import Amount, Condition, Count, Degrees, Factor, Fraction, Size, Speed, Ticks, Value

ANYWHERE = "*"
"""Where a transition starts that may be taken from every state."""


class BlendPoint(Value, frozen=True):
    """A clip of a blend, and where among what it is blended over it is seen alone: one number, or two."""

    clip: str
    at: tuple[Amount, ...] = (0.0,)


class State(Value, frozen=True):
    """One state: a clip, a blend over one or two measures or parameters, and maybe an action that it runs.

    ``plays`` says how a clip goes on: as it was prepared, in a loop, once, or held on its last pose. ``over`` names
    what a blend is blended over. ``matched`` is the speed (m/s) at which a clip's feet stand: it is played as fast as
    the body goes. ``turns`` says what the body turns to, ``most`` the greatest speed here (m/s; 0: the run's), and
    ``posture`` how one who is touched here stands.
    """

    name: str
    group: str = ""
    clip: str = ""
    plays: Literal["clip", "loop", "once", "hold"] = "clip"
    blend: tuple[BlendPoint, ...] = ()
    over: tuple[str, ...] = ("speed",)
    matched: Speed = 0.0
    action: str = ""
    band: Literal["floor", "guard", "air"] = "floor"
    turns: Literal["stick", "target", "not"] = "stick"
    most: Speed = 0.0
    posture: Literal["standing", "ducking", "down"] = "standing"


class Choice(Value, frozen=True):
    """A member of a group that may be entered: at a parameter's ``value``, or by ``weight`` from a pool."""

    state: str
    value: Amount = 0.0
    weight: Factor = 1.0


class Group(Value, frozen=True):
    """States (and groups) that belong together, and how it is entered: at its ``default`` (its first, when none is
    named), at the one last left, by a parameter's value, or from a pool, not one of the last ``apart`` picks."""

    name: str
    group: str = ""
    enters: Literal["default", "last", "parameter", "pool"] = "default"
    default: str = ""
    parameter: str = ""
    choices: tuple[Choice, ...] = ()
    apart: Count = 1


class Transition(Value, frozen=True):
    """From a state, a group or anywhere (``*``) to a state or group when all conditions hold, over ``ticks``.

    ``enters`` says where the entered clip begins: as usual (moving states hand their phase on), at its start, in the
    same phase, or where the same foot is in front.
    """

    start: str
    to: str
    conditions: tuple[Condition, ...] = ()
    ticks: Ticks = 8
    ease: Literal["linear", "smooth", "in", "out"] = "smooth"
    enters: Literal["usual", "start", "phase", "foot"] = "usual"


class Parameter(Value, frozen=True):
    """A number that actions, events and the tester set and that locomotion asks for.

    A momentary one is true for the tick it is set in, and used up by the first transition that asks for it.
    """

    name: str
    kind: Literal["number", "whole", "yes or no", "momentary"] = "number"
    low: Amount = 0.0
    high: Amount = 1.0
    default: Amount = 0.0


class Jump(Value, frozen=True):
    """Jumping: the command (none: nobody jumps), how high (m) a held press and a tap go, for how many ticks a press
    may be held, how late after an edge and how early before landing it counts (ticks)."""

    command: str = ""
    height: Size = 1.1
    tap: Size = 0.5
    held: Ticks = 14
    late: Ticks = 6
    early: Ticks = 6


class FeetToFloor(Value, frozen=True):
    """Feet laid on the floor under them: by how much, in which states (none named: all), eased over ``ticks``.

    ``raises`` and ``drops`` bound how far (m) a foot goes up or the pelvis down; ``turns`` the foot's tilt (degrees).
    """

    weight: Fraction = 0.0
    states: tuple[str, ...] = ()
    ticks: Ticks = 8
    raises: Size = 0.3
    drops: Size = 0.3
    turns: Degrees = 35.0


class JointShare(Value, frozen=True):
    """How much of a turn a joint takes upon itself."""

    joint: str
    share: Fraction = 1.0


class Look(Value, frozen=True):
    """A chain of joints turned towards the target: their shares, how far at most to a side and up or down (degrees),
    how fast (degrees/s), by how much, and in which states (none named: all)."""

    weight: Fraction = 0.0
    joints: tuple[JointShare, ...] = ()
    side: Degrees = 70.0
    up: Degrees = 40.0
    rate: Speed = 360.0
    states: tuple[str, ...] = ()
    ticks: Ticks = 8


class Locomotion(Value, frozen=True):
    """The state chart under the actions, and how the stick moves the body (m/s, m/s², degrees/s).

    0 stands for *as the other*: braking as acceleration, turning on the spot as turning, falling as gravity.
    ``air_control`` is how much of the acceleration the stick has without a floor.
    """

    entry: str = ""
    states: tuple[State, ...] = ()
    groups: tuple[Group, ...] = ()
    transitions: tuple[Transition, ...] = ()
    parameters: tuple[Parameter, ...] = ()
    walk_speed: Speed = 1.4
    run_speed: Speed = 4.4
    acceleration: Speed = 18.0
    braking: Speed = 0.0
    turn_rate: Speed = 720.0
    spot_turn_rate: Speed = 0.0
    gravity: Factor = 9.81
    falling: Factor = 0.0
    air_control: Fraction = 0.15
    friction: Speed = 9.0
    jump: Jump = Jump()
    feet: FeetToFloor = FeetToFloor()
    look: Look = Look()
