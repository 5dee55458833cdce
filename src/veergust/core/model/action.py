"""Actions: sections of cuts, and every span that can stand on them."""

from __future__ import annotations

from typing import Literal

import msgspec

from veergust.core.model.base import (
    Amount,
    Condition,
    Count,
    Degrees,
    Factor,
    Fraction,
    Frame,
    Place,
    Rate,
    Seconds,
    Size,
    Speed,
    Ticks,
    Value,
)

Ease = Literal["linear", "smooth", "in", "out"]
KeyEase = Literal["even", "eased", "hold"]
ContactAsked = Literal["any", "hit", "guarded", "deflected", "none"]
Whom = Literal["everyone", "owner", "decider"]
Posture = Literal["", "standing", "ducking", "down"]
"""How a body stands as far as touching goes; empty where something else says it."""
TouchMoment = Literal["opens", "hit", "guarded", "deflected", "missed"]
Ink = Literal["", "plum", "green", "ochre", "indigo"]


class RootUse(Value, frozen=True):
    """Which parts of the root's travel move the body, and how much of each."""

    forward: bool = True
    side: bool = True
    up: bool = False
    turn: bool = True
    scale: Factor = 1.0


class Cut(Value, frozen=True):
    """A trimmed, timed, maybe mirrored piece of a clip; ``start`` and ``end`` in source seconds."""

    clip: str
    start: Seconds = msgspec.field(default=0.0, name="in")
    end: Seconds | None = msgspec.field(default=None, name="out")
    rate: Rate = 1.0
    mirror: bool = False
    blend: Ticks = 0


class Pin(Value, frozen=True):
    """What a span's edge keeps when its cut is retimed: the pose it marks, or its frame.

    ``source`` is the marked source time, kept so that retiming there and back does not drift; without one the
    edge marks the pose its tick shows.
    """

    to: Literal["pose", "frame"] = "pose"
    source: Seconds | None = None


class Span(Value, frozen=True):
    """Ticks ``[start, end)`` counted from the start of the section."""

    start: Frame
    end: Frame
    start_pin: Pin = Pin()
    end_pin: Pin = Pin()


class HitboxKey(Value, frozen=True):
    """A hitbox's place and size on a tick of its strike, and how it goes on to the next key: ``even``, ``eased`` in and
    out, or not before that one (``hold``). ``size`` are a box's half extents (none: in proportion to the radius)."""

    tick: Frame
    offset: Place
    to: Place
    radius: Size
    size: tuple[Size, Size, Size] | None = None
    ease: KeyEase = "even"


class Hitbox(Value, frozen=True):
    """A hitbox on a mount: sphere at ``offset``, capsule ``offset`` → ``to``, or box of half extents ``size``.

    What it touches first takes ``share`` times its strike's damage.
    """

    mount: str
    shape: Literal["sphere", "capsule", "box"] = "capsule"
    offset: Place = (0.0, 0.0, 0.0)
    to: Place = (0.0, 0.0, 0.0)
    radius: Size = 0.1
    size: tuple[Size, Size, Size] = (0.1, 0.1, 0.1)
    keys: tuple[HitboxKey, ...] = ()
    name: str = ""
    share: Factor = 1.0


class Outcome(Value, frozen=True):
    """What runs when a strike ``opens``, touches with a result, or closes without having touched anybody.

    It is the attacker's or the victim's, and the attacker's where there is none: an effect, a sound or a message at the
    place of the touch, or a parameter that is set to the number in ``payload`` (else to 1).
    """

    when: TouchMoment = "hit"
    whose: Literal["attacker", "victim"] = "victim"
    kind: Literal["effect", "sound", "message", "parameter"] = "effect"
    name: str = ""
    payload: str = ""


class Strike(Span, frozen=True):
    """Hitboxes open over the span, and what a touch does.

    ``knockback`` is to the side, up and forward (m/s): ``push`` says whether forward is the attacker's, away from it,
    or the way the hitbox goes. It slows by the ground's friction, or over ``push_ticks`` as ``push_ease`` says.
    ``victim_stop`` is the victim's own hit stop (None: that of both). For ``stun`` and ``guard_stun`` ticks the
    victim cannot act (None: as long as its reaction is). ``most`` bounds how often one victim is touched in an opening,
    ``group`` names strikes of an action that touch each victim once together, ``team`` says whom it touches.
    """

    name: str = "Strike"
    boxes: tuple[Hitbox, ...] = ()
    damage: Amount = 10.0
    knockback: Place = (0.0, 0.0, 2.0)
    hit_stop: Ticks = 4
    strength: str = "light"
    guard: Literal["any", "high", "low", "none"] = "any"
    poise: Amount = 10.0
    repeat: Ticks = 0
    victim_stop: Ticks | None = None
    stun: Ticks | None = None
    guard_stun: Ticks | None = None
    push: Literal["ahead", "away", "swing"] = "ahead"
    push_ticks: Ticks = 0
    push_ease: KeyEase = "even"
    most: Count = 0
    group: str = ""
    team: Literal["others", "own", "everybody"] = "others"
    runs: tuple[Outcome, ...] = ()


class Exit(Span, frozen=True):
    """The action may be left here: combo, cancel, or (with a condition and no command) break.

    ``buffer`` is for how many ticks a press counts (None: as the command or the project says).
    """

    kind: Literal["combo", "cancel", "break"] = "combo"
    command: str = ""
    sequence: tuple[str, ...] = ()
    to: str = ""
    to_kind: Literal["action", "tag", "pool", "ground"] = "action"
    section: str = ""
    contact: ContactAsked = "any"
    conditions: tuple[Condition, ...] = ()
    blend: Ticks = 4
    priority: Frame = 0
    early: bool = True
    buffer: Ticks | None = None


