"""Layers: masks, states and references that they name, and those nothing is seen of."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds.finding import Finding, Ref
from veergust.core.play.compiled.project import CompiledProject


def check(build: CompiledProject) -> Iterator[Finding]:
    """Layers that name what is not there, or show nothing."""
    masks = {mask.name for mask in build.project.masks}
    for layer in build.project.layers:
        where = Ref("layer", layer.name, (f"layer {layer.name}",))
        if layer.mask and layer.mask not in masks:
            says = f"names the mask {layer.mask!r}, which is not there"
            yield Finding("mask-missing", "error", where, says, "choose a mask of the project, or none")
        for state in layer.scope:
            if not build.chart.known(state):
                says = f"may speak in {state!r}, which is no state"
                yield Finding("state-unknown", "error", where, says, "choose states of locomotion")
        if layer.weight <= 0.0 and any(a.layer == layer.name for a in build.project.actions):
            says = "has weight 0: what plays on it is not seen"
            yield Finding("layer-silent", "warning", where, says, "give it a weight")
        if layer.mode == "additive" and build.clip(layer.reference) is None:
            says = f"adds to {layer.reference or 'no clip'!r}"
            do = "choose the clip whose first pose is its reference"
            yield Finding("reference-missing", "error", where, says, do)
