"""What a kind of condition says of itself, and of whom one is asked."""

from __future__ import annotations

import operator
import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import inf
from typing import Literal, Protocol

import numpy as np
from numpy.typing import NDArray

from veergust.core.kinds.measures import Moving
from veergust.core.model import Condition, Project

Array = NDArray[np.float64]
ENDINGS = ("completed", "cancelled", "broken", "out of scope")
"""How an action may end."""
COMPARE: dict[str, Callable[[float, float], bool]] = {
    "<": operator.lt,
    "<=": operator.le,
    "==": operator.eq,
    "!=": operator.ne,
    ">=": operator.ge,
    ">": operator.gt,
}


class AskedFighter(Moving, Protocol):
    """What a condition may ask of a fighter: places (m), velocities (m/s), commands, actions and parameters."""

    position: Array
    grounded: bool
    blocked: bool
    jumping: bool
    rose: int
    leapt: bool
    health: float
    held: tuple[str, ...]
    fresh: tuple[str, ...]
    endings: tuple[str, ...]
    posture: str

    @property
    def reeling(self) -> bool:
        """Whether a touch keeps it from acting."""

    @property
    def name(self) -> str:
        """Which fighter it is."""

    def playing(self) -> tuple[str, ...]:
        """The names of the actions that play."""


class AskedAction(Protocol):
    """What a condition may ask of the action in which it stands."""

    @property
    def contact(self) -> str:
        """What it has touched."""

    @property
    def so_far(self) -> AskedTouches:
        """All that it has touched."""


class AskedTouches(Protocol):
    """What a condition may ask of the touches of an action."""

    @property
    def touches(self) -> int:
        """How many there were."""

    @property
    def regions(self) -> tuple[str, ...]:
        """The parts of bodies that were touched."""

    @property
    def strengths(self) -> tuple[str, ...]:
        """The strengths of the strikes that touched."""


def _alike() -> float:
    return 0.0


@dataclass(frozen=True)
class Present:
    """The locomotion state as it stands: whether its clip has ``ended``, which ``share`` of it has played, for how
    many ``ticks`` it has been the present one, and how far (m) its feet are from where they would go."""

    ended: bool = False
    share: float = 0.0
    ticks: int = 0
    feet: Callable[[], float] = _alike


NOBODY_PRESENT = Present()


@dataclass(slots=True)
class ConditionContext:
    """Of whom a condition is asked, and when.

    ``voice`` is the action it stands in (None: locomotion or a start rule), ``others`` are the other fighters,
    ``present`` is the locomotion state that asks, ``place`` is where the condition stands, which makes each chance one
    of its own.
    """

    fighter: AskedFighter
    voice: AskedAction | None = None
    others: Sequence[AskedFighter] = ()
    seed: int = 0
    tick: int = 0
    present: Present = NOBODY_PRESENT
    place: str = ""


@dataclass(frozen=True)
class ConditionKind:
    """A kind of condition.

    ``value`` is the number that is compared. ``says`` is how it reads: one form for a comparison (``{op}``, ``{v}``,
    ``{name}``), or two for what is so or not. ``of`` says what its name names. ``alone`` is what it gives when nobody
    is near, presses or touches (None: that has to be played). ``changes`` says when it may give another answer though
    nobody presses: never, as the body moves, or on every tick; ``floor`` whether it asks how the body stands to the
    floor, ``present`` whether it asks the state that plays, ``drawn`` whether each place draws for itself, ``placed``
    whether it gives another value in each place it stands in. One that asks for the clip's end, or for time, ``ends``
    what plays. Its number is between ``low`` and ``high``; ``brief`` is how it reads where there is little room.
    """

    label: str
    value: Callable[[ConditionContext, str], float]
    says: str | tuple[str, str]
    of: Literal["", "command", "contact", "parameter", "action", "ending", "region", "strength", "standing"] = ""
    alone: float | None = None
    changes: Literal["never", "moving", "always"] = "never"
    floor: bool = False
    present: bool = False
    drawn: bool = False
    placed: bool = False
    ends: bool = False
    low: float = -inf
    high: float = inf
    brief: str | tuple[str, str] | None = None

    @property
    def truth(self) -> bool:
        """Whether it is so or not, rather than a number."""
        return not isinstance(self.says, str)

    def range(self, project: Project, name: str) -> tuple[float, float]:
        """What its number may be."""
        if self.truth:
            return 0.0, 1.0
        if self.of == "parameter":
            found = next((p for p in project.locomotion.parameters if p.name == name), None)
            if found is not None:
                return (0.0, 1.0) if found.kind in ("momentary", "yes or no") else (found.low, found.high)
        return self.low, self.high

    def sentence(self, condition: Condition, *, brief: bool = False) -> str:
        """A condition of this kind as words; ``brief`` where there is little room."""
        says = self.brief if brief and self.brief is not None else self.says
        if isinstance(says, str):
            return says.format(op=condition.op, v=condition.value, name=condition.name)
        yes = (condition.value != 0) == (condition.op in ("==", ">=", ">"))
        return says[0 if yes else 1].format(name=condition.name)

    def names(self, project: Project) -> list[str] | None:
        """What its name may be in a project; None when it has none."""
        match self.of:
            case "command":
                return [c.name for c in project.commands]
            case "contact":
                return ["any", "hit", "guarded", "deflected"]
            case "region":
                return _regions(project) or ["region"]
            case "strength":
                return sorted({s.strength for a in project.actions for p in a.sections for s in p.strikes}) or ["light"]
            case "standing":
                return ["reeling", "standing", "ducking", "down", "in the air"]
            case "parameter":
                endings = (
                    e for a in project.actions for e in (a.on_start, a.on_completed, a.on_cancelled, a.on_broken)
                )
                known = [p.name for p in project.locomotion.parameters]
                known += [s.setting for e in endings for s in e.parameters]
                return list(dict.fromkeys(known)) or ["parameter"]
            case "action":
                return [a.name for a in project.actions]
            case "ending":
                return ["any", *ENDINGS]
        return None

    def fresh(self, test: str, project: Project) -> Condition:
        """A new condition of this kind."""
        names = self.names(project)
        op: Literal["==", "<"] = "==" if self.truth else "<"
        return Condition(test=test, name=names[0] if names else "", op=op, value=1.0)  # type: ignore[arg-type]


def _regions(project: Project) -> list[str]:
    """The parts of the body that its hurtboxes belong to, or of which anything is said."""
    return list(dict.fromkeys(filter(None, [*(r.name for r in project.rig.regions),
                                            *(h.region for h in project.rig.hurtboxes)])))  # fmt: skip


def chance(seed: int, tick: int, *what: object) -> float:
    """A number in 0…1 that depends on nothing but seed, tick and what it is for."""
    return random.Random(f"{seed}/{tick}/" + "/".join(map(str, what))).random()
