"""Actions compiled into arrays: which source time and pose each tick shows, and how far the body has gone."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from itertools import accumulate
from operator import itemgetter

import numpy as np
from numpy.typing import NDArray

from veergust.core.model import Action, Clip, Cut, Pool, Section, Span
from veergust.core.motion import quat
from veergust.core.motion.blend import eases
from veergust.core.motion.figure import Cast
from veergust.core.motion.prepared import ends, motion_of, source_pose, times, travel_of
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Pose, Skeleton, forward, mirror

FindClip = Callable[[str], Clip | None]
Outgoing = tuple[Clip, Array, bool]
"""The cut before: its clip, its source times, whether its pose is mirrored."""


def cut_seconds(cut: Cut, clip: Clip | None, cast: Cast) -> tuple[float, float]:
    """Where a cut starts and ends in its source (s): its own in and out, else the clip's, else the source's."""
    end = cut.end
    if end is None and clip is not None:
        end = ends(cast, clip)[1]
    return cut.start, max(end if end is not None else cut.start, cut.start)


def cut_ticks(cut: Cut, clip: Clip | None, cast: Cast, rate: int, speed: float = 1.0) -> int:
    """``max(1, round((out − in) / rate · R))``, with the clip's and the action's own rates."""
    start, end = cut_seconds(cut, clip, cast)
    pace = cut.rate * (clip.rate if clip else 1.0) * speed
    return max(1, round((end - start) / max(pace, 1e-6) * rate))


@dataclass(frozen=True, eq=False, repr=False)
class CompiledCut:
    """A cut on its ticks ``[first, first + ticks)`` of the section.

    It goes from source time ``start`` to ``end``, which is the earlier one when the clip is reversed. ``mirrored``
    counts the clip's own mirroring; ``climbs`` says whether its travel sets the body's height.
    """

    cut: Cut
    first: int
    ticks: int
    start: float
    end: float
    found: bool
    mirrored: bool
    climbs: bool


@dataclass(frozen=True, eq=False, repr=False)
class CompiledSection:
    """A section of N ticks. Arrays have N + 1 rows: the last is the moment the section ends.

    ``source`` ``[N+1]`` seconds in each tick's clip, ``pose`` with root travel taken out, ``place`` ``[N+1, 3]``
    and ``yaw`` ``[N+1]`` the body's way from the section's start in the frame it started in.
    """

    section: Section
    cuts: tuple[CompiledCut, ...]
    ticks: int
    source: Array
    pose: Pose
    place: Array
    yaw: Array
    skeleton: Skeleton
    sampled: CompiledSection | None = None
    """The section that was sampled alike before, with which this one shares what is worked out of it."""

    @cached_property
    def world(self) -> Array:
        """Joint matrices ``[N+1, J, 4, 4]`` in the body's own frame."""
        if self.sampled is not None:
            return self.sampled.world
        return forward(self.skeleton, self.pose.turn, self.pose.place)

    @cached_property
    def mirrored_rows(self) -> NDArray[np.bool_]:
        """Which of the N + 1 rows show a mirrored pose, so that what rides on it changes sides."""
        cuts = [self.cut_at(tick) for tick in range(self.ticks + 1)]
        return np.array([cut is not None and cut.mirrored for cut in cuts])

    def cut_at(self, tick: int) -> CompiledCut | None:
        """The cut that shows ``tick``."""
        return next((c for c in reversed(self.cuts) if c.first <= tick), None)

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
    def _walk(self) -> tuple[tuple[int, ...], bool]:
        out: list[int] = []
        at: int | None = self.entry if self.sections else None
        while at is not None:
            if at in out:
                at = self._way_out(out)
                if at is None:
                    return tuple(out), True
                continue
            out.append(at)
            at = next(iter(self.ways(self.sections[at].section.then)), None)
        return tuple(out), False

    def ways(self, to: str) -> tuple[int, ...]:
        """Sections that ``to`` leads to: the one of that name, or those the pool of that name may pick; none at the
        end."""
        if to in self.index:
            return (self.index[to],)
        items = next((p.items for p in self.pools if p.name == to), ())
        return tuple(self.index[i.name] for i in items if i.name in self.index and i.weight > 0.0)

    def _way_out(self, played: list[int]) -> int | None:
        """Where the first gate leads out of what has been played, looking from the last section back."""
        for i in reversed(played):
            for gate in self.sections[i].section.gates:
                for to in self.ways(gate.to):
                    if to not in played:
                        return to
        return None

    @property
    def path(self) -> tuple[int, ...]:
        """Sections in the order they play when nobody intervenes: by ``then``, each once, of a pool the first.

        It goes out of a loop by its first gate, as if it were let go after one lap.
        """
        return self._walk[0]

    @property
    def loops(self) -> bool:
        """Whether the path comes back on itself and no gate leads out."""
        return self._walk[1]

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

    def take_way(self, before: CompiledAction) -> None:
        """Take over where the body goes from the action as it was before an edit, if the edit left that alone."""
        same = (self.path, self.order, self.action.root.scale) == (
            before.path,
            before.order,
            before.action.root.scale,
        )
        if same and all(a.place is b.place for a, b in zip(self.sections, before.sections)):
            self.__dict__.update({k: v for k, v in before.__dict__.items() if k in ("way", "bodies")})

    @cached_property
    def open_frames(self) -> tuple[int, ...]:
        """Frames of the path on which any strike is open, in order."""
        out: set[int] = set()
        for first, i in self.starts():
            part = self.sections[i]
            for strike in part.section.strikes:
                out.update(range(first + max(strike.start, 0), first + min(strike.end, part.ticks)))
        return tuple(sorted(out))

    @cached_property
    def way(self) -> tuple[Array, Array]:
        """Place ``[N+1, 3]`` and yaw ``[N+1]`` of the body along all N rows, from where it began.

        A section the path does not reach begins where the action does.
        """
        places, yaws = [np.zeros((1, 3))], [np.zeros(1)]
        for n, i in enumerate(self.order):
            s = self.sections[i]
            if n >= len(self.path):
                places.append(s.place[1:] * self.action.root.scale)
                yaws.append(s.yaw[1:] * self.action.root.scale)
                continue
            spin = quat.from_yaw(float(yaws[-1][-1]))
            places.append(places[-1][-1] + quat.rotate(spin, s.place[1:]) * self.action.root.scale)
            yaws.append(yaws[-1][-1] + s.yaw[1:] * self.action.root.scale)
        return np.concatenate(places), np.concatenate(yaws)

    @cached_property
    def bodies(self) -> Array:
        """The body's frame ``[N+1, 4, 4]`` along all rows."""
        places, yaws = self.way
        out = np.zeros((len(yaws), 4, 4))
        out[:, :3, :3] = quat.to_matrix(quat.from_yaw(yaws))
        out[:, :3, 3] = places
        out[:, 3, 3] = 1.0
        return out

    def travel_to(self, frame: int) -> tuple[Array, float]:
        """Place ``[3]`` and yaw of the body after ``frame`` ticks of the path, from where the action began."""
        places, yaws = self.way
        at = min(max(frame, 0), len(yaws) - 1)
        return places[at], float(yaws[at])


