"""Who speaks: how much of the figure each action shows, joint by joint, and whether what it does counts."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from veergust.core.motion import Array, ease
from veergust.core.play.compiled.layering import CompiledLayer
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.state import FighterState, Voice


def voice_weight(voices: tuple[Voice, ...], index: int) -> float:
    """How far an action has come in: its fade in, times the fade out of it or of what covers it."""
    voice = voices[index]
    action = voice.compiled.action
    fade_in = ease(action.ease, (voice.age + 1) / (voice.blend + 1)) if voice.age < voice.blend else 1.0
    leaving: Voice | None = voice
    while leaving is not None and leaving.covered:
        over = leaving.covered
        leaving = next((v for v in voices if v.serial == over), None)
    if leaving is None or leaving.live:
        return fade_in
    action = leaving.compiled.action
    return fade_in * (1.0 - ease(action.ease, leaving.faded / (action.blend_out + 1)))


def layer_weight(layer: CompiledLayer, fighter: FighterState) -> float:
    """How much a layer counts now, with its parameter as it is."""
    by = layer.layer.by
    return layer.weight(fighter.parameter(by)) if by else layer.layer.weight


def weights_of(build: CompiledProject, fighter: FighterState) -> tuple[float, ...]:
    """How much of what its mask lets it each action of a fighter shows: its fade times its layer's weight."""
    voices, known = fighter.voices, fighter.weighed
    if known[0] is voices and known[1] is fighter.parameters and known[2] is fighter.by_hand:
        return known[3]
    out = []
    for i, voice in enumerate(voices):
        layer = build.layers.get(voice.layer)
        out.append(voice_weight(voices, i) * layer_weight(layer, fighter) if layer is not None else 0.0)
    fighter.weighed = (voices, fighter.parameters, fighter.by_hand, tuple(out))
    return fighter.weighed[3]


def share_a_layer(voices: tuple[Voice, ...]) -> bool:
    """Whether any two actions, which stand in the order of their layers, are on the same one."""
    before = None
    for voice in voices:
        if voice.layer == before:
            return True
        before = voice.layer
    return False


def on_one_layer(fighter: FighterState) -> tuple[tuple[float, float], ...]:
    """For each action of a fighter what it has of its layer, and what those above it on the same layer have.

    An action that fades in over another takes its place on their layer: what the one has more, the other has less.
    """
    left: dict[str, float] = {}
    out = []
    for i in range(len(fighter.voices) - 1, -1, -1):
        voice = fighter.voices[i]
        beneath = left.get(voice.layer, 1.0)
        own = voice_weight(fighter.voices, i) * beneath
        out.append((own, 1.0 - beneath))
        left[voice.layer] = beneath - own
    return tuple(reversed(out))


def by_joint(layer: CompiledLayer, weight: float, own: float, above: float, mask: Array) -> Array:
    """By how much an action is mixed over what is under it, ``[J]``, so that it and those ``above`` it on its layer
    have of each joint what the layer's ``weight`` and ``mask`` let them, each its ``own`` share of that.

    With ``m`` the least of the layer's weight for a joint and 1, an action gives ``m·own`` to the pose, when what is
    mixed over it leaves 1 − ``m·above`` of it. One that adds to what is there adds ``m·own``.
    """
    part = np.minimum(weight * mask, 1.0)
    return part * own if layer.additive else part * own / np.maximum(1.0 - part * above, 1e-12)


def mixed_by(build: CompiledProject, fighter: FighterState) -> tuple[Array | None, ...]:
    """For each action its ``by_joint`` where another of its layer is above it and that makes a difference."""
    voices = fighter.voices
    if not share_a_layer(voices):
        return (None,) * len(voices)
    out: list[Array | None] = []
    for voice, (own, above) in zip(voices, on_one_layer(fighter)):
        layer = build.layers.get(voice.layer)
        weight = layer_weight(layer, fighter) if layer is not None else 0.0
        if layer is None or above <= 0.0 or (not layer.additive and layer.whole and weight >= 1.0):
            out.append(None)
        else:
            out.append(by_joint(layer, weight, own, above, layer.mask))
    return tuple(out)


def acts(build: CompiledProject, fighter: FighterState, voice: Voice) -> bool:
    """Whether what an action does counts: its strikes open and its events fire while its layer is not faded out, and
    nothing that plays above hides it, by more than its layer says. Its own fade in does not matter, what has ended
    and fades out covers nobody, and one that waits does nothing."""
    layer = build.layers.get(voice.layer)
    if layer is None:
        return False
    shown = layer_weight(layer, fighter)
    if len(fighter.voices) > 1:
        for i, other in enumerate(fighter.voices):
            over = build.layers.get(other.layer)
            if over is not None and other.ended is None and over.covers(layer):
                shown *= 1.0 - weights_of(build, fighter)[i]
    return shown >= layer.layer.acts - 1e-9


def left_to_locomotion(build: CompiledProject, fighter: FighterState, joints: Sequence[int]) -> list[float]:
    """How much of each of some joints the actions over locomotion leave to it."""
    left = [1.0] * len(joints)
    for voice, much, mixed in zip(fighter.voices, weights_of(build, fighter), mixed_by(build, fighter)):
        layer = build.layers.get(voice.layer)
        if layer is not None and not layer.additive and much > 0.0:
            weights, much = (layer.joint_weights, much) if mixed is None else (tuple(mixed.tolist()), 1.0)
            left = [max(own * (1.0 - much * weights[joint]), 0.0) for own, joint in zip(left, joints)]
    return left


def joint_shares(build: CompiledProject, fighter: FighterState) -> tuple[Array, Array, Array]:
    """Who moves each joint: locomotion's share ``[J]``, that of each action of the fighter ``[V, J]``, which
    together are 1, and how much each that adds to what is there adds ``[V, J]``."""
    joints = len(build.assets.skeleton)
    left = np.ones(joints)
    own, adds = np.zeros((len(fighter.voices), joints)), np.zeros((len(fighter.voices), joints))
    mixed = mixed_by(build, fighter)
    for i in range(len(fighter.voices) - 1, -1, -1):
        layer = build.layers.get(fighter.voices[i].layer)
        if layer is None:
            continue
        by = mixed[i]
        much = np.clip(weights_of(build, fighter)[i] * layer.mask if by is None else by, 0.0, 1.0)
        if layer.additive:
            adds[i] = much
        else:
            own[i] = left * much
            left = left - own[i]
    return left, own, adds


def hidden(build: CompiledProject, fighter: FighterState) -> bool:
    """Whether the lowest action hides locomotion wholly."""
    for i, voice in enumerate(fighter.voices):
        layer = build.layers.get(voice.layer)
        if layer is not None:
            return layer.whole and weights_of(build, fighter)[i] >= 1.0
    return False
