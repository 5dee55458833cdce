"""What the layers are, told: where each may speak, and how much of each joint it speaks for."""

from __future__ import annotations

from veergust.core.model import Layer, Mask, Rule
from veergust.core.motion.blend import mask_weights
from veergust.core.motion.skeleton import Skeleton
from veergust.core.play.compiled.project import CompiledProject


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
