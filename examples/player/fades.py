"""How much of the figure each action shows, joint by joint, and whether what it does counts."""

from __future__ import annotations

from collections.abc import Sequence

from player.export import Layer
from player.fighter import Fighter, Playing
from player.turns import ease


def come_in(all_: Sequence[Playing], p: Playing) -> float:
    """How far an action has come in: its fade in, times the fade out of it or of what covers it."""
    much = ease(p.action.row["ease"], (p.age + 1) / (p.blend + 1)) if p.age < p.blend else 1.0
    leaving: Playing | None = p
    while leaving is not None and leaving.covered:
        over = leaving.covered
        leaving = next((q for q in all_ if q.serial == over), None)
    if leaving is None or not leaving.ended:
        return much
    row = leaving.action.row
    return much * (1.0 - ease(row["ease"], leaving.faded / (row["blend_out"] + 1)))


def layer_weight(f: Fighter, layer: Layer) -> float:
    """How much a layer counts now."""
    return layer.weight(f.parameter(layer.row["by"]) if layer.row["by"] else 1.0)


def shown(f: Fighter) -> list[float]:
    """How much of what its mask lets it each action shows."""
    layers = f.export.layers
    return [come_in(f.playing, p) * layer_weight(f, layers[p.layer]) if p.layer in layers else 0.0 for p in f.playing]


def on_one_layer(f: Fighter) -> list[tuple[float, float]]:
    """What each action has of its layer, and what those above it on the same layer have: what one that comes in has
    more, the one it comes in over has less."""
    left: dict[str, float] = {}
    out: list[tuple[float, float]] = []
    for p in reversed(f.playing):
        beneath = left.get(p.layer, 1.0)
        own = come_in(f.playing, p) * beneath
        out.insert(0, (own, 1.0 - beneath))
        left[p.layer] = beneath - own
    return out


def by_joint(f: Fighter) -> list[list[float] | None]:
    """For each action by how much it is mixed over what is under it, joint by joint, where another is above it on its
    layer; None where its mask and what it shows say it.

    With m the least of 1 and the layer's weight for a joint, one that has ``own`` of its layer gives m·own to the pose,
    when what is mixed over it leaves 1 − m·above.
    """
    if len({p.layer for p in f.playing}) == len(f.playing):
        return [None for _ in f.playing]
    out: list[list[float] | None] = []
    for p, (own, above) in zip(f.playing, on_one_layer(f)):
        layer = f.export.layers.get(p.layer)
        weight = layer_weight(f, layer) if layer is not None else 0.0
        if layer is None or above <= 0.0 or (layer.whole and weight >= 1.0):
            out.append(None)
            continue
        part = [min(weight * w, 1.0) for w in layer.mask]
        if layer.additive:
            out.append([m * own for m in part])
        else:
            out.append([m * own / max(1.0 - m * above, 1e-12) for m in part])
    return out


def acts(f: Fighter, p: Playing) -> bool:
    """Whether what an action does counts: while its layer's weight, times what those above that cover it leave, is at
    least what the layer says."""
    layer = f.export.layers.get(p.layer)
    if layer is None:
        return False
    much, weights = layer_weight(f, layer), shown(f)
    for n, other in enumerate(f.playing):
        over = f.export.layers.get(other.layer)
        if over is not None and not other.ended and over.covers(layer):
            much *= 1.0 - weights[n]
    return bool(much >= layer.row["acts"] - 1e-9)


def hidden(f: Fighter) -> bool:
    """Whether the lowest action hides locomotion wholly."""
    for n, p in enumerate(f.playing):
        layer = f.export.layers.get(p.layer)
        if layer is not None:
            return layer.whole and shown(f)[n] >= 1.0
    return False


def left_to_locomotion(f: Fighter, joint: int) -> float:
    """How much of a joint the actions leave to locomotion."""
    left = 1.0
    for p, much, mixed in zip(f.playing, shown(f), by_joint(f)):
        layer = f.export.layers.get(p.layer)
        if layer is not None and not layer.additive and much > 0.0:
            own = mixed[joint] if mixed is not None else much * layer.mask[joint]
            left = max(left * (1.0 - own), 0.0)
    return left
