"""Actions compiled into arrays: which source time and pose each tick shows, and how far the body has gone."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import accumulate
from operator import itemgetter
from typing import Any

import numpy as np

from veergust.core.kinds import drive_at, drive_kind
from veergust.core.model import Action, Drive, Ease, Pool
from veergust.core.motion import HALF, Array, Pose, Skeleton, Trajectory, eases, forward, quat
from veergust.core.play.compiled.section import CompiledSection, Onward
from veergust.core.play.compiled.trajectory import (
    WHOLE,
    Carriage,
    Driven,
    bodies_of,
    trajectory_alone,
    trajectory_of_steps,
)
from veergust.core.play.flow.machine import Flow


@dataclass
class Along:
    """Where the body goes, once it has been worked out: places and yaws by row, and the same as matrices."""

    way: tuple[Array, Array] | None = None
    bodies: Array | None = None


@dataclass(frozen=True, eq=False, repr=False)
class CompiledAction:
    """An action with its sections compiled, in the order they stand, and the pools its sections lead to."""

    action: Action
    sections: tuple[CompiledSection, ...]
    pools: tuple[Pool, ...] = ()
    carriage: Carriage = WHOLE
    along: Along = field(default_factory=Along)

    @cached_property
    def index(self) -> dict[str, int]:
        """Section name → place in ``sections``."""
        return {s.section.name: i for i, s in enumerate(self.sections)}

    @cached_property
    def clips(self) -> set[str]:
        """Names of the clips its cuts are taken from."""
        return {cut.clip for section in self.action.sections for cut in section.cuts}

    @property
    def entry(self) -> int:
        """The section it starts with."""
        return self.index.get(self.action.entry, 0)

    @cached_property
    def flow(self) -> Flow:
        """How it goes from section to section."""
        parts = self.sections
        return Flow(tuple(p.section for p in parts), tuple(p.ticks for p in parts), self.entry, self.pools)

    def ways(self, to: str) -> tuple[int, ...]:
        """Sections that ``to`` may lead to (``Flow.ways``)."""
        return self.flow.ways(to)

    @property
    def path(self) -> tuple[int, ...]:
        """Sections in the order they play when nobody intervenes: by ``then``, each once, of a pool the first.

        It goes out of a loop by its first gate, as if it were let go after one lap.
        """
        return self.flow.path[0]

    @property
    def loops(self) -> bool:
        """Whether the path comes back on itself and no gate leads out."""
        return self.flow.path[1]

    @cached_property
    def order(self) -> tuple[int, ...]:
        """Every section as the sheet shows them: the path, then those it does not reach."""
        return (*self.path, *(i for i in range(len(self.sections)) if i not in self.path))

    @cached_property
    def total(self) -> int:
        """Ticks of the path."""
        return sum(self.sections[i].ticks for i in self.path)

    @cached_property
    def rows(self) -> int:
        """Ticks of all sections, which are the rows of the sheet; the first ``total`` of them are the path's."""
        return sum(part.ticks for part in self.sections)

    def starts(self) -> tuple[tuple[int, int], ...]:
        """(first tick, section) along the path."""
        return self.row_starts()[: len(self.path)]

    def row_starts(self) -> tuple[tuple[int, int], ...]:
        """(first row, section) of every section, in the sheet's order."""
        return self._row_starts

    @cached_property
    def _row_starts(self) -> tuple[tuple[int, int], ...]:
        ticks = [self.sections[i].ticks for i in self.order]
        return tuple(zip(accumulate(ticks, initial=0), self.order))

    def locate(self, frame: int) -> tuple[int, int]:
        """(section, tick in it) of a frame along the path or a row past it, clamped to the last row."""
        if not self.order:
            return 0, 0
        at = bisect_right(self._row_starts, frame, key=itemgetter(0)) - 1
        first, i = self._row_starts[max(at, 0)]
        return i, min(max(frame - first, 0), self.sections[i].ticks - 1)

    def start_of(self, section: int) -> int:
        """The row at which a section starts."""
        return next((first for first, i in self._row_starts if i == section), 0)

    def take_trajectory(self, before: CompiledAction) -> None:
        """Take over where the body goes from the action as it was before an edit, if the edit left that alone."""
        mine, was = (
            (a.path, a.order, a.drives, a.carriage, a.action.blend_in, a.action.ease, a.action.start.momentum)
            for a in (self, before)
        )
        if mine == was and all(a.place is b.place for a, b in zip(self.sections, before.sections)):
            self.along.way, self.along.bodies = before.along.way, before.along.bodies

    @cached_property
    def open_frames(self) -> tuple[int, ...]:
        """Frames of the path on which any strike is open, in order."""
        return tuple(
            first + tick for first, i in self.starts() for tick in range(self.sections[i].ticks) if self.opens(i, tick)
        )

    def opens(self, section: int, tick: int) -> bool:
        """Whether any strike is open on a tick of a section."""
        return tick in self.sections[section].struck

    @property
    def drives(self) -> tuple[tuple[Drive, ...], ...]:
        """The drives of every section."""
        return tuple((*part.section.drives, *self.action.drives) for part in self.sections)

    def drive_at(self, section: int, tick: int) -> Drive:
        """The drive on a tick of a section: the last span that holds it, else the action's own, else root motion."""
        part = self.sections[section]
        return drive_at(part.section.drives, self.action.drives, tick, part.ticks)[0]

    def world_of(self, section: int) -> Array:
        """Joint matrices ``[N+1, J, 4, 4]`` about the body of a section.

        On the path its first poses are faded in from the section before, as its first cut says.
        """
        part = self.sections[section]
        place = self.path.index(section) if part.blend and section in self.path else 0
        if place == 0:
            return part.world
        if section not in self._worlds:
            before = self.sections[self.path[place - 1]]
            pose = crossfaded(part.skeleton, before.onward, part.pose, part.blend, self.action.ease)
            faded = forward(part.skeleton, pose.rotation[: part.blend], pose.translation[: part.blend])
            self._worlds[section] = np.concatenate([faded, part.world[part.blend :]])
        return self._worlds[section]

    @cached_property
    def kept(self) -> dict[str, Any]:
        """What others worked out of it, for as long as it is there."""
        return {}

    @cached_property
    def _worlds(self) -> dict[int, Array]:
        return {}

    @property
    def way(self) -> tuple[Array, Array]:
        """Place ``[N+1, 3]`` and yaw ``[N+1]`` of the body along all N rows, from where it began at a standstill.

        A section the path does not reach begins where the action does.
        """
        if self.along.way is None:
            self.along.way = self._went()
        return self.along.way

    def _went(self) -> tuple[Array, Array]:
        path = self.path
        way = self.trajectory_over(tuple((i, t) for i in path for t in range(self.sections[i].ticks)))
        places, yaws = [way.place], [way.yaw]
        for i in self.order[len(path) :]:
            made = self._driven(i)
            way = trajectory_of_steps(made.step, made.turn)
            places.append(way.place[1:])
            yaws.append(way.yaw[1:])
        return np.concatenate(places), np.concatenate(yaws)

    def trajectory_over(self, frames: Sequence[tuple[int, int]]) -> Trajectory:
        """The body's way over (section, tick) frames shown one after the other, begun at a standstill.

        As play moves it on open floor: by root motion where the drives leave it to it, faded in with the action, by
        the layer's share.
        """
        if not frames:
            return Trajectory(np.zeros((1, 3)), np.zeros(1))
        made = {i: self._driven(i) for i in {i for i, _ in frames}}
        first = {i: n for n, i in enumerate(made)}
        base = np.cumsum([0, *(len(d.turn) for d in made.values())])
        rows = np.array([base[first[i]] + t for i, t in frames], dtype=np.intp)
        columns = zip(*((d.step, d.turn, d.stick, d.flies) for d in made.values()))
        step, turn, stick, flies = (np.concatenate(column)[rows] for column in columns)
        shown = np.ones(len(turn))
        fade = fade_weights(self.action.blend_in, self.action.ease)[: len(turn)]
        shown[: len(fade)] = fade
        driven = Driven(step * shown[:, None], turn * shown, stick, flies, shown)
        if driven.by_root:
            return trajectory_of_steps(driven.step, driven.turn)
        return trajectory_alone(driven, self.carriage, self.action.start.momentum)

    def _driven(self, section: int) -> Driven:
        """What drives the body in a section, as drives and layer let it through, wholly faded in."""
        part = self.sections[section]
        by = part.section.drives, self.action.drives, self.carriage.share
        made: Driven | None = part.driven.get(by)
        if made is None:
            made = part.driven[by] = self._driven_anew(section)
        return made

    def _driven_anew(self, section: int) -> Driven:
        part = self.sections[section]
        step = quat.rotate(quat.from_yaw(-part.yaw[:-1]), np.diff(part.place, axis=0)) * self.carriage.share
        turn = np.diff(part.yaw) * self.carriage.share
        flying, stick = np.zeros(part.ticks, dtype=bool), np.zeros(part.ticks)
        if part.section.drives or self.action.drives:
            drives = [self.drive_at(section, tick) for tick in range(part.ticks)]
            much = np.array([d.scale if drive_kind(d).root else 0.0 for d in drives])
            step, turn = step * much[:, None], turn * much * np.array([d.turn != "not" for d in drives])
            flying = np.array([drive_kind(d).flies for d in drives])
            stick = np.array([d.scale if drive_kind(d).stick else 0.0 for d in drives])
        return Driven(step, turn, stick, flying, np.ones(part.ticks))

    @property
    def bodies(self) -> Array:
        """The body's frame ``[N+1, 4, 4]`` along all rows."""
        if self.along.bodies is None:
            self.along.bodies = self._frames()
        return self.along.bodies

    def _frames(self) -> Array:
        return bodies_of(*self.way)

    def travel_to(self, frame: int) -> tuple[Array, float]:
        """Place ``[3]`` and yaw of the body after ``frame`` ticks of the path, from where the action began."""
        places, yaws = self.way
        at = min(max(frame, 0), len(yaws) - 1)
        return places[at], float(yaws[at])


def fade_weights(blend: int, ease: Ease) -> Array:
    """How much of what is faded in shows on each of ``blend`` ticks: (k + 1)/(n + 1), eased."""
    return eases(ease, np.arange(1, blend + 1, dtype=np.float64) / (blend + 1.0))


def crossfaded(bones: Skeleton, before: Onward, left: Pose, blend: int, ease: Ease) -> Pose:
    """``left`` faded in over its first ``blend`` ticks from what came before, which plays on past its end; of a drawn
    figure what shows more."""
    old = before(np.arange(blend, dtype=np.float64))
    weight = fade_weights(blend, ease)
    if bones.picture >= 0:
        weight = (weight > HALF).astype(np.float64)
    turn, place = left.rotation.copy(), left.translation.copy()
    turn[:blend] = quat.slerp(old.rotation, left.rotation[:blend], weight[:, None])
    place[:blend] = old.translation + (left.translation[:blend] - old.translation) * weight[:, None, None]
    return Pose(turn, place)
