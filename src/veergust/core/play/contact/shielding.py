"""What a touch comes to: the shields that are up, and what poise and a guard still hold."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from veergust.core.kinds import GUARD
from veergust.core.model import Shield, Strike
from veergust.core.motion import Array
from veergust.core.play.compiled.section import active
from veergust.core.play.contact.answers import bearing
from veergust.core.play.contact.contact import Contact
from veergust.core.play.state import FighterState, Voice

EDGE = 1e-9
"""So little (degrees) beyond an arc's end is on it."""


@dataclass(frozen=True)
class Raised:
    """A shield that is up, and whether it deflects now."""

    shield: Shield
    deflects: bool = False


@dataclass(frozen=True)
class Judgement:
    """What a touch comes to: its result, and the shield that made it so."""

    result: str
    shield: Shield | None = None


def raised_by(voice: Voice) -> Iterator[Raised]:
    """The shields an action has up: of its section, then of the whole."""
    shields = voice.part.section.shields
    for shield in (shields[i] for i in active(shields, voice.frame)):
        yield Raised(shield, voice.laps == 0 and voice.frame - shield.start < shield.deflects)
    for shield in voice.compiled.action.shields:
        yield Raised(shield, voice.age < shield.deflects)


def raised(fighter: FighterState) -> Iterator[Raised]:
    """The shields a fighter has up: of its actions, then a guard that is held."""
    for voice in fighter.acting():
        yield from raised_by(voice)
    if GUARD.on(fighter.holding()):
        yield Raised(Shield(start=0, end=0, kind="guard"))


def covered(shields: Sequence[Raised], kind: str, hurtbox: str) -> bool:
    """Whether a shield of a kind is over a hurtbox."""
    return any(r.shield.kind == kind and _over(r.shield, hurtbox) for r in shields)


def _over(shield: Shield, hurtbox: str) -> bool:
    return not shield.hurtboxes or hurtbox in shield.hurtboxes


def guards(shield: Shield, strike: Strike) -> bool:
    """Whether a guard is held high or low enough for a strike."""
    return strike.guard != "none" and (strike.guard == "any" or shield.height in ("any", strike.guard))


def faces(shield: Shield, degrees: float) -> bool:
    """Whether a bearing (degrees, to the left above 0) lies on a guard's arc; its ends belong to it."""
    off = abs((degrees - shield.toward + 180.0) % 360.0 - 180.0)
    return off <= shield.arc / 2.0 + EDGE


def judged(shields: Sequence[Raised], strike: Strike, place: Array, victim: FighterState, hurtbox: str) -> Judgement:
    """What a strike that comes from a place comes to on a hurtbox: the first shield that stops it decides."""
    for one in shields:
        shield = one.shield
        if not _over(shield, hurtbox):
            continue
        if shield.kind == "guard" and guards(shield, strike) and faces(shield, bearing(place, victim)):
            return Judgement("deflected" if one.deflects else "guarded", shield)
        if shield.kind == "armour" and strike.poise <= shield.strength:
            return Judgement("armoured", shield)
    return Judgement("hit")


def weighed(contacts: list[Contact], fighters: Sequence[FighterState]) -> list[Contact]:
    """The contacts of a tick, once poise and guards were asked whether they hold out against all of them together."""
    out = list(contacts)
    for fighter in fighters:
        mine = [i for i, c in enumerate(out) if c.victim == fighter.name]
        hits = [i for i in mine if out[i].result == "hit"]
        if 0.0 < sum(out[i].strike.poise for i in hits) < fighter.poise:
            for i in hits:
                out[i] = replace(out[i], result="armoured")
        stopped = [i for i in mine if out[i].result == "guarded"]
        worn = fighter.worn + sum(out[i].strike.poise for i in stopped)
        for i in stopped:
            shield = out[i].shield
            if shield is not None and 0.0 < shield.strength <= worn:
                out[i] = replace(out[i], breaks=True)
    return out
