"""Hurtboxes ready to be placed, by how the body stands."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from veergust.core.model import Hurtbox, Rig
from veergust.core.motion import Array, Indices

POSTURES = ("standing", "ducking", "down")
FindMount = Callable[[str], tuple[int, Array] | None]


@dataclass(frozen=True, eq=False)
class HurtShapes:
    """``H`` hurtboxes of a figure, each in the frame of a joint: ends ``a`` and ``b`` ``[H, 3]`` (of a box its middle,
    twice), the radius about them in which all of it is ``[H]``, and of boxes their half extents ``[H, 3]`` and how
    they are turned there ``[H, 3, 3]``. One that ``spans`` is a box from its joint to that one ``[H]`` (−1: none); its
    half extent to the side is given, the others are as the pose has them."""

    names: list[str]
    joints: Indices
    a: Array
    b: Array
    radius: Array
    boxes: NDArray[np.uint8]
    half: Array
    turn: Array
    spans: Indices

    @cached_property
    def spanned(self) -> Indices:
        """Which of them span from joint to joint."""
        return np.flatnonzero(self.spans >= 0)


def hurt_shapes_of(rig: Rig, joints: dict[str, int], mount: FindMount) -> dict[str, HurtShapes]:
    """By posture, the hurtboxes that are there and whose joint or mount the figure has."""
    there = {p: [h for h in rig.hurtboxes if not h.postures or p in h.postures] for p in POSTURES}
    return {posture: hurt_shapes(boxes, joints, mount) for posture, boxes in there.items()}


def place_of(name: str, joints: dict[str, int], mount: FindMount) -> tuple[int, Array] | None:
    """The joint that carries what is on a joint or a mount, and its frame there ``[4, 4]``."""
    return (joints[name], np.eye(4)) if name in joints else mount(name)


def hurt_shapes(wished: Sequence[Hurtbox], joints: dict[str, int], mount: FindMount) -> HurtShapes:
    """Those hurtboxes whose joint or mount the figure has."""
    placed = [(box, at) for box in wished if (at := place_of(box.joint, joints, mount)) is not None]
    boxes = [box for box, _ in placed]
    frames = np.array([frame for _, (_, frame) in placed], dtype=float).reshape(-1, 4, 4)
    turn = np.ascontiguousarray(frames[:, :3, :3])

    def inside(points: list[tuple[float, float, float]]) -> Array:
        at = np.array(points, dtype=float).reshape(-1, 3)
        return np.ascontiguousarray((turn @ at[:, :, None])[:, :, 0] + frames[:, :3, 3])

    spans = np.array([joints.get(box.spans, -1) for box in boxes], dtype=np.intp)
    drawn = [(box.radius, 0.0, 0.0) if to >= 0 else box.size or (0.0, 0.0, 0.0) for box, to in zip(boxes, spans)]
    half = np.array(drawn, dtype=float).reshape(-1, 3)
    cubic = np.array([box.size is not None or to >= 0 for box, to in zip(boxes, spans)], dtype=np.uint8)
    return HurtShapes(
        [box.name for box in boxes],
        np.array([joint for _, (joint, _) in placed], dtype=np.intp),
        inside([box.offset for box in boxes]),
        inside([box.to if box.size is None else box.offset for box in boxes]),
        np.where(cubic, np.linalg.norm(half, axis=1), [box.radius for box in boxes]),
        cubic,
        half,
        turn,
        spans,
    )
