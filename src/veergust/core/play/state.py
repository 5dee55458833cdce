"""The state of a fighter between two ticks. Every part is immutable, so a shallow copy keeps a tick."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from copy import copy
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any, Literal, NamedTuple

import msgspec
import numpy as np

from veergust.core.kinds import Vector
from veergust.core.model import Ending
from veergust.core.model import Fighter as FighterSetup
from veergust.core.motion import Array, Pose
from veergust.core.play.aftermath import Shove, SoFar, Swinging
from veergust.core.play.compiled.action import CompiledAction
from veergust.core.play.compiled.section import CompiledSection
from veergust.core.play.fired import Fired
from veergust.core.play.gazing import AHEAD, Gaze
from veergust.core.play.hands import STILL, Hands, Press
from veergust.core.play.pose.footholds import NO_FOOTING, Footing

Values = tuple[tuple[str, float], ...]
"""Parameters or measures by name."""
NOWHERE: Vector = (0.0, 0.0, 0.0)
EndKind = Literal["completed", "cancelled", "broken", "out of scope"]


@dataclass(frozen=True)
class Input:
    """One input on a tick: a command pressed or let go, or the stick (``axis`` ``move``, world x and z).

    ``action`` asks for an action by name, whatever its start rule says, from ``section`` on (its entry when empty);
    ``parameter`` is set to ``number``; the measure or parameter ``by_hand`` is held at it, or let go (None).
    """

    fighter: str
    command: str = ""
    press: bool = True
    axis: str = ""
    value: tuple[float, float] = (0.0, 0.0)
    action: str = ""
    section: str = ""
    parameter: str = ""
    by_hand: str = ""
    number: float | None = 0.0


@dataclass(frozen=True, eq=False)
class Going:
    """A section that was left and fades out under the next: its tick, how far the fade has come, its joints' way."""

    section: int
    tick: int
    blend: int
    age: int = 0
    way: Array | None = None


@dataclass(frozen=True)
class Waiting:
    """Presses made inside an exit that does not count early ones (the last first), kept until what the exit asks for
    comes."""

    section: int
    exit: int
    presses: tuple[Press, ...]


class Voice(msgspec.Struct, frozen=True, eq=False):
    """An action playing on a layer. ``ended`` is set once it has ended and only fades out; ``covered`` is the
    ``serial`` of another on its layer that fades in over it, so that it need not fade on its own (0: none).

    ``age`` counts its own ticks; ``told`` is whether the events of its frame have fired, ``looked`` whether the
    gates of its first frame were asked, ``serial`` its number among the fighter's starts; ``touched`` and ``evaded``
    are (section, strike, victim, age); ``going`` are the sections it comes from, while they fade, ``way``
    which way round its joints go from what is under it, ``reference`` the pose it adds to where that is locomotion's
    when it started; it ``waits`` while one above speaks for all its joints and its layer says so. ``so_far`` is what
    it has touched in all, and it ``reacts`` where a touch started it.
    """

    compiled: CompiledAction
    section: int
    frame: int = 0
    age: int = 0
    laps: int = 0
    blend: int = 0
    ended: EndKind | None = None
    faded: int = 0
    covered: int = 0
    contact: str = "none"
    touched: tuple[tuple[int, int, str, int], ...] = ()
    evaded: tuple[tuple[int, int, str, int], ...] = ()
    goto: int | None = None
    goto_blend: int = 0
    going: tuple[Going, ...] = ()
    waiting: tuple[Waiting, ...] = ()
    told: bool = False
    looked: bool = False
    serial: int = 0
    way: Array | None = None
    last: bool = False
    reference: Pose | None = None
    waits: bool = False
    so_far: SoFar = SoFar()
    reacts: bool = False

    def but(self, **fields: Any) -> Voice:
        """It with other fields."""
        return msgspec.structs.replace(self, **fields)

    @property
    def layer(self) -> str:
        """The layer it plays on."""
        return self.compiled.action.layer

    @property
    def part(self) -> CompiledSection:
        """The compiled section it is in."""
        return self.compiled.sections[self.section]

    @property
    def live(self) -> bool:
        """Whether it still plays."""
        return self.ended is None


class LocomotionVoice(NamedTuple):
    """A locomotion state being played: its phase in cycles, how far its crossfade has come, and where among its points
    a blend stands (None: where the body is)."""

    state: str
    phase: float = 0.0
    age: int = 0
    blend: int = 0
    ease: str = "smooth"
    at: tuple[float, ...] | None = None


@dataclass(frozen=True)
class Taken:
    """A transition of locomotion that was taken: when, its place among all, and from which state to which."""

    tick: int
    place: int
    start: str
    to: str


@dataclass(frozen=True)
class Ended:
    """The last action that ended on its own: its name, when, and what it had touched, for string memory."""

    action: str
    tick: int
    contact: str = "none"


