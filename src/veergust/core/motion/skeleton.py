"""Skeletons, poses and forward kinematics."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from veergust.core.motion import quat
from veergust.core.motion.kernels import joints
from veergust.core.motion.quat import Array, Indices

PICTURE = "(picture)"
"""The joint of a drawn figure whose turn says which drawing it shows."""


@dataclass(frozen=True, eq=False, repr=False)
class Skeleton:
    """``J`` joints, parents before children.

    ``parents`` is ``[J]`` (−1 for a root), ``rest_turn`` ``[J, 4]`` and ``rest_place`` ``[J, 3]`` are local.
    """

    names: tuple[str, ...]
    parents: tuple[int, ...]
    rest_rotation: Array
    rest_translation: Array
    index: dict[str, int] = field(init=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "index", {name: i for i, name in enumerate(self.names)})
        for child, parent in enumerate(self.parents):
            if parent >= child:
                raise ValueError(f"joint {self.names[child]!r} comes before its parent")

    def __len__(self) -> int:
        return len(self.names)

    @cached_property
    def picture(self) -> int:
        """The joint that says which drawing is shown, of a drawn figure; −1 for one that is posed."""
        return self.index.get(PICTURE, -1)

    @cached_property
    def above(self) -> Indices:
        """The parents as an array ``[J]``."""
        return np.array(self.parents, dtype=np.intp)

    def below(self, joints: tuple[int, ...]) -> Indices:
        """All that hangs on ``joints``, and themselves."""
        if joints not in self._below:
            there = [False] * len(self)
            for joint, parent in enumerate(self.parents):
                there[joint] = joint in joints or (parent >= 0 and there[parent])
            self._below[joints] = np.flatnonzero(there)
        return self._below[joints]

    @cached_property
    def _below(self) -> dict[tuple[int, ...], Indices]:
        return {}

    @cached_property
    def mirrored(self) -> tuple[int, ...]:
        """The joint on the other side for each joint, by the left/right in its name (itself where none)."""
        return tuple(
            next((self.index[n] for n in _others(name) if n in self.index), j) for j, name in enumerate(self.names)
        )

    @cached_property
    def rest_world(self) -> Array:
        """World matrices of the rest pose, ``[J, 4, 4]``."""
        return np.asarray(forward(self, self.rest_rotation[None], self.rest_translation[None])[0])

    def rest_pose(self) -> Pose:
        """The rest pose as a batch of one."""
        return Pose(self.rest_rotation[None].copy(), self.rest_translation[None].copy())


SIDES = (("left", "right"), ("Left", "Right"), ("LEFT", "RIGHT"), ("_l", "_r"), ("_L", "_R"), (".l", ".r"),
         (".L", ".R"), ("-l", "-r"), ("-L", "-R"), (" L", " R"), ("L_", "R_"), ("l_", "r_"))  # fmt: skip
"""How names say which side they are of, beside a letter before or behind a word."""


def _others(name: str) -> Iterator[str]:
    """What the joint of the other side may be called."""
    for a, b in SIDES:
        for this, that in ((a, b), (b, a)):
            if this in name:
                yield name.replace(this, that)
    for this, that in ("LR", "RL", "lr", "rl"):
        if name.startswith(this) and name[1:2].isupper():
            yield that + name[1:]
        if name.endswith(this) and name[-2:-1].islower() and this.isupper():
            yield name[:-1] + that


@dataclass(frozen=True, eq=False, repr=False)
class Pose:
    """Local transforms of ``F`` frames: ``rotation`` ``[F, J, 4]``, ``translation`` ``[F, J, 3]``."""

    rotation: Array
    translation: Array

    def frame(self, index: int) -> Pose:
        """One frame as a batch of one; negative counts from the end."""
        index = index + len(self.rotation) if index < 0 else index
        return Pose(self.rotation[index : index + 1], self.translation[index : index + 1])


def forward(skeleton: Skeleton, rotation: Array, translation: Array) -> Array:
    """World matrices ``[F, J, 4, 4]`` of local rotations ``[F, J, 4]`` and places ``[F, J, 3]``."""
    out = np.empty((*rotation.shape[:2], 4, 4))
    joints.forward(skeleton.above, _whole(rotation), _whole(translation), out)
    return out


def _whole(values: Array) -> Array:
    """Values as kernels take them, lying together row by row: themselves where they do."""
    return np.ascontiguousarray(values, dtype=np.float64)


def chain_to(skeleton: Skeleton, joint: int) -> list[int]:
    """A joint and those above it, from the top down."""
    chain: list[int] = []
    while joint >= 0:
        chain.insert(0, joint)
        joint = skeleton.parents[joint]
    return chain


def mirror(skeleton: Skeleton, pose: Pose, swaps: bool = False) -> Pose:
    """The pose reflected across the figure's own left–right plane (x = 0); where it ``swaps``, with what hangs on one
    side alone (a weapon in a hand) on the other.

    World rotations are taken relative to the rest pose, reflected, given to the joint on the other side, and
    turned back into local ones; so it holds for any rest orientation of a left–right symmetric skeleton. A drawn figure
    is flat on that plane, and stays as it is.
    """
    if skeleton.picture >= 0:
        return pose
    other = np.array(skeleton.mirrored)
    reflect = np.array([1.0, -1.0, -1.0, 1.0])
    world = np.empty_like(pose.rotation)
    rest = np.empty_like(skeleton.rest_rotation)
    for j, parent in enumerate(skeleton.parents):
        world[:, j] = pose.rotation[:, j] if parent < 0 else quat.multiply(world[:, parent], pose.rotation[:, j])
        rest[j] = skeleton.rest_rotation[j] if parent < 0 else quat.multiply(rest[parent], skeleton.rest_rotation[j])
    away = quat.multiply(world, quat.conjugate(rest)[None])
    flipped = quat.multiply((away * reflect)[:, other], rest[None])
    rotation = np.empty_like(pose.rotation)
    translation = np.broadcast_to(skeleton.rest_translation, pose.translation.shape).copy()
    shift = (pose.translation - skeleton.rest_translation)[:, other]
    # A shift is told in its parent's frame, and those of two sides need not lie as each other's reflections.
    above = np.array([quat.IDENTITY if p < 0 else rest[p] for p in skeleton.parents])
    aside = np.array([-1.0, 1.0, 1.0])
    shift = quat.rotate(quat.conjugate(above), quat.rotate(above[other], shift) * aside)
    for j, parent in enumerate(skeleton.parents):
        rotation[:, j] = (
            flipped[:, j] if parent < 0 else quat.multiply(quat.conjugate(flipped[:, parent]), flipped[:, j])
        )
    translation += shift
    out = Pose(quat.normalize(rotation), translation)
    return _swapped(skeleton, pose, out) if swaps else out


def _swapped(skeleton: Skeleton, pose: Pose, mirrored: Pose) -> Pose:
    """A mirrored pose in which joints of no side, that hang on one side, are where their reflections are."""
    other, parents = skeleton.mirrored, skeleton.parents
    alone = [j for j, above in enumerate(parents) if other[j] == j and above >= 0 and other[above] != above]
    if not alone:
        return mirrored
    was = forward(skeleton, pose.rotation, pose.translation)[..., :3, 3][:, alone] * np.array([-1.0, 1.0, 1.0])
    above = forward(skeleton, mirrored.rotation, mirrored.translation)[:, [parents[j] for j in alone]]
    place = mirrored.translation.copy()
    place[:, alone] = np.einsum("fjik,fji->fjk", above[..., :3, :3], was - above[..., :3, 3])
    return Pose(mirrored.rotation, place)