class Gate(Span, frozen=True):
    """From here the action may go on to another section when the conditions hold, faded in over ``blend`` ticks."""

    to: str = ""
    conditions: tuple[Condition, ...] = ()
    blend: Ticks = 0


class Setting(Value, frozen=True):
    """A setting of the character and its value while the whole action plays."""

    setting: str
    value: Amount = 0.0


class Hold(Span, frozen=True):
    """A setting of the character overridden over the span, released however the action ends."""

    setting: str = "feet"
    value: Amount = 0.0


class Drive(Span, frozen=True):
    """What moves the body over the span; ``scale`` multiplies it.

    ``turn`` is what it turns the body to, by at most ``turn_rate`` degrees a second: as usual (root motion as the
    clip turns, the stick with the stick), not, with the stick, or towards the target.
    """

    kind: Literal["root", "stick", "none", "ballistic"] = "root"
    scale: Factor = 1.0
    turn: Literal["usual", "not", "stick", "target"] = "usual"
    turn_rate: Speed = 360.0


class Shield(Span, frozen=True):
    """Protection over the span; no ``hurtboxes`` means the whole body.

    A guard is held at a ``height``, over an ``arc`` (degrees in all) about ``toward`` (degrees from its front, to the
    left above 0); it ``lets`` so much of the damage through, deflects on its first ``deflects`` ticks, and breaks when
    what it has stopped comes to ``strength`` in poise (0: never). Armour holds out against so much poise at a time.
    """

    kind: Literal["invulnerable", "armour", "guard"] = "invulnerable"
    hurtboxes: tuple[str, ...] = ()
    strength: Amount = 0.0
    height: Literal["any", "high", "low"] = "any"
    arc: Degrees = 90.0
    toward: Degrees = 0.0
    lets: Fraction = 0.0
    deflects: Ticks = 0


class Event(Value, frozen=True):
    """Something fired when play reaches ``tick``; a ``parameter`` is set to the number in ``payload`` (else to 1).

    Where several machines play, ``whom`` it is for: each, that of who plays the action, or the one that decides.
    """

    tick: Frame
    kind: Literal["effect", "sound", "spawn", "message", "parameter"] = "effect"
    name: str = ""
    mount: str = ""
    offset: Place = (0.0, 0.0, 0.0)
    facing: Literal["body", "mount", "world"] = "body"
    payload: str = ""
    whom: Whom = "everyone"
    pin: Pin = Pin()


class Section(Value, frozen=True):
    """A named run of cuts; ``then`` is a section's name, or ``end``. ``mark`` is an ink to find it by, ``posture`` how
    the body stands in it (empty: as locomotion says). ``identity`` stays when it is called otherwise (empty: its
    name)."""

    name: str
    cuts: tuple[Cut, ...] = ()
    then: str = "end"
    mark: Ink = ""
    posture: Posture = ""
    gates: tuple[Gate, ...] = ()
    strikes: tuple[Strike, ...] = ()
    exits: tuple[Exit, ...] = ()
    shields: tuple[Shield, ...] = ()
    holds: tuple[Hold, ...] = ()
    drives: tuple[Drive, ...] = ()
    events: tuple[Event, ...] = ()
    identity: str = ""


class StartRule(Value, frozen=True):
    """From locomotion: which commands start the action, in which states, how soon again (ticks).

    ``momentum`` says what becomes of the speed the body had: it fades out over the blend in, stops at once, or is
    kept.
    """

    commands: tuple[str, ...] = ()
    states: tuple[str, ...] = ()
    conditions: tuple[Condition, ...] = ()
    cooldown: Count = 0
    string_memory: Count = 0
    momentum: Literal["fade", "stop", "keep"] = "fade"


class Ending(Value, frozen=True):
    """What runs at a start or an ending: parameters to set, and a message (empty: none)."""

    parameters: tuple[Setting, ...] = ()
    message: str = ""


class Kept(Value, frozen=True):
    """An action as it was kept under a name, to be compared with and taken over; it has no kept ones itself."""

    name: str
    action: Action


class Action(Value, frozen=True):
    """A playable thing on a layer. The entry section is the first unless ``entry`` names another.

    ``exits``, ``shields`` and ``drives`` stand for the whole action, whatever their span; those of a section go
    before them. ``kept`` are its alternates; ``version`` is what the one that plays is called among them.
    ``identity`` stays when it is called otherwise (empty: its name).
    """

    name: str
    group: str = ""
    tags: tuple[str, ...] = ()
    layer: str = "Body"
    entry: str = ""
    sections: tuple[Section, ...] = ()
    start: StartRule = StartRule()
    root: RootUse = RootUse()
    holds: tuple[Setting, ...] = ()
    exits: tuple[Exit, ...] = ()
    shields: tuple[Shield, ...] = ()
    drives: tuple[Drive, ...] = ()
    speed: Rate = 1.0
    blend_in: Ticks = 4
    blend_out: Ticks = 8
    ease: Ease = "smooth"
    on_start: Ending = Ending()
    on_completed: Ending = Ending()
    on_cancelled: Ending = Ending()
    on_broken: Ending = Ending()
    version: str = "first"
    kept: tuple[Kept, ...] = ()
    identity: str = ""


class PoolItem(Value, frozen=True):
    """One choice of a pool."""

    name: str
    weight: Amount = 1.0


class Pool(Value, frozen=True):
    """A weighted set of actions to pick from; none of the last ``apart`` picks comes again.

    Each of its ``commands`` starts one of them from locomotion.
    """

    name: str
    items: tuple[PoolItem, ...] = ()
    apart: Count = 1
    commands: tuple[str, ...] = ()