Weighed = tuple[tuple[Voice, ...], Values, Values, tuple[float, ...]]
"""The actions, parameters and what is held by hand, and how much each action shows by them."""
NOT_WEIGHED: Weighed = ((), (), (), ())


class FighterState(msgspec.Struct, eq=False):
    """Everything a fighter carries from tick to tick.

    ``velocity`` is what locomotion gives the body (m/s; its height by gravity), ``knock`` what hits gave it, ``went``
    how fast it went over the floor by its own doing. ``left`` is how much of the body actions left to locomotion on
    the last tick, ``steered`` whether the stick had a say, ``adrift`` that an action let go of it just now.

    ``fresh`` is what was pressed since the last tick that was played, hit stop before this one and all. ``memory`` has
    the last action that came to its end on each layer.

    ``turning`` is how fast it turned (degrees/s), ``wanted`` how fast the stick wants it to go (m/s), ``above`` how
    high (m) it is over the floor below, ``off_floor`` for how many ticks it has had none, ``jumping`` that it has
    jumped, ``rose`` ticks ago, ``leapt`` that locomotion had something else to do then and has not looked at it yet.
    ``last_in`` are the states last left of each group, ``taken`` the last transitions, ``endings`` how actions ended
    since locomotion last looked, ``by_hand`` measures that the tester holds, ``footing`` is where its feet stand,
    ``shown`` how much of what its mask lets it each of ``voices`` showed, ``sees`` where the head of its target is,
    ``gaze`` how it is looked at, ``aims`` how each aim points, ``grips`` how much of each hand is kept where it is to
    be. ``held_by`` and ``weighed`` keep what was last asked of ``voices``: what they override, how much each shows.

    It cannot act for ``stun`` ticks more, and ``reels`` meanwhile with the reaction of that serial; ``strung`` counts
    the hits since it could. ``poise`` is what it still holds out against, ``worn`` what its guard has taken, ``rested``
    for how many ticks neither was touched. ``posture`` is how it stands as far as touching goes, ``shove`` a push over
    its own ticks, ``swinging`` its open strikes that wait for somebody, ``came`` what touches let go off on this tick,
    ``hands`` what was done with keys and stick of late, ``spent`` the presses that were used up on this tick.
    """

    setup: FighterSetup
    position: Array
    facing: float
    locomotion: tuple[LocomotionVoice, ...]
    voices: tuple[Voice, ...] = ()
    shown: tuple[float, ...] = ()
    velocity: Vector = NOWHERE
    knock: Vector = NOWHERE
    went: Vector = NOWHERE
    left: float = 1.0
    steered: bool = True
    adrift: bool = False
    starts: int = 0
    blocked: bool = False
    grounded: bool = True
    turning: float = 0.0
    wanted: float = 0.0
    above: float = 0.0
    off_floor: int = 0
    jumping: bool = False
    rose: int = 0
    leapt: bool = False
    last_in: tuple[tuple[str, str], ...] = ()
    taken: tuple[Taken, ...] = ()
    endings: tuple[str, ...] = ()
    by_hand: Values = ()
    footing: Footing = NO_FOOTING
    sees: tuple[float, float, float] | None = None
    gaze: Gaze = AHEAD
    aims: tuple[Gaze, ...] = ()
    grips: tuple[float, ...] = ()
    health: float = 100.0
    down: bool = False
    frozen: int = 0
    posture: str = "standing"
    stun: int = 0
    reels: int = 0
    strung: int = 0
    poise: float = 0.0
    worn: float = 0.0
    rested: int = 0
    shove: Shove | None = None
    swinging: tuple[Swinging, ...] = ()
    came: tuple[Fired, ...] = ()
    stick: tuple[float, float] = (0.0, 0.0)
    hands: Hands = STILL
    held: tuple[str, ...] = ()
    pressed: tuple[str, ...] = ()
    fresh: tuple[str, ...] = ()
    let_go: tuple[str, ...] = ()
    buffer: tuple[Press, ...] = ()
    spent: tuple[tuple[str, int], ...] = ()
    history: tuple[Press, ...] = ()
    asked: tuple[str, str] = ("", "")
    said: tuple[str, ...] = ()
    cooldowns: tuple[tuple[str, int], ...] = ()
    picks: tuple[tuple[str, tuple[str, ...]], ...] = ()
    parameters: Values = ()
    memory: tuple[tuple[str, Ended], ...] = ()
    advanced: bool = False
    pose: Pose | None = None
    joints: Array | None = None
    joints_before: Array | None = None
    frame_before: tuple[Array, float] | None = None
    open_spans: tuple[tuple[int, str], ...] = ()
    held_by: tuple[tuple[Voice, ...], Mapping[str, float]] = ((), {})
    weighed: Weighed = NOT_WEIGHED

    @property
    def name(self) -> str:
        """The fighter's name."""
        return self.setup.name

    def copy(self) -> FighterState:
        """A copy to keep; shares every part."""
        return copy(self)

    def slim(self) -> FighterState:
        """A copy to keep for long, without what can be worked out again."""
        out = self.copy()
        out.pose = out.joints = out.joints_before = None
        out.held_by, out.weighed = ((), {}), NOT_WEIGHED
        return out

    @property
    def reeling(self) -> bool:
        """Whether a touch keeps it from acting."""
        return self.stun > 0 or any(v.reacts and v.ended is None for v in self.voices)

    @property
    def joints_now(self) -> Array:
        """Joint matrices ``[J, 4, 4]`` in the body's frame; none before the first pose."""
        return np.zeros((0, 4, 4)) if self.joints is None else self.joints

    def live(self) -> list[Voice]:
        """Actions that still play, bottom layer first."""
        return [voice for voice in self.voices if voice.ended is None]

    def acting(self) -> list[Voice]:
        """Actions that still play and do not wait, bottom layer first."""
        return [voice for voice in self.voices if voice.ended is None and not voice.waits]

    def put(self, old: Voice, new: Voice) -> None:
        """Replace one voice."""
        self.voices = tuple([new if v is old else v for v in self.voices])

    def playing(self) -> tuple[str, ...]:
        """The names of the actions that play."""
        return tuple([v.compiled.action.name for v in self.voices if v.ended is None])

    def parameter(self, name: str) -> float:
        """A parameter's value, as the tester holds it where it is held by hand; 0 where never set."""
        return (dict(self.parameters) | dict(self.by_hand)).get(name, 0.0)

    def forget(self, names: tuple[str, ...]) -> None:
        """Take parameters away that count for a moment only."""
        if names:
            self.parameters = tuple(p for p in self.parameters if p[0] not in names)

    def set_parameter(self, name: str, value: float) -> None:
        """Set a parameter."""
        self.parameters = tuple(sorted((dict(self.parameters) | {name: value}).items()))

    def recent(self, pool: str) -> tuple[str, ...]:
        """What was last picked from a pool, the newest last."""
        return dict(self.picks).get(pool, ())

    def picked(self, pool: str, name: str, apart: int) -> None:
        """Remember what was picked from a pool, as far back as its last ``apart`` picks."""
        last = (*self.recent(pool), name)[-max(apart, 1) :]
        self.picks = tuple(sorted((dict(self.picks) | {pool: last}).items()))

    def holding(self) -> Mapping[str, float]:
        """Settings overridden now: those of every live action, and of its holds on this frame.

        They are read off what is playing, anew whenever that is another, so nothing can be left behind by an ending.
        """
        if not self.voices:
            return NOTHING_HELD
        if self.held_by[0] is self.voices:
            return self.held_by[1]
        out: dict[str, float] = {}
        for voice in self.voices:
            if voice.ended is not None or voice.waits:
                continue
            for setting in voice.compiled.action.holds:
                out[setting.setting] = setting.value
            for start, end, name, value in voice.compiled.sections[voice.section].held:
                if start <= voice.frame < end:
                    out[name] = value
        self.held_by = (self.voices, out)
        return out


