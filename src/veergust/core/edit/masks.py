"""Masks: painted on a figure's joints, from one on or one by one, and kept as short as can be said."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from veergust.core.edit.names import free, typed
from veergust.core.edit.spans import Edit
from veergust.core.model import Mask, Project
from veergust.core.motion import Array, Skeleton, mask_weights, nearest
from veergust.core.study import lost_joints
from veergust.core.trouble import Trouble, named

FURTHEST = 4
"""A feather goes over so many joints at the most."""
PLACES = 3
"""Weights are kept to so many places."""


def mask_of(bones: Skeleton, name: str, weights: Array, lost: tuple[tuple[str, float], ...] = ()) -> Mask:
    """The mask of a name that gives ``weights`` ``[J]``: from one joint on, and as few joints of their own as can be.

    ``lost`` are weights of joints that the figure does not have, which are kept.
    """
    wanted = np.round(np.clip(weights, 0.0, 1.0), PLACES)
    best: tuple[int, Mask] | None = None
    for joint in ("", *bones.names):
        for feather in range(FURTHEST + 1 if joint else 1):
            base = mask_weights(bones, joint, feather)
            off = np.flatnonzero(np.abs(base - wanted) > 0.5 * 10.0**-PLACES)
            if best is None or len(off) < best[0]:
                own = tuple((bones.names[j], float(wanted[j])) for j in off)
                best = len(off), Mask(name=name, joint=joint, feather=feather, weights=(*own, *lost))
    assert best is not None
    return best[1]


def weights_in(bones: Skeleton, mask: Mask) -> Array:
    """The weights ``[J]`` a mask gives."""
    return mask_weights(bones, mask.joint, mask.feather, mask.weights)


def _put(project: Project, mask: Mask, words: str) -> Edit:
    masks = tuple(mask if m.name == mask.name else m for m in project.masks)
    return Edit(replace(project, masks=masks), f"Mask {mask.name}: {words}")


def paint(project: Project, bones: Skeleton, name: str, weights: Array, words: str) -> Edit:
    """A mask with other weights ``[J]``; what it says of joints that are not there stays."""
    old = named(project.masks, name, "mask")
    lost = tuple((n, w) for n, w in old.weights if n not in bones.index)
    return _put(project, mask_of(bones, name, weights, lost), words)


def from_here_on(
    project: Project, bones: Skeleton, name: str, joint: str, feather: int = 0, *, much: float = 1.0
) -> Edit:
    """A mask that speaks for a joint and all that hangs on it, rising over ``feather`` joints to ``much`` (0: no
    more); others keep what they have. One that spoke for every joint speaks only from there on."""
    weights = weights_in(bones, named(project.masks, name, "mask"))
    if much > 0.0 and len(weights) and weights.min() >= 1.0:
        weights = np.zeros_like(weights)
    new = mask_weights(bones, joint, min(max(feather, 0), FURTHEST))
    rows = new > 0.0
    weights[rows] = new[rows] * much if much > 0.0 else 0.0
    feathered = f", feather {feather}" if feather and much > 0.0 else ""
    says = f"{'without' if much <= 0.0 else 'from'} {joint} on{feathered}"
    return paint(project, bones, name, weights, says)


def set_weight(project: Project, bones: Skeleton, name: str, joints: tuple[str, ...], weight: float) -> Edit:
    """How much a mask speaks for some joints."""
    weights = weights_in(bones, named(project.masks, name, "mask"))
    weights[[bones.index[j] for j in joints]] = weight
    return paint(project, bones, name, weights, f"{' and '.join(joints)} {weight:g}")


def mirrored(project: Project, bones: Skeleton, name: str) -> Edit:
    """A mask with what it has on one side on both: the greater of each two weights."""
    weights = weights_in(bones, named(project.masks, name, "mask"))
    other = weights[list(bones.mirrored)]
    return paint(project, bones, name, np.maximum(weights, other), "on both sides")


def fill(project: Project, bones: Skeleton, name: str, weight: float) -> Edit:
    """A mask that speaks for the whole figure alike, or for nothing."""
    weights = np.full(len(bones), weight)
    return paint(project, bones, name, weights, "the whole figure" if weight >= 1.0 else "nothing")


def add_mask(project: Project, wish: str = "mask", like: str = "") -> tuple[Edit, str]:
    """A new mask, like another where one is named, and its name."""
    name = free(wish, {m.name for m in project.masks})
    made = replace(named(project.masks, like, "mask"), name=name) if like else Mask(name=name)
    return Edit(replace(project, masks=(*project.masks, made)), f"New mask {name}"), name


def rename_mask(project: Project, old: str, new: str) -> Edit:
    """A mask under another name; layers that have it follow. Raises ``Trouble`` for one that is empty or taken."""
    new = typed(new, old, {m.name for m in project.masks}, "mask")
    named(project.masks, old, "mask")
    masks = tuple(replace(m, name=new) if m.name == old else m for m in project.masks)
    layers = tuple(replace(y, mask=new) if y.mask == old else y for y in project.layers)
    return Edit(replace(project, masks=masks, layers=layers), f"Mask {old} → {new}")


def remove_mask(project: Project, name: str) -> Edit:
    """The project without a mask. Raises ``Trouble`` while a layer has it."""
    named(project.masks, name, "mask")
    users = [y.name for y in project.layers if y.mask == name]
    if users:
        raise Trouble(f"{', '.join(users)} speaks for it", field="mask", do="give the layer another mask first")
    masks = tuple(m for m in project.masks if m.name != name)
    return Edit(replace(project, masks=masks), f"Remove mask {name}")


def for_this_figure(project: Project, bones: Skeleton, name: str) -> Edit:
    """A mask with the nearest joints of the figure in place of those it does not have."""
    mask = named(project.masks, name, "mask")
    new = {old: nearest(bones, old) for old in lost_joints(bones, mask)}
    if not any(new.values()):
        raise Trouble("names no joint like one of the figure's", field="mask", do="paint it anew")

    def now(joint: str) -> str:
        return new.get(joint) or joint

    made = replace(mask, joint=now(mask.joint), weights=tuple((now(n), w) for n, w in mask.weights))
    said = ", ".join(f"{old} → {to}" for old, to in new.items() if to)
    return _put(project, made, said)
