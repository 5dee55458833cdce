"""Actions compiled into arrays: which source time and pose each tick shows, and how far the body has gone."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import accumulate
from operator import itemgetter
from typing import Any

import numpy as np
from numpy.typing import NDArray

from veergust.core.kinds.drives import drive_at, kind_of
from veergust.core.model import Action, Clip, Cut, Drive, Pool, Section, Span
from veergust.core.model.action import Ease
from veergust.core.model.base import MOST_TICKS
from veergust.core.motion import quat
from veergust.core.motion.blend import eases
from veergust.core.motion.figure import Assets
from veergust.core.motion.prepared import ends
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Pose, Skeleton, forward
from veergust.core.motion.track import Trajectory
from veergust.core.play.compiled.trajectory import (
    WHOLE,
    Carriage,
    Driven,
    bodies_of,
    trajectory_alone,
    trajectory_of_steps,
)
from veergust.core.play.flow.machine import Flow

TAIL = 32
"""So many ticks what is faded out plays on past its end; then it holds."""

FindClip = Callable[[str], Clip | None]
Onward = Callable[[Array], Pose]
"""Poses of a cut so many ticks past its end, playing on at its own pace."""


def cut_seconds(cut: Cut, clip: Clip | None, assets: Assets) -> tuple[float, float]:
    """Where a cut starts and ends in its source (s): its own in and out, else the clip's, else the source's."""
    end = cut.end
    if end is None and clip is not None:
        end = ends(assets, clip)[1]
    return cut.start, max(end if end is not None else cut.start, cut.start)


def cut_ticks(cut: Cut, clip: Clip | None, assets: Assets, rate: int, speed: float = 1.0) -> int:
    """``max(1, round((out − in) / rate · R))``, with the clip's and the action's own rates; no more than there may
    be, however slow."""
    start, end = cut_seconds(cut, clip, assets)
    pace = cut.rate * (clip.rate if clip else 1.0) * speed
    return min(max(1, round((end - start) / max(pace, 1e-6) * rate)), MOST_TICKS)


@dataclass(frozen=True, eq=False, repr=False)
class CompiledCut:
    """A cut on its ticks ``[first, first + ticks)`` of the section.

    It goes from source time ``start`` to ``end``, which is the earlier one when the clip is reversed. ``mirrored``
    counts the clip's own mirroring, ``swaps`` says whether that changes hands; ``climbs`` whether its travel sets the
    body's height.
    """

    cut: Cut
    first: int
    ticks: int
    start: float
    end: float
    found: bool
    mirrored: bool
    climbs: bool
    swaps: bool = False


@dataclass(frozen=True, eq=False, repr=False)
class CompiledSection:
    """A section of N ticks. Arrays have N + 1 rows: the last is the moment the section ends.

    ``source`` ``[N+1]`` seconds in each tick's clip, ``pose`` about the body, ``place`` ``[N+1, 3]`` and ``yaw``
    ``[N+1]`` the body's way by root motion from the section's start in the frame it started in, with every
    multiplier. ``onward`` plays its last cut on past its end.
    """

    section: Section
    cuts: tuple[CompiledCut, ...]
    ticks: int
    source: Array
    pose: Pose
    place: Array
    yaw: Array
    skeleton: Skeleton
    onward: Onward
    sampled: CompiledSection | None = None
    """The section that was sampled alike before, with which this one shares what is worked out of it."""

    def with_spans(self, section: Section) -> CompiledSection:
        """The same cuts under the spans of ``section``."""
        return replace(self, section=section, sampled=self)

    @property
    def blend(self) -> int:
        """Ticks over which it is faded in from the section before."""
        return min(self.cuts[0].cut.blend, self.ticks) if self.cuts else 0

    @cached_property
    def quiet(self) -> tuple[bool, ...]:
        """For each tick whether nothing can lead away on it or on the next: no exit is open, and no gate."""
        spans = [(s.start, s.end) for s in (*self.section.exits, *self.section.gates)]
        return tuple(not any(start <= t + 1 and t < end for start, end in spans) for t in range(self.ticks))

    def past(self, tick: int) -> Pose:
        """The pose on ``tick``, playing on past its end."""
        if tick <= self.ticks:
            return self.pose.frame(tick)
        return self.tail.frame(min(tick - self.ticks, TAIL) - 1)

    @cached_property
    def tail(self) -> Pose:
        """``TAIL`` poses past its end."""
        return self.sampled.tail if self.sampled is not None else self.onward(np.arange(1.0, TAIL + 1.0))

    @cached_property
    def world(self) -> Array:
        """Joint matrices ``[N+1, J, 4, 4]`` in the body's own frame."""
        if self.sampled is not None:
            return self.sampled.world
        return forward(self.skeleton, self.pose.rotation, self.pose.translation)

    @cached_property
    def mirrored_rows(self) -> NDArray[np.bool_]:
        """Which of the N + 1 rows show a mirrored pose, so that what rides on it changes sides."""
        cuts = [self.cut_at(tick) for tick in range(self.ticks + 1)]
        return np.array([cut is not None and cut.mirrored for cut in cuts])

    def cut_at(self, tick: int) -> CompiledCut | None:
        """The cut that shows ``tick``."""
        return next((c for c in reversed(self.cuts) if c.first <= tick), None)

    def changes_hands(self, tick: int) -> bool:
        """Whether on ``tick`` what hangs on one hand is in the other."""
        if not self._swaps:
            return False
        cut = self.cut_at(min(max(tick, 0), self.ticks))
        return cut is not None and cut.swaps

    @cached_property
    def _swaps(self) -> bool:
        return any(cut.swaps for cut in self.cuts)

    def mirrored(self, tick: int) -> bool:
        """Whether the pose of ``tick`` is mirrored."""
        return bool(self.mirrored_rows[min(max(tick, 0), self.ticks)])

    def tick_of_pose(self, source: float, near: int) -> int:
        """The tick at which ``source`` is shown, in the cut that holds tick ``near``, clamped to the section."""
        cut = self.cut_at(min(near, self.ticks - 1))
        if cut is None or cut.end == cut.start:
            return min(max(near, 0), self.ticks)
        tick = cut.first + (source - cut.start) / (cut.end - cut.start) * cut.ticks
        return int(min(max(np.floor(tick + 0.5), 0), self.ticks))


