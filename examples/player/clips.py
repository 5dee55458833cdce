"""Clips as locomotion plays them."""

from __future__ import annotations

from typing import Any

from player.axes import Axes
from player.glb import Pose

Json = dict[str, Any]


class GroundClip:
    """A clip as locomotion plays it, about the body, on a grid of its own."""

    def __init__(self, row: Json, poses: list[Pose], axes: Axes, *, drawn: bool = False) -> None:
        self.poses = poses
        self.drawn = drawn
        """Whether its poses are drawings, between which there is nothing."""
        self.seconds: float = row["ground"]["seconds"]
        self.loop: bool = row["loop"]
        pace = row["ground"]["pace"]
        self.pace = pace["left"] / axes.scale, pace["ahead"] / axes.scale
        beat = row["ground"]["beat"]
        self.laps: int = beat["laps"] if beat is not None else 0
        """How many strides of both feet there are in it; 0 where it has no steps."""
        self.half_steps: list[float] = beat["half_steps"] if beat is not None else []

    def frame(self, share: float, loop: bool) -> float:
        """Which frame of the grid a share of the clip is on, and how far towards the next."""
        return (share % 1.0 if loop else min(max(share, 0.0), 1.0)) * (len(self.poses) - 1)
