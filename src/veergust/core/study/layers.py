"""What the layers are, told: where each may speak, and how much of each joint it speaks for."""

from __future__ import annotations

from typing import Literal

from veergust.core.model import Layer, Mask
from veergust.core.motion.blend import mask_weights
from veergust.core.play.compiled.project import CompiledProject

Scope = Literal["may", "keeps out", "fades", "finishes"]
OUTSIDE: dict[str, Scope] = {"refuse": "keeps out", "fade": "fades", "finish": "finishes"}


def scope_of(build: CompiledProject, layer: Layer) -> dict[str, Scope]:
    """Locomotion state → what a layer does in it: it may speak, keeps out (nothing starts), fades out what plays, or
    lets it finish."""
    chart = build.chart

    def there(state: str) -> bool:
        return not layer.scope or any(chart.within(state, name) for name in layer.scope)

    return {state: "may" if there(state) else OUTSIDE[layer.outside] for state in chart.states}


def weights_of(build: CompiledProject, mask: Mask) -> dict[str, float]:
    """Joint → how much of it a mask speaks for (0…1); joints it leaves alone are there, too."""
    bones = build.assets.skeleton
    weights = mask_weights(bones, mask.joint, mask.feather, mask.weights)
    return {name: round(float(w), 6) for name, w in zip(bones.names, weights)}