@dataclass(frozen=True, eq=False, repr=False)
class CompiledAction:
    """An action with its sections compiled, in the order they stand, and the pools its sections lead to."""

    action: Action
    sections: tuple[CompiledSection, ...]
    pools: tuple[Pool, ...] = ()
    carriage: Carriage = WHOLE

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
            self.__dict__.update({k: v for k, v in before.__dict__.items() if k in ("way", "bodies")})

    @cached_property
    def open_frames(self) -> tuple[int, ...]:
        """Frames of the path on which any strike is open, in order."""
        return tuple(
            first + tick for first, i in self.starts() for tick in range(self.sections[i].ticks) if self.opens(i, tick)
        )

    def opens(self, section: int, tick: int) -> bool:
        """Whether any strike is open on a tick of a section."""
        return any(s.start <= tick < s.end for s in self.sections[section].section.strikes)

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
            pose = crossfaded(before.onward, part.pose, part.blend, self.action.ease)
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

    @cached_property
    def way(self) -> tuple[Array, Array]:
        """Place ``[N+1, 3]`` and yaw ``[N+1]`` of the body along all N rows, from where it began at a standstill.

        A section the path does not reach begins where the action does.
        """
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
        step = quat.rotate(quat.from_yaw(-part.yaw[:-1]), np.diff(part.place, axis=0)) * self.carriage.share
        turn = np.diff(part.yaw) * self.carriage.share
        flying, stick = np.zeros(part.ticks, dtype=bool), np.zeros(part.ticks)
        if self.drives[section]:
            drives = [self.drive_at(section, tick) for tick in range(part.ticks)]
            much = np.array([d.scale if kind_of(d).root else 0.0 for d in drives])
            step, turn = step * much[:, None], turn * much * np.array([d.turn != "not" for d in drives])
            flying = np.array([kind_of(d).flies for d in drives])
            stick = np.array([d.scale if kind_of(d).stick else 0.0 for d in drives])
        return Driven(step, turn, stick, flying, np.ones(part.ticks))

    @cached_property
    def bodies(self) -> Array:
        """The body's frame ``[N+1, 4, 4]`` along all rows."""
        return bodies_of(*self.way)

    def travel_to(self, frame: int) -> tuple[Array, float]:
        """Place ``[3]`` and yaw of the body after ``frame`` ticks of the path, from where the action began."""
        places, yaws = self.way
        at = min(max(frame, 0), len(yaws) - 1)
        return places[at], float(yaws[at])


def active(spans: tuple[Span, ...], tick: int) -> list[int]:
    """Indices of the spans that hold ``tick``."""
    return [i for i, span in enumerate(spans) if span.start <= tick < span.end]


def fade_weights(blend: int, ease: Ease) -> Array:
    """How much of what is faded in shows on each of ``blend`` ticks: (k + 1)/(n + 1), eased."""
    return eases(ease, np.arange(1, blend + 1, dtype=np.float64) / (blend + 1.0))


def crossfaded(before: Onward, left: Pose, blend: int, ease: Ease) -> Pose:
    """``left`` faded in over its first ``blend`` ticks from what came before, which plays on past its end."""
    old = before(np.arange(blend, dtype=np.float64))
    weight = fade_weights(blend, ease)
    turn, place = left.rotation.copy(), left.translation.copy()
    turn[:blend] = quat.slerp(old.rotation, left.rotation[:blend], weight[:, None])
    place[:blend] = old.translation + (left.translation[:blend] - old.translation) * weight[:, None, None]
    return Pose(turn, place)
