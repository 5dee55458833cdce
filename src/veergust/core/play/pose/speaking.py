"""Who speaks: how much of the figure each action shows, joint by joint, and whether what it does counts."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from veergust.core.motion.blend import ease
from veergust.core.motion.quat import Array
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
    for voice, much in zip(fighter.voices, weights_of(build, fighter)):
        layer = build.layers.get(voice.layer)
        if layer is not None and not layer.additive and much > 0.0:
            weights = layer.joint_weights
            left = [max(own * (1.0 - much * weights[joint]), 0.0) for own, joint in zip(left, joints)]
    return left


def joint_shares(build: CompiledProject, fighter: FighterState) -> tuple[Array, Array, Array]:
    """Who moves each joint: locomotion's share ``[J]``, that of each action of the fighter ``[V, J]``, which
    together are 1, and how much each that adds to what is there adds ``[V, J]``."""
    joints = len(build.assets.skeleton)
    left = np.ones(joints)
    own, adds = np.zeros((len(fighter.voices), joints)), np.zeros((len(fighter.voices), joints))
    for i in range(len(fighter.voices) - 1, -1, -1):
        layer = build.layers.get(fighter.voices[i].layer)
        if layer is None:
            continue
        much = np.clip(weights_of(build, fighter)[i] * layer.mask, 0.0, 1.0)
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
