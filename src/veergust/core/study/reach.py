"""How far from where it began an action touches a standing target."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from veergust.core.model import Box
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import forward
from veergust.core.play.book import Book
from veergust.core.play.compiled import CompiledAction
from veergust.core.play.contact import Volume, hurt_volume, swept
from veergust.core.play.posing import body_matrix
from veergust.core.play.sweep import first_touch, first_touch_box

STEP, MANY, FINER = 0.1, 8, 2
"""The search walks in by steps of 0.1 m, eight at a time, and then twice eight times finer."""

NEVER = -1.0


@dataclass(frozen=True, eq=False)
class Move:
    """What a hitbox sweeps on one open tick, by all that it depends on."""

    box: Box
    tick: int
    fresh: bool
    mirrored: bool
    before: Array
    now: Array

    @property
    def key(self) -> tuple[object, ...]:
        """Equal for moves that sweep the same."""
        tick = self.tick if self.box.keys else 0
        return self.box, tick, self.fresh, self.mirrored, self.before.tobytes(), self.now.tobytes()

    def volume(self) -> Volume:
        """What is swept."""
        return swept(self.box, self.tick, self.mirrored, self.before, self.now, self.fresh)


class ReachShelf:
    """How far each move of an action reaches, kept from one asking to the next: a changed edge costs one move."""

    def __init__(self) -> None:
        self._under: tuple[object, ...] = ()
        self._hurts: list[Volume] = []
        self._far: dict[tuple[object, ...], float] = {}

    def reach(self, book: Book, compiled: CompiledAction) -> float | None:
        """The farthest distance (m) from where the attacker started at which a standing target is touched.

        The target stands in the ground's first state, facing the attacker, and is swept like any other. None when
        nothing is ever touched.
        """
        project = book.project
        under = (project.rig, project.ground, project.clips, book.cast)
        if len(self._under) != len(under) or any(a is not b for a, b in zip(self._under, under)):
            self._under, self._hurts, self._far = under, _standing(book), {}
        if not self._hurts:
            return None
        moves = {move.key: move for move in _moves(book, compiled)}
        self._far = {key: far for key, far in self._far.items() if key in moves}
        best = max(self._far.values(), default=NEVER)
        fresh = {key: move.volume() for key, move in moves.items() if key not in self._far}
        # What cannot reach as far as another move does need not be known any better.
        new = [key for key, far in zip(fresh, _bounds(list(fresh.values()), self._hurts)) if far > best]
        self._far.update(zip(new, reaches([fresh[key] for key in new], self._hurts).tolist()))
        best = max(self._far.values(), default=NEVER)
        return round(best, 3) if best > NEVER else None


def reaches(moves: list[Volume], hurts: list[Volume]) -> Array:
    """For each move the farthest distance ahead (m) at which a target of these hurtboxes is touched, or ``NEVER``."""
    out = np.full(len(moves), NEVER)
    if not moves:
        return out
    far = _bounds(moves, hurts)
    rows = np.flatnonzero(far > 0.0)
    step = STEP
    while len(rows):
        tried = far[rows, None] - step * np.arange(MANY)
        hit = _touches([moves[i] for i in rows], hurts, tried) & (tried >= 0.0)
        found = hit.any(axis=1)
        out[rows[found]] = tried[found, np.argmax(hit[found], axis=1)]
        far[rows] -= step * MANY
        rows = rows[~found & (far[rows] > 0.0)]
    rows = np.flatnonzero(out > NEVER)
    for _ in range(FINER):  # the first that still touches, ever finer
        step /= MANY
        tried = out[rows, None] + step * np.arange(MANY)[::-1]
        hit = _touches([moves[i] for i in rows], hurts, tried)
        out[rows] = tried[np.arange(len(rows)), np.argmax(hit, axis=1)]
    rest = np.flatnonzero(out == NEVER)
    out[rest[_touches([moves[i] for i in rest], hurts, np.zeros((len(rest), 1)))[:, 0]]] = 0.0
    return out


def _bounds(moves: list[Volume], hurts: list[Volume]) -> Array:
    """Nothing is touched past the farthest corner of a hitbox plus the target's own depth."""
    deep = max(float(np.linalg.norm(e[[0, 2]])) + h.radius for h in hurts for e in h.now)
    size = [0.0 if m.half is None else float(np.linalg.norm(m.half)) for m in moves]
    tip = [max(float(e[2]) for e in (*m.before, *m.now)) + m.radius for m in moves]
    return np.asarray(np.array(tip) + deep + np.array(size), dtype=np.float64)


