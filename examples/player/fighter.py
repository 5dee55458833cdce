"""What is kept of a fighter from tick to tick."""

from __future__ import annotations

from collections.abc import Iterable
from copy import copy
from math import atan2, cos, degrees, hypot, radians, sin
from typing import Any, NamedTuple

from player.export import Action, Export, Section
from player.feet import Foot
from player.figure import Placed
from player.gaze import AHEAD, Gaze
from player.glb import Pose
from player.hands import Hands, Press
from player.turns import NOWHERE, Turn, Vector

Json = dict[str, Any]
Way = list[Turn]
"""Which way round each joint goes from one pose to another."""


class Going:
    """A section that was left and fades out under the next."""

    def __init__(self, section: int, tick: int, blend: int) -> None:
        self.section, self.tick, self.blend = section, tick, blend
        self.age = 0
        self.way: Way | None = None


class Playing:
    """An action that plays, or that has ended and fades out."""

    def __init__(self, action: Action, section: int, blend: int, serial: int) -> None:
        self.action, self.section, self.blend, self.serial = action, section, blend, serial
        self.frame = self.age = self.laps = self.faded = self.covered = 0
        self.ended = ""
        self.contact = "none"
        self.touched: list[tuple[int, int, str, int]] = []
        """(section, strike, victim, age) of its touches in this pass."""
        self.evaded: list[tuple[int, int, str]] = []
        self.goto: int | None = None
        self.goto_blend = 0
        self.going: list[Going] = []
        self.waiting: dict[tuple[int, int], tuple[Press, ...]] = {}
        """(section, exit) → presses that were made inside it and wait."""
        self.told = self.looked = self.last = self.waits = self.reacts = False
        self.way: Way | None = None
        self.reference: Pose | None = None
        self.touches = 0
        self.regions: set[str] = set()
        self.strengths: set[str] = set()
        self.groups: set[tuple[str, str]] = set()

    @property
    def layer(self) -> str:
        return self.action.layer

    @property
    def part(self) -> Section:
        return self.action.sections[self.section]


class Step(NamedTuple):
    """A state of locomotion that shows: its phase, how far its fade has come, where a blend stands."""

    state: str
    phase: float = 0.0
    age: int = 0
    blend: int = 0
    ease: str = "smooth"
    at: tuple[float, ...] | None = None


class Shove(NamedTuple):
    """A push over its own ticks."""

    velocity: Vector
    ticks: int
    ease: str
    age: int = 0

    def now(self) -> Vector:
        part = self.age / self.ticks
        left = {"hold": 1.0, "even": 1.0 - part, "eased": 1.0 - part * part * (3.0 - 2.0 * part)}[self.ease]
        return self.velocity[0] * left, self.velocity[1] * left, self.velocity[2] * left


class Swinging:
    """An open strike that runs something, and whether it has touched anybody."""

    def __init__(self, serial: int, label: str, row: Json, met: bool) -> None:
        self.serial, self.label, self.row, self.met = serial, label, row, met


class Seen(NamedTuple):
    """A fighter as it stood when the tick began."""

    name: str
    position: Vector
    grounded: bool
    posture: str
    reeling: bool
    down: bool


