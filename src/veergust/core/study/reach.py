"""How far from where it began an action touches a standing target."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from veergust.core.model import Hitbox
from veergust.core.motion import Array, forward
from veergust.core.play import (
    CompiledAction,
    CompiledProject,
    Contacts,
    Hurts,
    Volume,
    bodies_of,
    body_matrix,
    pieces,
    placed_hurts,
    swept,
    touches,
)
from veergust.core.study.playout import Playout, play_alone, play_out, weighs_itself

STEP, MANY, FINER = 0.1, 8, 2
"""The search walks in by steps of 0.1 m, eight at a time, and then twice eight times finer."""

NEVER = -1.0
AHEAD = np.array([0.0, 0.0, 1.0])


@dataclass(frozen=True, eq=False)
class ReachMove:
    """What a hitbox sweeps on one open tick, in the frame the attacker started in, by all that it depends on; it is
    ``at`` so many ticks from the start."""

    at: int
    box: Hitbox
    tick: int
    fresh: bool
    mirrored: bool
    volume: Volume

    @property
    def key(self) -> tuple[object, ...]:
        """Equal for moves that sweep the same."""
        tick = self.tick if self.box.keys else 0
        v = self.volume
        return self.box, tick, self.fresh, self.mirrored, v.frame_before.tobytes(), v.frame_now.tobytes()


def reach_of(build: CompiledProject, compiled: CompiledAction, played: Playout | None = None) -> float | None:
    """The farthest distance (m) from where the attacker started at which a standing target is touched.

    The target stands in the ground's first state, facing the attacker, and is swept like any other. None when nothing
    is ever touched.
    """
    moves: Moves = build.memo.setdefault(("reach", compiled.action.name), Moves())
    return moves.reach(build, compiled, played)


class Moves:
    """How far each move of an action reaches, by all that it depends on: a changed edge costs one move."""

    def __init__(self) -> None:
        self._under: tuple[object, ...] = ()
        self._hurts = placed_hurts([], [], [])
        self._far: dict[tuple[object, ...], float] = {}

    def reach(self, build: CompiledProject, compiled: CompiledAction, played: Playout | None = None) -> float | None:
        """As ``reach_of``."""
        project = build.project
        under = (project.rig, project.locomotion, project.clips, build.assets)
        if len(self._under) != len(under) or any(a is not b for a, b in zip(self._under, under)):
            self._under, self._hurts = under, standing(build)
            self._far = {}
        if not len(self._hurts):
            return None
        moves = {move.key: move for move in moves_of(build, compiled, played or play_out(build, compiled))}
        self._far = {key: far for key, far in self._far.items() if key in moves}
        best = max(self._far.values(), default=NEVER)
        fresh = {key: move.volume for key, move in moves.items() if key not in self._far}
        # What cannot reach as far as another move does need not be known any better.
        new = [key for key, far in zip(fresh, _bounds(list(fresh.values()), self._hurts)) if far > best]
        self._far.update(zip(new, reaches([fresh[key] for key in new], self._hurts).tolist()))
        best = max(self._far.values(), default=NEVER)
        return round(best, 3) if best > NEVER else None


def reaches(moves: list[Volume], hurts: Hurts) -> Array:
    """For each move the farthest distance ahead (m) at which a target of these hurtboxes is touched, or ``NEVER``."""
    out = np.full(len(moves), NEVER)
    if not moves:
        return out
    target = StandingTarget(moves, hurts)
    far = _bounds(moves, hurts)
    rows = np.flatnonzero(far > 0.0)
    step = STEP
    while len(rows):
        tried = far[rows, None] - step * np.arange(MANY)
        hit = target.touched(rows, tried) & (tried >= 0.0)
        found = hit.any(axis=1)
        out[rows[found]] = tried[found, np.argmax(hit[found], axis=1)]
        far[rows] -= step * MANY
        rows = rows[~found & (far[rows] > 0.0)]
    rows = np.flatnonzero(out > NEVER)
    for _ in range(FINER):  # the first that still touches, ever finer
        step /= MANY
        tried = out[rows, None] + step * np.arange(MANY)[::-1]
        out[rows] = tried[np.arange(len(rows)), np.argmax(target.touched(rows, tried), axis=1)]
    rest = np.flatnonzero(out == NEVER)
    out[rest[target.touched(rest, np.zeros((len(rest), 1)))[:, 0]]] = 0.0
    return out


def _bounds(moves: list[Volume], hurts: Hurts) -> Array:
    """Nothing is touched past the farthest corner of a hitbox plus the target's own depth."""
    if not moves:
        return np.zeros(0)
    deep = float((np.linalg.norm(hurts.ends[2:, :, [0, 2]], axis=2) + hurts.radius).max())
    hits = pieces(moves)
    out = np.full(len(moves), -np.inf)
    np.maximum.at(out, hits.owner, hits.middle[:, 2] + hits.size)
    return np.asarray(out + deep, dtype=np.float64)