def _moves(book: Book, compiled: CompiledAction) -> list[Move]:
    """Every hitbox's move on every open tick, in the frame the attacker started in."""
    out: list[Move] = []
    for first, i in compiled.starts():
        part = compiled.sections[i]
        for strike in part.section.strikes:
            start, end = max(strike.start, 0), min(strike.end, part.ticks)
            bodies, world = compiled.bodies[first + start : first + end], part.world[start:end]
            for box in strike.boxes if start < end else ():
                ways = {}
                for side in (False, True):
                    mount = book.mount(box.mount, side)
                    if mount is not None:
                        ways[side] = bodies @ world[:, mount[0]] @ mount[1]
                for n, tick in enumerate(range(start, end) if ways else ()):
                    fresh, mirrored = tick == strike.start, part.mirrored(tick)
                    way = ways[mirrored]
                    out.append(Move(box, tick, fresh, mirrored, way[n if fresh or n == 0 else n - 1], way[n]))
    return out


def _standing(book: Book) -> list[Volume]:
    """The hurtboxes of a target that stands at the origin and looks back at the attacker."""
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
    """Whether each of M moves touches the target standing ahead at each of its distances ``[M, K]``."""
    out = np.zeros(distances.shape, dtype=bool)
    theirs = tuple(np.stack(column) for column in zip(*((*h.before, *h.now) for h in hurts)))
    radii = np.array([h.radius for h in hurts])
    ahead = np.array([0.0, 0.0, 1.0])
    round_ = np.array([i for i, m in enumerate(moves) if m.half is None], dtype=np.intp)
    if len(round_):
        mine = tuple(np.stack(c) for c in zip(*((*moves[i].before, *moves[i].now) for i in round_)))
        my_radii = np.array([moves[i].radius for i in round_])
        # Which hurtbox at which distance a move could touch at all: balls around both overlap.
        my_at, my_size = _ball(mine, my_radii)
        their_at, their_size = _ball(theirs, radii)
        between = (their_at[None] - my_at[:, None])[:, None] + distances[round_][:, :, None, None] * ahead
        near = np.linalg.norm(between, axis=-1) <= (my_size[:, None] + their_size)[:, None]
        move, at, hurt = np.nonzero(near)
        shift = distances[round_[move], at][:, None] * ahead
        times, _ = first_touch(
            tuple(e[move] for e in mine),  # type: ignore[arg-type]
            tuple(e[hurt] + shift for e in theirs),
            radii[hurt] + my_radii[move],
        )
        touched = np.isfinite(times)
        out[round_[move[touched]], at[touched]] = True
    k, n = distances.shape[1], len(hurts)
    for i, m in enumerate(moves):
        if m.half is not None and m.frame_before is not None and m.frame_now is not None:
            shift = np.repeat(distances[i], n)[:, None] * ahead
            back = [np.linalg.inv(m.frame_before)] * 2 + [np.linalg.inv(m.frame_now)] * 2
            local = tuple((np.tile(e, (k, 1)) + shift) @ b[:3, :3].T + b[:3, 3] for e, b in zip(theirs, back))
            times, _ = first_touch_box(m.half, local, np.tile(radii, k))
            out[i] = np.isfinite(times).reshape(k, n).any(axis=1)
    return out


def _ball(ends: tuple[Array, ...], radius: Array) -> tuple[Array, Array]:
    """Centre ``[N, 3]`` and size ``[N]`` of a ball around all a capsule sweeps over."""
    centre = np.mean(ends, axis=0)
    return centre, np.max([np.linalg.norm(e - centre, axis=-1) for e in ends], axis=0) + radius
