"""A clip as locomotion plays it: about its body, on a fine grid, with the beat of its steps and its pace."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from math import hypot

import numpy as np
from msgspec.structs import replace

from veergust.core.model import Clip, RootUse
from veergust.core.motion import (
    Array,
    Assets,
    Beat,
    Pose,
    Roots,
    Skeleton,
    beat_of,
    carried,
    ends,
    feet_of,
    forward,
    mix,
    motion_of,
    pace_of,
    times,
    travel_of,
)

BAKE = 120.0
GOES = 0.15
"""A clip that travels more slowly (m/s) was shot on the spot; its pace is read off its feet."""


@dataclass(frozen=True, eq=False, repr=False)
class LocomotionClip:
    """A clip on a fine grid of ``F`` frames over ``seconds``, with its travel (m: to the left, ahead) taken out."""

    skeleton: Skeleton
    pose: Pose
    seconds: float
    loop: bool
    travel: tuple[float, float] = (0.0, 0.0)

    def at(self, phase: float, loop: bool | None = None) -> Pose:
        """The pose at ``phase`` (1 is the end): wrapped where it loops, held where not."""
        at = self.frame_at(phase, self.loop if loop is None else loop)
        low = int(at)
        if at <= low or self.skeleton.picture >= 0:
            return self.pose.frame(int(at + 1e-6))
        return mix(self.pose.frame(low), self.pose.frame(low + 1), at - low)

    def frame_at(self, phase: float, loop: bool) -> float:
        """Which frame of the grid ``phase`` is on, and how far towards the next."""
        return (phase % 1.0 if loop else min(max(phase, 0.0), 1.0)) * self.last

    @cached_property
    def last(self) -> int:
        """The last frame of the grid."""
        return len(self.pose.rotation) - 1

    @cached_property
    def joints(self) -> Array:
        """Joints about the body ``[F, J, 3]``."""
        return np.asarray(forward(self.skeleton, self.pose.rotation, self.pose.translation)[..., :3, 3])

    @cached_property
    def leg(self) -> float:
        """The length of a leg (m): from the highest a hip of a foot comes down to the floor."""
        feet = feet_of(self.skeleton)
        if not feet:
            return 1.0
        hip = self.skeleton.parents[self.skeleton.parents[feet[0]]]
        rest = self.skeleton.rest_world[..., :3, 3]
        return max(float(np.linalg.norm(rest[hip] - rest[feet[0]])), 1e-3)

    @cached_property
    def beat(self) -> Beat | None:
        """The beat of its steps; None for a clip without."""
        return beat_of(self.skeleton, self.joints, self.leg)

    @cached_property
    def pace(self) -> tuple[float, float]:
        """How fast (m/s: to the left, ahead) it goes by its travel, or on the spot by its feet."""
        left, ahead = (v / self.seconds for v in self.travel)
        if hypot(left, ahead) >= GOES or self.beat is None:
            return left, ahead
        by_feet = pace_of(self.skeleton, self.joints, self.seconds)
        return float(by_feet[0]), float(by_feet[1])


Part = tuple[LocomotionClip, float, float]
"""A clip, its weight, and the speed (m/s) at which its feet stand (0: it does not say)."""


def bake(assets: Assets, clip: Clip | None, roots: Roots) -> LocomotionClip:
    """A clip for locomotion; one that is not there is the figure at rest."""
    bones = assets.skeleton
    if clip is None or motion_of(assets, clip) is None or len(bones) == 0:
        return LocomotionClip(bones, bones.rest_pose(), 1.0, True)
    start, end = ends(assets, clip)
    span = max(end - start, 1e-3)
    at = times(start, start + span, max(1, round(span * BAKE)), clip.reverse)
    # The clip's own root use is left aside: under locomotion nothing of its travel moves the body.
    bare = replace(clip, root=RootUse(), in_place=False)
    _, left = carried(assets, bare, at, roots)
    way = travel_of(assets, bare, at[[0, -1]], roots).place[-1]
    return LocomotionClip(bones, left, span / max(clip.rate, 1e-6), clip.loop, (float(way[0]), float(way[2])))
