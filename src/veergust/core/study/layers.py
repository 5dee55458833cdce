"""What the layers are, told: where each may speak, and how much of each joint it speaks for."""

from __future__ import annotations

from veergust.core.model import Layer, Mask, Rule
from veergust.core.motion import Array, Skeleton, mask_weights, parts_of
from veergust.core.play import CompiledProject, FighterState, joint_shares


def scope_of(build: CompiledProject, layer: Layer) -> dict[str, Rule]:
    """Locomotion state → what a layer does in it."""
    return dict(build.layers[layer.name].rules)


def lost_joints(bones: Skeleton, mask: Mask) -> tuple[str, ...]:
    """Joints that a mask names and the figure does not have."""
    return tuple(n for n in dict.fromkeys((mask.joint, *(n for n, _ in mask.weights))) if n and n not in bones.index)


def weights_of(build: CompiledProject, mask: Mask) -> dict[str, float]:
    """Joint → how much of it a mask speaks for (0…1); joints it leaves alone are there, too."""
    bones = build.assets.skeleton
    weights = mask_weights(bones, mask.joint, mask.feather, mask.weights)
    return {name: round(float(w), 6) for name, w in zip(bones.names, weights)}


def moved_by(build: CompiledProject, fighter: FighterState) -> list[str]:
    """Who moves each joint now, in words: one name where it is alone, else names with their percent, and what adds."""
    left, own, adds = joint_shares(build, fighter)
    state = fighter.locomotion[-1].state if fighter.locomotion else "locomotion"
    names = [v.compiled.action.name for v in fighter.voices]
    out = []
    for j in range(len(left)):
        rows = [(state, float(left[j])), *((n, float(s[j])) for n, s in zip(names, own))]
        rows = [(n, s) for n, s in rows if s >= 0.005]
        said = rows[0][0] if len(rows) == 1 else " · ".join(f"{n} {s * 100:.0f}" for n, s in rows)
        out.append(" ".join([said, *(f"+ {n}" for n, s in zip(names, adds) if s[j] >= 0.005)]))
    return out


def layer_words(build: CompiledProject, name: str) -> str:
    """A layer with its mask, as the head of a sheet names them."""
    layer = build.layers.get(name)
    mask = layer.layer.mask if layer is not None else ""
    return f"layer {name}, {mask}" if mask else f"layer {name}"


def speaks_for(build: CompiledProject, name: str) -> str:
    """What a layer speaks for and what it leaves, in words; nothing where it speaks for the whole figure alone."""
    layer = build.layers.get(name)
    if layer is None or (layer.whole and not layer.layer.by):
        return ""
    mask = layer.layer.mask or "whole body"
    if layer.additive:
        return f"added to what goes on · {mask}"
    left = [part for part, kinds in PARTS if _untouched(build, layer.mask, kinds)]
    keeps = f" · what is under it keeps {', '.join(left)}" if left else ""
    weight = f" · weight by {layer.layer.by}" if layer.layer.by else ""
    return f"{mask} only{keeps}{weight}"


PARTS = (("the legs", ("thigh", "shin", "foot")), ("the arms", ("upper_arm", "forearm")), ("the head", ("head",)))


def _untouched(build: CompiledProject, mask: Array, kinds: tuple[str, ...]) -> bool:
    """Whether a mask leaves all joints of some kinds alone, of which the figure has any."""
    there = [j for j, part in enumerate(parts_of(build.assets.skeleton)) if part.kind in kinds]
    return bool(there) and not bool((mask[there] > 0.0).any())