def moves_of(build: CompiledProject, compiled: CompiledAction, played: Playout) -> list[ReachMove]:
    """Every hitbox's move on every open tick, in the frame the attacker started in.

    Read off the compiled action where it is alone on the figure by then; else it is played, with what is under it.
    """
    ticks = played.open_ticks(compiled)
    if not ticks:
        return []
    if not _alone_on_figure(build, compiled, ticks[0], played):
        return list(_played_moves(build, compiled))
    bodies = bodies_of(played.place, played.yaw)
    out: list[ReachMove] = []
    for n in ticks:
        section, tick = played.frames[n]
        part, world = compiled.sections[section], compiled.world_of(section)
        for strike in part.section.strikes:
            if not strike.start <= tick < strike.end:
                continue
            fresh, mirrored = tick == strike.start or n == 0, part.mirrored(tick)
            for box in strike.boxes:
                mount = build.mount(box.mount, mirrored)
                if mount is None:
                    continue
                now = bodies[n] @ world[tick, mount[0]] @ mount[1]
                before = now
                if not fresh:
                    was, old = played.frames[n - 1]
                    before = bodies[n - 1] @ compiled.world_of(was)[old, mount[0]] @ mount[1]
                out.append(ReachMove(n, box, tick, fresh, mirrored, swept(box, tick, mirrored, before, now, fresh)))
    return out


def _alone_on_figure(build: CompiledProject, compiled: CompiledAction, first: int, played: Playout) -> bool:
    """Whether nothing of locomotion shows under an action from tick ``first`` on, and no fade that the compiled
    action does not have."""
    layer = build.layers.get(compiled.action.layer)
    if layer is None or not layer.whole or layer.usual < 1.0 or weighs_itself(build, compiled):
        return False
    straight = [s for s, _ in played.frames] == [i for i in compiled.path for _ in range(compiled.sections[i].ticks)]
    faded = not any(compiled.sections[s].blend for s, _ in played.frames) or straight
    gated = any(g.blend for s in compiled.action.sections for g in s.gates)
    return first >= compiled.action.blend_in and faded and (straight or not gated)


def _played_moves(build: CompiledProject, compiled: CompiledAction) -> Iterator[ReachMove]:
    name = compiled.action.name
    for n, (state, simulation) in enumerate(play_alone(build, compiled)):
        for swing, box, volume in Contacts(simulation.build, [state]).volumes():
            if swing.voice is None:
                continue
            voice, strike = swing.voice, swing.strike
            if voice.compiled.action.name == name:
                fresh, mirrored = voice.frame == strike.start, voice.part.mirrored(voice.frame)
                yield ReachMove(n, box, voice.frame, fresh, mirrored, volume)


def standing(build: CompiledProject) -> Hurts:
    """The hurtboxes of a target that stands at the origin and looks back at the attacker."""
    if len(build.assets.skeleton) == 0:
        return placed_hurts([], [], [])
    pose = build.locomotion_clip(build.idle_clip).at(0.0)
    world = body_matrix(np.zeros(3), 180.0) @ forward(build.assets.skeleton, pose.rotation, pose.translation)[0]
    posture = build.idle_state.posture if build.idle_state is not None else "standing"
    return placed_hurts([build.hurt_shapes[posture]], [(np.eye(4), world)], [(np.eye(4), world)])


class StandingTarget:
    """Moves of hitboxes against a target that stands ahead."""

    def __init__(self, moves: list[Volume], hurts: Hurts) -> None:
        self.hits, self.hurts = pieces(moves), hurts
        middle = hurts.ends.mean(axis=0)
        self.theirs = middle, np.linalg.norm(hurts.ends - middle, axis=2).max(axis=0) + hurts.radius
        self.first = np.searchsorted(self.hits.owner, np.arange(len(moves) + 1))

    def touched(self, moves: NDArray[np.intp], distances: Array) -> NDArray[np.bool_]:
        """Whether each of M moves touches the target standing ahead at each of its distances ``[M, K]``."""
        out = np.zeros(distances.shape, dtype=bool)
        if not len(moves):
            return out
        count = self.first[moves + 1] - self.first[moves]
        of = np.repeat(np.arange(len(moves)), count)
        piece = np.concatenate([np.arange(self.first[m], self.first[m + 1]) for m in moves])
        between = (self.theirs[0][None] - self.hits.middle[piece][:, None])[:, None]
        between = between + distances[of][:, :, None, None] * AHEAD
        near = np.linalg.norm(between, axis=-1) <= (self.hits.size[piece][:, None] + self.theirs[1])[:, None]
        row, at, hurt = np.nonzero(near)
        if not len(row):
            return out
        shift = distances[of[row], at][:, None] * AHEAD
        times, _ = touches(self.hits, self.hurts.chosen(hurt, shift), piece[row], np.arange(len(row)))
        hit = np.isfinite(times)
        out[of[row[hit]], at[hit]] = True
        return out