def active(spans: tuple[Span, ...], tick: int) -> list[int]:
    """Indices of the spans that hold ``tick``."""
    return [i for i, span in enumerate(spans) if span.start <= tick < span.end]


def _crossfaded(cast: Cast, outgoing: Outgoing, left: Pose, blend: int, action: Action, root_joint: int) -> Pose:
    """``left`` faded in over its first ``blend`` ticks from the cut before, which plays on past its end meanwhile."""
    clip, at_source, turned = outgoing
    step = at_source[-1] - at_source[-2]
    on = np.concatenate([at_source, at_source[-1] + step * np.arange(1, blend)])
    pose = source_pose(cast, clip, on)
    if turned:
        pose = mirror(cast.skeleton, pose)
    _, old = travel_of(cast, clip, pose, root_joint, action.root)
    late = slice(len(at_source) - 1, len(at_source) - 1 + blend)
    weight = eases(action.ease, np.arange(1, blend + 1, dtype=np.float64) / (blend + 1.0))
    turn, place = left.turn.copy(), left.place.copy()
    turn[:blend] = quat.slerp(old.turn[late], left.turn[:blend], weight[:, None])
    place[:blend] = old.place[late] + (left.place[:blend] - old.place[late]) * weight[:, None, None]
    return Pose(turn, place)


def compile_section(
    section: Section, action: Action, find: FindClip, cast: Cast, rate: int, root_joint: int
) -> CompiledSection:
    """Sample a section's cuts on every tick and take the body's travel out of the poses."""
    bones = cast.skeleton
    cuts: list[CompiledCut] = []
    source: list[Array] = []
    poses: list[Pose] = []
    places, yaws = [np.zeros((1, 3))], [np.zeros(1)]
    at, place, yaw = 0, np.zeros(3), 0.0
    before: Outgoing | None = None
    for cut in section.cuts:
        clip = find(cut.clip)
        motion = motion_of(cast, clip)
        start, end = cut_seconds(cut, clip, cast)
        ticks = cut_ticks(cut, clip, cast, rate, action.speed)
        turned = cut.mirror != bool(clip and clip.mirror)
        # Times run to the cut's end, so that its rate fills the ticks exactly.
        at_source = times(start, end, ticks, bool(clip and clip.reverse))
        climbs = action.root.up or bool(clip and clip.root.up)
        went = float(at_source[0]), float(at_source[-1])
        cuts.append(CompiledCut(cut, at, ticks, *went, motion is not None, turned, climbs))
        if clip is None or motion is None:
            pose = Pose(
                np.broadcast_to(bones.rest_turn, (ticks + 1, len(bones), 4)).copy(),
                np.broadcast_to(bones.rest_place, (ticks + 1, len(bones), 3)).copy(),
            )
        else:
            pose = source_pose(cast, clip, at_source)
        if turned:
            pose = mirror(bones, pose)
        way, left = travel_of(cast, clip, pose, root_joint, action.root)
        if cut.blend > 0 and before is not None:
            left = _crossfaded(cast, before, left, min(cut.blend, ticks), action, root_joint)
        before = (clip, at_source, turned) if clip is not None and motion is not None else None
        source.append(at_source[:-1])
        poses.append(Pose(left.turn[:-1], left.place[:-1]))
        places.append(place + quat.rotate(quat.from_yaw(yaw), way.place[1:]))
        yaws.append(yaw + way.yaw[1:])
        place, yaw, at = places[-1][-1], float(yaws[-1][-1]), at + ticks
        last = (at_source[-1:], left.frame(-1))
    if not cuts:
        rest = bones.rest_pose()
        last, at = (np.zeros(1), rest), 1
        source, poses = [np.zeros(1)], [rest]
        places.append(np.zeros((1, 3)))
        yaws.append(np.zeros(1))
    return CompiledSection(
        section,
        tuple(cuts),
        at,
        np.concatenate([*source, last[0]]),
        Pose(
            np.concatenate([p.turn for p in [*poses, last[1]]]),
            np.concatenate([p.place for p in [*poses, last[1]]]),
        ),
        np.concatenate(places),
        np.concatenate(yaws),
        bones,
    )
