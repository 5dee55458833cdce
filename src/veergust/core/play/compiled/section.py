"""A section of an action on its ticks: its cuts, poses and way, and what its spans ask of play."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from veergust.core.kinds import RANKED, SpanKind
from veergust.core.model import MOST_TICKS, Clip, Cut, Event, Hitbox, Section, Span
from veergust.core.motion import Array, Assets, Pose, Skeleton, ends, forward

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


class Told(NamedTuple):
    """A span that a take tells of: what one is called, its place among its kind, its ticks, whether it acts, and
    whether it runs something of its own."""

    one: str
    place: int
    start: int
    end: int
    acts: bool
    runs: bool = False


class Moment(NamedTuple):
    """What goes off on a tick, and the parameter it sets."""

    event: Event
    sets: tuple[str, float] | None


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
        spans = [(s.start, s.end) for kind in RANKED if kind.leads_away for s in kind.of(self.section)]
        return tuple(not any(start <= t + 1 and t < end for start, end in spans) for t in range(self.ticks))

    @cached_property
    def struck(self) -> frozenset[int]:
        """The ticks on which any strike is open."""
        return frozenset(t for s in self.section.strikes for t in range(s.start, s.end))

    @cached_property
    def driven(self) -> dict[object, Any]:
        """What was worked out of how it moves the body, by the drives; shared by all that were sampled alike."""
        return self.sampled.driven if self.sampled is not None else {}

    @cached_property
    def told(self) -> tuple[Told, ...]:
        """The spans whose opening and closing a take tells, in its order."""
        return tuple(
            Told(kind.one, i, span.start, span.end, kind.acts, kind.runs(span))
            for kind in RANKED
            if kind.told
            for i, span in enumerate(kind.of(self.section))
        )

    @cached_property
    def held(self) -> tuple[tuple[int, int, str, float], ...]:
        """The settings that are held: from tick, to tick, setting, value."""
        rows = ((s, kind.holds(s)) for kind in RANKED if not kind.moment for s in kind.of(self.section))
        return tuple((s.start, s.end, *held) for s, held in rows if held is not None)

    @cached_property
    def moments(self) -> dict[int, tuple[Moment, ...]]:
        """What goes off, by tick."""
        out: dict[int, tuple[Moment, ...]] = {}
        for kind in RANKED:
            for span in kind.of(self.section) if kind.moment else ():
                fired = kind.fires(span)
                if fired is not None:
                    out[span.tick] = (*out.get(span.tick, ()), Moment(fired, kind.sets(span)))
        return out

    @cached_property
    def acts(self) -> bool:
        """Whether it has spans that do nothing where their layer is hidden, and are told otherwise."""
        return any(told.acts for told in self.told)

    def shapes(self, tick: int) -> Iterator[tuple[SpanKind, Hitbox, bool]]:
        """Every hitbox of the section, of which kind of span it is, and whether it is open on ``tick``."""
        for kind in RANKED:
            for span in kind.of(self.section):
                for box in kind.boxes(span):
                    yield kind, box, span.start <= tick < span.end

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


def active(spans: tuple[Span, ...], tick: int) -> list[int]:
    """Indices of the spans that hold ``tick``."""
    return [i for i, span in enumerate(spans) if span.start <= tick < span.end]
