"""The numbers of an action."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from veergust.core.model import Fighter
from veergust.core.play.book import Book
from veergust.core.play.bout import Bout
from veergust.core.play.compiled import CompiledAction
from veergust.core.play.contact import Contact
from veergust.core.play.state import FighterState
from veergust.core.study.ahead import free_in
from veergust.core.study.reach import ReachShelf

LONGEST = 900


@dataclass(frozen=True)
class Facts:
    """Ticks, metres and damage; None where a number does not apply.

    ``total = startup + active + gaps + recovery``; ``travel`` is the body's displacement (m) with +z ahead.
    ``on_hit`` and ``on_guard`` are measured on the first active frame, the ``_last`` ones on the last.
    """

    name: str
    startup: int | None
    active: int
    gaps: int
    recovery: int | None
    total: int | None
    on_hit: int | None
    on_guard: int | None
    on_hit_last: int | None
    on_guard_last: int | None
    reach: float | None
    travel: tuple[float, float, float]
    damage: float
    sections: tuple[tuple[str, int, str], ...]


def facts(book: Book, name: str, *, last: bool = True, reaches: ReachShelf | None = None) -> Facts | None:
    """The facts of an action; None when the project has none of that name.

    Without ``last`` the advantage on the last active frame is left out, which takes as long as the rest. ``reaches``
    keeps what of the reach still holds.
    """
    compiled = book.action(name)
    if compiled is None:
        return None
    ticks = compiled.open_frames
    total = None if compiled.loops or not compiled.path else compiled.total
    place, _ = compiled.travel_to(compiled.total)
    strikes = [s for i in compiled.path for s in compiled.sections[i].section.strikes]
    numbers = {"on_hit": None, "on_guard": None, "on_hit_last": None, "on_guard_last": None}
    if ticks and total is not None:
        asked = [("on_hit", ticks[0], "hit"), ("on_guard", ticks[0], "guarded")]
        if last:
            asked += [("on_hit_last", ticks[-1], "hit"), ("on_guard_last", ticks[-1], "guarded")]
        for key, tick, result in asked:
            numbers[key] = advantage(book, compiled, tick, result)  # type: ignore[assignment]
    return Facts(
        name=name,
        startup=ticks[0] if ticks else None,
        active=len(ticks),
        gaps=ticks[-1] - ticks[0] + 1 - len(ticks) if ticks else 0,
        recovery=total - ticks[-1] - 1 if ticks and total is not None else None,
        total=total,
        reach=(reaches or ReachShelf()).reach(book, compiled),
        travel=(float(place[0]), float(place[1]), float(place[2])),
        damage=float(sum(s.damage for s in strikes)),
        sections=tuple((s.section.name, s.ticks, s.section.then) for s in compiled.sections),
        **numbers,
    )


def _free(fighter: FighterState) -> bool:
    return not fighter.live() and not fighter.frozen


def advantage(book: Book, compiled: CompiledAction, frame: int, result: str, *, counted: bool = True) -> int | None:
    """(tick the defender can act) − (tick the attacker can act), when the strike open on ``frame`` lands.

    Both are played; the contact is put in on that frame. What is left after it is ``counted`` where nothing can turn
    out otherwise, and played where it can. None when the strike cannot be guarded, or one of
    them never gets free.
    """
    section, tick = compiled.locate(frame)
    part = compiled.sections[section]
    found = [(i, s) for i, s in enumerate(part.section.strikes) if s.start <= tick < min(s.end, part.ticks)]
    if not found or (result == "guarded" and found[0][1].guard == "none"):
        return None
    index, strike = found[0]

    def touches(bout: Bout) -> list[Contact]:
        attacker = bout.fighter("attacker")
        voice = next(iter(attacker.live()), None)
        here = voice is not None and (voice.section, voice.frame) == (section, tick)
        if not here or not attacker.advanced or bout.landed:
            return []
        bout.landed = True
        return [Contact(strike, "attacker", "defender", "", result, np.zeros(3), strike.damage, (section, index))]

    fighters = (
        Fighter(name="attacker", position=(0, 0, 0), facing=0.0, health=1e9),
        Fighter(name="defender", position=(0, 0, 1.2), facing=180.0, health=1e9),
    )
    bout = Bout(book, fighters=fighters, touches=touches)
    attacker = bout.fighter("attacker")
    if bout.start("attacker", compiled.action.name) is None:
        return None
    if tick > 0:  # what comes before the contact changes nothing between the two
        attacker.voices = (replace(attacker.voices[0], section=section, frame=tick - 1, age=frame),)
    free: dict[str, int] = {}
    for now in range(1, LONGEST):
        bout.tick()
        for fighter in bout.fighters:
            if not _free(fighter):
                free.pop(fighter.name, None)
            else:
                free.setdefault(fighter.name, now)
        if not bout.landed:
            continue
        if len(free) == 2:
            return free["defender"] - free["attacker"]
        if counted:
            left = {f.name: free_in(bout, f) for f in bout.fighters}
            if all(ticks is not None for ticks in left.values()):
                when = {name: free.get(name, now + (ticks or 0)) for name, ticks in left.items()}
                return when["defender"] - when["attacker"]
    return None


class FactsShelf:
    """Facts kept as long as nothing they depend on has changed, without the advantage on the last frame."""

    def __init__(self) -> None:
        self._kept: dict[str, tuple[tuple[object, ...], Facts]] = {}
        self._reaches: dict[str, ReachShelf] = {}

    def facts(self, book: Book, name: str) -> Facts | None:
        """The facts of an action, worked out only when something under them is new."""
        project = book.project
        action = next((a for a in project.actions if a.name == name), None)
        if action is None:
            return None
        answering = {r.action for r in project.reactions}
        reactions = tuple(a for a in project.actions if a.name in answering)
        under: tuple[object, ...] = (
            action,
            project.rig,
            project.clips,
            project.reactions,
            project.ground,
            project.settings,
        )
        under = (*under, project.layers, project.masks, project.pools, *reactions)
        kept = self._kept.get(name)
        if kept and len(kept[0]) == len(under) and all(a is b for a, b in zip(kept[0], under)):
            return kept[1]
        made = facts(book, name, last=False, reaches=self._reaches.setdefault(name, ReachShelf()))
        if made:
            self._kept[name] = (under, made)
        return made