NOTHING_HELD: Mapping[str, float] = MappingProxyType({})


def end(fighter: FighterState, voice: Voice, kind: EndKind) -> None:
    """End an action: it stops speaking at once and only its pose fades out."""
    fighter.put(voice, voice.but(ended=kind, goto=None))
    fighter.endings = (*fighter.endings, kind)
    fighter.adrift = True
    action = voice.compiled.action
    ending = {
        "completed": action.on_completed,
        "cancelled": action.on_cancelled,
        "broken": action.on_broken,
        "out of scope": action.on_broken,
    }[kind]
    run_ending(fighter, ending)


def use(fighter: FighterState, presses: Iterable[Press]) -> None:
    """Use presses up: each starts one thing, and what waited with it for something else waits no more."""
    marks = {p.mark for p in presses}
    if not marks:
        return
    fighter.spent = (*fighter.spent, *sorted(marks))
    fighter.buffer = tuple(p for p in fighter.buffer if p.mark not in marks)
    fighter.history = tuple(p for p in fighter.history if p.mark not in marks)
    for voice in fighter.voices:
        if any(p.mark in marks for w in voice.waiting for p in w.presses):
            left = tuple(w for w in voice.waiting if not any(p.mark in marks for p in w.presses))
            fighter.put(voice, voice.but(waiting=left))


def go_on(fighter: FighterState) -> None:
    """Locomotion takes the body over with the speed it had, whatever gave it."""
    fighter.velocity = (fighter.went[0], fighter.velocity[1], fighter.went[2])
    fighter.left, fighter.adrift = 1.0, False


def run_ending(fighter: FighterState, ending: Ending) -> None:
    """Do what is attached to a start or an ending: set its parameters, and say its message with the tick's events."""
    for setting in ending.parameters:
        fighter.set_parameter(setting.setting, setting.value)
    if ending.message:
        fighter.said = (*fighter.said, ending.message)
