"""Layers as they are played: how much of each joint each speaks for, what it does in every state, whom it covers."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from veergust.core.model import Layer, Project, Rule
from veergust.core.motion import Array, Skeleton, mask_weights
from veergust.core.play.compiled.chart import Chart

WHOLE = 1.0 - 1e-9


@dataclass(frozen=True, eq=False, repr=False)
class CompiledLayer:
    """A layer: its ``place`` from the bottom up, its mask's weights ``mask`` ``[J]`` (0…1), and its rules by state.

    ``even`` is the mask's one weight where all joints have the same, ``root`` how much of the body it moves at its
    full weight, ``usual`` its weight while its parameter is at its default.
    """

    layer: Layer
    place: int
    mask: Array
    even: float | None
    root: float
    usual: float
    rules: dict[str, Rule]
    _covers: dict[str, bool] = field(default_factory=dict)

    @cached_property
    def joint_weights(self) -> tuple[float, ...]:
        """The mask's weights as plain numbers."""
        return tuple(self.mask.tolist())

    @property
    def additive(self) -> bool:
        """Whether it adds to what is there instead of taking its place."""
        return self.layer.mode == "additive"

    def rule(self, state: str) -> Rule:
        """What it does in a locomotion state."""
        return self.rules.get(state, self.layer.elsewhere)

    def weight(self, parameter: float) -> float:
        """How much it counts, with its parameter as it is."""
        return self.layer.weight * min(max(parameter, 0.0), 1.0) if self.layer.by else self.layer.weight

    def covers(self, other: CompiledLayer) -> bool:
        """Whether it speaks wholly for every joint that one under it speaks for."""
        known = self._covers.get(other.layer.name)
        if known is None:
            speaks = other.mask > 0.0
            known = bool(speaks.any() and np.all(self.mask[speaks] >= WHOLE))
            known = self._covers[other.layer.name] = known and self.hides and self.place > other.place
        return known

    @cached_property
    def hides(self) -> bool:
        """Whether what is under it may be hidden by it."""
        return not self.additive and self.layer.weight >= WHOLE and bool(np.any(self.mask >= WHOLE))

    @property
    def whole(self) -> bool:
        """Whether it speaks for every joint, and nothing of what is under it shows."""
        return self.hides and self.even is not None


def compiled_layers(project: Project, bones: Skeleton, chart: Chart, root: int) -> dict[str, CompiledLayer]:
    """The layers of a project by name, bottom up; ``root`` is the joint whose weight moves the body."""
    masks = {mask.name: mask for mask in project.masks}
    defaults = {p.name: p.default for p in project.locomotion.parameters}
    out = {}
    for place, layer in enumerate(project.layers):
        mask = masks.get(layer.mask)
        weights = (
            mask_weights(bones, mask.joint, mask.feather, mask.weights) if mask is not None else np.ones(len(bones))
        )
        even = float(weights[0]) if len(weights) and bool(np.all(weights == weights[0])) else None
        moves = layer.root and layer.mode == "override" and len(weights) > 0
        said = {row.state: row.rule for row in layer.scope}
        rules: dict[str, Rule] = {}
        for state in chart.states:
            around = (state, *chart.around[state])
            rules[state] = next((said[name] for name in around if name in said), layer.elsewhere)
        usual = min(max(defaults.get(layer.by, 0.0), 0.0), 1.0) if layer.by else 1.0
        out[layer.name] = CompiledLayer(
            layer, place, weights, even, float(weights[root]) if moves else 0.0, layer.weight * usual, rules
        )
    return out