class Fighter:
    """A fighter of the stage."""

    def __init__(self, row: Json, export: Export) -> None:
        self.row, self.export = row, export
        self.name: str = row["name"]
        self.home = export.axes.place(row["position"])
        self.position, self.facing = self.home, float(row["facing"])
        self.steps = [Step(export.chart.entry)]
        self.playing: list[Playing] = []
        self.health, self.poise = float(row["health"]), float(row["poise"])
        self.parameters: dict[str, float] = {
            p["name"]: p["default"] for p in export.ground["parameters"] if p["default"]
        }
        self.velocity: Vector = NOWHERE
        self.carried: Vector = NOWHERE
        self.knock: Vector = NOWHERE
        self.went: Vector = NOWHERE
        self.shove: Shove | None = None
        self.left = 1.0
        self.steered = self.grounded = True
        self.adrift = self.blocked = self.jumping = self.leapt = self.down = self.advanced = False
        self.turning = self.wanted = self.above = self.worn = 0.0
        self.starts = self.off_floor = self.rose = self.frozen = self.stun = self.reels = self.strung = self.rested = 0
        self.posture = "standing"
        self.last_in: dict[str, str] = {}
        self.endings: list[str] = []
        self.feet = [Foot() for _ in export.figure.legs]
        self.lower = self.behind = self.feet_weight = 0.0
        self.feet_height: float | None = None
        self.sees: Vector | None = None
        self.gaze: Gaze = AHEAD
        self.aims: dict[str, Gaze] = {}
        self.grips = [0.0 for _ in export.grips]
        self.stick = (0.0, 0.0)
        self.hands = Hands()
        self.held: set[str] = set()
        self.pressed: list[str] = []
        self.fresh: list[str] = []
        self.let_go: list[str] = []
        self.buffer: list[Press] = []
        self.history: list[Press] = []
        self.asked = ("", "")
        self.said: list[str] = []
        self.came: list[Json] = []
        self.cooldowns: dict[str, int] = {}
        self.picks: dict[str, list[str]] = {}
        self.memory: list[tuple[str, str, int, str]] = []
        """(layer, action, tick, contact) of what came to its end last."""
        self.open_spans: list[tuple[int, str]] = []
        self.swinging: list[Swinging] = []
        self.joints: list[Placed] = []
        self.joints_before: list[Placed] = []
        self.stood_before: tuple[Vector, float] | None = None

    def go_on_with(self, export: Export, same: bool) -> None:
        """Go on with a changed export, whose figure may be the ``same``: what is not there any more is left out."""
        before, self.export = self.export.chart.states, export
        kept = []
        for p in self.playing:
            action = export.actions.get(p.action.name)
            if action is None or p.section >= len(action.sections):
                continue
            p.action, p.goto, p.going, p.waiting = action, None, [], {}
            p.frame = min(p.frame, p.part.ticks - 1)
            if not same:
                p.way = p.reference = None
            kept.append(p)
        self.playing = kept
        states = export.chart.states
        known = [s for s in self.steps if s.state in states]
        steps = [s if states[s.state] == before.get(s.state) else s._replace(at=None) for s in known]
        self.steps = steps if steps and steps[-1].state == self.steps[-1].state else [Step(export.chart.entry)]
        if not same:
            self.feet = [Foot() for _ in export.figure.legs]
            self.lower = self.behind = self.feet_weight = 0.0
            self.feet_height = None

    def live(self) -> list[Playing]:
        """What still plays, bottom layer first."""
        return [p for p in self.playing if not p.ended]

    def acting(self) -> list[Playing]:
        """What still plays and does not wait."""
        return [p for p in self.playing if not p.ended and not p.waits]

    @property
    def reeling(self) -> bool:
        """Whether a touch keeps it from acting."""
        return self.stun > 0 or any(p.reacts for p in self.live())

    def seen(self) -> Seen:
        return Seen(self.name, self.position, self.grounded, self.posture, self.reeling, self.down)

    def as_it_stands(self) -> list[Playing]:
        """Copies of what acts, as it is now."""
        return [copy(p) for p in self.acting()]

    def parameter(self, name: str) -> float:
        return self.parameters.get(name, 0.0)

    def holding(self) -> dict[str, float]:
        """The settings that are held on this tick."""
        out: dict[str, float] = {}
        for p in self.acting():
            for setting in p.action.row["holds"]:
                out[setting["setting"]] = setting["value"]
            for hold in p.part.row["holds"]:
                if hold["start"] <= p.frame < hold["end"]:
                    out[hold["setting"]] = hold["value"]
        return out

    def is_on(self, setting: str, usual: float = 1.0) -> bool:
        """Whether a setting is so."""
        return self.holding().get(setting, usual) > 0.0

    def end(self, playing: Playing, how: str) -> None:
        """An action ends: it does nothing more, and only its pose fades out."""
        playing.ended, playing.goto = how, None
        self.endings.append(how)
        self.adrift = True
        self.run({"out of scope": "on_broken"}.get(how, f"on_{how}"), playing.action)

    def run(self, moment: str, action: Action) -> None:
        """What is attached to a start or an ending."""
        row = action.row[moment]
        for setting in row["parameters"]:
            self.parameters[setting["setting"]] = setting["value"]
        if row["message"]:
            self.said.append(row["message"])

    def use(self, presses: Iterable[Press]) -> None:
        """Use presses up: what waited with one for something else waits no more."""
        marks = {(p.command, p.made) for p in presses}
        self.buffer = [p for p in self.buffer if (p.command, p.made) not in marks]
        self.history = [p for p in self.history if (p.command, p.made) not in marks]
        for playing in self.playing:
            kept = playing.waiting.items()
            playing.waiting = {k: ps for k, ps in kept if not any((p.command, p.made) in marks for p in ps)}

    def go_on(self) -> None:
        """Locomotion takes the body over with the speed it had, whatever gave it."""
        self.velocity = (self.went[0], self.velocity[1], self.went[2])
        self.left, self.adrift = 1.0, False

    def picked(self, pool: str, name: str, apart: int) -> None:
        """Remember what a pool gave."""
        self.picks[pool] = [*self.picks.get(pool, ()), name][-max(apart, 1) :]


def measured(f: Fighter, name: str) -> float:
    """A measure of a body, or a parameter, as blends and locomotion ask for it."""
    x, up, z = f.velocity
    turn = radians(f.facing)
    if name == "speed":
        return hypot(x, z)
    if name == "direction":
        return direction(f.velocity, f.facing)
    if name == "ahead":
        return x * sin(turn) + z * cos(turn)
    if name == "left":
        return x * cos(turn) - z * sin(turn)
    own = {"wanted speed": f.wanted, "turn rate": f.turning, "rising": up, "above the floor": f.above}
    return own[name] if name in own else f.parameter(name)


def direction(velocity: Vector, facing: float) -> float:
    """Which way a body goes against which way it looks (degrees, to the left above 0); 0 where it hardly goes."""
    x, _, z = velocity
    turn = radians(facing)
    c, s = cos(turn), sin(turn)
    return degrees(atan2(x * c - z * s, x * s + z * c)) if hypot(x, z) > 0.05 else 0.0
