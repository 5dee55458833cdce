"""The numbers of an action."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from veergust.core.model import Fighter, Strike
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import forward
from veergust.core.play.book import Book
from veergust.core.play.bout import Bout
from veergust.core.play.compiled import CompiledAction
from veergust.core.play.contact import Contact, Volume, hit_volume, hurt_volume
from veergust.core.play.posing import body_matrix
from veergust.core.play.state import FighterState
from veergust.core.play.sweep import first_touch, first_touch_box
from veergust.core.study.ahead import free_in

LONGEST = 900
MANY = 8


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


def open_ticks(compiled: CompiledAction) -> list[int]:
    """Frames of the path on which any strike is open."""
    out: set[int] = set()
    for first, i in compiled.starts():
        part = compiled.sections[i]
        for strike in part.section.strikes:
            out |= {first + t for t in range(max(strike.start, 0), min(strike.end, part.ticks))}
    return sorted(out)


def facts(book: Book, name: str, *, last: bool = True) -> Facts | None:
    """The facts of an action; None when the project has none of that name.

    Without ``last`` the advantage on the last active frame is left out, which takes as long as the rest.
    """
    compiled = book.action(name)
    if compiled is None:
        return None
    ticks = open_ticks(compiled)
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
        reach=reach(book, compiled),
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


def reach(book: Book, compiled: CompiledAction) -> float | None:
    """The farthest distance (m) from where the attacker started at which a standing target is touched.

    The target stands in the ground's first state, facing the attacker, and is swept like any other.
    """
    moves = _hit_moves(book, compiled)
    if not moves:
        return None
    hurts = _standing(book)
    if not hurts:
        return None

    # Nothing is touched past the farthest corner of a hitbox plus the target's own depth: walk in from there.
    ends = np.array([e[2] + m.radius for m in moves for e in (*m.before, *m.now)])
    deep = max(float(np.linalg.norm(e[[0, 2]])) + h.radius for h in hurts for e in h.now)
    sizes = [float(np.linalg.norm(m.half)) for m in moves if m.half is not None]
    far = float(ends.max()) + deep + max(sizes, default=0.0)
    step, reached = 0.1, None
    while reached is None and far > 0.0:
        tried = np.asarray(far - step * np.arange(MANY), dtype=np.float64)
        hit = _touches(moves, hurts, tried[tried >= 0.0])
        reached = float(tried[np.argmax(hit)]) if hit.any() else None
        far -= step * MANY
    if reached is None:
        return 0.0 if _touches(moves, hurts, np.zeros(1))[0] else None
    for _ in range(2):  # the first that still touches, ever finer
        step /= MANY
        tried = np.asarray(reached + step * np.arange(MANY)[::-1], dtype=np.float64)
        reached = float(tried[np.argmax(_touches(moves, hurts, tried))])
    return round(reached, 3)


def _hit_moves(book: Book, compiled: CompiledAction) -> list[Volume]:
    """Every hitbox's move on every open tick, in the frame the attacker started in."""
    out: list[Volume] = []
    for first, i in compiled.starts():
        part = compiled.sections[i]
        for strike in part.section.strikes:
            for tick in range(max(strike.start, 0), min(strike.end, part.ticks)):
                now = _world(compiled, first + tick)
                before = _world(compiled, first + tick - 1) if tick > strike.start else now
                out += _strike_volumes(book, compiled, i, strike, tick, before, now)
    return out


def _strike_volumes(
    book: Book, compiled: CompiledAction, section: int, strike: Strike, tick: int, before: Array, now: Array
) -> list[Volume]:
    mirrored = compiled.sections[section].mirrored(tick)
    made = (hit_volume(book, b, tick, mirrored, before, now, tick == strike.start) for b in strike.boxes)
    return [v for v in made if v]


def _world(compiled: CompiledAction, frame: int) -> Array:
    section, tick = compiled.locate(frame)
    return np.asarray(compiled.bodies[frame] @ compiled.sections[section].world[tick])


def _standing(book: Book) -> list[Volume]:
    ground = book.project.ground
    entry = book.states.get(ground.entry) or (ground.states[0] if ground.states else None)
    clip = entry.clip or (entry.blend[0].clip if entry.blend else "") if entry else ""
    pose = book.ground_clip(clip).at(0.0)
    if len(book.cast.skeleton) == 0:
        return []
    world = body_matrix(np.zeros(3), 180.0) @ forward(book.cast.skeleton, pose.turn, pose.place)[0]
    made = (hurt_volume(book, h, world, world) for h in book.project.rig.hurtboxes)
    return [v for v in made if v]


def _touches(moves: list[Volume], hurts: list[Volume], distances: Array) -> NDArray[np.bool_]:
    """For each distance, whether any move touches the target standing there ahead."""
    k, n = len(distances), len(hurts)
    shift = np.repeat(distances, n)[:, None] * np.array([0.0, 0.0, 1.0])
    ends = tuple(np.tile(np.stack(column), (k, 1)) + shift for column in zip(*((*h.before, *h.now) for h in hurts)))
    radii = np.tile([h.radius for h in hurts], k)
    out = np.zeros(k, dtype=bool)
    round_ = [m for m in moves if m.half is None]
    if round_:
        # Which move of which row (distance, then hurtbox) could touch at all: balls around both overlap.
        mine = tuple(np.stack(c) for c in zip(*((*m.before, *m.now) for m in round_)))
        mine_at, mine_size = _ball(mine, np.array([m.radius for m in round_]))
        their_at, their_size = _ball(ends, radii)
        apart = np.linalg.norm(mine_at[:, None] - their_at[None], axis=-1)
        move_, row = np.nonzero(apart <= mine_size[:, None] + their_size[None])
        if len(row):
            radius = radii[row] + np.array([m.radius for m in round_])[move_]
            times, _ = first_touch(tuple(e[move_] for e in mine), tuple(e[row] for e in ends), radius)  # type: ignore[arg-type]
            out[row[np.isfinite(times)] // n] = True
    for move in moves:
        if move.half is not None and move.frame_before is not None and move.frame_now is not None:
            back = [np.linalg.inv(move.frame_before)] * 2 + [np.linalg.inv(move.frame_now)] * 2
            local = tuple(e @ m[:3, :3].T + m[:3, 3] for e, m in zip(ends, back))
            times, _ = first_touch_box(move.half, local, radii)
            out |= np.isfinite(times).reshape(k, n).any(axis=1)
    return out


def _ball(ends: tuple[Array, ...], radius: Array) -> tuple[Array, Array]:
    """Centre ``[N, 3]`` and size ``[N]`` of a ball around all a capsule sweeps over."""
    centre = np.mean(ends, axis=0)
    return centre, np.max([np.linalg.norm(e - centre, axis=-1) for e in ends], axis=0) + radius


class FactsShelf:
    """Facts kept as long as nothing they depend on has changed, without the advantage on the last frame."""

    def __init__(self) -> None:
        self._kept: dict[str, tuple[tuple[object, ...], Facts]] = {}

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
        under = (*under, project.layers, project.masks, *reactions)
        kept = self._kept.get(name)
        if kept and len(kept[0]) == len(under) and all(a is b for a, b in zip(kept[0], under)):
            return kept[1]
        made = facts(book, name, last=False)
        if made:
            self._kept[name] = (under, made)
        return made
