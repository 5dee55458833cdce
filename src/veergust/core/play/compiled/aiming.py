"""Aims as they are played: the poses of each, and where among them it points."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from veergust.core.model import Aim, BlendPoint, Layer, State
from veergust.core.motion import Pose, mean
from veergust.core.play.compiled.blending import CompiledBlend
from veergust.core.play.compiled.locomotion_clip import LocomotionClip

SIDE, UP = "side", "up"


@dataclass(frozen=True, eq=False)
class CompiledAim:
    """A layer's aim: its poses (of one frame each), and the one ahead, from which the others differ."""

    layer: str
    aim: Aim
    blend: CompiledBlend
    poses: tuple[Pose, ...]
    ahead: Pose

    def pose(self, side: float, up: float) -> Pose:
        """The pose that points so many degrees to the left and up."""
        return mixture(self.blend, self.poses, side, up)


def mixture(blend: CompiledBlend, poses: tuple[Pose, ...], side: float, up: float) -> Pose:
    """The mean of the poses around a direction, by its place among them."""
    moments = [(poses[i], 0.0, weight) for i, weight in blend.weights((side, up))]
    return moments[0][0] if len(moments) == 1 else mean(moments)


def compiled_aims(layers: tuple[Layer, ...], clip_of: Callable[[str], LocomotionClip]) -> tuple[CompiledAim, ...]:
    """The aims of a project's layers that have any, bottom up."""
    out = []
    for layer in layers:
        aim = layer.aim
        if aim is None or not aim.points:
            continue
        points = tuple(BlendPoint(clip=p.clip, at=(p.side, p.up)) for p in aim.points)
        blend = CompiledBlend(State(name=layer.name, over=(SIDE, UP), blend=points))
        poses = tuple(_at(clip_of(p.clip), p.time) for p in aim.points)
        out.append(CompiledAim(layer.name, aim, blend, poses, mixture(blend, poses, 0.0, 0.0)))
    return tuple(out)


def _at(clip: LocomotionClip, seconds: float) -> Pose:
    share = seconds / clip.seconds if clip.seconds > 0.0 else 0.0
    return clip.at(min(max(share, 0.0), 1.0), False)
