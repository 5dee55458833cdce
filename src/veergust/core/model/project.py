"""The whole project as one value."""

from __future__ import annotations

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from veergust.core.model.action import Action, Pool
from veergust.core.model.base import Amount, Condition, Count, Fraction, Metres, Ticks, Value
from veergust.core.model.clip import Clip, SourceRig
from veergust.core.model.command import Command
from veergust.core.model.layers import Grip, Layer, Mask
from veergust.core.model.locomotion import Locomotion
from veergust.core.model.rig import Rig
from veergust.core.model.stage import Stage
from veergust.core.model.thrown import Thrown

SCHEMA = 3


Situation = Literal[
    "any", "standing", "ducking", "down", "air", "guarding", "guard broken", "deflecting", "deflected", "last"
]
"""How somebody stood when it was touched, or what came of it."""


class Reaction(Value, frozen=True):
    """A row of the reaction table; the first row that fits is played. A side between two straight ones is the eighth
    of the victim that lies there.

    A row may ask for more: for the ``region`` that was touched, that the attacker stands between ``near`` and ``far``
    (m; None: however far), and for conditions of whoever reacts. ``action`` may name a pool.
    """

    action: str
    side: Literal["any", "front", "back", "left", "right", "front left", "front right", "back left", "back right"] = (
        "any"
    )
    strength: str = "any"
    situation: Situation = "any"
    section: str = ""
    region: str = "any"
    near: Metres = 0.0
    far: Metres | None = None
    conditions: tuple[Condition, ...] = ()

    @property
    def plain(self) -> bool:
        """Whether it asks for no more than side, strength and situation."""
        return self.region == "any" and self.near <= 0.0 and self.far is None and not self.conditions


class DrillStep(Value, frozen=True):
    """One scripted input: a command, the stick, an action by name, whatever starts it, begun at ``section``, or a
    parameter of locomotion set to ``number``."""

    tick: Count
    fighter: str
    command: str = ""
    action: str = ""
    section: str = msgspec.field(default="", name="from")
    press: bool = True
    axis: str = ""
    value: tuple[Metres, Metres] = (0.0, 0.0)
    parameter: str = ""
    number: Amount = 1.0


class Expectation(Value, frozen=True):
    """What must be so: by ``tick`` at the latest (from ``since`` on), ``fighter`` plays, touches or stands so, or a
    ``measure`` of it lies between ``low`` and ``high``: how far the nearest other is, how far it has come (m), or
    its health."""

    fighter: str
    tick: Count
    since: Count = 0
    action: str = ""
    locomotion: str = msgspec.field(default="", name="ground")
    contact: Literal["", "hit", "guarded", "deflected", "armoured", "evaded"] = ""
    victim: str = ""
    event: str = ""
    never: bool = False
    measure: Literal["", "distance", "travel", "health"] = ""
    low: Amount = 0.0
    high: Amount = 0.0


class DrillRange(Value, frozen=True):
    """Over what a drill must hold: with everybody else so far (m) from whom it begins with, on the line between them,
    or with its last press so many ticks later; from ``low`` to ``high``, every ``step``."""

    what: Literal["distance", "press"] = "distance"
    low: Metres = 1.0
    high: Metres = 1.0
    step: Annotated[float, Meta(ge=0.01, le=1000)] = 0.1


class TakeLine(Value, frozen=True):
    """One thing that came of a take, in words, and the tick of it."""

    tick: Count
    says: str


class Drill(Value, frozen=True):
    """A scripted input with what it must lead to, also ``over`` ranges."""

    name: str
    ticks: Annotated[int, Meta(ge=0, le=36_000)] = 120
    seed: Annotated[int, Meta(ge=-(2**53), le=2**53)] = 1
    steps: tuple[DrillStep, ...] = ()
    expect: tuple[Expectation, ...] = ()
    over: tuple[DrillRange, ...] = ()
    stage: str = ""
    """Where it is played; empty: on the stage that is shown."""
    came: tuple[TakeLine, ...] = ()
    """What it came to when that was last kept."""


class KeptTake(Value, frozen=True):
    """What was given in a bout of so many ``ticks``, under a name: it can be played again, and on from any frame.

    ``came`` is what it came to when it was kept, so that what an edit made otherwise can be told.
    """

    name: str
    ticks: Annotated[int, Meta(ge=0, le=1_000_000)] = 0
    seed: Annotated[int, Meta(ge=-(2**53), le=2**53)] = 1
    stage: str = ""
    steps: tuple[DrillStep, ...] = ()
    came: tuple[TakeLine, ...] = ()


class Scaling(Value, frozen=True):
    """What the second and each further touch of one string counts of the one before, in damage and in stun, down to
    ``least`` of it. 1 is all of it."""

    damage: Fraction = 1.0
    stun: Fraction = 1.0
    least: Fraction = 0.1


class Settings(Value, frozen=True):
    """Numbers of the whole project: ticks a second, how long a press is remembered (ticks), and what the touches of a
    string come to."""

    rate: Annotated[int, Meta(ge=1, le=1000)] = 60
    buffer: Ticks = 8
    scaling: Scaling = Scaling()


class Project(Value, frozen=True):
    """Everything the person has made. A value: an edit makes a new one."""

    name: str = "Untitled"
    schema: int = SCHEMA
    settings: Settings = Settings()
    rig: Rig = Rig()
    clips: tuple[Clip, ...] = ()
    sources: tuple[SourceRig, ...] = ()
    locomotion: Locomotion = msgspec.field(default=Locomotion(), name="ground")
    layers: tuple[Layer, ...] = (Layer(name="Body"),)
    masks: tuple[Mask, ...] = ()
    grips: tuple[Grip, ...] = ()
    commands: tuple[Command, ...] = ()
    actions: tuple[Action, ...] = ()
    pools: tuple[Pool, ...] = ()
    reactions: tuple[Reaction, ...] = ()
    thrown: tuple[Thrown, ...] = ()
    stage: Stage = Stage()
    stages: tuple[Stage, ...] = ()
    """The other stages; ``stage`` is the one that is shown."""
    drills: tuple[Drill, ...] = ()
    takes: tuple[KeptTake, ...] = ()
    known_events: tuple[str, ...] = ()
