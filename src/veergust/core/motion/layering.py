"""One pose over another: in its place or added to it, joint by joint or in body space.

Joint by joint a mask's first joint is turned in its parent as in the pose above, so that an arm sways with hips that
the mask leaves alone. In body space it is turned about the body as in the pose above, so that what hangs on it aims
where it aimed. Both give what is under the mask to the bit where a weight is 0.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from veergust.core.motion import quat
from veergust.core.motion.blend import moved_on, partly, same_way, turned_on
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Indices, Pose, Skeleton, turn_components

Space = Literal["joint", "body"]
MANY = 48
"""For so many frames it is the size of what is worked out that costs, and not the number of calls."""
KEEPS, GOES = 45.0, 150.0
"""In body space the aim is kept while what the mask hangs on is turned by less than this (degrees) from where the pose
above has it; beyond the second it is mixed joint by joint, for on hips that are upside down nobody aims."""


def over(
    bones: Skeleton,
    base: Pose,
    pose: Pose,
    weight: Array,
    way: Array | None,
    space: Space = "joint",
    hangs: Hanging | None = None,
) -> tuple[Pose, Array | None]:
    """``pose`` over ``base``, ``F`` frames each, by ``weight`` (0…1): ``[J]`` of all, or ``[F, J]`` of one mask.

    ``way`` is what the last call of a fade gave (None: it begins); see ``blend.turned_on``. ``hangs`` is how the
    mask lies on the figure, where that is known.
    """
    if weight.max(initial=0.0) <= 0.0:
        return base, None
    if weight.min(initial=1.0) >= 1.0:
        return pose, None
    place = moved_on(base.translation, pose.translation, weight)
    if space == "joint":
        rotation, way = turned_on(base.rotation, pose.rotation, weight, way)
        return Pose(rotation, place), way
    about, aims = turns(bones, base.rotation), turns(bones, pose.rotation)
    hangs = hangs if hangs is not None else hanging(bones, weight)
    mixed, way = turned_on(about, _swayed(about, aims, hangs), weight, way)
    return Pose(_local(hangs, base.rotation, pose.rotation, mixed, weight), place), way


@dataclass(frozen=True, eq=False, repr=False)
class Hanging:
    """How a mask lies on a figure, for mixing in body space; worked out once a mask.

    ``firsts`` are the joints it leaves alone that others hang on, ``which`` of them is the nearest above each of those
    ``there``. ``mine`` are the joints it speaks for, ``above`` what they
    hang on (those at a root are ``roots``), ``loose`` joints it leaves alone under some that it speaks for, with what
    each hangs on.
    """

    there: Indices
    firsts: Indices
    which: Indices
    mine: Indices
    above: Indices
    roots: Indices
    loose: tuple[tuple[int, int], ...]


def hanging(bones: Skeleton, mask: Array) -> Hanging:
    """How a mask (``[J]``, or ``[F, J]`` of one pattern) lies on a figure."""
    speaks = mask.reshape(-1, len(bones)).max(axis=0) > 0.0
    held, under = [-1] * len(bones), [False] * len(bones)
    loose = []
    for joint, parent in enumerate(bones.parents):
        if parent < 0:
            continue
        held[joint] = held[parent] if speaks[parent] else parent
        under[joint] = bool(under[parent] or speaks[parent])
        if under[joint] and not speaks[joint]:
            loose.append((joint, parent))
    there = np.flatnonzero(np.array(held) >= 0)
    firsts, which = np.unique(np.array(held, dtype=np.intp)[there], return_inverse=True)
    parents = np.array(bones.parents, dtype=np.intp)
    mine = np.flatnonzero(speaks & (parents >= 0))
    roots = np.flatnonzero(speaks & (parents < 0))
    return Hanging(there, firsts, which, mine, parents[mine], roots, tuple(loose))


def _swayed(about: Array, aims: Array, hangs: Hanging) -> Array:
    """Where joints aim ``[F, J, 4]`` about the body: as they do in the pose above while what holds them sways a little;
    the farther that is from its own turn in the pose above, the more they go with it."""
    if not len(hangs.there):
        return aims
    firsts = hangs.firsts
    sway = same_way(quat.multiply(about[:, firsts], quat.conjugate(aims[:, firsts])), None)
    angle = np.degrees(2.0 * np.arccos(np.clip(sway[..., 3], -1.0, 1.0)))
    t = np.clip((angle - KEEPS) / (GOES - KEEPS), 0.0, 1.0)
    out = aims.copy()
    out[:, hangs.there] = quat.multiply(partly(sway, t * t * (3.0 - 2.0 * t))[:, hangs.which], aims[:, hangs.there])
    return out


def added(
    bones: Skeleton,
    base: Pose,
    pose: Pose,
    reference: Pose,
    weight: Array,
    way: Array | None,
    space: Space = "joint",
    hangs: Hanging | None = None,
) -> tuple[Pose, Array | None]:
    """``base`` with the difference from ``reference`` to ``pose`` added by ``weight``, shapes as in ``over``.

    In body space it is the difference of turns about the body, and it is done about the body.
    """
    if weight.max(initial=0.0) <= 0.0:
        return base, None
    w = weight[..., None]
    place = np.where(w > 0.0, base.translation + (pose.translation - reference.translation) * w, base.translation)
    if space == "joint":
        delta = same_way(quat.multiply(quat.conjugate(reference.rotation), pose.rotation), way)
        turned = quat.normalize(quat.multiply(base.rotation, partly(delta, weight)))
        return Pose(np.where(w > 0.0, turned, base.rotation), place), delta
    aims, rest = turns(bones, pose.rotation), turns(bones, reference.rotation)
    delta = same_way(quat.multiply(aims, quat.conjugate(rest)), way)
    about = quat.normalize(quat.multiply(partly(delta, weight), turns(bones, base.rotation)))
    hangs = hangs if hangs is not None else hanging(bones, weight)
    return Pose(_local(hangs, base.rotation, None, about, weight), place), delta


def turns(bones: Skeleton, rotation: Array) -> Array:
    """Turns about the body ``[F, J, 4]`` of local rotations ``[F, J, 4]``: by pointer jumping, of many frames by their
    components."""
    if len(rotation) >= MANY:
        turn = np.ascontiguousarray(rotation.transpose(2, 1, 0))
        turn_components(bones, turn)
        return np.ascontiguousarray(turn.transpose(2, 1, 0))
    out = rotation.copy()
    for own, above in bones.jumps:
        out[:, own] = quat.multiply(out[:, above], out[:, own])
    return out


def _local(hangs: Hanging, base: Array, pose: Array | None, about: Array, weight: Array) -> Array:
    """Local rotations ``[F, J, 4]`` of turns ``about`` the body, where ``weight`` is above 0; those of ``base``
    elsewhere, and of ``pose`` where it is wholly over itself."""
    if hangs.loose:
        about = about.copy()
        for joint, parent in hangs.loose:
            about[:, joint] = quat.multiply(about[:, parent], base[:, joint])
    out = base.copy()
    mine, above = hangs.mine, hangs.above
    out[:, mine] = quat.normalize(quat.multiply(quat.conjugate(about[:, above]), about[:, mine]))
    out[:, hangs.roots] = about[:, hangs.roots]
    if pose is not None:
        least = weight if weight.ndim == 1 else weight.min(axis=0)
        whole = mine[(least[mine] >= 1.0) & (least[above] >= 1.0)]
        out[:, whole] = pose[:, whole]
    return out
